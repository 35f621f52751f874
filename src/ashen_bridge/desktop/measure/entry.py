"""Taking readings at the bench: what of, one large figure, Enter; implausible ones are asked about, never refused."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.desktop.parts.plain import Words, dressed_anew
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.editing import readings as edits
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import measured

FORMS = (
    ("Height", "height"),
    ("Landing step", "step"),
    ("Imprint", "imprint"),
    ("Old pad, edge", "edge"),
    ("Putty", "putty"),
)


_HOW = {
    "height": "From the board's bare surface to the top of the part, the rod upright.",
    "step": "A straight edge over the plate's face; set back is +.",
    "imprint": "Inside the mark, the jaws only touching; it shows the gap of that closing.",
    "edge": "Where nothing pressed: roughly what was bought.",
    "putty": "Squashed by closing without a pad, cut through its middle.",
}


class Entry(QWidget):
    """One bar: form, what of, value."""

    def __init__(self, desk: MeasureDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self._asked = ""
        self.form = ChoiceField("What is read", self._choose_form)
        self.of = ChoiceField("Of what", self._choose)
        self.instrument = ChoiceField("With which instrument", lambda one: desk.look(replace(desk.view, instrument=one)))
        self.of.setMinimumContentsLength(12)
        self.form.setMinimumContentsLength(7)
        self.instrument.setMinimumContentsLength(6)
        self.of.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.value = QLineEdit()
        self.value.setAccessibleName("Value [mm]")
        self.value.setPlaceholderText("mm")
        self.value.setToolTip("A length in mm; sums and other units may be typed: 12.4-11.2, 47 mil, 3/64 in. Enter takes it")
        self.value.returnPressed.connect(self.take)
        self.value.textEdited.connect(lambda _: self._say("", False))
        self.back = QPushButton("Take back")
        self.back.setToolTip("Take the last value back (Ctrl+Backspace)")
        self.back.clicked.connect(self.take_back)
        self.said = Words()
        self.said.setObjectName("quiet")
        self.said.setWordWrap(True)
        row = QHBoxLayout()
        row.setSpacing(6)
        for field in (self.form, self.of, self.instrument):
            row.addWidget(field)
        row.addWidget(self.value, 1)
        row.addWidget(self.back)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addLayout(row)
        column.addWidget(self.said)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme: the figure is to be read across a bench."""
        self.theme = theme
        self.value.setStyleSheet(f"font-size: {round(theme.px(24))}px; font-weight: bold;")
        self.value.setMinimumWidth(round(theme.px(110)))

    def refresh(self) -> None:
        """Take over what can be read."""
        desk = self.desk
        forms = [(words, form) for words, form in FORMS if any(one.form == form for one in desk.offered)]
        self.form.show_choice(forms or list(FORMS), desk.view.form)
        wanted = desk.wanted
        offered = [(one.words, one.of) for one in desk.offered if one.form == desk.view.form]
        self.of.show_choice(offered, wanted.of if wanted is not None else None)
        instruments = [(one.label, one.id) for one in desk.session.project.instruments] or [(edits.USUAL.label, edits.USUAL.id)]
        self.instrument.show_choice(instruments, desk.view.instrument or instruments[0][1])
        self.back.setEnabled(bool(desk.session.project.readings))
        self.value.setEnabled(wanted is not None)
        if not self._asked:
            self._hint()

    def _hint(self) -> None:
        wanted = self.desk.wanted
        if wanted is None:
            self._say("What can be read is known as soon as the gaps are.", False)
            return
        last = next((one for one in reversed(self.desk.session.project.readings) if not one.aside), None)
        said = _HOW[wanted.form] + (f" Expected: {measured(*wanted.expected, 'mm')}." if wanted.expected is not None else "")
        if last is not None and hasattr(last, "values_mm"):
            values = ", ".join(f"{one:g}" for one in last.values_mm[-4:])
            said += f" Last taken: {last.id} {values} mm."
        self._say(said, False)

    def _say(self, words: str, wrong: bool) -> None:
        self.said.setText(words)
        name = "wrong" if wrong else "quiet"
        if self.said.objectName() != name:
            self.said.setObjectName(name)
            dressed_anew(self.said)
        if not wrong:
            self._asked = ""

    def _choose_form(self, form: str) -> None:
        self.desk.look(replace(self.desk.view, form=form, of=()))

    def _choose(self, of: tuple[tuple[str, str], ...]) -> None:
        self.desk.look(replace(self.desk.view, of=of))
        lower = dict(of).get("body") or dict(of).get("lower")
        if lower:
            self.desk.session.select(lower)
        self.value.setFocus()

    # ---- taking

    def take(self) -> None:
        """Take what is typed; what is implausible is asked about once."""
        desk, wanted = self.desk, self.desk.wanted
        text = self.value.text().strip()
        if wanted is None or not text:
            return
        try:
            value = read_number(text, "mm")
        except TypedError as error:
            self._say(str(error), True)
            return
        question = edits.questioned(value, *wanted.expected) if wanted.expected is not None else ""
        if question and self._asked != text:
            self._say(question, True)
            self._asked = text
            return
        problem = self._taken(wanted.form, dict(wanted.of), value)
        if problem:
            self._say(problem, True)
            return
        self._asked = ""
        self.value.clear()
        self._hint()
        desk.look(replace(desk.view, of=wanted.of))

    def _taken(self, form: str, of: dict[str, str], value: float) -> str:
        session = self.desk.session
        project = session.project
        instrument = self.instrument.currentData() or edits.USUAL.id
        if not any(one.id == instrument for one in project.instruments):
            problem = session.attempt(edits.add_instrument(edits.USUAL))
            if problem:
                return problem
        if form == "putty":
            closing = next((one.id for one in reversed(project.closings) if session.build.id in one.builds), "")
            if not closing:
                return "Say under Baseline when this build was closed: putty shows the gap of a closing."
            of = {"closing": closing, **of}
        try:
            made = edits.take(session.project, form, of, value, instrument, date.today().isoformat())
        except AshenError as error:
            return str(error)
        return session.attempt(made)

    def take_back(self) -> None:
        """Take the last value back."""
        if self.desk.session.project.readings:
            self.desk.session.apply(edits.take_back(self.desk.session.project))
