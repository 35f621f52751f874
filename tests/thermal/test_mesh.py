"""The mesh a user gets, against finite elements, closed forms and itself refined."""

from __future__ import annotations

import itertools

import numpy as np
import pyamg
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from skfem import Basis, BilinearForm, ElementHex1, FacetBasis, LinearForm, MeshHex
from skfem.helpers import dot, grad

from ashen_bridge.geometry.region import Region
from ashen_bridge.library import materials
from ashen_bridge.model.bodies import Attach, Board, Component, DieMakeUp, Plate, PowerBlock
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device, Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Rect, rectangle
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sinks import RatedSink
from ashen_bridge.predict.engine import Engine, refined
from ashen_bridge.predict.mesh_error import mesh_error
from ashen_bridge.predict.readings import _at_point
from ashen_bridge.thermal.cutting import columns_of
from ashen_bridge.thermal.layering import BOARD, DIE, SOLID, layered
from ashen_bridge.thermal.lines import Feature, Lines, Spacing, grid_lines
from ashen_bridge.thermal.merging import CellSizes, merged_cells, wanted_sizes
from ashen_bridge.thermal.parts import Film, Heat, HeatModel, Layer, Slab
from ashen_bridge.thermal.steady import SteadySolver
from devices import FOUR, Card, project

SIDE = 0.02
SQUARE = Region(((0.0, 0.0, SIDE, SIDE),))
TWO = Lines(np.array([0.0, 0.012, SIDE]), np.array([0.0, SIDE]))
HOLD = 1e13


def slab_of(thickness: float, shares: tuple[float, ...], k: float, halvings: int = 0) -> Slab:
    return Slab(
        "s", SQUARE, tuple(Layer(cut.thickness, k, k, 2e6, node=cut.node) for cut in layered(thickness, shares, halvings))
    )


@pytest.mark.parametrize("halvings", [0, 1, 2])
@pytest.mark.parametrize("thickness", [0.4e-3, 0.775e-3, 0.9e-3])
def test_the_drop_through_a_die_is_exact_for_even_flux(thickness: float, halvings: int) -> None:
    """q″·t/k from the face where heat is made, whatever the layers: a sixth of it was missing when middles were read."""
    slab = slab_of(thickness, DIE, 148.0, halvings)
    model = HeatModel(TWO, (slab,), (), (Film("s", 1, SQUARE, HOLD, 300.0),), (Heat("s", (0,), 200.0),), 300.0)
    field = SteadySolver().solve(model)
    hot = field.temperature[field.grid.slabs["s"].layer(0)]
    assert hot - 300.0 == pytest.approx(200.0 / SQUARE.area * thickness / 148.0, rel=1e-5)


def test_a_part_heated_throughout_has_its_peak_and_mean() -> None:
    """Adiabatic below, held above: peak g·t²/(2k) at the face, mean two thirds of it (plane wall with generation)."""
    slab = slab_of(1e-3, SOLID, 4.0)
    every = tuple(range(len(slab.layers)))
    model = HeatModel(TWO, (slab,), (), (Film("s", 1, SQUARE, HOLD, 300.0),), (Heat("s", every, 20.0),), 300.0)
    field = SteadySolver().solve(model)
    cells = field.grid.slabs["s"]
    peak = 20.0 / SQUARE.area * 1e-3 / (2 * 4.0)
    rise = field.temperature[cells.cells] - 300.0
    assert rise.max() == pytest.approx(peak, rel=0.02)
    assert rise @ cells.volume / cells.volume.sum() == pytest.approx(2 / 3 * peak, rel=0.02)


def test_a_board_takes_up_heat_that_turns_as_it_should() -> None:
    """Heat that enters a face in waves, T ~ cos(mx): impedance 1/(λ·k_z) with λ = m·√(k_x/k_z), on a thick board, within 3 %."""
    k_in, k_through, length, waves = 28.0, 0.45, SIDE, 2
    lines = Lines(np.linspace(0, length, 161), np.array([0.0, SIDE]))
    cuts = layered(1.6e-3, BOARD)
    slab = Slab("b", SQUARE, tuple(Layer(cut.thickness, k_in, k_through, 2e6, node=cut.node) for cut in cuts))
    m = 2 * np.pi * waves / length
    middles = (lines.x[1:] + lines.x[:-1]) / 2
    heats = tuple(
        Heat("b", (len(cuts) - 1,), float(1 + np.cos(m * x)), Region(((a, 0.0, b, SIDE),)))
        for a, b, x in zip(lines.x, lines.x[1:], middles, strict=False)
    )
    film = Film("b", 0, SQUARE, 1000.0, 0.0)
    field = SteadySolver().solve(HeatModel(lines, (slab,), (), (film,), heats, 0.0))
    top = field.temperature[field.grid.slabs["b"].layer(-1)]
    wave = 2 * float(np.mean((top - top.mean()) * np.cos(m * middles)))
    flux = 1.0 / ((lines.x[1] - lines.x[0]) * SIDE)
    lam, t = m * np.sqrt(k_in / k_through), 1.6e-3
    # Two faces: the far one is held by a film. Closed form of the plane wall with a wave in plan.
    biot = 1000.0 / (k_through * lam)
    exact = flux / (k_through * lam) * (1 + biot * np.tanh(lam * t)) / (biot + np.tanh(lam * t))
    assert wave == pytest.approx(exact, rel=0.03)


BLOCK = (3.0, 4.0, 2.5, 2.5)  # in a die of 12 × 12 mm [mm]
JOINT_H = 40_000.0


def lapped(thickness: float) -> Project:
    """A die with one hot block, soldered to a copper plate under a rated sink; next to nothing goes down."""
    known = materials()
    silicon = known["silicon"].model_copy(update={"temperature_exponent": 0.0})
    solder = known["solder_indium"].model_copy(
        update={"conductivity_w_mk": q(JOINT_H * 0.3e-3), "contact_mm2k_w": q(0.0), "claim_factor": q(1.0)}
    )
    die = Component(
        id="die",
        role="die",
        on="board",
        footprint=rectangle(14, 14, 12, 12),
        height_mm=q(thickness * 1e3),
        make_up=DieMakeUp(
            material="silicon",
            power_map=(PowerBlock(id="core", area=Rect(x_mm=BLOCK[0], y_mm=BLOCK[1], w_mm=BLOCK[2], h_mm=BLOCK[3]), share=1.0),),
        ),
        attach=Attach(resistance_mm2k_w=q(1e5)),
    )
    plate = Plate(
        id="plate",
        role="cooler",
        footprint=rectangle(5, 5, 30, 30),
        thickness_mm=q(3.0),
        material="copper",
        sink=RatedSink(base_reference="mean_base", fixed_k_w=q(0.0), convective_k_w=q(0.25), exponent=q(0.0)),
    )
    screws = tuple(
        Fastener(
            id=f"f{n}", kind="sprung", joins=("plate", "board"), x_mm=x, y_mm=y, rate_n_mm=q(5), travel_mm=q(3),
            reference_mm=q(thickness * 1e3 + 0.3),
        )
        for n, (x, y) in enumerate(((7, 7), (33, 7), (7, 33), (33, 33)))
    )  # fmt: skip
    joint = Joint(
        id="j",
        upper="plate",
        lower=("die",),
        pieces=(Piece(id="s", material="solder_indium", thickness_mm=q(0.3)),),
        compliance_um_n=q(1e-6),
    )
    return Project(
        device=Device(
            bodies=(
                Board(id="board", footprint=rectangle(0, 0, 40, 40), thickness_mm=q(1.6), material="board_fr4_6", bends=False),
                die,
                plate,
            ),
            fasteners=screws,
            sensors=(Sensor(id="hot", body="die", reads="max"),),
        ),
        materials=tuple((known | {"silicon": silicon, "solder_indium": solder}).values()),
        builds=(Build(id="now", joints=(joint,)),),
        points=(
            OperatingPoint(
                id="p", powers_w={"die": q(30.0)}, ambient_c=q(25.0), film_front_w_m2k=q(0.0), film_rear_w_m2k=q(0.0),
                fans_percent={"plate": q(100.0)},
            ),
        ),
    )  # fmt: skip


def graded(marks: list[float], finest: float) -> np.ndarray:
    """Points from mark to mark, closest at the marks."""
    parts = []
    for a, b in itertools.pairwise(marks):
        n = max(2, round(np.log(1 + 0.5 * (b - a) / 2 / finest) / 0.5 * 2))
        s = np.linspace(-1, 1, n + 1)
        parts.append(((a + b) / 2 + (b - a) / 2 * np.sin(s * np.pi / 2))[:-1])
    return np.concatenate([*parts, [marks[-1]]])


def finite_elements(thickness: float) -> float:
    """The same by trilinear finite elements (scikit-fem): die, joint and plate in one mesh; hottest point above the air."""
    mm = 1e-3
    x = graded([m * mm for m in (5, 14, 17, 19.5, 26, 35)], 0.1e-3)
    y = graded([m * mm for m in (5, 14, 18, 20.5, 26, 35)], 0.1e-3)
    joint = 0.3e-3
    z = np.concatenate(
        [
            thickness * np.array([0, 0.02, 0.05, 0.09, 0.15, 0.23, 0.33, 0.46, 0.62, 0.8, 1.0]),
            [thickness + joint],
            thickness + joint + 3e-3 * np.array([0.03, 0.1, 0.2, 0.35, 0.55, 0.78, 1.0]),
        ]
    )
    mesh = MeshHex.init_tensor(x, y, z)
    centre = mesh.p[:, mesh.t].mean(axis=1)
    over = (np.abs(centre[0] - 20 * mm) < 6 * mm) & (np.abs(centre[1] - 20 * mm) < 6 * mm)
    mesh = mesh.restrict(np.flatnonzero(over | (centre[2] > thickness + joint)))
    centre = mesh.p[:, mesh.t].mean(axis=1)
    k = np.where(centre[2] < thickness, 148.0, np.where(centre[2] < thickness + joint, JOINT_H * joint, 401.0))
    basis = Basis(mesh, ElementHex1(), intorder=3)
    stiffness = BilinearForm(lambda u, v, w: w["k"] * dot(grad(u), grad(v))).assemble(
        basis, k=np.tile(k[:, None], (1, basis.X.shape[-1]))
    )
    block = (17 * mm, 18 * mm, 19.5 * mm, 20.5 * mm)
    heated = mesh.facets_satisfying(
        lambda p: (np.abs(p[2]) < 1e-9) & (p[0] > block[0]) & (p[0] < block[2]) & (p[1] > block[1]) & (p[1] < block[3]),
        boundaries_only=True,
    )
    cooled = mesh.facets_satisfying(lambda p: np.abs(p[2] - z[-1]) < 1e-9, boundaries_only=True)
    load = LinearForm(lambda v, w: 30.0 / (2.5e-3) ** 2 * v).assemble(FacetBasis(mesh, ElementHex1(), facets=heated, intorder=3))
    film = 1 / (0.25 * (30 * mm) ** 2)
    stiffness = stiffness + BilinearForm(lambda u, v, w: film * u * v).assemble(
        FacetBasis(mesh, ElementHex1(), facets=cooled, intorder=3)
    )
    found = pyamg.smoothed_aggregation_solver(stiffness.tocsr()).solve(load, tol=1e-9, accel="cg")
    return float(found.max())


@pytest.mark.long
def test_a_hot_block_in_a_die_and_what_lapping_gains_against_finite_elements() -> None:
    """On the mesh a user gets: the peak within 2 %, what lapping changes of it within 5 %."""
    thick = (0.9e-3, 0.4e-3)
    ours = [Engine().predict(lapped(t)).report.component("die").t_max_c - 25.0 for t in thick]
    theirs = [finite_elements(t) for t in thick]
    assert ours == pytest.approx(theirs, rel=0.02)
    assert ours[1] - ours[0] == pytest.approx(theirs[1] - theirs[0], rel=0.05)


def test_the_stated_mesh_error_covers_what_refining_changes() -> None:
    made = project(Card(FOUR, sensors=False))
    fine, finer = (engine.predict(made).report for engine in (Engine(), refined(1)))
    assert finer.mesh.cells > 5 * fine.mesh.cells
    assert fine.mesh.refinement_k is not None
    assert fine.mesh.refinement_at in {row.id for row in fine.components}
    for row in fine.components:
        change = abs(row.t_max_c - finer.component(row.id).t_max_c)
        assert change <= fine.mesh.refinement_k, row.id
        assert change <= max(0.5, 0.01 * (row.t_max_c - 25.0)), row.id


def test_nothing_compared_is_no_figure_and_not_nought() -> None:
    assert mesh_error({}, {}, 25.0) is None
    assert Engine().predict(project(Card(FOUR)), fidelity="coarse").report.mesh.refinement_k is None
    known = mesh_error({"a": 80.0, "b": 60.0}, {"a": 81.0, "b": 90.0}, 25.0)
    assert known is not None
    assert known[1] == "b", "where the coarse field is far off, more may be left"


edges = st.floats(0.5e-3, 99.5e-3).map(lambda x: round(x, 5))
boxes = st.tuples(edges, edges, edges, edges).filter(lambda b: abs(b[0] - b[2]) > 1e-4 and abs(b[1] - b[3]) > 1e-4)
features = st.lists(st.builds(Feature, boxes.map(lambda b: (min(b[0], b[2]), min(b[1], b[3]), max(b[0], b[2]), max(b[1], b[3]))),
                              st.integers(1, 9), st.sampled_from([1e-3, 3e-3, np.inf]), st.sampled_from([0.5e-3, np.inf])),
                    min_size=1, max_size=5)  # fmt: skip
EXTENT = (0.0, 0.0, 0.1, 0.1)


def mirrored(feature: Feature) -> Feature:
    x0, y0, x1, y1 = feature.box
    return Feature((0.1 - x1, y0, 0.1 - x0, y1), feature.weight, feature.inside, feature.edge)


@settings(max_examples=60, deadline=None)
@given(features)
def test_lines_keep_their_distance_follow_the_weightiest_and_mirror(found: list[Feature]) -> None:
    spacing = Spacing(8e-3, 0.3e-3)
    lines = grid_lines(EXTENT, tuple(found), spacing)
    assert np.diff(lines.x).min() > 0
    assert np.diff(lines.x).max() <= 1.6 * 8e-3
    first = max(found, key=lambda one: one.weight)
    rivals = [one for one in found if one.weight >= first.weight and one is not first]
    if not rivals and 0.3e-3 <= first.box[0] <= 0.0497 and first.box[2] - first.box[0] >= 0.3e-3:
        assert np.abs(lines.x - first.box[0]).min() < 1e-12
    other = grid_lines(EXTENT, tuple(map(mirrored, found)), spacing)
    assert len(other.x) == len(lines.x)
    assert np.allclose(0.1 - other.x[::-1], lines.x, atol=1e-9)


@pytest.mark.long
@settings(max_examples=40, deadline=None)
@given(features)
def test_columns_cover_all_of_the_grid_and_are_as_narrow_as_wanted(found: list[Feature]) -> None:
    lines = grid_lines(EXTENT, tuple(found), Spacing(8e-3, 0.3e-3))
    sizes = CellSizes(tuple(found), 8e-3)
    labels, wanted = merged_cells(lines, sizes), wanted_sizes(lines, sizes)
    columns = columns_of(Region((EXTENT,)), lines, sizes)
    assert columns.area.sum() == pytest.approx(0.01)
    wide, deep = np.diff(lines.x), np.diff(lines.y)
    for number in range(labels.max() + 1):
        j, i = np.nonzero(labels == number)
        assert len(j) == (np.ptp(j) + 1) * (np.ptp(i) + 1), "every column is a rectangle"
        if len(j) > 1:
            size = max(wide[i.min() : i.max() + 1].sum() * (np.ptp(i) > 0), deep[j.min() : j.max() + 1].sum() * (np.ptp(j) > 0))
            assert size <= wanted[j, i].min() * (1 + 1e-5)


@settings(max_examples=40, deadline=None)
@given(features, edges, edges)
def test_a_point_is_interpolated_between_columns(found: list[Feature], x: float, y: float) -> None:
    """A field that is linear in plan is read exactly, or at the middle of the column where nothing lies beyond."""
    lines = grid_lines(EXTENT, tuple(found), Spacing(8e-3, 0.3e-3))
    columns = columns_of(Region((EXTENT,)), lines, CellSizes(tuple(found), 8e-3))
    weights = _at_point(columns, x, y)
    assert weights.sum() == pytest.approx(1.0)
    seen = [float(weights @ columns.middle(axis)) for axis in (0, 1)]
    home = np.argmax((columns.box[0] <= x) & (columns.box[1] <= y) & (columns.box[2] >= x) & (columns.box[3] >= y))
    half = [float(columns.box[axis + 2][home] - columns.box[axis][home]) for axis in (0, 1)]
    assert abs(seen[0] - x) <= half[0]
    assert abs(seen[1] - y) <= half[1]
