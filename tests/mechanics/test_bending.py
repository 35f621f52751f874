"""The board's bending: plate theory by hand, the reduced shapes against full finite elements, and what is made of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from skfem import Basis, ElementQuadBFS, LinearForm, MeshQuad, condense, solve

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.stored import pack, unpack
from ashen_bridge.geometry.region import Region
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.geometry.section import Cut, section
from ashen_bridge.mechanics import bending as module
from ashen_bridge.mechanics.assembly import assemble
from ashen_bridge.mechanics.bending import plate_stiffness
from ashen_bridge.mechanics.equilibrium import equilibrium
from ashen_bridge.model.bodies import Board
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import predict
from devices import FOUR, Card, project

BENDING = Card(FOUR, bends=True)


def scene_of(made: Project) -> Scene:
    return make_scene(resolve(made))


def with_board(made: Project, **values: object) -> Project:
    bodies = tuple(b.model_copy(update=values) if isinstance(b, Board) else b for b in made.device.bodies)
    return made.model_copy(update={"device": made.device.model_copy(update={"bodies": bodies})})


def simply_supported(side: float = 0.1, n: int = 16) -> tuple[Basis, np.ndarray]:
    """Return a square plate's basis and the values its simply supported edges hold at zero."""
    line = np.linspace(0, side, n + 1)
    mesh = MeshQuad.init_tensor(line, line)
    basis = Basis(mesh, ElementQuadBFS())
    u, u_x, u_y = basis.nodal_dofs[:3]
    x, y = mesh.p
    across, along = np.isclose(x % side, 0) | np.isclose(x, side), np.isclose(y % side, 0) | np.isclose(y, side)
    held = np.concatenate([u[across | along], u_y[across], u_x[along]])
    return basis, np.unique(held)


def test_a_central_force_on_a_simply_supported_square_plate() -> None:
    # Timoshenko & Woinowsky-Krieger, Theory of Plates and Shells, 2nd ed., table 23: w = 0.01160·P·a²/D.
    basis, held = simply_supported()
    stiffness = plate_stiffness(basis, np.full(basis.nelems, 3.0), 0.3)
    force = np.asarray(basis.probes(np.array([[0.05], [0.05]])).todense()).ravel() * 7.0
    found = solve(*condense(stiffness, force, D=held))
    assert force @ found / 7.0 == pytest.approx(0.01160 * 7.0 * 0.1**2 / 3.0, rel=2e-3)


@pytest.mark.parametrize("poisson", [0.0, 0.3])
def test_uniform_load_on_a_simply_supported_square_plate(poisson: float) -> None:
    # The same, table 8: w = 0.00406·q·a⁴/D at the middle, whatever Poisson's ratio.
    basis, held = simply_supported()
    stiffness = plate_stiffness(basis, np.full(basis.nelems, 3.0), poisson)
    load = LinearForm(lambda v, w: 50.0 * v).assemble(basis)
    found = solve(*condense(stiffness, load, D=held))
    middle = basis.probes(np.array([[0.05], [0.05]])) @ found
    assert middle[0] == pytest.approx(0.00406 * 50.0 * 0.1**4 / 3.0, rel=2e-3)


def test_the_strip_bends_as_a_beam() -> None:
    """Three forces on a long strip: the middle goes down by F·L³/(48·E·I) against its ends (ν = 0, as a beam's)."""
    length, width, rigidity = 0.2, 0.01, 2.0
    ends = tuple(round(v, 6) for v in (0.01, length - 0.01))
    loads = ((ends[0], width / 2), (length / 2, width / 2), (ends[1], width / 2))
    module._modes.cache_clear()
    found = module._modes(Region(boxes=((0.0, 0.0, length, width),)), rigidity, 0.0, (), loads)
    assert found is not None
    x, y = np.array(loads).T
    shapes = found.at(x, y)  # (3, n)
    forces = np.array([0.5, -1.0, 0.5])
    amplitudes = np.linalg.solve(found.stiffness, shapes.T @ forces)
    w = shapes @ amplitudes
    span = ends[1] - ends[0]
    expected = span**3 / (48 * rigidity * width)
    assert (w[0] + w[2]) / 2 - w[1] == pytest.approx(expected, rel=0.01)


def test_shapes_hold_no_rigid_motion_and_are_scaled() -> None:
    bending = module.board_bending(scene_of(project(BENDING)))
    assert bending is not None
    assert 1 <= bending.n <= module.MOST_MODES
    x, y = (v.ravel() for v in np.meshgrid(np.linspace(0, 0.08, 41), np.linspace(0, 0.08, 41)))
    shapes = bending.at(x, y)
    assert np.abs(shapes).max(axis=0) == pytest.approx(np.ones(bending.n), rel=0.02)
    assert np.abs(shapes.mean(axis=0)).max() < 0.08  # the mean over nodes is nil; this raster weighs edges a little more
    assert np.linalg.eigvalsh(bending.stiffness).min() > 0


def test_more_shapes_change_little(monkeypatch: pytest.MonkeyPatch) -> None:
    """The softest shapes carry nearly all of the answer: the die's gap with all shapes differs by little."""
    gaps = []
    for most in (module.MOST_MODES, 50):
        monkeypatch.setattr(module, "MOST_MODES", most)
        monkeypatch.setattr(module, "_SOFTEST", 1e-4 if most < 50 else 1e-9)
        module._modes.cache_clear()
        scene = scene_of(project(BENDING))
        assembly = assemble(scene)
        solved = equilibrium(assembly)
        filled = np.concatenate([np.arange(one.points.start, one.points.stop) for one in assembly.contacts if one.pieces])
        gaps.append((assembly.free_gap + assembly.jacobian @ solved.coordinates[0])[filled])
    module._modes.cache_clear()
    assert np.abs(gaps[0] - gaps[1]).max() < 12e-6  # of a bow of 0.36 mm


def test_a_board_called_rigid_and_one_without_a_modulus_do_not_bend() -> None:
    made = project(BENDING)
    assert module.board_bending(scene_of(with_board(made, bends=False))) is None
    bare = tuple(m.model_copy(update={"youngs_modulus_gpa": None}) for m in made.materials)
    assert module.board_bending(scene_of(made.model_copy(update={"materials": bare}))) is None


def test_a_very_stiff_board_is_a_rigid_one() -> None:
    made = project(BENDING)
    thick = tuple(
        m.model_copy(update={"youngs_modulus_gpa": m.youngs_modulus_gpa.model_copy(update={"value": 22e6})})
        if m.id == "board_fr4_6" and m.youngs_modulus_gpa
        else m
        for m in made.materials
    )
    stiff = predict(made.model_copy(update={"materials": thick}), fidelity="coarse").report
    rigid = predict(project(replace(BENDING, bends=False)), fidelity="coarse").report
    assert stiff.bow is not None
    assert stiff.bow.board_um < 0.1
    assert rigid.bow is None
    assert stiff.component("die").t_max_c == pytest.approx(rigid.component("die").t_max_c, abs=0.02)


def test_forces_still_balance_and_a_symmetric_card_bends_symmetrically() -> None:
    scene = scene_of(project(BENDING))
    assembly = assemble(scene)
    solved = equilibrium(assembly)
    _, sx, sy, *amplitudes = solved.coordinates[0]
    assert abs(sx) + abs(sy) < 1e-7
    assert np.any(np.abs(amplitudes) > 1e-6)
    assert assembly.bending is not None
    x, y = np.array([0.02, 0.06, 0.04, 0.04]), np.array([0.04, 0.04, 0.02, 0.06])
    w = assembly.bending.at(x, y) @ np.array(amplitudes)
    assert np.ptp(w) < 1e-7
    corner = assembly.bending.at(np.array([0.015]), np.array([0.015])) @ np.array(amplitudes)
    middle = assembly.bending.at(np.array([0.04]), np.array([0.04])) @ np.array(amplitudes)
    assert corner[0] > middle[0]  # screws pull the corners towards the cooler, the die pushes the middle away


def test_the_cut_shows_the_bent_board_and_what_stands_on_it_goes_along() -> None:
    scene = scene_of(project(BENDING))
    flat = section(scene, lambda _p, x, _y: np.full(x.shape, 2.5e-3), lambda _j, _l: 0.0, Cut("x", 0.04))
    bent = section(
        scene, lambda _p, x, _y: np.full(x.shape, 2.5e-3), lambda _j, _l: 0.0, Cut("x", 0.04), lambda x, y: 1e-4 + 0 * x * y
    )
    for before, after in zip(flat.bodies, bent.bodies, strict=True):
        moved = 0.0 if before.id == "plate" else 1e-4
        assert np.allclose(after.high - before.high, moved, atol=1e-12), before.id


def test_softer_boards_bow_more_and_the_bow_is_of_a_plausible_size() -> None:
    made = project(BENDING)
    bows = []
    for thickness in (2.4, 1.6, 1.0):
        board = next(b for b in made.device.bodies if isinstance(b, Board))
        thinner = board.thickness_mm.model_copy(update={"value": thickness})
        row = predict(with_board(made, thickness_mm=thinner), fidelity="coarse").report.bow
        assert row is not None
        bows.append(row.board_um)
    assert bows[0] < bows[1] < bows[2]
    assert 20 < bows[1] < 500  # about 140 N over an 80 mm card


def test_a_soft_board_gives_a_finding_with_a_remedy_and_its_map_is_kept() -> None:
    made = project(replace(BENDING, rate=40.0))
    board = next(b for b in made.device.bodies if isinstance(b, Board))
    made = with_board(made, thickness_mm=board.thickness_mm.model_copy(update={"value": 1.0}))
    assessment = assess(made, fidelity="coarse")
    found = [f for f in assessment.findings if f.code == "board_bow"]
    assert [f.about for f in found] == ["die"]
    assert "backplate" in str(found[0].remedy)
    bow, picture = assessment.report.bow, assessment.prediction.maps.bow_um
    assert bow is not None
    assert np.ptp(picture) >= bow.board_um * 0.9
    back = unpack(pack(assessment))
    assert np.array_equal(back.prediction.maps.bow_um, picture)
    assert back.report.bow == bow
