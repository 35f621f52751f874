"""One question as a row: its words, the control that its kind of answer needs, what stands for it while it is open."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from ashen_bridge.desktop.guided.controls import Choices, Counter
from ashen_bridge.desktop.parts.fields import NumberField, TextField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.interview import present
from ashen_bridge.guided.questions import Ask, options, usual_words
from ashen_bridge.guided.usual import usual

Answer = Callable[[str, Any], str]
_SIDES = (("left", 1, 0), ("above", 0, 1), ("right", 1, 2), ("below", 2, 1))
_LABEL, _FIELD = 168, 150


class AskRow(QWidget):
    """Shows one question and hands its answer on. `answer` returns what is wrong with it."""

    def __init__(self, ask: Ask, answer: Answer, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ask, self._answer = ask, answer
        self.number: NumberField | None = None
        self.text: TextField | None = None
        self.choices: Choices | None = None
        self.counters: tuple[Counter, ...] = ()
        self.usual = Words()
        self.usual.setObjectName("quiet")
        control = self._control()
        if ask.tip and ask.how != "text":
            control.setToolTip(ask.tip)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        if ask.words:
            label = Words(ask.words)
            label.setFixedWidth(_LABEL)
            label.setWordWrap(True)
            label.setBuddy(control)
            row.addWidget(label, 0, Qt.AlignmentFlag.AlignTop if ask.how == "counts" else Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(control, 1)

    def _control(self) -> QWidget:
        ask = self.ask
        match ask.how:
            case "number":
                return self._number()
            case "text":
                self.text = TextField(lambda text: self._answer(ask.field, text), name=ask.words)
                self.text.setPlaceholderText(ask.tip)
                self.text.textEdited.connect(lambda text: self._answer(ask.field, text))
                self.text.setMinimumHeight(38)
                return self.text
            case "count":
                counter = Counter(ask.words, 2 if ask.field == "screws" else 0, ask.most, 0)
                counter.changed.connect(lambda count: self._answer(ask.field, count))
                self.counters = (counter,)
                return counter
            case "counts":
                return self._counts()
        self.choices = Choices(ask.options, lambda value: self._answer(ask.field, value), columns=2 if ask.how == "cards" else 0)
        return self.choices

    def _number(self) -> QWidget:
        ask = self.ask
        self.number = NumberField(Wanted(ask.words, ask.unit, optional=True), lambda value: self._answer(ask.field, value))
        self.number.edit.setMinimumHeight(38)
        self.number.setFixedWidth(_FIELD)
        unit = Words(ask.unit)
        unit.setObjectName("quiet")
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        line = QHBoxLayout()
        for widget in (self.number, unit):
            line.addWidget(widget)
        line.addStretch(1)
        if ask.options:
            self.choices = Choices(ask.options, lambda value: self._answer(ask.field, value), columns=len(ask.options))
            column.addWidget(self.choices)
        column.addLayout(line)
        holder.setFocusProxy(self.number)
        return holder

    def _counts(self) -> QWidget:
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        made = []
        for at, (words, row, column) in enumerate(_SIDES):
            counter = Counter(f"{self.ask.words} {words}", 0, self.ask.most, 0)
            counter.changed.connect(lambda count, at=at: self._count(at, count))
            grid.addWidget(counter, row, column)
            made.append(counter)
        chip = Words("chip")
        chip.setObjectName("quiet")
        chip.setAlignment(Qt.AlignmentFlag.AlignCenter)
        grid.addWidget(chip, 1, 1)
        self.counters = tuple(made)
        holder.setFocusProxy(made[0])
        return holder

    def _count(self, at: int, count: int) -> None:
        counts = [counter.value for counter in self.counters]
        counts[at] = count
        self._answer(self.ask.field, tuple(counts))

    def show_answers(self, answers: Answers) -> None:
        """Show the answer, or what stands for it."""
        ask = self.ask
        value = present(answers, ask)
        if self.number is not None:
            self.number.show_value(value)
            self.number.edit.setPlaceholderText(usual_words(ask, answers))
        if self.text is not None:
            with QSignalBlocker(self.text):
                self.text.show_text(value or "")
        if self.choices is not None:
            self.choices.offer([option for _, option in options(ask, answers)])
            self.choices.show_choice(value, usual(answers, ask.field))
        for n, counter in enumerate(self.counters):
            counter.show_value(value[n] if ask.how == "counts" else value)

    def focus(self) -> None:
        """Put the keys where the answer is typed or chosen."""
        target = self.number.edit if self.number is not None else self.text
        if target is not None:
            target.setFocus(Qt.FocusReason.TabFocusReason)
            target.selectAll()
        elif self.choices is not None:
            chosen = [button for _, option in self.ask.options if (button := self.choices.button(option)).isChecked()]
            (chosen or [self.choices.button(self.ask.options[0][1])])[0].setFocus(Qt.FocusReason.TabFocusReason)
        elif self.counters:
            self.counters[0].more.setFocus(Qt.FocusReason.TabFocusReason)
