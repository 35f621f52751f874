"""Equilibrium of floating plates: the minimum of a convex potential energy, for many variants at once.

Damped Newton on the coordinates: contact points push with their stack's pressure, ramps pull or push as fasteners do.
All arrays carry a leading sample axis; a single assembly is a batch of one.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.motion import SLOPE_LENGTH
from ashen_bridge.mechanics.potential import LawTables, Local, Potential, Variants
from ashen_bridge.model.errors import AshenError

MAX_ITERATIONS = 120
_RESTS, _FLOOR = (
    1e-9,
    1e-7,
)  # unbalanced share that is aimed at; below the other a step that leads nowhere is not shortened for long
_HALVINGS, _FLOOR_HALVINGS = 40, 3
_CHUNK_POINTS = 40_000  # per chunk of variants, so that its arrays stay in the cache
_FAR, _WATCH = 0.7e-3, 0.1e-3  # [m]: further apart than this beyond its stack a point is left out; nearer at the end, taken in


class EquilibriumError(AshenError, ArithmeticError):
    """No equilibrium was found; carries the relative residual that was left."""

    def __init__(self, text: str, residual: float) -> None:
        super().__init__(text)
        self.residual = residual


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


def equilibrium(assembly: Assembly, variants: Variants | None = None, start: Floats | None = None) -> Equilibrium:
    """Return the equilibrium of every variant.

    Parameters
    ----------
    start : (n_dof,) coordinates to begin from, for example those of a similar assembly; or (s, n_dof), one for each variant.

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
    near = _near(assembly, variants, begin, _FAR)
    found = _in_chunks(_only(assembly, near), variants.points(near), begin)
    # What was left out must have stayed open in every variant; if it did not, everything is counted in.
    if (_near(assembly, variants, found.coordinates, _WATCH) & ~near).any():
        found = _in_chunks(assembly, variants, begin)
    return found


def _in_chunks(assembly: Assembly, variants: Variants, begin: Floats) -> Equilibrium:
    tables = variants.tables or _own_tables(assembly)
    size = max(1, _CHUNK_POINTS // max(1, len(assembly.weight)))
    chunks = [variants.rows(slice(at, at + size)) for at in range(0, variants.count, size)]
    starts = [begin if begin.ndim == 1 else begin[at : at + size] for at in range(0, variants.count, size)]
    if len(chunks) == 1:
        return _solve(assembly, tables, chunks[0], begin)
    # The array kernels release the interpreter, so two chunks at a time are worth it.
    with ThreadPoolExecutor(max_workers=2) as pool:
        parts = list(pool.map(lambda chunk, start: _solve(assembly, tables, chunk, start), chunks, starts))
    return Equilibrium(
        np.concatenate([part.coordinates for part in parts]),
        np.concatenate([part.fastener_force for part in parts]),
        np.concatenate([part.residual for part in parts]),
        max(part.iterations for part in parts),
    )


def _own_tables(assembly: Assembly) -> LawTables:
    return LawTables([contact.law for contact in assembly.contacts])


def _near(assembly: Assembly, variants: Variants, coordinates: Floats, distance: float) -> np.ndarray:
    """Return which sample points have faces no further apart than their stack is thick plus `distance` [m].

    `coordinates` may be one set or many; a point counts if it is near in any of them.
    """
    sets = np.atleast_2d(coordinates)
    tables = variants.tables or _own_tables(assembly)
    high = tables.high if variants.law is None else tables.high[variants.law].max(axis=0)
    reach = high[assembly.point_patch] + distance
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


def _solve(assembly: Assembly, tables: LawTables, variants: Variants, start: Floats) -> Equilibrium:
    energy = Potential(assembly, tables, variants)
    q = np.tile(start, (variants.count, 1)) if start.ndim == 1 else start.copy()
    residual = np.full(variants.count, np.inf)
    active = np.arange(variants.count)
    part = energy
    here = part.at(q)
    stuck = np.zeros(variants.count, dtype=bool)  # at the floor of the arithmetic: there the residual decides
    iterations = 0
    while iterations < MAX_ITERATIONS:
        iterations += 1
        residual[active] = here.residual
        left = (residual[active] > _RESTS) & ~stuck
        if not left.any():
            break
        if not left.all():
            active, part, here = active[left], part.rows(left), here.rows(left)
        q[active], here, stuck = _line_search(part, q[active], here)
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


def _line_search(energy: Potential, q: Floats, here: Local) -> tuple[Floats, Local, np.ndarray]:
    """Return the moved coordinates, the energy there, and which variants could not go down any further (Armijo, halving).

    A step that halves what is unbalanced counts too: where laws are tables, the energy's last digits are not the forces'.
    """
    step = _newton_step(here.gradient, here.hessian)
    slope = (here.gradient * step).sum(axis=1)
    # No plate jumps more than 2 mm at once: far from contact the energy is nearly flat.
    length = np.minimum(1.0, 2e-3 / np.maximum(np.abs(step).max(axis=1), 1e-30))
    moved, there = q.copy(), here.copy()
    todo, stuck = np.arange(len(q)), np.zeros(len(q), dtype=bool)
    part = energy
    floor = here.residual < _FLOOR
    for turn in range(_HALVINGS):
        trial = q[todo] + length[todo, None] * step[todo]
        found = part.at(trial)
        wanted = here.value[todo] + 1e-4 * length[todo] * slope[todo] + 1e-15 * np.abs(here.value[todo])
        good = (found.value <= wanted) | (found.residual < 0.5 * here.residual[todo])
        moved[todo[good]] = trial[good]
        there.put(todo[good], found.rows(good))
        if good.all():
            return moved, there, stuck
        todo, part = todo[~good], part.rows(~good)
        length[todo] *= 0.5
        if turn >= _FLOOR_HALVINGS:
            on = ~floor[todo]
            stuck[todo[~on]] = True
            todo, part = todo[on], part.rows(on)
            if not len(todo):
                return moved, there, stuck
    stuck[todo] = True
    return moved, there, stuck


def _explained(assembly: Assembly, energy: Potential, q: Floats, residual: Floats) -> EquilibriumError:
    worst = int(np.argmax(residual))
    gradient = np.abs(energy.at(q).gradient[worst])
    at = int(np.argmax(gradient)) // 3
    plate = f"Plate '{assembly.plates[at]}'" if at < len(assembly.plates) else "What bends"
    return EquilibriumError(
        f"{plate} does not come to rest (unbalanced by {residual[worst]:.1%} of the fastener force): "
        "check that its fasteners and joints can hold it.",
        float(residual[worst]),
    )


def slopes(coordinates: Floats) -> Floats:
    """Return heights [m] and slopes [rad] as (…, n_plate, 3) from coordinates."""
    shaped = coordinates.reshape(*coordinates.shape[:-1], -1, 3)
    return np.asarray(shaped / np.array([1.0, SLOPE_LENGTH, SLOPE_LENGTH]))
