"""Which fields a reduced model needs: what every number does to the field, and every joint that leads more or less heat.

A joint whose conductance changes feeds and robs the cells at its ends by the heat that passes it. So the answers to that heat,
evenly over a patch and leaning to each side, hold whatever mounting makes of it; what is far from the present state is corrected
by one step of iteration at some samples.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.factorised import Factorised
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change, ReducedModel, basis_of
from ashen_bridge.uncertainty.joint_links import JointLinks, PatchLinks

LEAST_K = 0.02
"""Root mean square over all cells of what may be missing of a field."""
_MUCH = 0.1  # share of all heat from which a patch's answer may also bend
_LEFT = 0.05  # of what links and films conduct, at least, whatever acts on them together


@dataclass(frozen=True)
class Trials:
    """Samples at which the basis is corrected: how strongly each change acts (s, n_change), and the joints' links [W/K]."""

    acts: Floats
    links: Floats


def spanning(system: LinearSystem, rises: Floats, changes: Sequence[Change], joints: JointLinks, trials: Trials) -> Floats:
    """Return an orthonormal basis (n, r) of the fields near `rises` [K], the system's own solution."""
    solver = Factorised(system)
    flows = [solver.pushed(change, rises) for change in changes]
    flows += [right for patch in joints.patches for right in _patch_flows(solver, rises, joints, patch)]
    answers = solver.solve(np.stack([flow for flow in flows if np.any(flow)], axis=1)) if flows else np.zeros((system.n, 0))
    fields = np.hstack([rises[:, None], answers])
    basis = basis_of(fields, LEAST_K)
    now = system.conductance[joints.links]
    model = ReducedModel(system, basis, changes, joints.links, joints.groups)
    found = basis @ model.solve(trials.acts, trials.links - now).T
    missing = np.empty_like(found)
    for n, (acts, links) in enumerate(zip(trials.acts, trials.links, strict=True)):
        conductance, diagonal, right = applied(system, changes, acts)
        conductance[joints.links] += links - now
        missing[:, n] = solver.missing(conductance, diagonal, right, found[:, n])
    return basis_of(np.hstack([fields, found - rises[:, None], solver.solve(missing)]), LEAST_K)


def _patch_flows(solver: Factorised, rises: Floats, joints: JointLinks, patch: PatchLinks) -> Iterator[Floats]:
    """Yield what a patch takes from the cells at its ends when it leads more heat: evenly, to one side, more in its middle."""
    system, made = solver.system, float(np.abs(solver.system.right).sum())
    x, y = (2 * (at - at.mean()) / max(float(np.ptp(at)), 1e-9) for at in (patch.x, patch.y))
    for links in (patch.link, patch.link + patch.half) if patch.half else (patch.link,):
        at = joints.links[links]
        flow = system.conductance[at] * (rises[system.i[at]] - rises[system.j[at]])
        shapes = [np.ones_like(x), x, y]
        if np.abs(flow).sum() > _MUCH * made:
            shapes += [x * x, x * y, y * y]
        for shape in shapes:
            yield -solver.gathered(at, shape[patch.place] * flow)


def applied(system: LinearSystem, changes: Sequence[Change], acts: Floats) -> tuple[Floats, Floats, Floats]:
    """Return links [W/K], boundary terms [W/K] and right side [W] with some changes acting.

    Several may act on one link or film at once: together, too, they leave something of it.
    """
    conductance, diagonal, right = system.conductance.copy(), system.diagonal.copy(), system.right.copy()
    for change, act in zip(changes, acts, strict=True):
        conductance[change.links] += act * change.conductance
        diagonal += act * change.diagonal
        right += act * change.right
    conductance = np.maximum(conductance, _LEFT * system.conductance)
    return conductance, np.where(system.diagonal > 0, np.maximum(diagonal, _LEFT * system.diagonal), diagonal), right
