"""The potential energy of plates on their contacts and fasteners, with its first and second derivatives.

Every quantity carries a leading sample axis: one row per variant.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats, Ints
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.stack import StackLaw


@dataclass(frozen=True)
class Variants:
    """Departures from the assembly, one row per variant; None means none.

    gap_shift : (s, n_contact) [m] added to the free gap of each contact patch (heights, steps).
    thickness_scale : (s, n_contact) factor on the thickness of each stack.
    travel : (s, n_fastener) [m] added to the travel of sprung fasteners (washers, lengths).
    rate_scale : (s, n_fastener) factor on every stiffness of a fastener.
    point_shift : (s, n_point) [m] added to the free gap of each sample point (forms of faces).
    firmness : (s, n_contact) factor on the pressure of each stack at the same relative thickness.
    ramp_shift : (s, n_ramp) [m] added to the offset of each ramp. ramp_scale : (s, n_ramp) factor on its stiffness.
    stiffness : (s, n_dof, n_dof) [N/m] added to what the coordinates themselves are held by.
    law : (s, n_contact) which law of `tables` holds at each contact, in place of the assembly's own.
    """

    count: int = 1
    gap_shift: Floats | None = None
    thickness_scale: Floats | None = None
    travel: Floats | None = None
    rate_scale: Floats | None = None
    point_shift: Floats | None = None
    firmness: Floats | None = None
    ramp_shift: Floats | None = None
    ramp_scale: Floats | None = None
    stiffness: Floats | None = None
    law: Ints | None = None
    tables: LawTables | None = None

    def points(self, keep: np.ndarray) -> Variants:
        """Return the same variants for some of the sample points."""
        return self if self.point_shift is None else replace(self, point_shift=self.point_shift[:, keep])

    def rows(self, part: slice) -> Variants:
        """Return some of the variants."""
        arrays = {name: value for name, value in vars(self).items() if isinstance(value, np.ndarray)}
        return replace(self, count=len(range(*part.indices(self.count))), **{name: a[part] for name, a in arrays.items()})  # type: ignore[arg-type]


@dataclass(frozen=True)
class LawPlaces:
    """Where in the tables each sample point reads: (n_point,) where all variants have one law there, else (s, n_point)."""

    low: Floats
    step: Floats
    per_step: Floats
    first: np.ndarray

    def rows(self, keep: np.ndarray) -> LawPlaces:
        """Return those of some variants."""
        return LawPlaces(*(one[keep] for one in vars(self).values())) if self.low.ndim == 2 else self


class LawTables:
    """Stack laws side by side, each once however many contacts share it, read by index."""

    def __init__(self, laws: Sequence[StackLaw]) -> None:
        distinct = list({id(law): law for law in laws}.values())
        self.nodes = len(laws[0].pressure) if laws else 2
        self.pressure = np.concatenate([law.pressure for law in distinct]) if laws else np.zeros(2)
        self.energy = np.concatenate([law.energy for law in distinct]) if laws else np.zeros(2)
        self.high = np.array([law.gap_high for law in laws])
        self._low = np.array([law.gap_low for law in laws])
        self._step = (self.high - self._low) / (self.nodes - 1)
        place = {id(law): n * self.nodes for n, law in enumerate(distinct)}
        self._first = np.array([place[id(law)] for law in laws], dtype=np.int32)
        self.fall = np.append(self.pressure[:-1] - self.pressure[1:], 0.0)

    def places(self, law: Ints) -> LawPlaces:
        """Return where sample points read whose laws are `law`, (n_point,) or (s, n_point)."""
        low, step, first = self._low[law], self._step[law], self._first[law]
        return LawPlaces(low, step, 1 / step, first)

    def evaluate(
        self, gap: Floats, scale: Floats | float, firmness: Floats | None, places: LawPlaces
    ) -> tuple[Floats, Floats, Floats]:
        """Return pressure [Pa], stiffness −dp/dg [Pa/m] and energy [J/m²] at every point."""
        at = gap / scale if isinstance(scale, np.ndarray) else gap.copy()
        at -= places.low
        at *= places.per_step
        # Beyond the table's end nothing carries; before its start it goes on linearly.
        np.minimum(at, self.nodes - 1.0, out=at)
        k = np.maximum(at, 0.0).astype(np.int32)
        np.minimum(k, self.nodes - 2, out=k)
        at -= k
        k += places.first
        pressure, fall = self.pressure.take(k), self.fall.take(k)
        drop = at * fall
        energy = self.energy.take(k)
        energy -= at * (pressure - drop / 2) * places.step
        pressure -= drop
        fall *= places.per_step
        carries = pressure > 0.0
        pressure *= carries
        fall *= carries
        if isinstance(scale, np.ndarray):
            energy *= scale
            fall /= scale
        if firmness is not None:
            pressure *= firmness
            fall *= firmness
            energy *= firmness
        return pressure, fall, energy


class Potential:
    """Energy, gradient and Hessian of one chunk of variants."""

    def __init__(self, assembly: Assembly, tables: LawTables, variants: Variants) -> None:
        self.a, self.tables = assembly, tables
        self.places = tables.places(assembly.point_patch if variants.law is None else variants.law[:, assembly.point_patch])
        shift = variants.gap_shift
        owner = assembly.point_patch
        self.gap0 = assembly.free_gap[None, :] if shift is None else assembly.free_gap + shift[:, owner]
        if variants.point_shift is not None:
            self.gap0 = self.gap0 + variants.point_shift
        self.firmness = None if variants.firmness is None else variants.firmness[:, owner]
        scale = variants.thickness_scale
        self.scale: Floats | float = 1.0 if scale is None else scale[:, owner]
        ramps = assembly.ramps
        at = np.array([ramp.fastener for ramp in ramps], dtype=np.intp)
        self.sign = np.array([ramp.sign for ramp in ramps])
        self.k = np.array([ramp.stiffness for ramp in ramps])[None, :]
        self.offset = np.array([ramp.offset for ramp in ramps])[None, :]
        if variants.travel is not None:
            counts = np.array([ramp.washers_count for ramp in ramps], dtype=float)
            self.offset = self.offset + variants.travel[:, at] * counts
        if variants.rate_scale is not None:
            self.k = self.k * variants.rate_scale[:, at]
        if variants.ramp_shift is not None:
            self.offset = self.offset + variants.ramp_shift
        if variants.ramp_scale is not None:
            self.k = self.k * variants.ramp_scale
        self.ramp_rows = assembly.fastener_jacobian[at] * self.sign[:, None] if len(ramps) else np.zeros((0, assembly.n_dof))
        self.ramp_sep = assembly.separation[at] * self.sign if len(ramps) else np.zeros(0)
        self.own = assembly.stiffness[None]
        if variants.stiffness is not None:
            self.own = self.own + variants.stiffness
        rows = assembly.jacobian
        self.weighted_rows = rows * assembly.weight[:, None]
        # The Hessian is symmetric: only its upper half is summed up over the points.
        self.half = np.triu_indices(assembly.n_dof)
        i, j = self.half
        self.weighted_outer = self.weighted_rows[:, i] * rows[:, j]
        self.ramp_outer = self.ramp_rows[:, i] * self.ramp_rows[:, j]

    def rows(self, keep: np.ndarray) -> Potential:
        """Return the same for some of the variants."""
        part = object.__new__(Potential)
        part.__dict__.update(self.__dict__)
        part.places = self.places.rows(keep)
        for name in ("gap0", "scale", "firmness", "k", "offset", "own"):
            value = getattr(self, name)
            if isinstance(value, np.ndarray) and value.shape[0] > 1:
                setattr(part, name, value[keep])
        return part

    def ramp_force(self, q: Floats) -> Floats:
        """Return the force of every ramp (s, n_ramp) [N]."""
        return np.asarray(self.k * np.maximum(0.0, q @ self.ramp_rows.T + self.ramp_sep + self.offset))

    def at(self, q: Floats) -> Local:
        """Return energy, gradient, Hessian and the force scale of each variant."""
        pressure, stiffness, energy = self.tables.evaluate(
            self.gap0 + q @ self.a.jacobian.T, self.scale, self.firmness, self.places
        )
        ramp = np.maximum(0.0, q @ self.ramp_rows.T + self.ramp_sep + self.offset)
        force = self.k * ramp
        bent = (self.own @ q[:, :, None])[:, :, 0]
        gradient = force @ self.ramp_rows - pressure @ self.weighted_rows + bent
        i, j = self.half
        half = stiffness @ self.weighted_outer + (self.k * (ramp > 0)) @ self.ramp_outer + self.own[:, i, j]
        hessian = np.empty((len(q), self.a.n_dof, self.a.n_dof))
        hessian[:, i, j] = hessian[:, j, i] = half
        value = energy @ self.a.weight + 0.5 * (force * ramp).sum(axis=1) + 0.5 * (bent * q).sum(axis=1)
        return Local(value, gradient, hessian, np.maximum(force.sum(axis=1), 1e-3))


@dataclass
class Local:
    """Energy and its derivatives at one set of coordinates per variant."""

    value: Floats
    gradient: Floats
    hessian: Floats
    total: Floats

    @property
    def residual(self) -> Floats:
        """The worst unbalanced force or moment over length, over the total fastener force (s,)."""
        return np.asarray(np.abs(self.gradient).max(axis=1) / self.total)

    def rows(self, keep: np.ndarray) -> Local:
        """Return some of the variants."""
        return Local(self.value[keep], self.gradient[keep], self.hessian[keep], self.total[keep])

    def copy(self) -> Local:
        """Return a copy that may be written to."""
        return Local(self.value.copy(), self.gradient.copy(), self.hessian.copy(), self.total.copy())

    def put(self, at: np.ndarray, other: Local) -> None:
        """Take over other values for some of the variants."""
        self.value[at], self.gradient[at], self.hessian[at], self.total[at] = (
            other.value,
            other.gradient,
            other.hessian,
            other.total,
        )
