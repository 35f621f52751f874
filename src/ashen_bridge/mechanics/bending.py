"""How board and plates bend: a few deflection shapes with their stiffness, from a Kirchhoff plate model by finite elements.

The shapes are what unit forces at screws and joints do to the free body (loads balanced by its own rigid-body distribution, so
that no support has to be invented); of all of them the softest combinations are kept. Parts that stand on the board stiffen it
as a laminate does, as far as their bond does not slide (`laminate`).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.interpolate import RectBivariateSpline
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import splu

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Box, Region
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.mechanics.laminate import Sheet, bonded, sheet
from ashen_bridge.model.bodies import Board, Component, DieMakeUp, Plate, SolidMakeUp, Substrate
from ashen_bridge.model.fasteners import preload_of, travel_of
from ashen_bridge.model.material import Material

MOST_MODES = 6
_SOFTEST = 1e-4  # of the softest shape's compliance: stiffer ones are left out
_STEP = 5e-3  # [m] between nodes, and no more than _MOST_NODES of them along a side
_MOST_NODES = 32
_OUTSIDE = 1e-4  # of the board's stiffness where the board is not: a slot or notch

PLATE_MODES = 3
RIGID = 2e-6  # [m]: a plate that its fasteners bend by less counts as rigid; bond lines are ten times that
Patch = tuple[Box, float]
Loads = tuple[tuple[float, float], ...]


@dataclass(frozen=True, eq=False)
class Bending:
    """Deflection shapes of a board, positive towards the front, or of a plate, positive outwards; their largest value is 1.

    stiffness : (n, n) [N/m] against the shapes' amplitudes. splines : one per shape. states : (n_unknown, n) the same in the
    unknowns of the finite elements.
    """

    stiffness: Floats
    splines: tuple[RectBivariateSpline, ...]
    states: Floats

    @property
    def n(self) -> int:
        """Number of shapes."""
        return len(self.splines)

    def at(self, x: Floats, y: Floats) -> Floats:
        """Return the shapes at points [m]: (n_point, n)."""
        if not self.splines:
            return np.zeros((np.size(x), 0))
        return _shapes_at(self.splines, np.shape(x), np.ascontiguousarray(x).tobytes(), np.ascontiguousarray(y).tobytes())


@lru_cache(maxsize=2048)
def _shapes_at(splines: tuple[RectBivariateSpline, ...], shape: tuple[int, ...], x: bytes, y: bytes) -> Floats:
    """Return shapes at points given by their very numbers; parts stay where they are from one prediction to the next."""
    at_x, at_y = (np.frombuffer(places).reshape(shape) for places in (x, y))
    found = np.stack([spline.ev(at_x, at_y) for spline in splines], axis=-1)
    found.flags.writeable = False
    return found


def board_bending(scene: Scene) -> Bending | None:
    """Return how the board of a scene bends; None if it is called rigid, states no modulus, or nothing loads it."""
    board = scene.board
    model = board.model
    assert isinstance(model, Board)  # what `scene.board` is
    material = scene.resolved.materials[model.material]
    alone = sheet(material, board.thickness)
    loads = _board_loads(scene)
    if not model.bends or alone is None or len(loads) < 2:
        return None
    return _modes(board.region, alone.rigidity, _poisson(material), _stiffened(scene, alone), loads)


def plates_bending(scene: Scene) -> tuple[tuple[str, Bending], ...]:
    """Return how floating plates bend, by their id.

    Those that their fasteners could not bend by `RIGID` are rigid, by their own stiffness. Fins do not count: that is on the
    soft side.
    """
    found = []
    for body in scene.floating:
        model = body.model
        assert isinstance(model, Plate)  # what floats
        material = scene.resolved.materials[model.material]
        alone = sheet(material, body.thickness)
        loads = _plate_loads(scene, body)
        if not model.bends or alone is None or len(loads) < 3:
            continue
        # Only the softest few: a plate between screws bows, twists and folds, and the rest is a fraction of a micrometre.
        # Its thickness and modulus only scale what holds them, so that both may be dragged without new finite elements.
        unit = _modes(body.region, 1.0, _poisson(material), (), loads, PLATE_MODES)
        if unit is None:
            continue
        shapes = replace(unit, stiffness=unit.stiffness * alone.rigidity)
        if _force(scene, body.id) / shapes.stiffness.diagonal().min() > RIGID:
            found.append((body.id, shapes))
    return tuple(found)


def board_like(scene: Scene, known: Bending) -> Bending:
    """Return the shapes that are known of a board, held by the board of another scene."""
    board = scene.board
    material = scene.resolved.materials[board.model.material]  # type: ignore[union-attr]
    alone = sheet(material, board.thickness)
    if alone is None:
        return known
    held = _held(known, board.region, alone.rigidity, _poisson(material), _stiffened(scene, alone))
    return replace(known, stiffness=held)


def plates_like(scene: Scene, known: tuple[tuple[str, Bending], ...]) -> tuple[tuple[str, Bending], ...]:
    """Return the shapes that are known of some plates, held by those of another scene."""
    found = []
    for name, shapes in known:
        body = scene.bodies[name]
        material = scene.resolved.materials[body.model.material]  # type: ignore[union-attr]
        alone = sheet(material, body.thickness)
        if alone is not None:
            unit = _held(shapes, body.region, 1.0, _poisson(material), ())
            found.append((name, replace(shapes, stiffness=unit * alone.rigidity)))
        else:
            found.append((name, shapes))
    return tuple(found)


@lru_cache(maxsize=64)
def _held(known: Bending, region: Region, rigidity: float, poisson: float, stiffeners: tuple[Patch, ...]) -> Floats:
    """Return what holds shapes (n, n) [N/m] of a plate with other numbers: the energy that they take of it."""
    _, _, basis = _basis(region.bounds)
    centre = basis.mesh.p[:, basis.mesh.t].mean(axis=1)
    dotted, traced = _element_energies(known, region.bounds)
    each = (1 - poisson) * dotted + poisson * traced
    return np.asarray(np.tensordot(_element_rigidity(region, rigidity, stiffeners, centre), each, axes=1))


@lru_cache(maxsize=16)
def _element_energies(known: Bending, bounds: Box) -> tuple[Floats, Floats]:
    """Return ∫ H(u):H(v) and ∫ tr H(u)·tr H(v) of every pair of shapes over every element (n_element, n, n) [1/m²].

    The two parts of `plate_stiffness`, so that a plate of another thickness or material needs no new finite elements.
    """
    _, _, basis = _basis(bounds)
    curved = np.stack([basis.interpolate(state).hess for state in known.states.T])
    traced = curved[:, 0, 0] + curved[:, 1, 1]
    return (
        np.einsum("iabeq,jabeq,eq->eij", curved, curved, basis.dx, optimize=True),
        np.einsum("ieq,jeq,eq->eij", traced, traced, basis.dx, optimize=True),
    )


def _force(scene: Scene, plate: str) -> float:
    """Return what the fasteners of a plate pull with together [N], as they are set."""
    total = 0.0
    for fastener, setting in scene.resolved.fasteners:
        if plate in fastener.joins and fastener.kind != "glued":
            sprung = fastener.kind in ("sprung", "spring arm")
            total += fastener.rate * travel_of(fastener, setting) if sprung else preload_of(fastener, setting)
    return total


def _board_loads(scene: Scene) -> Loads:
    """Return where forces reach the board [m]: its screws, and the middles of what stands on it under a joint."""
    points = _screws(scene, scene.board.id)
    points += [
        scene.bodies[facing.lower].region.centre
        for facing in scene.plan.facings
        if facing.joint is not None and isinstance(scene.bodies[facing.lower].model, Substrate | Component)
    ]
    return _inside(points, scene.board.region)


def _plate_loads(scene: Scene, body: SceneBody) -> Loads:
    """Return where forces reach a plate [m]: its screws, and the middles of what it presses on, or what presses on it."""
    points = _screws(scene, body.id)
    for facing in scene.plan.facings:
        if facing.joint is not None and body.id in (facing.upper, facing.lower):
            points += [patch.region.centre for patch in facing.patches if patch.pieces]
    return _inside(points, body.region)


def _screws(scene: Scene, body: str) -> list[tuple[float, float]]:
    return [(fastener.x_mm * 1e-3, fastener.y_mm * 1e-3) for fastener, _ in scene.resolved.fasteners if body in fastener.joins]


def _inside(points: list[tuple[float, float]], region: Region) -> Loads:
    x0, y0, x1, y1 = region.bounds
    return tuple(sorted({(round(x, 6), round(y, 6)) for x, y in points if x0 < x < x1 and y0 < y < y1}))


def _stiffened(scene: Scene, board: Sheet) -> tuple[Patch, ...]:
    """Return by how much what stands on the board makes it stiffer [N·m], place by place, what stands on that on top."""
    found: list[Patch] = []
    carried = [body for body in scene.bodies.values() if isinstance(body.model, Substrate | Component)]
    for body in carried:
        own = _own_sheet(scene, body)
        if own is None or not isinstance(scene.bodies[body.model.on].model, Board):
            continue
        together = bonded(board, own, *_bond(body))
        found += [(box, together.rigidity - board.rigidity) for box in body.region.boxes]
        for upper in carried:
            top = _own_sheet(scene, upper) if upper.model.on == body.id else None
            if top is not None:
                all_three = bonded(board, bonded(own, top, *_bond(upper)), *_bond(body))
                found += [(box, all_three.rigidity - together.rigidity) for box in upper.region.boxes]
    return tuple(found)


def _own_sheet(scene: Scene, body: SceneBody) -> Sheet | None:
    model = body.model
    if isinstance(model, Substrate):
        name = model.material
    elif isinstance(model, Component) and isinstance(model.make_up, SolidMakeUp | DieMakeUp):
        name = model.make_up.material
    else:
        return None
    return sheet(scene.resolved.materials[name], body.thickness)


def _bond(body: SceneBody) -> tuple[float, float]:
    """Return the shear stiffness of what holds a body on its carrier [Pa/m], and over which length it works [m]."""
    x0, y0, x1, y1 = body.region.bounds
    assert isinstance(body.model, Substrate | Component)  # what stands on something
    return body.model.attach.shear_gpa_mm.value * 1e12, min(x1 - x0, y1 - y0)


def _poisson(material: Material) -> float:
    return material.poisson_ratio.value if material.poisson_ratio else 0.3


@lru_cache(maxsize=64)
def _modes(
    region: Region,
    rigidity: float,
    poisson: float,
    stiffeners: tuple[Patch, ...],
    loads: Loads,
    most: int = 0,
) -> Bending | None:
    x0, y0, x1, y1 = region.bounds
    x, y, basis = _basis(region.bounds)
    mesh = basis.mesh
    centre = mesh.p[:, mesh.t].mean(axis=1)
    stiffness = plate_stiffness(basis, _element_rigidity(region, rigidity, stiffeners, centre), poisson)
    nodes = basis.nodal_dofs  # u, u_x, u_y, u_xy of every node
    weight = np.zeros(stiffness.shape[0])
    weight[nodes[0]] = np.bincount(mesh.t.ravel(), minlength=mesh.p.shape[1]).astype(float)
    rigid = np.zeros((stiffness.shape[0], 3))
    rigid[nodes[0], 0] = 1.0
    rigid[nodes[0], 1], rigid[nodes[1], 1] = mesh.p[0], 1.0
    rigid[nodes[0], 2], rigid[nodes[2], 2] = mesh.p[1], 1.0
    gram = np.linalg.inv(rigid.T @ (weight[:, None] * rigid))
    forces = np.asarray(basis.probes(np.array(loads).T).todense()).T
    balanced = forces - weight[:, None] * (rigid @ (gram @ (rigid.T @ forces)))
    # Three values held against rigid motion carry nothing, since the loads are balanced.
    corners = [int(np.argmin(np.hypot(mesh.p[0] - cx, mesh.p[1] - cy))) for cx, cy in ((x0, y0), (x1, y0), (x0, y1))]
    free = np.setdiff1d(np.arange(stiffness.shape[0]), nodes[0][corners])
    found = np.zeros_like(balanced)
    found[free] = splu(stiffness.tocsc()[:, free][free]).solve(balanced[free])
    found -= rigid @ (gram @ (rigid.T @ (weight[:, None] * found)))
    return _softest(found, stiffness, nodes[0], mesh.p, (x, y), most or MOST_MODES)


@lru_cache(maxsize=8)
def _basis(bounds: Box) -> tuple[Floats, Floats, Any]:
    """Return lines x, y [m] and the finite-element basis on them for a plate with these edges."""
    from skfem import Basis, ElementQuadBFS, MeshQuad

    x0, y0, x1, y1 = bounds
    x, y = (np.linspace(a, b, min(_MOST_NODES, max(6, int((b - a) / _STEP))) + 1) for a, b in ((x0, x1), (y0, y1)))
    return x, y, Basis(MeshQuad.init_tensor(x, y), ElementQuadBFS())


def _element_rigidity(region: Region, rigidity: float, stiffeners: tuple[Patch, ...], centre: Floats) -> Floats:
    inside = region.covers(centre[0], centre[1])
    found = np.where(inside, rigidity, _OUTSIDE * rigidity)
    for (a0, b0, a1, b1), own in stiffeners:
        found += own * ((a0 <= centre[0]) & (centre[0] <= a1) & (b0 <= centre[1]) & (centre[1] <= b1))
    return np.asarray(found)


def plate_stiffness(basis: Any, rigidity: Floats, poisson: float) -> csr_matrix:
    """Return the stiffness matrix of the plate: ∫ D·[(1−ν)·H(u):H(v) + ν·tr H(u)·tr H(v)] dA, H the second derivatives."""
    from skfem import BilinearForm
    from skfem.helpers import dd, ddot, trace

    def bending_energy(u: Any, v: Any, w: Any) -> Any:
        h, g = dd(u), dd(v)
        return w.d * ((1 - poisson) * ddot(h, g) + poisson * trace(h) * trace(g))

    rigidities = np.repeat(rigidity[:, None], basis.X.shape[1], axis=1)
    return csr_matrix(BilinearForm(bending_energy).assemble(basis, d=rigidities))


def _softest(
    found: Floats, stiffness: csr_matrix, deflections: Floats, places: Floats, lines: tuple[Floats, Floats], most: int
) -> Bending | None:
    """Return the softest combinations of some deflection states as shapes of largest value 1."""
    energy = found.T @ np.asarray(stiffness @ found)
    values, vectors = np.linalg.eigh((energy + energy.T) / 2)
    keep = [n for n in np.argsort(values)[::-1][:most] if values[n] > _SOFTEST * values[-1] > 0]
    x, y = lines
    splines, factors, states = [], [], []
    order = np.lexsort((places[1].round(9), places[0].round(9)))
    for n in keep:
        state = found @ vectors[:, n]
        shape = state[deflections][order].reshape(len(x), len(y))
        largest = float(np.abs(shape).max())
        splines.append(RectBivariateSpline(x, y, shape / largest))
        factors.append(1 / largest)
        states.append(state / largest)
    if not splines:
        return None
    stiffness_of = np.diag([values[n] * factor**2 for n, factor in zip(keep, factors, strict=True)])
    return Bending(stiffness_of, tuple(splines), np.stack(states, axis=1))
