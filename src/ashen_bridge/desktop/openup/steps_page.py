"""The page of steps of Open up: what is known of the device, and what is needed, stand under them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout, QWidget

from ashen_bridge.changes import procedures as changes
from ashen_bridge.changes.edit import edit
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.steps.steps_page import StepsPage
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.hardware import Hazards
from ashen_bridge.planning.needs import needs

_KNOWN = (("not known", "unknown"), ("no", "no"), ("yes", "yes"))
_HAZARDS = (
    ("Mains voltage inside", "mains", _KNOWN),
    ("Medical, vehicle, regulated", "regulated", _KNOWN),
    ("Battery", "battery", _KNOWN),
    (
        "Its state",
        "battery_state",
        (("not known", "unknown"), ("sound", "sound"), ("swollen or pierced", "swollen or pierced")),
    ),
    ("Settings kept by it", "settings_in_battery", _KNOWN),
    ("Charged capacitors", "charged_parts", _KNOWN),
    ("Liquid metal on the die", "liquid_metal", _KNOWN),
    ("Sharp fins", "sharp_fins", _KNOWN),
)


class OpenStepsPage(StepsPage):
    """Opening up, step by step."""

    def beside(self) -> QWidget:
        """Return what is known of the device, to be said, and what is needed."""
        desk = self.desk
        self.needs = Words()
        self.needs.setWordWrap(True)
        self.static = ChoiceField("How you stay discharged", lambda one: desk.look(replace(desk.view, static=one)))
        self.hazards = {name: ChoiceField(words, self._hazard(name)) for words, name, _ in _HAZARDS}
        known = QWidget()
        grid = QGridLayout(known)
        grid.setContentsMargins(12, 6, 12, 8)
        grid.setVerticalSpacing(3)
        head_needs, head_known = Words("You need"), Words("Known of this device")
        for label in (head_needs, head_known):
            label.setObjectName("section")
        grid.addWidget(head_known, 0, 0, 1, 2)
        grid.addWidget(Words("Staying discharged by"), 1, 0)
        grid.addWidget(self.static, 1, 1)
        for n, (words, name, _) in enumerate(_HAZARDS):
            grid.addWidget(Words(words), 2 + n, 0)
            grid.addWidget(self.hazards[name], 2 + n, 1)
        last = 2 + len(_HAZARDS)
        grid.addWidget(head_needs, last, 0, 1, 2)
        grid.addWidget(self.needs, last + 1, 0, 1, 2)
        grid.setRowStretch(last + 2, 1)
        return known

    def refresh_beside(self) -> None:
        """Take over what is known and needed."""
        desk = self.desk
        self.static.setEnabled(desk.begun is None)
        self.static.show_choice((("a wrist strap", "strap"), ("touching metal", "touch")), desk.view.static)
        hazards = desk.session.project.device.hazards
        for _, name, choices in _HAZARDS:
            self.hazards[name].show_choice(choices, getattr(hazards, name))
        try:
            listed = needs(desk.session.project, desk.session.view.build) if desk.session.project.builds else ()
        except AshenError:
            listed = ()
        self.needs.setText("\n".join(f"· {one.what}" for one in listed))

    def _hazard(self, name: str) -> Callable[[str], None]:
        def say(value: str) -> None:
            now = self.desk.session.project.device.hazards
            said = Hazards.model_validate({**now.model_dump(), name: value})
            self.desk.session.apply(edit("What is known of the device", changes.set_hazards, said))

        return say
