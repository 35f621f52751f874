"""Resolved packages: the fit gives back its resistances, and a half-covered one agrees with a finite-element calculation."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.sparse.linalg import spsolve
from skfem import Basis, BilinearForm, ElementHex1, FacetBasis, LinearForm, MeshHex
from skfem.helpers import dot, grad

from ashen_bridge.geometry.region import Region
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.thermal.lines import Feature, Spacing, grid_lines
from ashen_bridge.thermal.merging import CellSizes
from ashen_bridge.thermal.package import PackageFit, PackageShape, fit_package, package_slab
from ashen_bridge.thermal.parts import Film, Heat, HeatModel
from ashen_bridge.thermal.resolution import FINE, package_mesh
from ashen_bridge.thermal.steady import SteadySolver

SHAPE = PackageShape(0.012, 0.014, 0.008, 0.010, 0.3e-3, 0.2e-3, 0.6e-3, 148.0)
WHOLE = Region(((0, 0, 0.012, 0.014),))
JC, JB = 2.6, 9.0


MESH = package_mesh((SHAPE.width, SHAPE.depth), (SHAPE.active_width, SHAPE.active_depth), FINE)


def hottest(top: Region, top_film: float, bottom_film: float) -> float:
    """Hottest junction point above air for 1 W, on the mesh that the package has in its device."""
    slab, active = package_slab("p", WHOLE, SHAPE, fit_package(SHAPE, JC, JB, MESH), (2e6, 2e6))
    # The edge of what covers it has lines of its own, as in a device.
    piece = Feature(top.bounds, 6, edge=FINE.edge)
    followed = (*MESH.sizes.features, piece)
    lines = grid_lines(WHOLE.bounds, followed, Spacing(FINE.widest, FINE.closest))
    slab = replace(slab, layers=tuple(replace(layer, sizes=CellSizes(followed, FINE.widest)) for layer in slab.layers))
    inlay = slab.layers[active[0]].inlay
    assert inlay is not None
    films = (Film("p", 1, top, top_film, 0.0), Film("p", 0, WHOLE, bottom_film, 0.0))
    field = SteadySolver().solve(HeatModel(lines, (slab,), (), films, (Heat("p", active, 1.0, inlay[0]),), 0.0))
    return float(field.temperature[field.grid.slabs["p"].layer(active[0])].max())


def finite_elements(top_half: bool, top_film: float, bottom_film: float, fit: PackageFit) -> float:
    """The same package by trilinear finite elements (scikit-fem), resolved on its own mesh."""
    x, y = np.linspace(0, 0.012, 25), np.linspace(0, 0.014, 29)
    z = np.concatenate([np.linspace(0, 0.3e-3, 4), np.linspace(0.3e-3, 0.5e-3, 4)[1:], np.linspace(0.5e-3, 1.1e-3, 7)[1:]])
    mesh = MeshHex.init_tensor(x, y, z)
    centre = mesh.p[:, mesh.t].mean(axis=1)
    active = (centre[2] > 0.3e-3) & (centre[2] < 0.5e-3) & (abs(centre[0] - 0.006) < 0.004) & (abs(centre[1] - 0.007) < 0.005)
    k = np.where(centre[2] < 0.3e-3, fit.balls, fit.mould)
    k[active] = SHAPE.active_conductivity
    heat = np.where(active, 1.0 / (0.008 * 0.010 * 0.2e-3), 0.0)
    basis = Basis(mesh, ElementHex1(), intorder=3)
    stiffness = BilinearForm(lambda u, v, w: w["k"] * dot(grad(u), grad(v))).assemble(
        basis, k=np.tile(k[:, None], (1, basis.X.shape[-1]))
    )
    load = LinearForm(lambda v, w: w["q"] * v).assemble(basis, q=np.tile(heat[:, None], (1, basis.X.shape[-1])))
    edge = 0.006 if top_half else 1.0
    top = mesh.facets_satisfying(lambda p: (abs(p[2] - 1.1e-3) < 1e-9) & (p[0] < edge), boundaries_only=True)
    bottom = mesh.facets_satisfying(lambda p: abs(p[2]) < 1e-9, boundaries_only=True)
    for facets, film in ((top, top_film), (bottom, bottom_film)):
        stiffness = stiffness + BilinearForm(lambda u, v, w, film=film: film * u * v).assemble(
            FacetBasis(mesh, ElementHex1(), facets=facets, intorder=3)
        )
    solution = spsolve(stiffness.tocsc(), load, permc_spec="MMD_AT_PLUS_A")
    return float(solution[np.unique(mesh.t[:, active])].max())


def test_full_cover_gives_back_both_resistances() -> None:
    assert hottest(WHOLE, 1e9, 1e-9) == pytest.approx(JC, rel=5e-3)
    assert hottest(WHOLE, 1e-9, 1e9) == pytest.approx(JB, rel=5e-3)


@pytest.mark.long
def test_half_covered_package_against_finite_elements() -> None:
    """Each with conductivities that show the two resistances on its own mesh: within 3 %."""
    half = Region(((0, 0, 0.006, 0.014),))
    ours = hottest(half, 5000.0, 400.0), hottest(WHOLE, 5000.0, 400.0)
    fit = fit_package(SHAPE, JC, JB, MESH)
    for _ in range(4):
        # What finite elements show of these conductivities says by how much theirs must differ.
        case, down = finite_elements(False, 1e9, 1e-9, fit), finite_elements(False, 1e-9, 1e9, fit)
        fit = PackageFit(fit.mould * (case / JC) ** 1.2, fit.balls * (down / JB) ** 1.2)
    assert (case, down) == pytest.approx((JC, JB), rel=0.01)
    theirs = finite_elements(True, 5000.0, 400.0, fit), finite_elements(False, 5000.0, 400.0, fit)
    assert ours == pytest.approx(theirs, rel=0.03)


def test_half_cover_is_hotter_than_full_cover() -> None:
    assert hottest(Region(((0, 0, 0.006, 0.014),)), 5000.0, 400.0) > hottest(WHOLE, 5000.0, 400.0) * 1.2


def test_impossible_resistance_is_refused_in_words() -> None:
    with pytest.raises(AssemblyError, match="junction-to-case resistance of 0.0001 K/W cannot be had"):
        fit_package(SHAPE, 1e-4, JB, MESH)
