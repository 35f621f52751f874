"""Looks: contrast of every text role, all views painted in every state, text sizes, narrow windows, order of focus."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.guided.dialog import GuidedDialog
from ashen_bridge.desktop.look.icons import application_icon, icon
from ashen_bridge.desktop.look.theme import THEMES, contrast, luminance
from ashen_bridge.desktop.materials.curve_view import CurveView
from ashen_bridge.desktop.materials.dialog import MaterialsDialog
from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.points.dialog import PointsDialog
from ashen_bridge.desktop.shell.general import EMPTY
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.desktop.stack.hand import HANDLES, shown_handles
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import measured
from devices import Card, Part, project
from windows import Opener, desk, look, settled, stack

GROUNDS = ("ground", "surface", "raised")
INKS = ("ink", "quiet", "bad", "steel")


@pytest.mark.parametrize("name", ["light", "dark"])
@pytest.mark.parametrize("ground", GROUNDS)
@pytest.mark.parametrize("ink", INKS)
def test_every_ink_reads_on_every_ground(name: str, ink: str, ground: str) -> None:
    """WCAG 2.2, success criterion 1.4.3: at least 4.5 : 1 for text."""
    theme = THEMES[name]
    assert contrast(theme.colour(ink), theme.colour(ground)) >= 4.5


@pytest.mark.parametrize("name", ["light", "dark"])
def test_selected_rows_pressed_buttons_and_marks_read(name: str) -> None:
    theme = THEMES[name]
    for ink, ground in (
        ("ink", "ember_soft"),
        ("surface", "ink"),
        ("on_accent", "bad"),
        ("on_accent", "warn"),
        ("on_accent", "steel"),
    ):
        assert contrast(theme.colour(ink), theme.colour(ground)) >= 4.5, (ink, ground)


@pytest.mark.parametrize("name", ["light", "dark"])
def test_ink_on_any_heat_or_part_colour_reads(name: str) -> None:
    theme = THEMES[name]
    for n in range(21):
        for ground in (theme.heat(n / 20), theme.attention(n / 20), theme.mechanics(n / 20)):
            assert contrast(theme.ink_on(ground), ground) >= 4.5


def test_the_contrast_formula_against_published_values() -> None:
    """WCAG 2.2 definition of relative luminance; black on white is 21 : 1, #767676 on white the well-known edge of 4.54 : 1."""
    white = QColor("#ffffff")
    assert contrast(QColor("#000000"), white) == pytest.approx(21.0)
    assert contrast(QColor("#767676"), white) == pytest.approx(4.54, abs=0.01)
    assert contrast(white, QColor("#767676")) == contrast(QColor("#767676"), white)
    assert luminance(QColor("#ff0000")) == pytest.approx(0.2126, abs=1e-4)


def crowd() -> Project:
    """Forty parts with names that nobody would shorten."""
    parts = tuple(
        Part(6 + 9.0 * (n % 8), 4.0 + 9 * (n // 8) + (21 if n >= 24 else 0), 1.2, 1.0, size=(7.0, 7.0)) for n in range(40)
    )
    data = project(Card(parts)).model_dump(mode="json")
    for body in data["device"]["bodies"]:
        body["name"] = f"A rather long name of something called {body['id']} that nobody would shorten"
    data["device"]["bodies"][1]["footprint"]["rects"][0].update(x_mm=32, y_mm=32, w_mm=16, h_mm=16)
    data["name"] = "A project whose name is so long that no header of any window could ever show all of it, or so one would think"
    return Project.parse(data)


def impossible() -> Project:
    return Project.parse({**project(Card((Part(8, 34, 1.2, 1.0), Part(9, 34, 1.2, 1.0)))).model_dump(mode="json")})


STATES = {"forty parts": crowd, "impossible": impossible, "empty": lambda: Project.parse(EMPTY), "nothing": Project}


@pytest.mark.parametrize("state", list(STATES))
@pytest.mark.parametrize("dressed", ["light", "dark"])
def test_every_view_paints_in_every_state(qtbot: QtBot, opened: Opener, bench: Workbench, state: str, dressed: str) -> None:
    """No view may complain, whatever there is to show: warnings of the toolkit while painting are errors."""
    bench.set_look(dressed)  # type: ignore[arg-type]
    window = opened("", Opened(STATES[state]()))
    settled(qtbot, window)
    for changes in (
        {"overlay": "bond line"},
        {"overlay": "temperature", "side": Side.REAR},
        {"editing": True, "page": "part", "side": Side.FRONT},
        {"page": "assumptions"},
    ):
        look(window, **changes)
        qtbot.wait(10)
        assert not window.grab().isNull()
    desk(window).choose(*(target.path for target in desk(window).targets()[:2]))
    assert not window.grab().isNull()
    for make in (
        lambda: MaterialsDialog(window.session, window.theme, window.asker, window),
        lambda: PointsDialog(window.session, window.asker, window),
        lambda: GuidedDialog(window.session, window.theme, bench.preferences, window),
    ):
        dialog = make()
        dialog.show()
        assert not dialog.grab().isNull()
        dialog.close()


@pytest.fixture
def roomy(opened: Opener) -> MainWindow:
    return opened("", Opened(crowd()))


@pytest.mark.long
def test_any_text_size_fits_a_window_of_1280(qtbot: QtBot, bench: Workbench, roomy: MainWindow) -> None:
    """One window through all sizes; Baseline must fit too."""
    roomy.commands["edit_mode"].trigger()
    roomy.resize(1280, 800)
    for steps in (0, 1, 3, -2):
        bench.change_text(0)
        for _ in range(abs(steps)):
            bench.change_text(1 if steps > 0 else -1)
        qtbot.wait(50)
        for place in ("baseline", "stack"):
            look(roomy, workspace=place)
            assert roomy.minimumSizeHint().width() <= 1280, (steps, place)
        right = stack(roomy).mapTo(roomy, QPoint(stack(roomy).width(), 0)).x()
        for button in stack(roomy).bar.findChildren(QPushButton):
            edge = button.mapTo(roomy, QPoint(button.width(), button.height()))
            assert edge.x() <= right, f"{button.text()} is cut off"
    bench.change_text(0)


def test_names_are_cut_with_dots_and_told_in_full_by_the_tip(roomy: MainWindow) -> None:
    assert roomy.header.device.text().endswith("…")
    assert roomy.header.device.toolTip() == crowd().name
    metrics = roomy.header.device.fontMetrics()
    assert metrics.horizontalAdvance(roomy.header.device.text()) <= roomy.header.device.width() + 2


def test_tab_goes_as_one_reads(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    window.header.builds.setFocus()
    seen: list[QWidget] = []
    for _ in range(200):
        focus = QApplication.focusWidget()
        if focus is None or focus in seen:
            break
        seen.append(focus)
        qtbot.keyClick(focus, Qt.Key.Key_Tab)
    parts = [window.header, window.verdict, stack(window), window.findings, window.rail]
    order = [next(n for n, part in enumerate(parts) if part is widget or part.isAncestorOf(widget)) for widget in seen]
    assert order == sorted(order), "header, verdict, workspace, findings, rail"
    assert set(order) == set(range(5)), "every part of the window is reached"
    assert stack(window).plan in seen
    assert stack(window).panel.strip in seen


def test_a_flow_goes_on_in_a_second_line_and_keeps_the_right_edge(qtbot: QtBot) -> None:
    holder = QWidget()
    qtbot.addWidget(holder)
    flow = FlowLayout(holder)
    buttons = [QPushButton(f"Button {n}") for n in range(5)]
    for button in buttons[:4]:
        flow.addWidget(button)
    flow.add_right(buttons[4])
    wide = flow.sizeHint().width() + 100
    high = flow.sizeHint().height()
    flow.setGeometry(QRect(0, 0, wide, high))
    assert buttons[4].geometry().right() == wide - 1
    assert {button.y() for button in buttons} == {0}
    narrow = flow.sizeHint().width() // 2
    assert flow.heightForWidth(narrow) > 1.9 * high
    flow.setGeometry(QRect(0, 0, narrow, 3 * high))
    assert all(button.geometry().right() < narrow for button in buttons)
    taken = flow.takeAt(0)
    assert taken is not None
    assert (flow.count(), flow.itemAt(9), flow.takeAt(9)) == (4, None, None)
    assert flow.minimumSize().width() < narrow


@pytest.mark.parametrize(
    ("value", "spread", "unit", "words"),
    [
        (0.26394, 0.0528, "K/W", "0.264 ± 0.053 K/W"),
        (150.0, 40.0, "W", "150 ± 40 W"),
        (1.1, 0.1, "mm", "1.1 ± 0.1 mm"),
        (5.0, 1.5, "mm", "5.0 ± 1.5 mm"),
        (-0.34, 0.15, "mm", "−0.34 ± 0.15 mm"),
        (1.5, 0.0, "", "1.5"),
        (12345.0, 2000.0, "N", "12345 ± 2000 N"),
    ],
)
def test_numbers_show_no_more_than_is_known(value: float, spread: float, unit: str, words: str) -> None:
    assert measured(value, spread, unit) == words


@pytest.mark.parametrize("mirrored", [False, True])
def test_places_and_pixels_are_each_others_inverse(mirrored: bool) -> None:
    place = Placement.fit((0, 0, 100, 50), 640, 480, mirrored=mirrored).zoomed(2.5, QPoint(13, -7).toPointF(), (640, 480))
    for x, y in ((0.0, 0.0), (100.0, 50.0), (33.3, 12.5)):
        assert place.place(place.point(x, y)) == pytest.approx((x, y))
    box = place.rect((10, 10, 20, 30))
    assert (box.width(), box.height()) == pytest.approx((10 * place.scale, 20 * place.scale))


def test_small_parts_have_fewer_handles() -> None:
    assert shown_handles(200, 100) == HANDLES
    assert len(shown_handles(30, 100)) == 4
    assert len(shown_handles(12, 12)) == 1


def test_icons_are_drawn_in_the_colour_asked_for(qapp: QApplication) -> None:
    for name in (
        "stack",
        "undo",
        "redo",
        "open",
        "save",
        "theme",
        "menu",
        "pencil",
        "find",
        "guide",
        "new",
        "higher",
        "lower",
        "remove",
    ):
        image = icon(name, QColor("#b3410f")).pixmap(QSize(24, 24)).toImage()
        inked = [
            image.pixelColor(x, y)
            for x in range(image.width())
            for y in range(image.height())
            if image.pixelColor(x, y).alpha() > 200
        ]
        assert inked, name
        assert all(abs(c.red() - 0xB3) < 12 and abs(c.green() - 0x41) < 12 for c in inked), name
    assert not application_icon().isNull()


def test_a_curve_is_drawn_and_read_out(qtbot: QtBot) -> None:
    view = CurveView(THEMES["light"])
    qtbot.addWidget(view)
    view.resize(300, 180)
    empty: QImage = view.grab().toImage()
    view.show_curve(((0.0, 0.0), (0.2, 76.0), (0.4, 240.0)))
    assert view.grab().toImage() != empty
    assert "20 % 76 kPa" in view.accessibleDescription()


def test_an_edit_that_is_refused_says_so_above_the_work(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    assert not window.session.apply(set_values("Nonsense", {"device.bodies.die.height_mm": -3}))
    assert window.notice.isVisible()
    assert "out of range" in window.notice.words.text()
    assert not window.session.document.modified
