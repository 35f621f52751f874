"""Contacts of closings in states of the numbers: where they are, and what they are like."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ashen_bridge.arrays import Floats
from ashen_bridge.evidence.likelihood import Contacts, LayerKind
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class Where:
    """A contact: a joint of a build where it meets a lower body."""

    build: str
    joint: str
    lower: str

    @property
    def key(self) -> tuple[str, str]:
        """Joint and lower body."""
        return self.joint, self.lower


@dataclass(frozen=True)
class Contact:
    """What a contact is like: its shape, which share of it presses, and where the centre of pressure is [mm] (n_state,)."""

    shape: Contacts
    pressed: Floats
    centre_x_mm: Floats
    centre_y_mm: Floats

    @staticmethod
    def kind_of(joint: Joint) -> LayerKind:
        """Return whether a joint shows marks as a pad does, or as a paste."""
        return "pad" if joint.sheet_at is not None else "paste"


def contacts_of(project: Project, closed: Mapping[str, Pushed], x: Floats) -> dict[Where, Contact]:
    """Return the contacts of some builds in states of the numbers (n_state, n_number)."""
    found = {}
    for name, pushed in closed.items():
        s = pushed.shapes(x)
        build = project.build(name)
        for n, key in enumerate(pushed.keys):
            kind = Contact.kind_of(build.joint(key[0]))
            shape = Contacts(kind, s.gap_mm[:, n], s.across_x_mm[:, n], s.across_y_mm[:, n], s.free_mm[:, n])
            found[Where(name, *key)] = Contact(shape, s.pressed[:, n], s.centre_x_mm[:, n], s.centre_y_mm[:, n])
    return found
