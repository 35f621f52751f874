"""The page of Measure: the board with its gaps, the one that is looked at, and the bar that takes readings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.desktop.measure.entry import Entry
from ashen_bridge.desktop.measure.gap_plan import GapPlan
from ashen_bridge.desktop.measure.method_chart import MethodChart, lines_of
from ashen_bridge.desktop.measure.reading_list import ReadingList
from ashen_bridge.desktop.measure.route_list import RouteList
from ashen_bridge.desktop.measure.telling import gap_words, length_words, moved_words, next_words, over_words
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import rich
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import readings as edits
from ashen_bridge.measuring.result import Gap
from ashen_bridge.model.bodies import Side

RIGHT_WIDTH = 340
_EXPLAIN = (
    "Every reading is evidence about the device's own lengths; all of them together say how wide each gap is that "
    "material has to fill, and how well that is known."
)


def _shown(session: Session) -> dict[str, float]:
    """Return what sensors are predicted to show [°C], by name."""
    assessment = session.results.assessment
    return {one.name: one.value_c for one in assessment.report.sensors} if assessment is not None else {}


class MeasurePage(QWidget):
    """Gaps, and what is read of them."""

    def __init__(
        self, session: Session, theme: Theme, shown: Callable[[], bool], say: Callable[[str], object] = lambda _: None
    ) -> None:
        super().__init__()
        self.session, self.theme, self._shown, self._say = session, theme, shown, say
        self._before: dict[str, float] = {}
        self.desk = MeasureDesk(session, self)
        self.plan = GapPlan(self.desk, theme)
        self.entry = Entry(self.desk, theme)
        self.readings = ReadingList(self.desk, theme)
        self.route = RouteList(self.desk, theme)
        self.entry.advance = self._on
        self.name = Words()
        self.name.setObjectName("title")
        self.name.setWordWrap(True)
        self.figure = Words()
        self.figure.setObjectName("answer")
        self.below = Words()
        self.below.setObjectName("quiet")
        self.below.setWordWrap(True)
        self.chart = MethodChart(theme)
        self.words, self.next = Words(), Words()
        for label in (self.words, self.next):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.RichText)
        self.over = QPushButton()
        self.over.setToolTip("Set every number that readings moved to what they made of it; undo brings back what they were")
        self.over.clicked.connect(self._take_over)
        self.rear = QPushButton("Rear side")
        self.rear.setCheckable(True)
        self.rear.setToolTip("Look at the other side of the board")
        self.rear.clicked.connect(self._turn)
        self._lay_out()
        for signal in (session.project_changed, session.view_changed, self.desk.changed):
            signal.connect(self.refresh)
        session.results.changed.connect(self._predicted)
        self.desk.seen.changed.connect(self._seen)

    def _lay_out(self) -> None:
        board = Card()
        board.column.addWidget(self.plan, 1)
        bench = Card((10, 8, 10, 8))
        bench.column.addWidget(self.entry)
        bench.column.addWidget(self.readings, 1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(board, 3)
        left.addWidget(bench, 2)
        self._side = SideCard(RIGHT_WIDTH)
        column = self._side.column
        head = QHBoxLayout()
        head.addWidget(self.name, 1)
        head.addWidget(self.rear)
        column.addLayout(head)
        column.addWidget(self.figure)
        column.addWidget(self.below)
        column.addWidget(self.chart)
        self._on_route = Words("Route: what narrows the verdict")
        self._on_route.setObjectName("section")
        column.addWidget(self._on_route)
        column.addWidget(self.route)
        column.addWidget(self.words)
        self._ahead = Words("To read next, the most worth per minute first")
        self._ahead.setObjectName("section")
        self._ahead.setWordWrap(True)
        column.addWidget(self._ahead)
        column.addWidget(self.next)
        column.addStretch(1)
        self._side.foot.addWidget(self.over)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addLayout(left, 1)
        row.addWidget(self._side)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.plan.theme = self.chart.theme = theme
        self.entry.set_theme(theme)
        self.readings.set_theme(theme)
        self._side.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        if not self._shown():
            return
        desk = self.desk
        desk.question.ask_by_itself()
        if desk.question.state == "current":
            desk.routing.ask_by_itself()
            desk.seen.ask_by_itself()
        gap, found = desk.gap, desk.found
        self.plan.refresh()
        self.entry.refresh()
        self.readings.refresh()
        self.route.refresh()
        self.rear.setChecked(desk.view.side is Side.REAR)
        self.over.setVisible(found is not None and bool(found.numbers) and desk.question.state == "current")
        if found is not None:
            self.over.setText(f"Take {len(found.numbers)} numbers over")
            self.over.setToolTip(over_words(found))
        for widget in (self.figure, self.chart, self.words, self._ahead, self.next):
            widget.setVisible(gap is not None)
        if gap is None or found is None:
            self.name.setText("How wide is every gap?")
            self.below.setText(standing(desk.question, "Moving every length a little…", _EXPLAIN) or _EXPLAIN)
            return
        self._show(gap)

    def _show(self, gap: Gap) -> None:
        found = self.desk.found
        assert found is not None  # the gap is one of its
        self.name.setText(gap.name)
        at = found.gaps.index(gap)
        without = found.odd[0].gaps[at] if found.odd else None
        seen = self.desk.seen_gap
        self.figure.setText(length_words(*(seen.now if seen is not None else gap.now)))
        told = "to fill, with the cooler seated and no pad pushing"
        if seen is not None and seen.now != gap.now:
            told += f"; with what old pads showed, by readings alone {length_words(*gap.now)}"
        if without is not None:
            told += f"; without “{found.odd[0].reading}”, which does not fit, {length_words(*without)}"
        stale = standing(self.desk.question, "Weighing the readings…") if self.desk.question.state != "current" else ""
        self.below.setText(stale or told)
        self.below.setStyleSheet(f"color: {self.theme.roles['bad']};" if without is not None and not stale else "")
        self.chart.show_lines(lines_of(gap, without))
        self.words.setText(rich(gap_words(found, gap, self.theme)))
        self.next.setText(rich(next_words(gap, self.theme)))

    def _seen(self) -> None:
        gap = self.desk.gap
        if gap is not None and self._shown() and self.figure.isVisible():
            self._show(gap)

    def _on(self, form: str, of: tuple[tuple[str, str], ...]) -> None:
        """Go on to the next stop of the route, if what was read was one."""
        after = self.route.after(form, of)
        if after is not None:
            self.route.go_to(after)

    def _turn(self) -> None:
        side = Side.FRONT if self.desk.view.side is Side.REAR else Side.REAR
        self.desk.look(replace(self.desk.view, side=side))

    def _take_over(self) -> None:
        found = self.desk.question.value
        if found is not None and self.desk.question.state == "current":
            self._before = _shown(self.session)
            self.session.apply(edits.take_over(found))

    def _predicted(self) -> None:
        """Say which predictions taking over has moved, once they are there."""
        if self._before and self.session.results.state == "current":
            before, self._before = self._before, {}
            self._say(moved_words(before, _shown(self.session)))
