"""Eight questions to a computable device: one at a time, answers listed at the left, a sketch at the right."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.guided.controls import Choices, Counter
from ashen_bridge.desktop.guided.sketch import Sketch
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, TextField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.guided.answers import AnswerError, Answers, DeviceKind, Wish, check
from ashen_bridge.guided.fit import fitting
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import short

_PADS = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0)
_QUESTIONS = (
    ("Device", "What is on the bench?", "The kind decides what lies between die and air. Everything can be changed later."),
    ("Die", "How large is the die?", "The bare, shiny rectangle, or your guess of what is under the lid."),
    ("Parts", "How many memory packages stand around it?", "Count those that a pad touches, or should touch."),
    ("Rear", "And on the rear of the board?", "Only those that carry a pad to a backplate."),
    ("Pads", "What pads are there now?", "Measure at the free edge. A soft one gives under a finger nail."),
    (
        "Cooler",
        "What holds the cooler, and what is in its base?",
        "The screws around the die; pipes show at the edge of a base.",
    ),
    ("Seen", "Which temperatures have you seen?", "The highest under steady load. Leave open what you do not know."),
    ("Wanted", "What do you want?", "A thickness you think of becomes Plan A beside what is there now."),
)


class GuidedDialog(WorkDialog):
    """Emits `finished_project` with a project once the answers are worked through."""

    finished_project = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("New device from questions", parent)
        self.session, self.theme = session, theme
        self.given: dict[str, Any] = Answers().model_dump()
        self._answers: Answers | None = None
        self.building: Question[Project] = Question(session.questions, "Building the device", lambda: _asked(self._answers))
        self.building.changed.connect(self._follow)
        self.list = QListWidget()
        self.list.setAccessibleName("Questions and answers")
        self.list.setObjectName("steps")
        self.list.setFixedWidth(round(theme.px(190)))
        self.pages = QStackedWidget()
        self.sketch = Sketch(theme)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.hide()
        self.back, self.next, self.finish = QPushButton("Back"), QPushButton("Next"), QPushButton("Build it")
        for make in (self._kind, self._die, self._parts, self._rear, self._pads, self._screws, self._seen, self._wanted):
            self.pages.addWidget(self._page(self.pages.count(), make))
        self._lay_out()
        self.list.currentRowChanged.connect(self.go)
        self.back.clicked.connect(lambda: self.go(self.pages.currentIndex() - 1))
        self.next.clicked.connect(lambda: self.go(self.pages.currentIndex() + 1))
        self.finish.clicked.connect(self.build)
        self.resize(round(theme.px(1040)), round(theme.px(600)))
        self.go(0)

    def _lay_out(self) -> None:
        for button in (self.back, self.next, self.finish):
            button.setMinimumHeight(38)
            button.setAutoDefault(False)
        self.finish.setToolTip("What was not answered keeps its usual value, marked assumed")
        foot = QHBoxLayout()
        foot.addWidget(self.back)
        foot.addWidget(self.progress, 1)
        foot.addStretch(1)
        foot.addWidget(self.next)
        foot.addWidget(self.finish)
        middle = QVBoxLayout()
        middle.addWidget(self.pages, 1)
        middle.addWidget(self.wrong)
        middle.addLayout(foot)
        card = QFrame()
        card.setObjectName("card")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(4, 4, 4, 4)
        inside.addWidget(self.sketch)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 14, 14, 14)
        row.setSpacing(14)
        row.addWidget(self.list)
        row.addLayout(middle, 5)
        row.addWidget(card, 4)

    def _page(self, at: int, make: Callable[[QVBoxLayout], None]) -> QWidget:
        _, question, help_ = _QUESTIONS[at]
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 0, 4)
        column.setSpacing(10)
        title = Words(question)
        title.setObjectName("question")
        title.setWordWrap(True)
        words = Words(help_)
        words.setObjectName("quiet")
        words.setWordWrap(True)
        column.addWidget(title)
        column.addWidget(words)
        make(column)
        column.addStretch(1)
        return page

    # ---- questions

    def _kind(self, column: QVBoxLayout) -> None:
        options = [(kind.value[:1].upper() + kind.value[1:], kind) for kind in DeviceKind]
        self.kinds = Choices(options, DeviceKind.CARD, partial(self.answer, "kind"), columns=1, height=46)
        column.addWidget(self.kinds)
        self.name = TextField(partial(self.answer, "name"), name="Name of the device")
        self.name.setPlaceholderText("What you call it")
        self.name.textEdited.connect(partial(self.answer, "name"))
        column.addWidget(_labelled("Name", self.name))

    def _die(self, column: QVBoxLayout) -> None:
        self.die_w = self._number("die_w_mm", "mm", "Width of the die")
        self.die_h = self._number("die_h_mm", "mm", "Height of the die in plan")
        column.addWidget(_labelled("Width [mm]", self.die_w))
        column.addWidget(_labelled("Height [mm]", self.die_h))

    def _parts(self, column: QVBoxLayout) -> None:
        grid = QGridLayout()
        self.counters: list[Counter] = []
        places = (("left", 1, 0), ("above", 0, 1), ("right", 1, 2), ("below", 2, 1))
        for n, (words, row, at) in enumerate(places):
            counter = Counter(f"Packages {words} of the die", 0, 8, self.given["around"][n])
            counter.changed.connect(partial(self._set_around, n))
            self.counters.append(counter)
            cell = QVBoxLayout()
            label = Words(words.capitalize())
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            cell.addWidget(label)
            cell.addWidget(counter)
            grid.addLayout(cell, row, at)
        die = Words("die")
        die.setAlignment(Qt.AlignmentFlag.AlignCenter)
        die.setObjectName("heading")
        grid.addWidget(die, 1, 1)
        column.addLayout(grid)

    def _rear(self, column: QVBoxLayout) -> None:
        self.rear = Counter("Packages on the rear", 0, 8, 0)
        self.rear.changed.connect(partial(self.answer, "rear"))
        column.addWidget(self.rear, 0, Qt.AlignmentFlag.AlignLeft)

    def _pads(self, column: QVBoxLayout) -> None:
        options = [*((f"{value:g}", value) for value in _PADS), ("?", None)]
        self.pad_now = Choices(options, 1.0, partial(self.answer, "pad_now_mm"), columns=5)
        column.addWidget(_labelled("Thickness [mm]", self.pad_now))
        self.pad_exact = self._number("pad_now_mm", "mm", "Thickness of the pads, measured", optional=True)
        column.addWidget(_labelled("or exactly [mm]", self.pad_exact))
        feels = [(feel.capitalize(), feel) for feel in ("soft", "medium", "firm")]
        self.pad_feel = Choices(feels, "medium", partial(self.answer, "pad_feel"))
        column.addWidget(_labelled("They feel", self.pad_feel))

    def _screws(self, column: QVBoxLayout) -> None:
        self.screws = Counter("Screws", 2, 12, 4)
        self.screws.changed.connect(partial(self.answer, "screws"))
        column.addWidget(_labelled("How many", self.screws))
        feels = [(feel.capitalize(), feel) for feel in ("soft", "normal", "hard")]
        self.screw_feel = Choices(feels, "normal", partial(self.answer, "screw_feel"))
        column.addWidget(_labelled("They feel", self.screw_feel))
        bases = [(kind.value.capitalize(), kind) for kind in BaseKind]
        self.base = Choices(bases, BaseKind.SOLID, partial(self.answer, "base"))
        column.addWidget(_labelled("Base", self.base))

    def _seen(self, column: QVBoxLayout) -> None:
        self.die_seen = self._number("die_seen_c", "°C", "Die, hottest reading", optional=True)
        self.memory_seen = self._number("memory_seen_c", "°C", "Memory, hottest reading", optional=True)
        self.room = self._number("room_c", "°C", "Room")
        for words, field in (("Die [°C]", self.die_seen), ("Memory [°C]", self.memory_seen), ("Room [°C]", self.room)):
            column.addWidget(_labelled(words, field))

    def _wanted(self, column: QVBoxLayout) -> None:
        options = [(wish.value[:1].upper() + wish.value[1:], wish) for wish in Wish]
        self.wishes = Choices(options, Wish.MEMORY, partial(self.answer, "wish"), columns=1, height=42)
        column.addWidget(self.wishes)
        thicknesses = [*((f"{value:g}", value) for value in _PADS), ("none", None)]
        self.pad_wanted = Choices(thicknesses, None, partial(self.answer, "pad_wanted_mm"), columns=5)
        column.addWidget(_labelled("Pads you think of [mm]", self.pad_wanted))

    def _number(self, field: str, unit: str, name: str, optional: bool = False) -> NumberField:
        made = NumberField(Wanted(name, unit, optional=optional), partial(self.answer, field))
        made.edit.setMinimumHeight(38)
        made.show_value(self.given[field])
        return made

    def _set_around(self, at: int, count: int) -> None:
        counts = list(self.given["around"])
        counts[at] = count
        self.answer("around", tuple(counts))

    # ---- answers

    def start_from(self, readings: dict[str, float]) -> None:
        """Fill in what a log showed: hottest die and memory, and the room [°C]."""
        shown = {"room_c": readings.get("ambient"), "die_seen_c": readings.get("hot", readings.get("core"))}
        shown["memory_seen_c"] = readings.get("memory")
        for name, field in (("room_c", self.room), ("die_seen_c", self.die_seen), ("memory_seen_c", self.memory_seen)):
            value = shown[name]
            if value is not None and not self.answer(name, round(value, 1)):
                field.show_value(round(value, 1))

    def answer(self, field: str, value: Any) -> str:
        """Take an answer; returns what is wrong with it, and keeps the one before if something is.

        What is being built from other answers is called off.
        """
        self.building.cancel()
        given = {**self.given, field: value}
        try:
            answers = check(given)
        except AnswerError as error:
            if error.field == field:
                return str(error)
            self.wrong.setText(str(error))
            self.given = given
            return ""
        self.wrong.setText("")
        self.given = given
        if field == "pad_now_mm":
            self.pad_exact.show_value(value)
            if value in (*_PADS, None):
                self.pad_now.button(value).setChecked(True)
        self._show(answers)
        return ""

    def go(self, page: int) -> None:
        """Show a question."""
        page = min(max(page, 0), self.pages.count() - 1)
        self.pages.setCurrentIndex(page)
        self.back.setEnabled(page > 0)
        self.next.setEnabled(page < self.pages.count() - 1)
        self._show(Answers.model_validate(self.given) if not self.wrong.text() else None)

    def _show(self, answers: Answers | None) -> None:
        if answers is not None:
            self.sketch.show_answers(answers, self.pages.currentIndex())
        self.list.blockSignals(True)
        if self.list.count() != len(_QUESTIONS):
            self.list.clear()
            self.list.addItems([title for title, _, _ in _QUESTIONS])
        for n, ((title, _, _), said) in enumerate(zip(_QUESTIONS, _said(self.given), strict=True)):
            item = self.list.item(n)
            if item is not None:
                item.setText(f"{n + 1}  {title}\n{said}")
        self.list.setCurrentRow(self.pages.currentIndex())
        self.list.blockSignals(False)

    # ---- building

    def build(self) -> None:
        """Make the project; the cooler is fitted to the temperature that was seen, in the worker."""
        try:
            answers = check(self.given)
        except AnswerError as error:
            self.wrong.setText(str(error))
            return
        self._answers = answers
        self.wrong.setText("")
        self.building.ask()

    def _follow(self) -> None:
        """Show how the building stands; go when it is done."""
        if self._answers is None:
            return
        state = self.building.state
        self.finish.setEnabled(state != "running")
        self.progress.setVisible(state == "running")
        self.progress.setValue(round(100 * self.building.progress))
        if state == "refused":
            self.wrong.setText(self.building.problem)
        elif state == "current" and self.building.value is not None:
            self._answers = None
            project = self.building.last
            if project is not None:
                self.finished_project.emit(project)
            self.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter goes on to the next field or question, and builds at the last one; a refused answer keeps it."""
        if event is None or event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            return
        page = self.pages.currentWidget()
        fields = page.findChildren(QLineEdit) if page is not None else []
        focus = QApplication.focusWidget()
        if isinstance(focus, QLineEdit) and focus in fields:
            if focus.property("wrong"):
                return
            if focus is not fields[-1]:
                following = fields[fields.index(focus) + 1]
                following.setFocus()
                following.selectAll()
                return
        if self.next.isEnabled():
            self.go(self.pages.currentIndex() + 1)
        else:
            self.build()


def _asked(answers: Answers | None) -> Asked | None:
    return Asked(key_of(answers), fitting, (answers,)) if answers is not None else None


def _labelled(words: str, field: QWidget) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    label = Words(words)
    label.setMinimumWidth(120)
    label.setBuddy(field)
    row.addWidget(label)
    row.addWidget(field, 1)
    return holder


def _said(given: dict[str, Any]) -> list[str]:
    pads = f"{short(given['pad_now_mm'])} mm, {given['pad_feel']}" if given["pad_now_mm"] else "thickness not known"
    seen = [
        f"{words} {short(given[key])} °C" for words, key in (("die", "die_seen_c"), ("memory", "memory_seen_c")) if given[key]
    ]
    wanted = f", {short(given['pad_wanted_mm'])} mm" if given["pad_wanted_mm"] else ""
    return [
        str(given["kind"].value if isinstance(given["kind"], DeviceKind) else given["kind"]),
        f"{short(given['die_w_mm'])} × {short(given['die_h_mm'])} mm",
        " · ".join(str(count) for count in given["around"]),
        str(given["rear"]) if given["rear"] else "none",
        pads,
        f"{given['screws']} screws, {given['screw_feel']}, {BaseKind(given['base']).value}",
        ", ".join(seen) or "nothing",
        f"{given['wish']}{wanted}",
    ]
