"""Plans beside each other as values: what stands where, what differs, what falls short; the table and bars that draw them."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.choose.bars_view import BarsView
from ashen_bridge.desktop.choose.candidates_view import CandidateTable
from ashen_bridge.desktop.choose.plan_painter import PlanLayout
from ashen_bridge.desktop.choose.plan_picture import nearest, plan_picture
from ashen_bridge.desktop.choose.plan_table import PlanTable
from ashen_bridge.desktop.choose.shelf_painter import TICKS, nice
from ashen_bridge.desktop.look.theme import THEMES
from ashen_bridge.planning.choosing.result import Advice, CandidateRow, Chosen, Plan, SensorOutlook, Tolerated, WhyNot

LIGHT = THEMES["light"]


def outlook(name: str, value: float, most: float, chance: float | None) -> SensorOutlook:
    return SensorOutlook(name, name.title(), value, None if chance is None else 3.0, most, chance, value + 5)


def plan(name: str, says: str, chance: float | None = 0.95, **more: object) -> Plan:
    chosen = (
        Chosen("die_joint", "Die", "keep", "as it is: paste", "keep", False),
        Chosen("pads", "Pads", says, says, "pad", True),
    )
    made = Plan(
        id=name,
        name=name,
        why="because",
        chosen=chosen,
        washers_mm=0.0,
        fillings=(),
        outlooks=(outlook("die", 88.0, 96.0, chance), outlook("memory", 84.0, 88.0, None if chance is None else chance - 0.1)),
        chance=chance,
        hottest_die_c=88.0,
        die_kpa=320.0,
        cost=None,
        unpriced=(),
        pieces=4,
        minutes=70.0,
        years=4.0,
    )
    return replace(made, **more)  # type: ignore[arg-type]


PRESENT = plan("As it is", "1 mm pad", 0.2, chosen=tuple(replace(one, changed=False) for one in plan("x", "1 mm pad").chosen))
ADVICE = Advice("now", "load", 0.9, (plan("Coolest", "putty"),), PRESENT, currency="crowns")


def test_what_differs_from_now_stands_out_and_nothing_else() -> None:
    picture = plan_picture(ADVICE, (PRESENT, *ADVICE.plans))
    assert [words for words, _ in picture.rows][:2] == ["Die", "Pads"]
    assert [of for _, of in picture.rows][:3] == ["die_joint", "pads", ""]
    now, coolest = picture.columns
    assert now.present
    assert not any(cell.differs for cell in now.cells)
    assert [cell.differs for cell in coolest.cells[:2]] == [False, True]
    assert coolest.cells[0].words == "paste", "that it is as it was need not be said"
    assert coolest.answer == "95 %"


def test_a_plan_falls_short_by_one_sensor_or_by_what_is_broken() -> None:
    assert plan_picture(ADVICE, (plan("a", "x", 0.95),)).columns[0].short, "memory holds with 85 % only"
    assert not plan_picture(replace(ADVICE, chance=0.8), (plan("a", "x", 0.95),)).columns[0].short
    broken = plan_picture(replace(ADVICE, chance=0.8), (plan("a", "x", 0.95, broken=("It does not reach.",)),)).columns[0]
    assert broken.short
    assert broken.tip == "It does not reach."


def test_the_nearest_sensor_is_the_least_likely_one_and_without_chances_the_least_margin() -> None:
    found = nearest(plan("a", "x"))
    assert found is not None
    assert found.id == "memory"
    early = nearest(plan("a", "x", None))
    assert early is not None
    assert early.id == "memory"
    assert nearest(plan("a", "x", outlooks=())) is None


def test_rows_for_washers_and_money_come_only_where_they_say_something() -> None:
    plain = [words for words, _ in plan_picture(ADVICE, ADVICE.plans).rows]
    assert "Washers" not in plain
    assert "To be bought" not in plain
    dear = plan("b", "x", cost=12.5, unpriced=("pad_soft",), washers_mm=0.5)
    picture = plan_picture(ADVICE, (PRESENT, dear))
    words = [words for words, _ in picture.rows]
    assert picture.columns[1].cells[words.index("To be bought")].words == "12.5 crowns + ?"
    assert picture.columns[1].cells[words.index("Washers")].words == "0.5 mm more"
    assert picture.columns[0].cells[words.index("Washers")].words == "as they are"


@pytest.mark.parametrize("width", [420.0, 900.0, 2000.0])
def test_every_cell_is_found_under_its_own_middle(width: float) -> None:
    layout = PlanLayout(LIGHT, width, 4, 7)
    for column in range(4):
        for row in range(7):
            middle = QPointF(layout.column(column).center().x(), layout.row(row).center().y())
            assert layout.at(middle) == (column, row)
    assert layout.at(QPointF(3, layout.row(2).center().y())) == (-1, 2)
    assert layout.at(QPointF(layout.column(1).center().x(), 10)) == (1, -1)


def test_the_table_is_read_by_keys(qtbot: QtBot) -> None:
    table = PlanTable(LIGHT)
    qtbot.addWidget(table)
    table.resize(800, 400)
    chosen: list[int] = []
    places: list[str] = []
    table.plan_chosen.connect(chosen.append)
    table.place_chosen.connect(places.append)
    table.show_plans(plan_picture(ADVICE, (PRESENT, *ADVICE.plans)), 1, "")
    qtbot.keyClick(table, Qt.Key.Key_Left)
    qtbot.keyClick(table, Qt.Key.Key_Right)
    qtbot.keyClick(table, Qt.Key.Key_Down)
    assert chosen == [0, 1]
    assert places == ["die_joint"]
    assert "Coolest: 95 %" in table.accessibleDescription()
    assert not table.grab().isNull()


def test_bars_say_what_a_plan_bears(qtbot: QtBot) -> None:
    bars = BarsView(LIGHT)
    qtbot.addWidget(bars)
    rows = (
        Tolerated("a", "Pads", 0.86, 0.05, 0.1, None, "It does not reach.", ""),
        Tolerated("b", "A place with a very long name indeed, so that it has to be cut", 0.04, 0.0, None, None),
    )
    bars.show_rows(rows)
    said = bars.accessibleDescription()
    assert "0.86 mm ± 0.05, bears −0.10 mm" in said
    assert "bears 0.6 mm either way" in said
    bars.resize(700, 200)
    assert not bars.grab().isNull()


def row(name: str, refusal: str, chosen: bool = False, margin: float = 1.0, cost: float | None = None) -> CandidateRow:
    return CandidateRow(name, name, chosen, "Die", 88.0, margin, 90.0, 50.0, 0.2, cost, refusal)


def test_candidates_stand_chosen_first_then_those_that_hold_then_the_refused(qtbot: QtBot) -> None:
    table = CandidateTable(LIGHT)
    qtbot.addWidget(table)
    refused, hotter, best = row("a", "It does not reach Die."), row("b", "The die gets 1.0 K hotter."), row("c", "", chosen=True)
    far = replace(row("d", "runs"), die_c=900.0, closest_c=900.0)
    table.show_place(WhyNot("pads", "Pads", 0.86, 0.05, (refused, hotter, far, best)))
    model = table.candidates
    shown = [model.data(model.index(n, 0)) for n in range(model.rowCount())]
    assert shown[:2] == ["c", "b"]
    assert set(shown[2:]) == {"a", "d"}
    assert model.data(model.index(0, 6)) == "chosen"
    at = shown.index("d")
    assert model.data(model.index(at, 2)) == "runs away"
    assert table.isColumnHidden(5), "without prices there is no column for them"
    table.show_place(WhyNot("pads", "Pads", 0.86, 0.05, (replace(best, cost=4.0),)))
    assert not table.isColumnHidden(5)


@pytest.mark.parametrize("most", [0.013, 0.9, 3.06, 61.2, 545.0, 98_000.0])
def test_axes_end_just_above_what_they_show(most: float) -> None:
    step = nice(most)
    assert TICKS * step >= most
    assert TICKS * step < 1.7 * most


def test_painting_in_the_dark_and_large(qtbot: QtBot) -> None:
    table = PlanTable(THEMES["dark"].scaled(1.4))
    qtbot.addWidget(table)
    table.show_plans(plan_picture(ADVICE, (PRESENT, *ADVICE.plans)), 1, "pads")
    table.resize(900, table.sizeHint().height())
    QApplication.processEvents()
    image = table.grab().toImage()
    colours = {image.pixelColor(x, y).name() for x in range(0, image.width(), 7) for y in range(0, image.height(), 5)}
    assert len(colours) > 5
