"""Taking readings at the bench: what of, one large figure, Enter; implausible ones are asked about, never refused."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from datetime import date

from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.caliper import CaliperPort, ports
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.desktop.measure.jaws import JawsView
from ashen_bridge.desktop.measure.kept_dialog import KeptDialog
from ashen_bridge.desktop.measure.worked_dialog import WorkedDialog, can_be_worked_out
from ashen_bridge.desktop.parts.plain import Words, dressed_anew
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.editing import readings as edits
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.measuring.lines import Said
from ashen_bridge.measuring.worked_out import WorkedOut
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.signs import unit_of
from ashen_bridge.words.numbers import measured

FORMS = (
    ("Height", "height"),
    ("Landing step", "step"),
    ("Imprint", "imprint"),
    ("Old pad, edge", "edge"),
    ("Putty", "putty"),
    ("Depth", "depth"),
    ("Feeler", "feeler"),
    ("Beside", "beside"),
    ("Number", "number"),
)
_REPEATS, _SECOND = 3, 2


_HOW = {
    "height": "From the board's bare surface to the top of the part, the rod upright.",
    "step": "A straight edge over the plate's face; set back is +.",
    "imprint": "Inside the mark, the jaws only touching; it shows the gap of that closing.",
    "edge": "Where nothing pressed: roughly what was bought.",
    "putty": "Squashed by closing without a pad, cut through its middle.",
    "depth": "From a straight edge down; at three places that lie in no line its tilt does no harm.",
    "feeler": "The thickest leaf that goes, and the thinnest that does not: 0.80 to 0.90.",
    "beside": "Thin pads stacked beside the old one: at least and at most as thick: 1.0 to 1.25.",
    "number": "Any other number: a shim, a die, a spring, the paste that was used.",
}


class Entry(QWidget):
    """One bar: form, what of, value."""

    def __init__(self, desk: MeasureDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self._asked, self._zeros = "", 0
        self._wrong_at: object = None
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
        self.jaws = JawsView(theme)
        self.work_out = QPushButton("Work it out…")
        self.work_out.setToolTip("A spring by two weights or by its wire, a paste by weight")
        self.work_out.clicked.connect(self.show_worked_out)
        self.port = CaliperPort(self)
        self.port.said.connect(self._heard)
        self.port.ended.connect(self._silent)
        self.caliper = QPushButton("Caliper…")
        self.caliper.setProperty("popup", True)
        self.caliper.setToolTip("Take readings from the button of a caliper on a serial port")
        self._menu = QMenu(self.caliper)
        self._menu.aboutToShow.connect(self._offer_ports)
        self.caliper.setMenu(self._menu)
        self.advance: Callable[[str, tuple[tuple[str, str], ...]], object] = lambda form, of: None
        self.loud = True
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
        beside = QHBoxLayout()
        beside.addWidget(self.said, 1)
        beside.addWidget(self.work_out)
        beside.addWidget(self.caliper)
        beside.addWidget(self.jaws)
        column.addLayout(beside)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme: the figure is to be read across a bench."""
        self.theme = theme
        self.value.setStyleSheet(f"font-size: {round(theme.px(24))}px; font-weight: bold;")
        self.value.setMinimumWidth(round(theme.px(84)))
        self.jaws.theme = theme
        self.jaws.update()

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
        self.jaws.show_form(desk.view.form)
        unit = self._unit
        self.value.setPlaceholderText(unit)
        self.value.setAccessibleName(f"Value [{unit}]")
        self.value.setEnabled(wanted is not None)
        self.work_out.setVisible(wanted is not None and wanted.form == "number" and can_be_worked_out(unit))
        # What went wrong stays to be read until something else is done.
        if not self._asked and self._wrong_at != (desk.view.form, desk.view.of):
            self._hint()

    def _hint(self) -> None:
        wanted = self.desk.wanted
        if wanted is None:
            self._say("What can be read is known as soon as the gaps are.", False)
            return
        last = next((one for one in reversed(self.desk.session.project.readings) if not one.aside), None)
        expected = f" Expected: {measured(*wanted.expected, self._unit)}." if wanted.expected is not None else ""
        said = _HOW[wanted.form] + expected
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
        self._wrong_at = (self.desk.view.form, self.desk.view.of) if wrong else None
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
            value = self._typed(wanted.form, text)
        except TypedError as error:
            self._say(str(error), True)
            return
        asked = wanted.expected is not None and isinstance(value, float) and wanted.form != "number"
        question = edits.questioned(value, *wanted.expected) if asked else ""  # type: ignore[arg-type, misc]
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
        if self.loud:
            QApplication.beep()
        if self._often(wanted.form) >= _REPEATS:
            self.advance(wanted.form, wanted.of)

    def _often(self, form: str) -> int:
        """Return how often the last reading was repeated."""
        last = next((one for one in reversed(self.desk.session.project.readings) if one.form == form), None)
        return len(getattr(last, "values_mm", ())) if last is not None else 0

    @property
    def _unit(self) -> str:
        wanted = self.desk.wanted
        path = dict(wanted.of).get("path", "") if wanted is not None else ""
        return unit_of(path.rpartition(".")[2]) if path else "mm"

    def _typed(self, form: str, text: str) -> float | tuple[float, float]:
        """Return what was typed: a value, or an interval for forms that read one. Raises `TypedError`."""
        if form not in edits.INTERVALS:
            return read_number(text, self._unit)
        parts = [one for one in re.split(r"\bto\b|\.\.|;", text) if one.strip()]
        if len(parts) != 2:
            raise TypedError(f"“{text}” is no interval: write it as 0.80 to 0.90.")
        return read_number(parts[0], "mm"), read_number(parts[1], "mm")

    def _taken(self, form: str, of: dict[str, str], value: float | tuple[float, float]) -> str:
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
                return "Say that this build was closed (Ctrl+K, Instruments and closings): putty shows the gap of a closing."
            of = {"closing": closing, **of}
        try:
            made = edits.take(session.project, form, of, value, instrument, self._sitting)
        except AshenError as error:
            return str(error)
        return session.attempt(made)

    def show_worked_out(self) -> None:
        """Let a number be worked out of several readings."""
        wanted, project = self.desk.wanted, self.desk.session.project
        path = dict(wanted.of).get("path", "") if wanted is not None else ""
        if wanted is None or not path:
            return
        owner = path.rpartition(".")[0]
        piece = next((p for b in project.builds for j in b.joints for p in j.pieces if owner.endswith(f".pieces.{p.id}")), None)
        density = project.material(piece.material).density_kg_m3.value if piece is not None else None

        def take(found: WorkedOut) -> str:
            day = date.today().isoformat()
            now = self.desk.session.project
            try:
                made = edits.take_worked_out(now, path, found.value, found.uncertainty, found.note, day)
            except AshenError as error:
                return str(error)
            return self.desk.session.attempt(made)

        WorkedDialog(wanted.words[:1].upper() + wanted.words[1:], self._unit, density, take, self.window()).show()

    @property
    def _sitting(self) -> str:
        """Today; a caliper that was set to zero again has begun another one."""
        day = date.today().isoformat()
        return day if self._zeros < _SECOND else f"{day}, zero {self._zeros}"

    def take_back(self) -> None:
        """Take the last value back."""
        if self.desk.session.project.readings:
            self.desk.session.apply(edits.take_back(self.desk.session.project))

    # ---- a caliper that speaks

    def _offer_ports(self) -> None:
        self._menu.clear()
        if self.port.listening:
            action = self._menu.addAction(f"Stop listening to {self.port.name}")
            assert action is not None  # just made
            action.triggered.connect(self.hang_up)
        for name in ports():
            action = self._menu.addAction(name)
            assert action is not None  # just made
            action.triggered.connect(lambda _, name=name: self.listen(name))
        action = self._menu.addAction("Another port…")
        assert action is not None  # just made
        action.triggered.connect(self._ask_port)
        kept = self._menu.addAction("Instruments and closings…")
        assert kept is not None  # just made
        kept.triggered.connect(lambda _: KeptDialog(self.desk.session, self).show())
        sound = self._menu.addAction("Sound when taken")
        assert sound is not None  # just made
        sound.setCheckable(True)
        sound.setChecked(self.loud)
        sound.triggered.connect(self._set_loud)

    def _set_loud(self, loud: bool) -> None:
        self.loud = loud

    def _ask_port(self) -> None:
        name, said = QInputDialog.getText(self, "Another port", "The caliper's port, for example /dev/ttyUSB0:")
        if said and name.strip():
            self.listen(name.strip())

    def listen(self, name: str) -> None:
        """Listen to a caliper's port."""
        problem = self.port.open(name)
        self.caliper.setText("Caliper…" if problem else "Caliper on")
        self._say(problem or f"Listening to {name}: its button takes the reading.", bool(problem))

    def hang_up(self) -> None:
        """Listen no more."""
        self.port.close()
        self.caliper.setText("Caliper…")

    def _silent(self, why: str) -> None:
        self.caliper.setText("Caliper…")
        self._say(why, True)

    def _heard(self, said: Said) -> None:
        if said.kind == "rubbish":
            self._say(f"Not understood, and left out: “{said.text}”", True)
        elif said.kind == "zero":
            self._zeros += 1
            self._say("The caliper was set to zero.", False)
        elif said.held:
            self._say("The display was held: that value was taken before, and is left out.", True)
        else:
            # Pressed again at the same value: it was asked about, and is meant.
            self.value.setText(f"{said.value_mm:.4f}".rstrip("0").rstrip("."))
            self.take()
