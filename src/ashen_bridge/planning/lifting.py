"""What comes off a build, in which order, and what must be loose before it does."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.geometry.stacking import Stacking
from ashen_bridge.model.bodies import Plate, PlateRole, Side
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.hardware import Plug
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve

_STAYS = ("glued",)


@dataclass(frozen=True)
class Lift:
    """A plate that comes off: its screws, the plugs that hang on it, and the joints that are open then."""

    plate: Plate
    fasteners: tuple[Fastener, ...]
    plugs: tuple[Plug, ...]
    joints: tuple[str, ...]


def lifts(project: Project, build: str | None = None) -> tuple[Lift, ...]:
    """Return what comes off, in order: walls of the case first, then on each side the outermost first.

    A rear plate that lies over screws of a front one comes first, since nobody reaches them otherwise. What is glued stays, and
    so does what nothing holds by screws and nothing lies under.
    """
    resolved = resolve(project, build)
    stacking = Stacking(resolved)
    found = [_lift(project, resolved, stacking.plates[name]) for side in Side for name in reversed(stacking.order(side))]
    kept = [one for one in found if one is not None]
    return tuple(sorted(kept, key=lambda one: (one.plate.role is not PlateRole.CASE_WALL, not _over_screws(one, kept))))


def _lift(project: Project, resolved: ResolvedBuild, plate: Plate) -> Lift | None:
    held = tuple(one for one, setting in resolved.fasteners if plate.id in one.joins and setting.fitted)
    screws = tuple(one for one in held if one.kind not in _STAYS)
    joints = tuple(one.id for one in resolved.joints if one.upper == plate.id)
    # A lid is glued or soldered even where nobody wrote that down: it stays, unless screws hold it.
    glued = (held and not screws) or (plate.role is PlateRole.LID and not screws)
    if glued or not (held or joints):
        return None
    plugs = tuple(one for one in project.device.plugs if one.of == plate.id)
    return Lift(plate, screws, plugs, joints)


def _over_screws(lift: Lift, others: list[Lift]) -> bool:
    """Return whether a plate lies over screws of one on the other side."""
    x0, y0, x1, y1 = lift.plate.footprint.bounds
    return (
        any(
            other.plate.side is not lift.plate.side and any(x0 < one.x_mm < x1 and y0 < one.y_mm < y1 for one in other.fasteners)
            for other in others
        )
        and lift.plate.side is Side.REAR
    )
