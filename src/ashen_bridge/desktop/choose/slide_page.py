"""What if: some numbers are slid, and the answer follows."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QSlider, QToolButton, QWidget

from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import Rich, bold, coloured, table
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.planning.sliding import Slid, Slider, SlidSensor
from ashen_bridge.words.numbers import number, short

_STEPS = 200
_MOST = 6


class SlidePage(QWidget):
    """Sliders at the left, what comes of them at the right."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self.theme = desk, room.theme()
        self.add = ChoiceField("Slide another number", self._add)
        self.back = QPushButton("Back to how it is")
        self.back.clicked.connect(lambda: desk.look(replace(desk.view, slid=())))
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(10)
        self.sliders: dict[str, QSlider] = {}
        self._values: dict[str, Words] = {}
        self._rows: list[QWidget] = []
        self._known: dict[str, Slider] = {}
        self._shown: tuple[str, ...] = ()
        self.answer = Words()
        self.answer.setObjectName("answer")
        self.nearest = Words()
        self.nearest.setObjectName("big")
        self.nearest.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.table = Words()
        self.table.setTextFormat(Qt.TextFormat.RichText)
        self.table.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()

    def _lay_out(self) -> None:
        left = Card((14, 12, 14, 12))
        title = Words("What if")
        title.setObjectName("big")
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(self.back)
        left.column.addLayout(head)
        left.column.addLayout(self.grid)
        left.column.addWidget(self.add)
        left.column.addStretch(1)
        area = QScrollArea()
        area.setWidget(self.table)
        area.setWidgetResizable(True)
        right = Card((14, 12, 14, 12))
        for widget in (self.answer, self.nearest, self.state):
            right.column.addWidget(widget)
        right.column.addWidget(area, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(left, 1)
        row.addWidget(right, 1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def refresh(self) -> None:
        """Take over which numbers are slid, and the answer."""
        desk = self.desk
        self._known = {one.path: one for one in desk.sliders()}
        wanted = tuple(path for path in desk.slid_paths() if path in self._known)
        if wanted != self._shown:
            self._make(wanted)
        values = desk.slid_values()
        for path, slider in self.sliders.items():
            one = self._known[path]
            value = values.get(path, one.now)
            slider.blockSignals(True)
            slider.setValue(round(_STEPS * (value - one.low) / max(one.high - one.low, 1e-9)))
            slider.blockSignals(False)
            moved = "" if abs(value - one.now) < 1e-9 else f" (now {short(one.now, 4)})"
            self._values[path].setText(f"{short(value, 3)} {one.unit}{moved}")
        rest = [("Slide another number…", None)] + [
            (one.words, one.path) for one in self._known.values() if one.path not in wanted
        ]
        self.add.show_choice(rest, None)
        self.add.setEnabled(len(wanted) < _MOST)
        self.back.setEnabled(bool(values))
        desk.slide.ask_by_itself()
        found = desk.slide.value or desk.slide.last
        self._tell(found)

    def _make(self, wanted: tuple[str, ...]) -> None:
        for widget in self._rows:
            self.grid.removeWidget(widget)
            widget.hide()
            widget.deleteLater()
        self._rows, self.sliders, self._values = [], {}, {}
        for n, path in enumerate(wanted):
            one = self._known[path]
            label, value = Words(one.words), Words()
            value.setMinimumWidth(130)
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(0, _STEPS)
            slider.setAccessibleName(f"{one.words} [{one.unit}]")
            slider.valueChanged.connect(partial(self._slid, path))
            away = QToolButton()
            away.setObjectName("plain")
            away.setText("✕")
            away.setToolTip("Slide it no more")
            away.setAccessibleName(f"No more: {one.words}")
            away.clicked.connect(partial(self._drop, path))
            for column, widget in enumerate((label, slider, value, away)):
                self.grid.addWidget(widget, n, column)
                self._rows.append(widget)
            self.sliders[path], self._values[path] = slider, value
        self.grid.setColumnStretch(1, 1)
        self._shown = wanted

    def _slid(self, path: str, step: int) -> None:
        one = self._known[path]
        value = one.low + (one.high - one.low) * step / _STEPS
        if abs(value - one.now) < (one.high - one.low) / _STEPS:
            value = one.now
        self.desk.slide_to(path, value)

    def _add(self, path: str | None) -> None:
        if path is not None:
            self.desk.slide_to(path, self._known[path].now)

    def _drop(self, path: str, _: bool = False) -> None:
        self.desk.slide_no_more(path)

    def _tell(self, found: Slid | None) -> None:
        said = standing(self.desk.slide, "Looking…", "")
        about = "Differences are surer than temperatures: what is not known moves both alike. Joints by their own equilibrium."
        self.state.setText(said or about)
        if found is None:
            self.answer.setText("–")
            self.nearest.setText("")
            self.table.setText("")
            return
        self.answer.setText("–" if found.die_then_c is None else f"{number(found.die_then_c, 1)} °C at the die")
        limited = [one for one in found.sensors if one.limit_c is not None]
        worst = min(limited, key=_spare, default=None)
        self.nearest.setText(
            f"{worst.name} comes nearest: {number(worst.then_c, 1)} of {number(worst.limit_c or 0.0)} °C"
            if worst is not None
            else "No limit is stated."
        )
        self.table.setText(self._sensors(found))

    def _sensors(self, found: Slid) -> Rich:
        head = [bold(words) for words in ("sensor", "now", "then", "", "limit")]
        rows = []
        for one in sorted(found.sensors, key=_spare):
            by = one.then_c - one.now_c
            role = (
                "bad"
                if one.limit_c is not None and one.then_c > one.limit_c
                else "ember"
                if by > 0.05
                else "steel"
                if by < -0.05
                else "quiet"
            )
            limit = "–" if one.limit_c is None else number(one.limit_c)
            moved = coloured(self.theme.colour(role).name(), number(by, 1, sign=True))
            rows.append([one.name, number(one.now_c, 1), bold(number(one.then_c, 1)), moved, limit])
        return table([head, *rows], right=(1, 2, 3, 4), spacing=5, wide=False)


def _spare(one: SlidSensor) -> float:
    return 1e3 - one.then_c if one.limit_c is None else one.limit_c - one.then_c
