"""What each uncertain number does when it moves by one standard uncertainty: to gaps, stacks, fasteners, joints and heat.

All of it is found by building the moved device with the program's own code and comparing, so that no rule about a number is
written twice. Geometry and stiffness are then taken as moving in proportion; the equilibrium and the joints answer exactly.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch, assemble
from ashen_bridge.mechanics.stack import P_MIN
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.joint_heat import dispensed
from ashen_bridge.thermal.reduced import Change
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.joint_links import JointLinks, PatchLinks


@dataclass(frozen=True)
class Moved:
    """The mechanical answer to one number at +1 standard uncertainty; zeros where it has none.

    softness : (n_contact,) [m/Pa] of stacks with a paste; what pads' surroundings give more is in their gap.
    gap : (n_point,) [m]. columns : per joint patch (n_column,) [m]. scale, firmness : (n_contact,) relative changes of stacks.
    ramp_shift : (n_ramp,) [m]. ramp_scale : (n_ramp,) relative. stiffness : (n_dof, n_dof) [N/m] of what bends.
    volume : relative change of what was dispensed.
    """

    gap: Floats
    columns: list[Floats]
    scale: Floats
    firmness: Floats
    softness: Floats
    ramp_shift: Floats
    ramp_scale: Floats
    stiffness: Floats
    volume: dict[tuple[str, str], float] = field(default_factory=dict)


@dataclass(frozen=True)
class Base:
    """Where everything starts: the project and its state at rest; of mechanics alone without `joints`."""

    project: Project
    build: str
    point: str
    scene: Scene
    assembly: Assembly
    coordinates: Floats
    links: JointLinks | None = None

    @property
    def joints(self) -> JointLinks:
        """The links that joints make in the heat model."""
        if self.links is None:
            raise ValueError("This state is of mechanics alone.")
        return self.links

    @property
    def patches(self) -> Sequence[PatchLinks]:
        """The patches of those links; none of mechanics alone."""
        return () if self.links is None else self.links.patches


def moved_project(project: Project, assumption: Assumption, by: float) -> Project:
    """Return the project with a number moved by so many standard uncertainties. Raises `AshenError` where that is refused."""
    return moved_together(project, (assumption,), by)


def moved_together(project: Project, numbers: Sequence[Assumption], by: float) -> Project:
    """Return the project with some numbers moved by so many standard uncertainties each. Raises `AshenError`."""
    return paths.set_numbers(project, {path: one.value + by * one.uncertainty for one in numbers for path in one.paths})


def still(base: Base) -> Moved:
    """Return the answer of a number that moves nothing."""
    a = base.assembly
    zeros = np.zeros(len(a.contacts))
    columns = [np.zeros(len(patch.x)) for patch in base.patches]
    ramps = np.zeros(len(a.ramps))
    return Moved(np.zeros(len(a.weight)), columns, zeros, zeros, zeros, ramps, ramps, np.zeros((a.n_dof, a.n_dof)))


def moved_by(base: Base, number: Assumption) -> Moved:
    """Return the mechanical answer to a number; by moving it down where it cannot go up.

    Raises `AshenError` for a device that can be assembled neither way.
    """
    for sign in (1.0, -1.0):
        try:
            return _moved_by(base, number, moved_project(base.project, number, sign), sign)
        except AshenError as error:
            refusal = error
    raise refusal


def _moved_by(base: Base, assumption: Assumption, project: Project, sign: float) -> Moved:
    field = assumption.field.rsplit(".", 1)[-1]
    resolved = resolve(project, base.build)
    check_assembly(resolved)
    scene = make_scene(resolved)
    if field == "volume_mm3" or (".amount." in assumption.paths[0] and field != "bond_line_um"):
        was, now = dispensed(base.scene), dispensed(scene)
        more = {key: sign * (now[key] / max(was[key], 1e-18) - 1) for key in was if now[key] != was[key]}
        return Moved(**{**vars(still(base)), "volume": more})
    a = base.assembly
    other = assemble(scene, like=a.motion)
    ramp_shift = np.array([m.offset - n.offset for m, n in zip(other.ramps, a.ramps, strict=True)])
    ramp_scale = np.array([m.stiffness / n.stiffness - 1 for m, n in zip(other.ramps, a.ramps, strict=True)])
    separation = other.separation - a.separation
    ramp_shift += [ramp.sign * separation[ramp.fastener] for ramp in a.ramps]
    pressure = [_mean_pressure(base, contact) for contact in a.contacts]
    laws = [_law_change(m, n, p) for m, n, p in zip(other.contacts, a.contacts, pressure, strict=True)]
    gap = other.free_gap - a.free_gap
    columns = []
    for patch in base.patches:
        moved = scene.free_gap(patch.contact.facing, patch.contact.patch, patch.x, patch.y)
        columns.append(moved - base.scene.free_gap(patch.contact.facing, patch.contact.patch, patch.x, patch.y))
    for n, (_, _, give, _) in enumerate(laws):
        gap[a.contacts[n].points] += give
    for patch, column in zip(base.patches, columns, strict=True):
        column += laws[patch.at][2]
    return Moved(
        sign * gap,
        [sign * column for column in columns],
        sign * np.expm1([law[0] for law in laws]),
        sign * np.expm1([law[1] for law in laws]),
        sign * np.array([law[3] for law in laws]),
        sign * ramp_shift,
        sign * ramp_scale,
        sign * (other.stiffness - a.stiffness),
    )


def _mean_pressure(base: Base, contact: ContactPatch) -> float:
    gaps = base.assembly.free_gap[contact.points] + base.assembly.jacobian[contact.points] @ base.coordinates
    return max(float(contact.law.pressure_at(gaps).mean()), 50.0)


def _law_change(moved: ContactPatch, base: ContactPatch, pressure: float) -> tuple[float, float, float, float]:
    """Return by which factors a stack got thicker and firmer (logarithms), what its surroundings give more [m], and per [m/Pa].

    A stack of sheets gets thicker by its free thickness, and firmer by what then still differs; one with a paste in it has no
    free thickness, so its film at the present pressure counts. A paste is steep, so more give around it is worked out at each
    point; around a pad it is taken at the present pressure.
    """
    if moved.law is base.law:
        return 0.0, 0.0, 0.0, 0.0
    softer = moved.law.compliance - base.law.compliance
    if not base.law.fills and not base.layers:
        return 0.0, 0.0, softer * pressure, 0.0
    at = np.array([P_MIN if not base.law.fills else pressure, pressure])
    thin, thick = (sum((layer(at) for layer in patch.layers), np.zeros(2)) for patch in (base, moved))
    scale = float(np.log(thick[0] / thin[0])) if thin[0] > 0 and thick[0] > 0 else 0.0
    if base.law.fills:
        return scale, 0.0, 0.0, softer
    wanted = float(thick[1] / np.exp(scale))
    return scale, _firmer(base, wanted, pressure), softer * pressure, 0.0


def _firmer(base: ContactPatch, wanted: float, pressure: float) -> float:
    """Return the logarithm of the firmness with which the base stack would be `wanted` [m] thick under `pressure` [Pa]."""
    ratios = np.linspace(-1.0, 1.0, 81)
    pressures = pressure / np.exp(ratios)
    thickness = sum((layer(pressures) for layer in base.layers), np.zeros(len(ratios)))
    if thickness[-1] - thickness[0] < 1e-12:
        return 0.0
    return float(np.interp(wanted, thickness, ratios))


@dataclass(frozen=True)
class HeatChange:
    """What a number does to the heat model: the change at +1 standard uncertainty, how it bends, and to the joints' half cells.

    bend ρ : the change acts as (1/(1 + ρδ) − 1)/(1/(1 + ρ) − 1), in proportion for ρ = 0. halves : (n_link,) what
    the half cells conduct more, as a share of it.
    """

    change: Change
    bend: float
    halves: Floats | None
    bounds: tuple[float, float] = (-np.inf, np.inf)

    def acts(self, drawn: Floats) -> Floats:
        """Return how strongly it acts where its number is drawn [standard uncertainties].

        Bounded, so that nothing conducts less than next to nothing.
        """
        if abs(self.bend) < 1e-6:
            return np.clip(drawn, *self.bounds)
        bent = (1 / np.maximum(1 + self.bend * drawn, 0.1) - 1) / (1 / (1 + self.bend) - 1)
        return np.asarray(np.clip(bent, *self.bounds))


def bounds_of(change: Change, conductance: Floats, diagonal: Floats) -> tuple[float, float]:
    """Return between which amplitudes a change leaves every link and boundary term a tenth of itself [both over the base's]."""
    on = np.flatnonzero((change.diagonal != 0) & (diagonal > 0))
    relative = np.concatenate([change.conductance / conductance[change.links], change.diagonal[on] / diagonal[on]])
    most, least = max(relative.max(initial=0.0), 0.0), min(relative.min(initial=0.0), 0.0)
    return (-0.9 / most if most > 0 else -np.inf), (-0.9 / least if least < 0 else np.inf)


def bend_of(up: Change, down: Change, step: float) -> float:
    """Return the bend of a change known at +1 and at −`step` standard uncertainties."""
    rising, falling = (dict(zip(one.links.tolist(), one.conductance, strict=True)) for one in (up, down))
    both = [link for link in rising if link in falling]
    a = np.concatenate([[rising[link] for link in both], up.diagonal, up.right])
    b = np.concatenate([[falling[link] for link in both], down.diagonal, down.right])
    ratio = -float(a @ b) / max(float(a @ a), 1e-30) / step
    if ratio <= 0:
        return 0.0
    # (1/(1 − ρs) − 1)/(1/(1 + ρ) − 1) = −s·(1 + ρ)/(1 − ρs)
    return float(np.clip((ratio - 1) / (1 + step * ratio), -0.2, 0.9))


@dataclass(frozen=True)
class Directions:
    """All answers side by side: arrays with one row per number, and the changes of the heat model."""

    gap: Floats
    columns: list[Floats]
    scale: Floats
    firmness: Floats
    softness: Floats
    ramp_shift: Floats
    ramp_scale: Floats
    stiffness: Floats
    volumes: dict[tuple[str, str], dict[int, float]]
    changes: list[HeatChange]
    changed_by: list[int]


def side_by_side(base: Base, moved: list[Moved], changes: dict[int, HeatChange]) -> Directions:
    """Return the answers of all numbers as arrays."""
    volumes: dict[tuple[str, str], dict[int, float]] = {}
    for n, one in enumerate(moved):
        for key, more in one.volume.items():
            volumes.setdefault(key, {})[n] = more
    return Directions(
        gap=np.stack([one.gap for one in moved]),
        columns=[np.stack([one.columns[k] for one in moved]) for k in range(len(base.patches))],
        scale=np.stack([one.scale for one in moved]),
        firmness=np.stack([one.firmness for one in moved]),
        softness=np.stack([one.softness for one in moved]),
        ramp_shift=np.stack([one.ramp_shift for one in moved]),
        ramp_scale=np.stack([one.ramp_scale for one in moved]),
        stiffness=np.stack([one.stiffness for one in moved]),
        volumes=volumes,
        changes=list(changes.values()),
        changed_by=list(changes),
    )
