"""The screw tray: every fastener numbered, where it lies, and what is left over or missing on the way back."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.bodies import Side
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.hardware import Hardware, Screw
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.planning.practice import practice
from ashen_bridge.words.numbers import short

_STAYS = ("glued", "spring arm")


@dataclass(frozen=True)
class Slot:
    """One screw: its number on the picture, its place on the board, how it looks, and where it lies.

    `out`: a step that takes it out is done. `cell` is where it lies, empty where it lies in none; `back`: it went back in.
    """

    number: int
    id: str
    label: str
    x_mm: float
    y_mm: float
    side: Side
    hardware: Hardware
    sprung: bool = False
    out: bool = False
    cell: str = ""
    back: bool = False

    @property
    def missing(self) -> bool:
        """Whether it is out of the device and lies nowhere."""
        return self.out and not self.cell and not self.back

    @property
    def looks(self) -> str:
        """How it looks, in words; empty where nothing is known."""
        h = self.hardware
        size = f"{h.thread} × {short(h.length_mm)}" if h.thread and h.length_mm else h.thread or ""
        size = size or (f"{short(h.length_mm)} mm long" if h.length_mm else "")
        said = [size, f"{h.head} head" if h.head else "", h.driver, f"in {h.turns_in}" if h.turns_in else ""]
        said += ["sprung" if self.sprung else "", "thread locker" if h.locker == "yes" else ""]
        return ", ".join(one for one in said if one)


@dataclass(frozen=True)
class Tray:
    """All screws of a build in the order of their numbers."""

    slots: tuple[Slot, ...]

    @property
    def lying(self) -> tuple[Slot, ...]:
        """What lies in the tray."""
        return tuple(one for one in self.slots if one.cell and not one.back)

    @property
    def missing(self) -> tuple[Slot, ...]:
        """What is out and lies nowhere."""
        return tuple(one for one in self.slots if one.missing)

    @property
    def told(self) -> str:
        """How it stands, in one sentence."""
        lost = [f"{one.number} “{one.label}”" for one in self.missing]
        if lost:
            what = "screw" if len(lost) == 1 else "screws"
            names = ", ".join(lost)
            return f"Missing: {what} {names}, out of the device and in no cell. Look before anything is switched on."
        if self.lying:
            going = any(one.back for one in self.slots)
            names = ", ".join(f"{one.number} ({one.cell})" for one in self.lying)
            return (
                f"Left over in the tray: {names}." if going else f"{len(self.lying)} of {len(self.slots)} screws lie in the tray."
            )
        if any(one.back for one in self.slots):
            return "The tray is empty: every screw is back."
        return f"All {len(self.slots)} screws are in the device." if self.slots else "This build has no screws."

    def asked(self) -> Slot | None:
        """Return the screw that goes back next: the last one out comes first."""
        order = [*self.lying]
        return order[-1] if order else None


def tray(project: Project, build: str | None = None) -> Tray:
    """Return the screws of a build, numbered by the side and then as one reads; names and order of the file do not matter."""
    resolved = resolve(project, build)
    lies = {one.screw: one for one in project.tray}
    procedures = [one for one in project.procedures if one.build in (None, resolved.build.id)]
    out = {name for one in procedures for step in one.steps if step.kind == "unscrew" and step.done for name in step.about}
    sides = {body.id: getattr(body, "side", Side.FRONT) for body in resolved.bodies}
    found: list[tuple[Fastener | Screw, Side, bool]] = []
    for one, setting in resolved.fasteners:
        if one.kind not in _STAYS and setting.fitted:
            side = next((sides[end] for end in one.joins if end in sides and end != "board"), Side.FRONT)
            found.append((one, side, one.kind == "sprung"))
    found += [(screw, screw.side, False) for screw in project.device.screws]
    found.sort(key=lambda one: (one[1] is Side.REAR, -round(one[0].y_mm, 1), one[0].x_mm))
    slots = []
    for n, (screw, side, sprung) in enumerate(found):
        at = lies.get(screw.id)
        cell, back = (at.cell if not at.back else "", at.back) if at is not None else ("", False)
        named = n + 1, screw.id, screw.label, screw.x_mm, screw.y_mm, side, screw.hardware
        slots.append(Slot(*named, sprung, screw.id in out, cell, back))
    return Tray(tuple(slots))


def cell(n: int) -> str:
    """Return the n-th cell of a tray, row by row.

    >>> cell(0), cell(7)
    ('A1', 'B2')
    """
    columns = practice().tray_columns
    return f"{chr(ord('A') + min(n // columns, 25))}{n % columns + 1}"


def free_cells(project: Project, count: int) -> tuple[str, ...]:
    """Return cells in which nothing lies, the first ones first."""
    used = {one.cell for one in project.tray if not one.back}
    free = (cell(n) for n in range(26 * practice().tray_columns))
    return tuple(one for one, _ in zip((one for one in free if one not in used), range(count), strict=False))
