"""What bends: bonded sheets against closed forms and elasticity, thin plates, corners of tilted dies; nothing passes a wall."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq
from skfem import Basis, BilinearForm, ElementQuad2, LinearForm, MeshQuad, condense, solve

from ashen_bridge.geometry.region import Region, lobatto
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.library import materials
from ashen_bridge.mechanics.assembly import assemble
from ashen_bridge.mechanics.bending import RIGID, plates_bending
from ashen_bridge.mechanics.equilibrium import equilibrium
from ashen_bridge.mechanics.laminate import Sheet, bonded, bonded_share, sheet
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import predict
from devices import FOUR, Card, project

Plain = dict[str, Any]
RIGID_BOND = 1e24


def plain_sheet(modulus: float, thickness: float) -> Sheet:
    return Sheet(modulus * thickness**3 / 12, modulus * thickness, thickness / 2, thickness)


def test_a_laminate_by_classical_plate_theory() -> None:
    """Three layers glued solid: D = ∫E·(z − z₀)² dz about the neutral plane (R. M. Jones, Mechanics of Composite Materials)."""
    layers = [(22e9, 1.6e-3), (25e9, 1.2e-3), (160e9, 0.8e-3)]
    board, substrate, die = (plain_sheet(*one) for one in layers)
    found = bonded(board, bonded(substrate, die, RIGID_BOND, 0.02), RIGID_BOND, 0.04)
    edges = np.concatenate([[0.0], np.cumsum([t for _, t in layers])])
    z = (np.arange(360_000) + 0.5) * edges[-1] / 360_000
    modulus = np.select([z < edges[1], z < edges[2]], [22e9, 25e9], 160e9)
    neutral = (modulus * z).sum() / modulus.sum()
    assert found.rigidity == pytest.approx((modulus * (z - neutral) ** 2).sum() * edges[-1] / len(z), rel=1e-4)
    assert found.centre == pytest.approx(neutral, rel=1e-4)


def test_a_laminate_of_one_material_is_a_thicker_plate() -> None:
    found = bonded(plain_sheet(70e9, 1e-3), plain_sheet(70e9, 2e-3), RIGID_BOND, 0.05)
    assert found.rigidity == pytest.approx(70e9 * (3e-3) ** 3 / 12, rel=1e-5)


def elastic_strip(shear: float, length: float) -> float:
    """Bending stiffness of a strip of two layers with a soft one between, by plane elasticity (finite elements).

    Poisson's ratio 0; every point is moved across as an even curvature moves it, along they are free: twice the energy over
    curvature squared and length.
    """
    lower, glue, upper = (22e9, 1.6e-3), 0.1e-3, (160e9, 0.8e-3)
    y = np.concatenate([np.linspace(0, 1.6e-3, 7), [1.6e-3 + glue / 2, 1.6e-3 + glue], 1.7e-3 + np.linspace(0.2e-3, 0.8e-3, 4)])
    mesh = MeshQuad.init_tensor(np.linspace(0, length / 2, 81), y)
    basis = Basis(mesh, ElementQuad2())
    middle = mesh.p[1][mesh.t].mean(axis=0)
    in_glue = (middle > 1.6e-3) & (middle < 1.7e-3)
    modulus = np.where(in_glue, 1.0, np.where(middle < 1.6e-3, lower[0], upper[0]))
    # The layers do not shear, as in plate theory; the glue does nothing else.
    sheared = np.where(in_glue, shear * glue, 1e4 * modulus)
    shape = (1, basis.X.shape[-1])
    e, g = (np.tile(one[:, None], shape) for one in (modulus, sheared))

    def stiffness(u: Any, v: Any, w: Any) -> Any:
        return w["e"] * u.grad[0] * v.grad[0] + w["g"] * u.grad[1] * v.grad[1]

    def forced(v: Any, w: Any) -> Any:
        return -w["g"] * (-w.x[0]) * v.grad[1]  # across displacement −x²/2: its slope along is −x

    matrix = BilinearForm(stiffness).assemble(basis, e=e, g=g)
    load = LinearForm(forced).assemble(basis, g=g)
    held = basis.get_dofs(lambda x: np.isclose(x[0], 0.0))
    u = solve(*condense(matrix, load, D=held))
    slopes = basis.interpolate(u)
    x, weights = basis.global_coordinates(), basis.dx
    energy = (e * slopes.grad[0] ** 2 + g * (slopes.grad[1] - np.asarray(x)[0]) ** 2) * weights
    return float(energy.sum() / (length / 2))


@pytest.mark.parametrize("shear", [1e11, 1e12, 6e12, 1e14])
def test_two_layers_with_an_elastic_bond_against_plane_elasticity(shear: float) -> None:
    # The bond's thickness is between the middles: half of it is counted with each sheet.
    lifted = replace(plain_sheet(22e9, 1.6e-3), thickness=1.65e-3)
    ours = bonded(lifted, Sheet(160e9 * 0.8e-3**3 / 12, 160e9 * 0.8e-3, 0.45e-3, 0.85e-3), shear, 0.02)
    assert ours.rigidity == pytest.approx(elastic_strip(shear, 0.02), rel=0.03)


def test_underfill_over_a_package_is_nearly_full_and_wet_paste_nothing() -> None:
    known = materials()
    board, substrate = sheet(known["board_fr4_6"], 1.6e-3), sheet(known["substrate_organic"], 1.2e-3)
    assert board is not None
    assert substrate is not None
    assert bonded_share(board, substrate, 6e12, 0.04) > 0.85
    assert bonded_share(board, substrate, 1e3 / 50e-6, 0.04) < 1e-3, "a paste with a shear modulus of a kilopascal"
    assert sheet(known["plastic"], 1e-3) is None


def test_a_die_on_its_substrate_bends_by_micrometres_not_with_the_board() -> None:
    free = Card(FOUR, bends=True, rate=60.0, travel=4.0)
    loose = {"device.bodies.die.attach.shear_gpa_mm": 0.0}
    bonded_one, sliding = (predict(paths.set_values(project(free), values), fidelity="coarse").report for values in ({}, loose))
    assert bonded_one.bow is not None
    assert sliding.bow is not None
    assert bonded_one.bow.under_um["die"] < 0.7 * sliding.bow.under_um["die"]
    assert bonded_one.bow.board_um > 3 * bonded_one.bow.under_um["die"]


# ---- plates


def with_plate(card: Card, **values: Any) -> Project:
    made = project(card).model_dump(mode="json")
    next(body for body in made["device"]["bodies"] if body["id"] == "plate").update(bends=True, **values)
    return Project.parse(made)


def test_a_strip_held_at_both_ends_bows_over_the_die_as_a_beam() -> None:
    """A narrow plate pulled down by a screw at each end over a die in the middle: F·L³/(48·E·I) (Timoshenko)."""
    card = Card((), springs=((8.0, 40.0), (72.0, 40.0)), rate=20.0, travel=5.0)
    strip = {"rects": [{"x_mm": 2.0, "y_mm": 35.0, "w_mm": 76.0, "h_mm": 10.0}]}
    made = with_plate(card, footprint=strip, thickness_mm={"value": 2.0})
    scene = make_scene(resolve(made))
    assembly = assemble(scene)
    found = equilibrium(assembly).coordinates[0]
    plate = scene.bodies["plate"]
    x, y = np.array([8e-3, 40e-3, 72e-3]), np.full(3, 40e-3)
    left, middle, right = assembly.motion.height_rows(plate, "front", x, y) @ found  # type: ignore[arg-type]
    copper = materials()["copper"]
    assert copper.youngs_modulus_gpa is not None
    bent = copper.youngs_modulus_gpa.value * 1e9 * 10e-3 * (2e-3) ** 3 / 12
    force = float(equilibrium(assembly).fastener_force.sum())
    # The die is 20 mm wide: the strip is free only beyond it, between a beam over a point and one clamped at its edges.
    point, clamped = force * 0.064**3 / (48 * bent), force / 2 * 0.022**3 / (3 * bent)
    assert clamped < middle - (left + right) / 2 < point


def test_thick_plates_are_rigid_by_their_own_stiffness() -> None:
    for thickness, bends in ((1.0, True), (3.0, True), (30.0, False)):
        scene = make_scene(resolve(with_plate(Card(FOUR), thickness_mm={"value": thickness})))
        assert bool(plates_bending(scene)) is bends, thickness
    assert RIGID < 5e-6
    assert not plates_bending(make_scene(resolve(project(Card(FOUR))))), "one that is said not to bend"


def test_a_plate_that_bends_less_and_less_becomes_the_rigid_one() -> None:
    rigid = predict(project(Card(FOUR)), fidelity="coarse").report
    tops = []
    for modulus in (30.0, 117.0, 1e4, 1e6):
        made = with_plate(Card(FOUR))
        made = paths.set_values(made, {"materials.copper.youngs_modulus_gpa": modulus})
        tops.append(predict(made, fidelity="coarse").report.component("die").t_max_c)
    away = np.abs(np.array(tops) - rigid.component("die").t_max_c)
    assert (np.diff(away) <= 1e-6).all()
    assert away[-1] < 0.01


def test_a_bending_plate_is_as_symmetric_as_the_card() -> None:
    report = predict(with_plate(Card(FOUR), thickness_mm={"value": 1.0}), fidelity="coarse").report
    forces = [row.force_n for row in report.fasteners]
    assert forces == pytest.approx([forces[0]] * 4, rel=1e-6)
    assert report.balance.force_rel < 1e-6
    assert report.plates[0].tilt_x_mrad == pytest.approx(0.0, abs=1e-6)


# ---- corners


@pytest.mark.parametrize("tilt_mrad", [0.5, 2.0, 8.0, 20.0])
def test_the_corner_gap_of_a_tilted_die_is_right(tilt_mrad: float) -> None:
    """At the same force, against ten times as many points in each direction: within 1 %."""
    assembly = assemble(make_scene(resolve(project(Card(())))))
    contact = next(one for one in assembly.contacts if one.facing.lower == "die" and one.pieces)
    part = contact.points
    tilt = tilt_mrad * 1e-3 / np.sqrt(2)

    def corner(x: np.ndarray, y: np.ndarray, weight: np.ndarray) -> float:
        away = tilt * (x - 30e-3) + tilt * (y - 30e-3)
        return float(brentq(lambda g: weight @ contact.law.pressure_at(g + away) - 120.0, -500e-6, 2e-3, xtol=1e-10))

    ours = corner(assembly.x[part], assembly.y[part], assembly.weight[part])
    dense = corner(*contact.patch.region.points(200))
    gives = contact.law.compliance * float(contact.law.pressure_at(np.array(dense)))
    assert ours + gives == pytest.approx(dense + gives, rel=0.01)


def test_lobatto_by_the_handbook() -> None:
    """Abramowitz & Stegun, table 25.6: five points at 0, ±0.6547 and ±1 with weights 0.7111, 0.5444 and 0.1 on −1 to 1."""
    points, weights = lobatto(5)
    assert 2 * points - 1 == pytest.approx([-1, -0.65465367, 0, 0.65465367, 1])
    assert 2 * weights == pytest.approx([0.1, 0.54444444, 0.71111111, 0.54444444, 0.1])
    x, y, w = Region(((0.0, 0.0, 2.0, 1.0),)).points(6)
    assert w.sum() == pytest.approx(2.0)
    assert (w * x**3 * y**2).sum() == pytest.approx(4.0 / 3)
