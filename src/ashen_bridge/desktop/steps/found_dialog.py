"""A screw or plug that was found on the board: how it looks, and with what it comes off."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.field_form import FieldForm
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import procedures as edits
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.hardware import Plug


class FoundDialog(WorkDialog):
    """The fields of one, by its path. Fasteners that the computation knows are only said how they look."""

    def __init__(self, session: Session, path: str, over: QWidget) -> None:
        super().__init__("How it looks", over)
        self.session, self.path = session, path
        self.form = FieldForm(session)
        self.of = ChoiceField("Comes off with", self._belongs)
        self.of_words = Words("Comes off with")
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        grid = QGridLayout(self)
        grid.addWidget(self.form, 0, 0, 1, 2)
        grid.addWidget(self.of_words, 1, 0)
        grid.addWidget(self.of, 1, 1)
        grid.addWidget(self.remove, 2, 1)
        grid.setRowStretch(3, 1)
        self.resize(380, 340)
        session.project_changed.connect(self.refresh)
        self.refresh()

    @property
    def plug(self) -> Plug | None:
        """The plug, if it is one."""
        name = self.path.removeprefix("device.plugs.")
        return next((one for one in self.session.project.device.plugs if one.id == name), None)

    def refresh(self) -> None:
        """Take over the project; what is gone closes."""
        device, name = self.session.project.device, self.path.split(".")[2]
        there = {*(one.id for one in device.plugs), *(one.id for one in device.screws), *(one.id for one in device.fasteners)}
        if name not in there:
            self.close()
            return
        self.form.show_path(self.path)
        plug = self.plug
        for widget in (self.of, self.of_words):
            widget.setVisible(plug is not None)
        self.remove.setVisible(not self.path.startswith("device.fasteners."))
        if plug is not None:
            plates = [(one.label, one.id) for one in device.bodies if isinstance(one, Plate)]
            self.of.show_choice([("nothing", None), *plates], plug.of)

    def _belongs(self, plate: str | None) -> None:
        plug = self.plug
        if plug is not None:
            self.session.apply(edits.belongs(plug, plate))

    def _remove(self) -> None:
        self.session.apply(edits.remove_found(self.path))
