"""The shelf: materials by what people decide by, what is at hand, and what can be bought at which price."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.charts.tints import TINTS
from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.choose.shelf_form import ShelfForm
from ashen_bridge.desktop.choose.shelf_painter import paint_push, paint_resistance
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.rich import coloured, table
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.editing import choosing as edits
from ashen_bridge.model.wishes import Offer, StockItem
from ashen_bridge.planning.choosing.candidates import known_materials
from ashen_bridge.planning.choosing.result import ShelfCurve
from ashen_bridge.words.numbers import short

_USUAL_KPA, _USUAL_MM = 100.0, 1.0
_TINTED = TINTS[:6]
_USUAL = ("pad_soft", "pad_medium", "pad_firm", "putty_soft")  # what most people choose between


class ShelfCharts(QWidget):
    """Both charts beside each other."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.shown: tuple[tuple[ShelfCurve, str], ...] = ()
        self.pressure_kpa, self.thickness_mm = _USUAL_KPA, _USUAL_MM
        self.setAccessibleName("Resistance over thickness, push-back over compression")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(620, 320)

    def minimumSizeHint(self) -> QSize:
        return QSize(420, 220)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = self.width() / 2
        paint_resistance(painter, QRectF(0, 0, half - 8, self.height()), self.theme, self.shown, self.pressure_kpa)
        paint_push(painter, QRectF(half + 8, 0, half - 8, self.height()), self.theme, self.shown, self.thickness_mm)
        painter.end()


class ShelfPage(QWidget):
    """Materials to be compared, at the pressure that is really there; stock and prices beside them."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self._room = desk, room
        self.charts = ShelfCharts(room.theme())
        self.boxes: dict[str, QCheckBox] = {}
        self.chosen: set[str] = set()
        self._curves: tuple[ShelfCurve, ...] = ()
        self.pressure = NumberField(Wanted("Pressure", "kPa", 1, 5000), self._press)
        self.thickness = NumberField(Wanted("Thickness", "mm", 0.05, 10), self._thick)
        self.why = Words()
        self.why.setObjectName("quiet")
        self.why.setWordWrap(True)
        self.all = QPushButton("All numbers…")
        self.all.setToolTip("Every number of every material, with its ± and source; own materials")
        self.all.clicked.connect(lambda: room.commands["materials"].trigger())
        self.facts = Words()
        self.facts.setTextFormat(Qt.TextFormat.RichText)
        self.facts.setWordWrap(True)
        self._typed_kpa: float | None = None
        self._mm = _USUAL_MM
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(2)
        self.stock, self.shop = QVBoxLayout(), QVBoxLayout()
        self.form = ShelfForm(desk.session, self._tell)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self._lay_out()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        title = Words("What people decide by")
        title.setObjectName("big")
        head.addWidget(title)
        head.addStretch(1)
        for words, field in (("at", self.pressure), ("of", self.thickness)):
            label = Words(words)
            label.setObjectName("quiet")
            head.addWidget(label)
            field.setFixedWidth(80)
            head.addWidget(field)
            head.addWidget(Words("kPa" if field is self.pressure else "mm"))
        head.addWidget(self.all)
        card = Card((12, 10, 12, 10))
        card.column.addLayout(head)
        card.column.addWidget(self.why)
        card.column.addWidget(self.charts, 1)
        card.column.addLayout(self._grid)
        card.column.addWidget(self.facts)
        self._side = SideCard(330)
        column = self._side.column
        for words, inside in (
            ("At hand", (self.stock,)),
            ("Put on the shelf", (self.form, self.wrong)),
            ("Can be bought", (self.shop,)),
        ):
            section = Words(words)
            section.setObjectName("section")
            column.addWidget(section)
            for one in inside:
                if isinstance(one, QWidget):
                    column.addWidget(one)
                else:
                    one.setSpacing(2)
                    column.addLayout(one)
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(card, 1)
        row.addWidget(self._side)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.charts.theme = theme
        self._side.set_theme(theme)

    def refresh(self) -> None:
        """Take over materials, stock and prices, and the pressure of what is selected."""
        session = self.desk.session
        pressure, why = self._pressure()
        self.desk.look(replace(self.desk.view, kpa=round(pressure, 2), mm=self._mm))
        self.desk.shelf.ask_by_itself()
        curves = self.desk.shelf.value or self.desk.shelf.last or ()
        if curves != self._curves:
            self._curves = curves
            if not self.chosen:
                self.chosen = self._usual(known_materials(session.project))
            self._list()
        self.charts.pressure_kpa, self.charts.thickness_mm = pressure, self._mm
        self.pressure.show_value(round(pressure, 1))
        self.thickness.show_value(self._mm)
        self.why.setText(why)
        self._show()
        self._rows()
        self.form.refresh()

    def _usual(self, known: Mapping[str, object]) -> set[str]:
        used = {piece.material for joint in self.desk.session.build.joints for piece in joint.pieces}
        kinds = {curve.id for curve in self._curves if curve.id in _USUAL}
        return {name for name in known if name in used or name in kinds} & {curve.id for curve in self._curves}

    def _pressure(self) -> tuple[float, str]:
        """Return the pressure at which materials are compared [kPa], and where it comes from."""
        if self._typed_kpa is not None:
            return self._typed_kpa, "At the pressure that you typed; empty it for that of the joint that is selected."
        session = self.desk.session
        shown = session.results.assessment
        joint = session.joint
        rows = [row for row in shown.report.joints if joint is not None and row.id == joint.id] if shown is not None else []
        present = [row.pressure_kpa.mean for row in rows if row.pressure_kpa.mean > 0]
        if present and joint is not None:
            return sum(present) / len(present), f"At the pressure that is really present in “{joint.label}”; both faces counted."
        return _USUAL_KPA, "At a usual pressure, since nothing presses on the joint that is selected; both faces counted."

    def _list(self) -> None:
        for box in self.boxes.values():
            box.hide()
            box.deleteLater()
        self.boxes = {}
        for n, curve in enumerate(self._curves):
            box = QCheckBox()
            claim = ", conductivity only claimed" if curve.claimed else ""
            box.setToolTip(f"{curve.kind}{claim}{': ' + curve.odd if curve.odd else ''}")
            box.clicked.connect(partial(self._toggle, curve.id))
            self.boxes[curve.id] = box
            self._grid.addWidget(box, n // 2, n % 2)

    def _toggle(self, name: str, on: bool) -> None:
        self.chosen = self.chosen | {name} if on else self.chosen - {name}
        self._show()

    def _show(self) -> None:
        shown = [curve for curve in self._curves if curve.id in self.chosen]
        self.charts.shown = tuple((curve, _TINTED[n % len(_TINTED)]) for n, curve in enumerate(shown))
        roles = {curve.id: role for curve, role in self.charts.shown}
        theme = self.charts.theme
        for curve in self._curves:
            box = self.boxes[curve.id]
            box.setChecked(curve.id in roles)
            least = f"{short(min(curve.resistance), 3)} mm²·K/W"
            film = f", {short(curve.film_um, 2)} µm" if curve.film_um is not None else ""
            box.setText(
                f"{curve.name}: {least}{film}{' (claim)' if curve.claimed else ''}{' !' if curve.odd else ''}".replace("&", "&&")
            )
            colour = theme.colour(roles[curve.id]).name() if curve.id in roles else theme.colour("quiet").name()
            box.setStyleSheet(f"color: {colour};")
        told = [[coloured(theme.colour(role).name(), curve.name), "; ".join(curve.handling)] for curve, role in self.charts.shown]
        self.facts.setText(table([row for row in told if row[1]], spacing=4))
        self.charts.update()

    def _rows(self) -> None:
        project = self.desk.session.project
        known = known_materials(project)

        def words(one: StockItem | Offer, thick: float | None) -> str:
            name = known[one.material].name if one.material in known else one.material
            size = (
                f", {short(one.w_mm)} × {short(one.h_mm)} mm"
                if one.w_mm and one.h_mm
                else f", {short(one.ml)} ml"
                if one.ml
                else ""
            )
            return f"{f'{short(thick)} mm ' if thick else ''}{name}{size}"

        session = self.desk.session
        stock = [
            (f"{one.count} × {words(one, one.thickness_mm.value if one.thickness_mm else None)}", one.id) for one in project.stock
        ]
        shop = [(f"{words(one, one.thickness_mm)}: {one.price:g} {project.currency}", one.id) for one in project.shop]
        _fill(
            self.stock, stock, "Nothing is written down.", lambda one: self._tell(session.attempt(edits.drop_stock(project, one)))
        )
        no_price = "No prices: plans come without cost."
        _fill(self.shop, shop, no_price, lambda one: self._tell(session.attempt(edits.withdraw(project, one))))

    def _press(self, value: float | None) -> str:
        self._typed_kpa = value
        self.refresh()
        return ""

    def _thick(self, value: float | None) -> str:
        self._mm = value or _USUAL_MM
        self.refresh()
        return ""

    def _tell(self, wrong: str) -> None:
        self.wrong.setText(wrong)
        self.wrong.setVisible(bool(wrong))


def _fill(layout: QVBoxLayout, rows: list[tuple[str, str]], nothing: str, drop: Callable[[str], None]) -> None:
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()
    for words, name in rows:
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 0, 0)
        label = Words(words)
        label.setWordWrap(True)
        away = QToolButton()
        away.setObjectName("plain")
        away.setText("✕")
        away.setToolTip("Take it off the list")
        away.setAccessibleName(f"Take off: {words}")
        away.clicked.connect(lambda _, name=name: drop(name))
        row.addWidget(label, 1)
        row.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        layout.addWidget(line)
    if not rows:
        quiet = Words(nothing)
        quiet.setObjectName("quiet")
        layout.addWidget(quiet)
