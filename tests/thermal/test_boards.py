"""Boards by their copper, plates by what is in them: against hand, published series and finite elements, on the default mesh."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.sparse.linalg import spsolve
from skfem import Basis, BilinearForm, ElementHex1, FacetBasis, LinearForm, MeshHex
from skfem.helpers import grad

from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.library import materials
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.inner import Vias
from ashen_bridge.model.project import FORMAT_VERSION, Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.boards import COPPER_W_MK, via_conductivity
from ashen_bridge.thermal.resolution import FINE, frame_of

Plain = dict[str, Any]
LIBRARY = {name: one.model_dump(mode="json") for name, one in materials().items()}
NO_GLOW = {"emissivity": {"value": 0.0}}


def material(name: str, k: float, in_plane: float | None = None) -> Plain:
    made = {
        "id": name, "name": name, "kind": "solid", "conductivity_w_mk": {"value": k}, "density_kg_m3": {"value": 2000.0},
        "specific_heat_j_kgk": {"value": 900.0}, "sources": [{"text": "this test"}],
    }  # fmt: skip
    return made if in_plane is None else made | {"in_plane_conductivity_w_mk": {"value": in_plane}}


def outline(x: float, y: float, w: float, h: float) -> Plain:
    return {"rects": [{"x_mm": x, "y_mm": y, "w_mm": w, "h_mm": h}]}


def foil(um: float, cover: float) -> Plain:
    return {"thickness_um": {"value": um}, "cover": {"value": cover}}


SIX = [foil(35, 0.8), foil(35, 0.9), foil(18, 0.3), foil(18, 0.3), foil(35, 0.9), foil(35, 0.6)]


def solid_part(name: str, role: str, place: tuple[float, float, float, float], height: float, body: str, bond: float) -> Plain:
    """A part of one material on the board, bonded by `bond` mm²·K/W, whose skin does not glow."""
    return {
        "kind": "component", "role": role, "id": name, "on": "board", "footprint": outline(*place),
        "height_mm": {"value": height}, "make_up": {"type": "solid", "material": body}, "finish": NO_GLOW,
        "attach": {"resistance_mm2k_w": {"value": bond}},
    }  # fmt: skip


def bare_board(body: str, **board: Any) -> Plain:
    """A board of 60 × 50 mm that stays flat and does not glow."""
    return {
        "kind": "board", "id": "board", "footprint": outline(0, 0, 60, 50), "thickness_mm": {"value": 1.6},
        "material": body, "bends": False, "finish": NO_GLOW, **board,
    }  # fmt: skip


def hot_stage(film: float = 12.0, **board: Any) -> Project:
    """A power stage of 5 × 6 mm alone on a board of 60 × 50 mm that loses its heat by its faces."""
    stage = solid_part("stage", "regulator", (20, 22, 6, 5), 0.9, "body", 15.0)
    plain = bare_board("laminate_glass", **board)
    point = {
        "id": "load", "powers_w": {"stage": {"value": 2.0}}, "ambient_c": {"value": 25.0},
        "film_front_w_m2k": {"value": film}, "film_rear_w_m2k": {"value": film},
    }  # fmt: skip
    return Project.parse(
        {
            "format": "ashen-bridge", "version": FORMAT_VERSION, "device": {"bodies": [plain, stage]},
            "materials": [LIBRARY["laminate_glass"], material("body", 60.0)], "builds": [{"id": "now"}], "points": [point],
        }
    )  # fmt: skip


def finite_elements(copper: list[Plain], film: float) -> float:
    """The same by trilinear finite elements, every copper layer a layer of elements of its own [K over the air, hottest]."""
    mm, um = 1e-3, 1e-6
    laminate = LIBRARY["laminate_glass"]["conductivity_w_mk"]["value"]
    along = (LIBRARY["laminate_glass"].get("in_plane_conductivity_w_mk") or {"value": laminate})["value"]
    inner = [one["thickness_um"]["value"] * um for one in copper]
    between = (1.6 * mm - sum(inner)) / (len(copper) - 1)
    z, kinds = [0.0], []
    for n, one in enumerate(copper[::-1]):  # from the rear
        z.append(z[-1] + inner[::-1][n])
        kinds.append(one["cover"]["value"])
        if n < len(copper) - 1:
            z += [z[-1] + between / 2, z[-1] + between]
            kinds += [0.0, 0.0]
    top = z[-1]
    bond = 0.05 * mm
    z += [top + bond, *(top + bond + 0.9 * mm * np.array([0.1, 0.3, 0.6, 1.0]))]

    def spaced(low: float, high: float, end: float) -> np.ndarray:
        fine = 0.25 * mm * 1.7 ** np.arange(12)
        left = low - np.concatenate([[0.0], np.cumsum(fine)])
        right = high + np.concatenate([[0.0], np.cumsum(fine)])
        inside = (low + high) / 2 + (high - low) / 2 * np.sin(np.linspace(-1, 1, 11) * np.pi / 2)
        return np.unique(np.concatenate([[0.0], left[left > 0.4 * mm], inside, right[right < end - 0.4 * mm], [end]]).round(9))

    mesh = MeshHex.init_tensor(spaced(20 * mm, 26 * mm, 60 * mm), spaced(22 * mm, 27 * mm, 50 * mm), np.array(z))
    centre = mesh.p[:, mesh.t].mean(axis=1)
    over = (centre[0] > 20 * mm) & (centre[0] < 26 * mm) & (centre[1] > 22 * mm) & (centre[1] < 27 * mm)
    mesh = mesh.restrict(np.flatnonzero(over | (centre[2] < top)))
    centre = mesh.p[:, mesh.t].mean(axis=1)
    layer = np.searchsorted(np.array(z), centre[2]) - 1
    cover = np.array([*kinds, *([0.0] * 5)])[np.minimum(layer, len(kinds) + 4)]
    in_board = centre[2] < top
    k_along = np.where(in_board, along * (1 - cover) + COPPER_W_MK * cover, 60.0)
    k_through = np.where(in_board, np.where(cover > 0, laminate * (1 - cover) + COPPER_W_MK * cover, laminate), 60.0)
    in_bond = ~in_board & (centre[2] < top + bond)
    k_through = np.where(in_bond, bond / 15e-6, k_through)
    k_along = np.where(in_bond, 1e-3, k_along)
    basis = Basis(mesh, ElementHex1(), intorder=3)
    shape = (1, basis.X.shape[-1])

    def conduction(u: Any, v: Any, w: Any) -> Any:
        g, h = grad(u), grad(v)
        return w["a"] * (g[0] * h[0] + g[1] * h[1]) + w["t"] * g[2] * h[2]

    matrix = BilinearForm(conduction).assemble(basis, a=np.tile(k_along[:, None], shape), t=np.tile(k_through[:, None], shape))
    stage_top = mesh.facets_satisfying(lambda p: np.abs(p[2] - z[-1]) < 1e-9, boundaries_only=True)
    faces = mesh.facets_satisfying(lambda p: (np.abs(p[2]) < 1e-9) | (np.abs(p[2] - top) < 1e-9), boundaries_only=True)
    sides = 1 + 2 * (6 + 5) * 0.9 / 30  # what the sides lose is counted on the top, as the product says it does
    for facets, factor in ((stage_top, sides), (faces, 1.0)):
        cooled = FacetBasis(mesh, ElementHex1(), facets=facets, intorder=3)
        matrix = matrix + BilinearForm(lambda u, v, w, c=film * factor: c * u * v).assemble(cooled)
    stage = np.flatnonzero(centre[2] > top + bond)
    volume = 30e-6 * 0.9e-3
    load = LinearForm(lambda v, w: 2.0 / volume * v).assemble(Basis(mesh, ElementHex1(), elements=stage, intorder=3))
    return float(spsolve(matrix.tocsc(), load, permc_spec="MMD_AT_PLUS_A").max())


def rise(made: Project) -> float:
    return Engine().predict(made).report.component("stage").t_max_c - 25.0


@pytest.mark.parametrize("copper", [SIX, [foil(35, 0.2), foil(35, 0.9), foil(35, 0.9), foil(35, 0.2)]])
def test_a_hot_stage_alone_on_a_board_against_finite_elements(copper: list[Plain]) -> None:
    """Much copper on the faces, or little: within 3 % of the rise."""
    assert rise(hot_stage(copper=copper)) == pytest.approx(finite_elements(copper, 12.0), rel=0.03)


def test_a_layered_board_by_hand() -> None:
    """Along it foils and laminate conduct side by side, across it in series."""
    scene = make_scene(resolve(hot_stage(copper=SIX)))
    slab = next(one for one in frame_of(scene, FINE).slabs.slabs if one.id == "board")
    assert sum(layer.thickness for layer in slab.layers) == pytest.approx(1.6e-3)
    laminate = materials()["laminate_glass"]
    metal = sum(one["thickness_um"]["value"] * one["cover"]["value"] for one in SIX) * 1e-6
    along = metal * COPPER_W_MK + (1.6e-3 - metal) * laminate.in_plane_w_mk
    assert sum(layer.thickness * layer.in_plane for layer in slab.layers) == pytest.approx(along, rel=1e-6)
    resin = 1.6e-3 - sum(one["thickness_um"]["value"] for one in SIX) * 1e-6
    across = sum(layer.thickness / layer.through for layer in slab.layers)
    assert across == pytest.approx(resin / laminate.conductivity_w_mk.value, rel=0.01)
    assert (slab.layers[0].thickness, slab.layers[-1].thickness) == pytest.approx((35e-6, 35e-6)), "surface copper by itself"


def test_vias_by_hand() -> None:
    """0.3 mm holes plated with 25 µm at 1 mm: barrels of 0.0216 mm² in each square millimetre, beside 0.93 of laminate."""
    assert via_conductivity(Vias(), 0.35) == pytest.approx((0.0216 * 390 + (1 - 0.0707) * 0.35) / 1.0, rel=2e-3)
    assert via_conductivity(Vias(pitch_mm=q(0.5)), 0.35) == pytest.approx(4 * 0.0216 * 390 + (1 - 4 * 0.0707) * 0.35, rel=2e-3)


def test_vias_and_a_land_under_a_part_lead_its_heat_to_the_rear() -> None:
    area = {"x_mm": 20, "y_mm": 22, "w_mm": 6, "h_mm": 5}
    wide = {"x_mm": 15, "y_mm": 17, "w_mm": 16, "h_mm": 15}
    vias = {"id": "under", "area": area, "vias": {"pitch_mm": {"value": 0.8}}}
    stated = {"id": "under", "area": area, "through_w_mk": {"value": via_conductivity(Vias(pitch_mm=q(0.8)), 0.35)}}
    land = {"id": "land", "area": wide, "land_cover": {"value": 1.0}}
    poor = [foil(35, 0.1), foil(35, 0.9), foil(35, 0.9), foil(35, 0.1)]
    plain, pierced, same, spread = (
        rise(hot_stage(copper=poor, regions=regions)) for regions in ([], [vias], [stated], [vias, land])
    )
    assert pierced < plain - 3, "through to the planes and the rear"
    assert same == pytest.approx(pierced, abs=0.05), "vias and what they come to are one thing"
    assert spread < pierced - 3


def test_boards_and_plates_that_cannot_be_are_refused() -> None:
    nothing = {"id": "r", "area": {"x_mm": 1, "y_mm": 1, "w_mm": 1, "h_mm": 1}}
    for board, words in (
        ({"regions": [nothing]}, "says nothing"),
        ({"regions": [{**nothing, "vias": {"drill_mm": {"value": 2.0}}}]}, "do not fit"),
        ({"regions": [{**nothing, "vias": {}, "through_w_mk": {"value": 9}}]}, "one of them is enough"),
        ({"copper": [foil(900, 0.5)]}, "no layer of a board"),
    ):
        with pytest.raises(ProjectError, match=words):
            hot_stage(**board)
    with pytest.raises(AssemblyError, match="more than the board|than the board has room"):
        Engine().predict(hot_stage(copper=[foil(400, 0.5)] * 4), fidelity="coarse")
    beside = {**nothing, "area": {"x_mm": 100, "y_mm": 1, "w_mm": 1, "h_mm": 1}, "land_cover": {"value": 1.0}}
    with pytest.raises(AssemblyError, match="lies beside board"):
        Engine().predict(hot_stage(regions=[beside]), fidelity="coarse")


# ---- plates


def heated_plate(**plate: Any) -> Project:
    """An even flux into a plate of 60 × 50 mm off its centre: what lies between resists so much that the flux stays even."""
    die = solid_part("source", "other", (14, 12, 12, 10), 0.5, "metal", 1e5)
    board = bare_board("board")
    cooler = {
        "kind": "plate", "role": "cooler", "id": "plate", "footprint": outline(0, 0, 60, 50), "thickness_mm": {"value": 2.0},
        "material": "metal", "finish": NO_GLOW,
        "sink": {
            "base_reference": "mean_base", "fixed_k_w": {"value": 0.0}, "convective_k_w": {"value": 0.5},
            "exponent": {"value": 0.0},
        }, **plate,
    }  # fmt: skip
    screws = [
        {
            "id": f"s{n}", "kind": "sprung", "joins": ["plate", "board"], "x_mm": x, "y_mm": y, "rate_n_mm": {"value": 5},
            "travel_mm": {"value": 3}, "reference_mm": {"value": 0.8},
        }
        for n, (x, y) in enumerate(((3, 3), (37, 3), (3, 31), (37, 31)))
    ]  # fmt: skip
    joint = {"id": "j", "upper": "plate", "lower": ["source"], "stated_mm2k_w": {"value": 1e4}}
    point = {
        "id": "load", "powers_w": {"source": {"value": 1.0}}, "ambient_c": {"value": 25.0},
        "film_front_w_m2k": {"value": 0.0}, "film_rear_w_m2k": {"value": 0.0}, "fans_percent": {"plate": {"value": 100.0}},
    }  # fmt: skip
    return Project.parse(
        {
            "format": "ashen-bridge", "version": FORMAT_VERSION,
            "device": {"bodies": [board, die, cooler], "fasteners": screws},
            "materials": [
                material("board", 1e-3), material("metal", 200.0), material("other", 20.0),
            ],
            "builds": [{"id": "now", "joints": [joint]}], "points": [point],
        }
    )  # fmt: skip


def series(layers: list[tuple[float, float]], film: float) -> float:
    """Mean rise of an even source on a plate of layers (thickness, conductivity), cooled on its far face, per watt.

    Cosine series of Y. S. Muzychka, J. R. Culham, M. M. Yovanovich, J. Electron. Packag. 125, 2003; what lies below each mode is
    put together layer by layer as an impedance, which gives their one- and two-layer formulas.
    """
    a, b, c, d, x, y = 60e-3, 50e-3, 12e-3, 10e-3, 20e-3, 17e-3
    m, n = np.arange(400), np.arange(400)
    lam, mu = m * np.pi / a, n * np.pi / b
    zeta = np.hypot(lam[:, None], mu[None, :])
    z = np.full_like(zeta, 1 / film)
    for thickness, k in reversed(layers):
        t = np.tanh(zeta * thickness)
        with np.errstate(invalid="ignore", divide="ignore"):
            z = np.where(zeta > 0, (z + t / (k * zeta)) / (1 + z * k * zeta * t), z + thickness / k)
    sm = np.cos(lam * x) * np.sinc(lam * c / 2 / np.pi)
    sn = np.cos(mu * y) * np.sinc(mu * d / 2 / np.pi)
    weight = np.where(m == 0, 1.0, 2.0)[:, None] * np.where(n == 0, 1.0, 2.0)[None, :]
    return float((weight * sm[:, None] ** 2 * sn[None, :] ** 2 * z).sum() / (a * b))


def source_mean(made: Project) -> float:
    """Mean rise of the plate under the source, per watt that passes; what goes round by the board warms all of the plate."""
    descent = next(one for one in Engine().predict(made).report.descents if one.component == "source")
    step, leaving = (next(one for one in descent.steps if one.kind == kind) for kind in ("joint", "sink"))
    around = (leaving.watts - step.watts) * (leaving.t_from_c - leaving.t_to_c) / leaving.watts
    return (step.t_to_c - 25.0 - around) / step.watts


@pytest.mark.parametrize(
    ("plate", "layers"),
    [
        ({}, [(2e-3, 200.0)]),
        ({"thickness_mm": {"value": 5.0}}, [(5e-3, 200.0)]),
        ({"foil": {"material": "other", "thickness_mm": {"value": 1.0}}}, [(2e-3, 200.0), (1e-3, 20.0)]),
        (
            {"material": "other", "foil": {"material": "metal", "thickness_mm": {"value": 0.5}, "face": "near"}},
            [(0.5e-3, 200.0), (2e-3, 20.0)],
        ),
    ],
    ids=["one layer", "a thick one", "poor metal outside", "foil under the source"],
)  # fmt: skip
def test_spreading_in_one_and_two_layers_on_the_default_mesh(plate: Plain, layers: list[tuple[float, float]]) -> None:
    film = 1 / (0.5 * 60e-3 * 50e-3)
    assert source_mean(heated_plate(**plate)) == pytest.approx(series(layers, film), rel=0.005)


def test_what_is_in_a_base_spreads_the_heat() -> None:
    solid, pipes, chamber = (source_mean(heated_plate(base=kind)) for kind in ("solid", "heat pipes", "vapour chamber"))
    assert solid > pipes > chamber
    stated = heated_plate(base="heat pipes", spreads_w_mk={"value": 200.0})
    assert source_mean(stated) == pytest.approx(solid, rel=1e-6)


def test_a_pocket_over_the_source_makes_it_hotter() -> None:
    """By hand: a plate with a pocket all over but its rim is a thinner plate."""
    whole = {"id": "all", "area": {"x_mm": 0, "y_mm": 0, "w_mm": 60, "h_mm": 50}, "depth_mm": {"value": 1.0}}
    thin = series([(1e-3, 200.0)], 1 / (0.5 * 60e-3 * 50e-3))
    assert source_mean(heated_plate(recesses=[whole])) == pytest.approx(thin, rel=0.01)
    near = {**whole, "area": {"x_mm": 10, "y_mm": 8, "w_mm": 20, "h_mm": 18}}
    assert source_mean(heated_plate()) < source_mean(heated_plate(recesses=[near])) < thin
    with pytest.raises(ProjectError, match="deeper than the plate"):
        heated_plate(recesses=[{**whole, "depth_mm": {"value": 2.5}}])


def test_heat_stored_over_heat_made_is_the_time_constant_of_one_body() -> None:
    """By hand: a board wholly under a part of the same size, R·C with R = 1/(h·A) of both faces."""
    made = hot_stage(film=12.0).model_dump(mode="json")
    stage = next(one for one in made["device"]["bodies"] if one["id"] == "stage")
    stage["footprint"] = outline(0, 0, 60, 50)
    project = Project.parse(made)
    heat = {one.id: one.capacity_j_m3k for one in project.materials}
    stored = 60e-3 * 50e-3 * (1.6e-3 * heat["laminate_glass"] + 0.9e-3 * heat["body"])
    expected = stored / (12.0 * 2 * 60e-3 * 50e-3)
    # The laminate drops some per cent of the rise across itself, so it is not quite one body.
    assert Engine().predict(project).report.stored_s == pytest.approx(expected, rel=0.04)


def test_a_plate_makes_heat_too() -> None:
    """A display or a battery: stated as a power of the plate."""
    made = heated_plate().model_dump(mode="json")
    made["points"][0]["powers_w"] = {"plate": {"value": 20.0}}
    report = Engine().predict(Project.parse(made)).report
    assert report.power_w == pytest.approx(20.0)
    plate = next(row for row in report.plates if row.id == "plate")
    assert plate.t_mean_c - 25.0 == pytest.approx(20.0 * 0.5, rel=0.01), "all of it leaves by the sink's 0.5 K/W"


# ---- sinks rated from the spot that heats them


@pytest.mark.parametrize("base", ["solid", "vapour chamber"])
@pytest.mark.parametrize("kind", ["rated", "liquid"])
def test_a_sink_rated_from_its_spot_gives_its_rating_back(kind: str, base: str) -> None:
    """What the source sees of the sink is what it was rated for: spreading is counted once (Lee)."""
    sink = {
        "rated": {"fixed_k_w": {"value": 0.1}, "convective_k_w": {"value": 0.9}, "exponent": {"value": 0.7}},
        "liquid": {
            "type": "liquid", "block_k_w": {"value": 0.5}, "flow_l_min": {"value": 1.0}, "rated_flow_l_min": {"value": 1.0},
            "coolant_j_l_k": {"value": 4000.0}, "radiator_k_w": {"value": 0.515},
        },
    }[kind]  # fmt: skip
    made = heated_plate(sink=sink, base=base)
    centred = made.model_dump(mode="json")
    body = next(one for one in centred["device"]["bodies"] if one["id"] == "source")
    body["footprint"] = outline(24, 20, 12, 10)
    made = Project.parse(centred)
    assert made.device.bodies[2].sink.base_reference == "source_spot", "the default"  # type: ignore[union-attr]
    report = Engine().predict(made).report
    step = next(s for one in report.descents if one.component == "source" for s in one.steps if s.kind == "joint")
    mean = (step.t_to_c - 25.0) / step.watts
    assert 0.88 < mean < 1.01, "the rating is to the hottest point of the face, which lies above its mean"


def test_a_spot_of_ones_own_counts() -> None:
    sink = {"fixed_k_w": {"value": 0.1}, "convective_k_w": {"value": 0.9}, "spot_w_mm": 40.0, "spot_h_mm": 40.0}
    assert source_mean(heated_plate(sink=sink)) > 1.2, "rated from a large spot, heated by a small one"
    with pytest.raises(ProjectError, match="both sides"):
        heated_plate(sink={**sink, "spot_h_mm": None})
