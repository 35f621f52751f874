"""The page of plans: what is wanted, plans beside each other, and what the chosen one bears or what else could lie there."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.choose.bars_view import BarsView
from ashen_bridge.desktop.choose.candidates_view import CandidateTable
from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.choose.plan_picture import plan_picture
from ashen_bridge.desktop.choose.plan_table import PlanTable
from ashen_bridge.desktop.choose.stages_view import StagesView
from ashen_bridge.desktop.choose.wishes_card import WishesCard
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.pages import checkable
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.editing import choosing as edits
from ashen_bridge.editing.keeping import keep_advice
from ashen_bridge.planning.choosing.result import Advice
from ashen_bridge.words.numbers import number, plus_minus

_BARS, _TABLE = 190, 270  # [px] of what stands below, at the usual text size


class PlansPage(QWidget):
    """Advice."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self._room = desk, room
        theme = room.theme()
        self.wishes = WishesCard(desk.session, self._tell)
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.go = QPushButton("Make it a build")
        self.go.setObjectName("go")
        self.go.clicked.connect(lambda: self.take(desk.view.plan))
        self.stop = QPushButton("Call off")
        self.stop.clicked.connect(desk.advice.cancel)
        self.again = QPushButton("Search plans")
        self.again.clicked.connect(desk.advice.ask)
        self.keep = KeepButton(desk.session, self._keeping)
        self.table = PlanTable(theme)
        self.table.plan_chosen.connect(self._choose)
        self.table.place_chosen.connect(lambda place: desk.look(replace(desk.view, place=place)))
        self.bars = BarsView(theme)
        self.candidates = CandidateTable(theme)
        self.below = Words()
        self.below.setWordWrap(True)
        self.bears = checkable("What it bears", "How far gaps may be off before something goes wrong")
        self.instead = checkable("What else could lie there", "All candidates of a place, and why not")
        self.staged = checkable("In stages", "What is done after what, so that a test between them tells each change apart")
        self.stages = StagesView(desk, self.take_stages)
        self.bears.clicked.connect(lambda: desk.look(replace(desk.view, place="", below="bears")))
        self.staged.clicked.connect(lambda: desk.look(replace(desk.view, place="", below="stages")))
        self.instead.clicked.connect(self._first_place)
        self.measure = QPushButton("Measure it")
        self.measure.setToolTip("Go to Measure, where the number can be read that would settle it")
        self.measure.clicked.connect(self._measure)
        self._lay_out()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self.says)
        words.addWidget(self.state)
        head.addLayout(words, 1)
        for button in (self.again, self.stop, self.keep, self.go):
            head.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.table)
        area.setWidgetResizable(True)
        upper = Card((12, 10, 12, 10))
        upper.column.addLayout(head)
        upper.column.addWidget(self.wrong)
        upper.column.addWidget(area, 1)
        tabs = QHBoxLayout()
        tabs.setSpacing(6)
        tabs.addWidget(self.bears)
        tabs.addWidget(self.instead)
        tabs.addWidget(self.staged)
        tabs.addWidget(self.below, 1)
        tabs.addWidget(self.measure)
        bars = QScrollArea()
        bars.setWidget(self.bars)
        bars.setWidgetResizable(True)
        self._stack = QStackedWidget()
        self._stack.addWidget(bars)
        self._stack.addWidget(self.candidates)
        self._stack.addWidget(self.stages)
        lower = self._lower = Card((12, 8, 12, 8))
        lower.column.addLayout(tabs)
        lower.column.addWidget(self._stack, 1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(upper, 1)
        right.addWidget(lower)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self.wishes)
        row.addLayout(right, 1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.table.theme = self.bars.theme = theme
        self.candidates.set_theme(theme)
        self.wishes.set_theme(theme)
        self.table.updateGeometry()

    def refresh(self) -> None:
        """Take over what is wanted and what was found."""
        desk = self.desk
        desk.advice.ask_by_itself()
        self.wishes.refresh()
        advice, state = desk.found, desk.advice.state
        self.says.setText(
            advice.says or "Plans so far" if advice is not None else "Which material, how thick, for all joints together?"
        )
        self.state.setText(self._standing(advice))
        self.stop.setVisible(state == "running")
        self.again.setVisible(state in ("absent", "stale", "refused"))
        self.again.setEnabled(desk.advice.possible)
        plan = desk.plan
        self.keep.refresh()
        self.go.setEnabled(plan is not None and any(one.changed for one in plan.chosen) and state in ("running", "current"))
        self.go.setToolTip(
            f"Make “{plan.name}” a build: one edit, undo takes it back (Ctrl+Shift and its number)" if plan else ""
        )
        picture = plan_picture(advice, desk.columns) if advice is not None else plan_picture(Advice("", "", 0.9, ()), ())
        offset = 1 if advice is not None and advice.present is not None else 0
        self.table.show_plans(picture, desk.view.plan + offset, desk.view.place)
        self._show_below(advice)

    def _standing(self, advice: Advice | None) -> str:
        said = standing(self.desk.advice, "Searching plans…", "Asked as soon as this page is looked at.")
        if self.desk.advice.state == "current" and advice is not None:
            closed = f" {advice.closed.says}" if advice.closed is not None else ""
            return f"{advice.tried} plans were tried.{closed}"
        return said

    def _show_below(self, advice: Advice | None) -> None:
        desk = self.desk
        place, plan = desk.place, desk.plan
        looking = bool(desk.view.place)
        in_stages = not looking and desk.view.below == "stages"
        self._stack.setCurrentIndex(1 if looking else 2 if in_stages else 0)
        self._lower.setFixedHeight(round(self.table.theme.px(_TABLE if looking or in_stages else _BARS)))
        self.instead.setChecked(looking)
        self.bears.setChecked(not looking and not in_stages)
        self.staged.setChecked(in_stages)
        if in_stages:
            self.stages.refresh()
        self.candidates.show_place(place)
        self.bars.show_rows(plan.tolerated if plan is not None else ())
        unsure = [one for one in advice.undecided if not looking or one.place == desk.view.place] if advice is not None else []
        self.measure.setVisible(bool(unsure) and not in_stages)
        if in_stages:
            self.below.setText("")
        elif unsure:
            self.below.setText(f"{unsure[0].label}: {unsure[0].measure}")
            self.below.setToolTip(unsure[0].says)
        elif place is not None:
            gap = f"{number(place.gap_mm, 2)} mm {plus_minus(place.pm_mm, 2)}"
            self.below.setText(f"{place.label}: a gap of {gap}, all else as in the first plan")
        else:
            self.below.setText(
                "thick line: what is known of the gap; band: what this plan bears" if plan is not None and plan.tolerated else ""
            )

    def _keeping(self, who: str, now: datetime) -> Edit | None:
        found, n = self.desk.found, self.desk.view.plan
        if found is None or self.desk.advice.state != "current" or not 0 <= n < len(found.plans):
            return None
        return keep_advice(self.desk.session.project, found, n, who=who, now=now)

    # ---- doing

    def take(self, n: int) -> None:
        """Make a plan a build, and look at it."""
        found, session = self.desk.found, self.desk.session
        if found is None or not 0 <= n < len(found.plans):
            return
        new, made = edits.take_plan(session.project, found.build, found.plans[n])
        wrong = session.attempt(made)
        self._tell(wrong)
        if not wrong:
            session.look(replace(session.view, build=new))
            self._room.notice.say(f"“{session.project.build(new).label}” is a build now. Undo takes it back.")

    def take_stages(self) -> None:
        """Make every stage of the plan that is looked at a build."""
        desk, session = self.desk, self.desk.session
        plan, stages = desk.plan, desk.stages.value
        if plan is None or not stages:
            return
        new, made = edits.take_stages(session.project, session.view.build, plan, stages)
        wrong = session.attempt(made)
        self._tell(wrong)
        if not wrong:
            session.look(replace(session.view, build=new[0]))
            self._room.notice.say(f"{len(new)} stages are builds now. Test the first before the next. Undo takes them back.")

    def _choose(self, column: int) -> None:
        found = self.desk.found
        offset = 1 if found is not None and found.present is not None else 0
        if column >= offset:
            self.desk.look(replace(self.desk.view, plan=column - offset))

    def _first_place(self) -> None:
        found = self.desk.found
        place = self.desk.view.place or (found.why_not[0].place if found is not None and found.why_not else "")
        self.desk.look(replace(self.desk.view, place=place))
        self.refresh()

    def _measure(self) -> None:
        found, session = self.desk.found, self.desk.session
        unsure = found.undecided if found is not None else ()
        wanted = next((one for one in unsure if one.place == self.desk.view.place), unsure[0] if unsure else None)
        if wanted is not None:
            steps = wanted.number.split(".")
            about = steps[2] if len(steps) > 2 and steps[1] == "bodies" else session.view.selected
            session.look(replace(session.view, workspace="measure", selected=about))

    def _tell(self, wrong: str) -> None:
        self.wrong.setText(wrong)
        self.wrong.setVisible(bool(wrong))
