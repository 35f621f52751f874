"""Equilibrium of floating plates: the minimum of a convex potential energy, for many variants at once.

Damped Newton on the coordinates: contact points push with their stack's pressure, ramps pull or push as fasteners do.
All arrays carry a leading sample axis; a single assembly is a batch of one.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.mechanics.assembly import SLOPE_LENGTH, Assembly
from ashen_bridge.model.errors import AshenError

MAX_ITERATIONS = 120
_CHUNK_POINTS = 40_000  # per chunk of variants, so that its arrays stay in the cache
_FAR, _WATCH = 0.7e-3, 0.1e-3  # [m]: further apart than this beyond its stack a point is left out; nearer at the end, taken in


class EquilibriumError(AshenError, ArithmeticError):
    """No equilibrium was found; carries the relative residual that was left."""

    def __init__(self, text: str, residual: float) -> None:
        super().__init__(text)
        self.residual = residual


@dataclass(frozen=True)
class Variants:
    """Departures from the assembly, one row per variant; None means none.

    gap_shift : (s, n_contact) [m] added to the free gap of each contact patch (heights, steps).
    thickness_scale : (s, n_contact) factor on the thickness of each stack.
    travel : (s, n_fastener) [m] added to the travel of sprung fasteners (washers, lengths).
    rate_scale : (s, n_fastener) factor on every stiffness of a fastener.
    """

    count: int = 1
    gap_shift: Floats | None = None
    thickness_scale: Floats | None = None
    travel: Floats | None = None
    rate_scale: Floats | None = None

    def rows(self, part: slice) -> Variants:
        """Return some of the variants."""
        pick = [None if a is None else a[part] for a in (self.gap_shift, self.thickness_scale, self.travel, self.rate_scale)]
        return Variants(len(range(*part.indices(self.count))), *pick)


@dataclass(frozen=True)
class Equilibrium:
    """Where everything comes to rest.

    coordinates : (s, n_dof), see `assembly`. fastener_force : (s, n_fastener) [N] tension.
    residual : (s,) worst unbalanced force or moment/length over the total fastener force. iterations : Newton steps.
    """

    coordinates: Floats
    fastener_force: Floats
    residual: Floats
    iterations: int


class _Tables:
    """All stack laws of an assembly side by side, read by index."""

    def __init__(self, assembly: Assembly) -> None:
        laws = [contact.law for contact in assembly.contacts]
        self.nodes = len(laws[0].pressure) if laws else 2
        self.pressure = np.concatenate([law.pressure for law in laws]) if laws else np.zeros(2)
        self.energy = np.concatenate([law.energy for law in laws]) if laws else np.zeros(2)
        low = np.array([law.gap_low for law in laws])
        step = np.array([(law.gap_high - law.gap_low) / (self.nodes - 1) for law in laws])
        self.low, self.step = low[assembly.point_patch], step[assembly.point_patch]
        self.per_step = 1 / self.step
        self.first = (assembly.point_patch * self.nodes).astype(np.int32)
        self.fall = np.append(self.pressure[:-1] - self.pressure[1:], 0.0)

    def evaluate(self, gap: Floats, scale: Floats | float) -> tuple[Floats, Floats, Floats]:
        """Return pressure [Pa], stiffness −dp/dg [Pa/m] and energy [J/m²] at every point."""
        at = gap / scale if isinstance(scale, np.ndarray) else gap.copy()
        at -= self.low
        at *= self.per_step
        # Beyond the table's end nothing carries; before its start it goes on linearly.
        np.minimum(at, self.nodes - 1.0, out=at)
        k = np.maximum(at, 0.0).astype(np.int32)
        np.minimum(k, self.nodes - 2, out=k)
        at -= k
        k += self.first
        pressure, fall = self.pressure.take(k), self.fall.take(k)
        drop = at * fall
        energy = self.energy.take(k)
        energy -= at * (pressure - drop / 2) * self.step
        pressure -= drop
        fall *= self.per_step
        carries = pressure > 0.0
        pressure *= carries
        fall *= carries
        if isinstance(scale, np.ndarray):
            energy *= scale
            fall /= scale
        return pressure, fall, energy


def equilibrium(assembly: Assembly, variants: Variants | None = None, start: Floats | None = None) -> Equilibrium:
    """Return the equilibrium of every variant.

    Parameters
    ----------
    start : (n_dof,) coordinates to begin from, for example those of a similar assembly.

    Raises
    ------
    EquilibriumError
        If a variant does not come to rest, with the plate that is left unbalanced named.
    """
    variants = variants or Variants()
    if assembly.n_dof == 0:
        return Equilibrium(
            np.zeros((variants.count, 0)),
            np.zeros((variants.count, len(assembly.fasteners))),
            np.zeros(variants.count),
            0,
        )
    begin = _open_start(assembly) if start is None else start
    near = _near(assembly, begin, _FAR)
    found = _in_chunks(_only(assembly, near), variants, begin)
    # What was left out must have stayed open in every variant; if it did not, everything is counted in.
    if (_near(assembly, found.coordinates, _WATCH) & ~near).any():
        found = _in_chunks(assembly, variants, begin)
    return found


def _in_chunks(assembly: Assembly, variants: Variants, begin: Floats) -> Equilibrium:
    tables = _Tables(assembly)
    size = max(1, _CHUNK_POINTS // max(1, len(assembly.weight)))
    chunks = [variants.rows(slice(at, at + size)) for at in range(0, variants.count, size)]
    if len(chunks) == 1:
        return _solve(assembly, tables, chunks[0], begin)
    # The array kernels release the interpreter, so two chunks at a time are worth it.
    with ThreadPoolExecutor(max_workers=2) as pool:
        parts = list(pool.map(lambda chunk: _solve(assembly, tables, chunk, begin), chunks))
    return Equilibrium(
        np.concatenate([part.coordinates for part in parts]),
        np.concatenate([part.fastener_force for part in parts]),
        np.concatenate([part.residual for part in parts]),
        max(part.iterations for part in parts),
    )


def _near(assembly: Assembly, coordinates: Floats, distance: float) -> np.ndarray:
    """Return which sample points have faces no further apart than their stack is thick plus `distance` [m].

    `coordinates` may be one set or many; a point counts if it is near in any of them.
    """
    sets = np.atleast_2d(coordinates)
    reach = np.array([contact.law.gap_high for contact in assembly.contacts])[assembly.point_patch] + distance
    near = np.zeros(len(reach), dtype=bool)
    for part in range(0, len(sets), 200):
        gap = assembly.free_gap[:, None] + assembly.jacobian @ sets[part : part + 200].T
        near |= (gap < reach[:, None]).any(axis=1)
    return near


def _only(assembly: Assembly, keep: np.ndarray) -> Assembly:
    if keep.all():
        return assembly
    return replace(
        assembly,
        x=assembly.x[keep],
        y=assembly.y[keep],
        weight=assembly.weight[keep],
        free_gap=assembly.free_gap[keep],
        jacobian=assembly.jacobian[keep],
        point_patch=assembly.point_patch[keep],
    )


def _open_start(assembly: Assembly) -> Floats:
    """Return coordinates at which no stack is loaded yet: each plate lifted, from the board outwards, until nothing touches."""
    coordinates = np.zeros(assembly.n_dof)
    for _ in assembly.plates:
        for at, plate in enumerate(assembly.plates):
            lifts = [
                contact.law.gap_high - (assembly.free_gap[contact.points] + assembly.jacobian[contact.points] @ coordinates).min()
                for contact in assembly.contacts
                if contact.facing.upper == plate
            ]
            coordinates[3 * at] += max([0.0, *lifts])
    return coordinates


class _Energy:
    """Energy, gradient and Hessian of one chunk of variants."""

    def __init__(self, assembly: Assembly, tables: _Tables, variants: Variants) -> None:
        self.a, self.tables = assembly, tables
        shift = variants.gap_shift
        owner = assembly.point_patch
        self.gap0 = assembly.free_gap[None, :] if shift is None else assembly.free_gap + shift[:, owner]
        scale = variants.thickness_scale
        self.scale: Floats | float = 1.0 if scale is None else scale[:, owner]
        ramps = assembly.ramps
        at = np.array([ramp.fastener for ramp in ramps], dtype=np.intp)
        self.ramp_at = at
        self.sign = np.array([ramp.sign for ramp in ramps])
        self.k = np.array([ramp.stiffness for ramp in ramps])[None, :]
        self.offset = np.array([ramp.offset for ramp in ramps])[None, :]
        if variants.travel is not None:
            counts = np.array([ramp.washers_count for ramp in ramps], dtype=float)
            self.offset = self.offset + variants.travel[:, at] * counts
        if variants.rate_scale is not None:
            self.k = self.k * variants.rate_scale[:, at]
        self.ramp_rows = assembly.fastener_jacobian[at] * self.sign[:, None] if len(ramps) else np.zeros((0, assembly.n_dof))
        self.ramp_sep = assembly.separation[at] * self.sign if len(ramps) else np.zeros(0)
        rows = assembly.jacobian
        self.weighted_rows = rows * assembly.weight[:, None]
        self.weighted_outer = (self.weighted_rows[:, :, None] * rows[:, None, :]).reshape(len(rows), assembly.n_dof**2)
        self.ramp_outer = (self.ramp_rows[:, :, None] * self.ramp_rows[:, None, :]).reshape(len(ramps), assembly.n_dof**2)

    def rows(self, keep: np.ndarray) -> _Energy:
        """Return the same for some of the variants."""
        part = object.__new__(_Energy)
        part.__dict__.update(self.__dict__)
        for name in ("gap0", "scale", "k", "offset"):
            value = getattr(self, name)
            if isinstance(value, np.ndarray) and value.shape[0] > 1:
                setattr(part, name, value[keep])
        return part

    def ramp_force(self, q: Floats) -> Floats:
        """Return the force of every ramp (s, n_ramp) [N]."""
        return np.asarray(self.k * np.maximum(0.0, q @ self.ramp_rows.T + self.ramp_sep + self.offset))

    def all(self, q: Floats) -> _Local:
        """Return energy, gradient, Hessian and the force scale of each variant."""
        pressure, stiffness, energy = self.tables.evaluate(self.gap0 + q @ self.a.jacobian.T, self.scale)
        ramp = np.maximum(0.0, q @ self.ramp_rows.T + self.ramp_sep + self.offset)
        force = self.k * ramp
        n = self.a.n_dof
        gradient = force @ self.ramp_rows - pressure @ self.weighted_rows
        hessian = stiffness @ self.weighted_outer + (self.k * (ramp > 0)) @ self.ramp_outer
        value = energy @ self.a.weight + 0.5 * (force * ramp).sum(axis=1)
        return _Local(value, gradient, hessian.reshape(-1, n, n), np.maximum(force.sum(axis=1), 1e-3))


@dataclass
class _Local:
    """Energy and its derivatives at one set of coordinates per variant."""

    value: Floats
    gradient: Floats
    hessian: Floats
    total: Floats

    def rows(self, keep: np.ndarray) -> _Local:
        return _Local(self.value[keep], self.gradient[keep], self.hessian[keep], self.total[keep])

    def copy(self) -> _Local:
        return _Local(self.value.copy(), self.gradient.copy(), self.hessian.copy(), self.total.copy())

    def put(self, at: np.ndarray, other: _Local) -> None:
        self.value[at], self.gradient[at], self.hessian[at], self.total[at] = (
            other.value,
            other.gradient,
            other.hessian,
            other.total,
        )


def _solve(assembly: Assembly, tables: _Tables, variants: Variants, start: Floats) -> Equilibrium:
    energy = _Energy(assembly, tables, variants)
    q = np.tile(start, (variants.count, 1))
    residual = np.full(variants.count, np.inf)
    active = np.arange(variants.count)
    part = energy
    here = part.all(q)
    iterations = 0
    while iterations < MAX_ITERATIONS:
        iterations += 1
        residual[active] = np.abs(here.gradient).max(axis=1) / here.total
        left = residual[active] > 1e-9
        if not left.any():
            break
        if not left.all():
            active, part, here = active[left], part.rows(left), here.rows(left)
        moved, here, stuck = _line_search(part, q[active], here)
        q[active] = moved
        if stuck.all():  # at the floor of the arithmetic: the residual decides
            residual[active] = np.abs(here.gradient).max(axis=1) / here.total
            break
    if (residual > 1e-5).any():
        raise _explained(assembly, energy, q, residual)
    ramp_force = energy.ramp_force(q)
    forces = np.zeros((variants.count, len(assembly.fasteners)))
    for column, ramp in enumerate(assembly.ramps):
        if ramp.sign > 0:
            forces[:, ramp.fastener] += ramp_force[:, column]
    return Equilibrium(q, forces, residual, iterations)


def _newton_step(gradient: Floats, hessian: Floats) -> Floats:
    n = hessian.shape[-1]
    # A whisker of stiffness (1 mN per metre-like unit) lets an unloaded plate move towards its first contact.
    floor = 1e-9 * np.trace(hessian, axis1=1, axis2=2)[:, None, None] / n + 1e-3
    return -np.linalg.solve(hessian + floor * np.eye(n), gradient[:, :, None])[:, :, 0]


def _line_search(energy: _Energy, q: Floats, here: _Local) -> tuple[Floats, _Local, np.ndarray]:
    """Return the moved coordinates, the energy there, and which variants could not go down any further (Armijo, halving)."""
    step = _newton_step(here.gradient, here.hessian)
    slope = (here.gradient * step).sum(axis=1)
    # No plate jumps more than 2 mm at once: far from contact the energy is nearly flat.
    length = np.minimum(1.0, 2e-3 / np.maximum(np.abs(step).max(axis=1), 1e-30))
    moved, there = q.copy(), here.copy()
    todo = np.arange(len(q))
    part = energy
    for _ in range(40):
        trial = q[todo] + length[todo, None] * step[todo]
        found = part.all(trial)
        wanted = here.value[todo] + 1e-4 * length[todo] * slope[todo] + 1e-15 * np.abs(here.value[todo])
        good = found.value <= wanted
        moved[todo[good]] = trial[good]
        there.put(todo[good], found.rows(good))
        if good.all():
            return moved, there, np.zeros(len(q), dtype=bool)
        todo, part = todo[~good], part.rows(~good)
        length[todo] *= 0.5
    stuck = np.zeros(len(q), dtype=bool)
    stuck[todo] = True
    return moved, there, stuck


def _explained(assembly: Assembly, energy: _Energy, q: Floats, residual: Floats) -> EquilibriumError:
    worst = int(np.argmax(residual))
    gradient = np.abs(energy.all(q).gradient[worst])
    plate = assembly.plates[int(np.argmax(gradient)) // 3]
    return EquilibriumError(
        f"Plate '{plate}' does not come to rest (unbalanced by {residual[worst]:.1%} of the fastener force): "
        "check that its fasteners and joints can hold it.",
        float(residual[worst]),
    )


def slopes(coordinates: Floats) -> Floats:
    """Return heights [m] and slopes [rad] as (…, n_plate, 3) from coordinates."""
    shaped = coordinates.reshape(*coordinates.shape[:-1], -1, 3)
    return np.asarray(shaped / np.array([1.0, SLOPE_LENGTH, SLOPE_LENGTH]))
