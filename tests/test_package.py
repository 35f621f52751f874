"""Resolved packages: the fit gives back its resistances, and a half-covered one agrees with a finite-element calculation."""

from __future__ import annotations

import numpy as np
import pytest
from skfem import Basis, BilinearForm, ElementHex1, FacetBasis, LinearForm, MeshHex, condense, solve
from skfem.helpers import dot, grad

from ashen_bridge.geometry.region import Region
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.package import PackageShape, fit_package, package_slab
from ashen_bridge.thermal.parts import Film, Heat, HeatModel
from ashen_bridge.thermal.steady import SteadySolver

SHAPE = PackageShape(0.012, 0.014, 0.008, 0.010, 0.3e-3, 0.2e-3, 0.6e-3, 148.0)
WHOLE = Region(((0, 0, 0.012, 0.014),))
JC, JB = 2.6, 9.0


def hottest(top: Region, top_film: float, bottom_film: float, across: int = 28) -> float:
    """Hottest junction point above air for 1 W, on the column grid."""
    slab = package_slab("p", WHOLE, SHAPE, fit_package(SHAPE, JC, JB), (2e6, 2e6))
    lines = Lines(np.linspace(0, 0.012, across - 3), np.linspace(0, 0.014, across + 1))
    inlay = slab.layers[1].inlay
    assert inlay is not None
    films = (Film("p", 1, top, top_film, 0.0), Film("p", 0, WHOLE, bottom_film, 0.0))
    field = SteadySolver().solve(HeatModel(lines, (slab,), (), films, (Heat("p", (1,), 1.0, inlay[0]),), 0.0))
    return float(field.temperature[field.grid.slabs["p"].layer(1)].max())


def finite_elements(top_half: bool, top_film: float, bottom_film: float) -> float:
    """The same package by trilinear finite elements (scikit-fem), resolved on its own mesh."""
    fit = fit_package(SHAPE, JC, JB)
    x, y = np.linspace(0, 0.012, 19), np.linspace(0, 0.014, 22)
    z = np.concatenate([np.linspace(0, 0.3e-3, 4), np.linspace(0.3e-3, 0.5e-3, 4)[1:], np.linspace(0.5e-3, 1.1e-3, 7)[1:]])
    mesh = MeshHex.init_tensor(x, y, z)
    centre = mesh.p[:, mesh.t].mean(axis=1)
    active = (centre[2] > 0.3e-3) & (centre[2] < 0.5e-3) & (abs(centre[0] - 0.006) < 0.004) & (abs(centre[1] - 0.007) < 0.005)
    k = np.where(centre[2] < 0.3e-3, fit.balls, fit.mould)
    k[active] = SHAPE.active_conductivity
    heat = np.where(active, 1.0 / (0.008 * 0.010 * 0.2e-3), 0.0)
    basis = Basis(mesh, ElementHex1())
    stiffness = BilinearForm(lambda u, v, w: w["k"] * dot(grad(u), grad(v))).assemble(
        basis, k=np.tile(k[:, None], (1, basis.X.shape[-1]))
    )
    load = LinearForm(lambda v, w: w["q"] * v).assemble(basis, q=np.tile(heat[:, None], (1, basis.X.shape[-1])))
    edge = 0.006 if top_half else 1.0
    top = mesh.facets_satisfying(lambda p: (abs(p[2] - 1.1e-3) < 1e-9) & (p[0] < edge), boundaries_only=True)
    bottom = mesh.facets_satisfying(lambda p: abs(p[2]) < 1e-9, boundaries_only=True)
    for facets, film in ((top, top_film), (bottom, bottom_film)):
        stiffness = stiffness + BilinearForm(lambda u, v, w, film=film: film * u * v).assemble(
            FacetBasis(mesh, ElementHex1(), facets=facets)
        )
    solution = solve(*condense(stiffness, load, D=np.array([], dtype=int)))
    return float(solution[np.unique(mesh.t[:, active])].max())


def test_full_cover_gives_back_both_resistances() -> None:
    assert hottest(WHOLE, 1e9, 1e-9) == pytest.approx(JC, rel=0.03)
    assert hottest(WHOLE, 1e-9, 1e9) == pytest.approx(JB, rel=0.03)


def test_half_covered_package_against_finite_elements() -> None:
    """Both with the conductivities our fit found: absolute within 5 % (three layers against twelve), their ratio within 1 %."""
    half = Region(((0, 0, 0.006, 0.014),))
    ours = hottest(half, 5000.0, 400.0), hottest(WHOLE, 5000.0, 400.0)
    theirs = finite_elements(True, 5000.0, 400.0), finite_elements(False, 5000.0, 400.0)
    assert ours == pytest.approx(theirs, rel=0.05)
    assert ours[0] / ours[1] == pytest.approx(theirs[0] / theirs[1], rel=0.01)


def test_half_cover_is_hotter_than_full_cover() -> None:
    assert hottest(Region(((0, 0, 0.006, 0.014),)), 5000.0, 400.0) > hottest(WHOLE, 5000.0, 400.0) * 1.2


def test_impossible_resistance_is_refused_in_words() -> None:
    with pytest.raises(AssemblyError, match="junction-to-case resistance of 0.0001 K/W cannot be had"):
        fit_package(SHAPE, 1e-4, JB)
