"""Heat that goes sideways in a joint: against finite elements, on the default mesh, and nothing that is not there before."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy.sparse.linalg import spsolve
from skfem import Basis, BilinearForm, ElementHex1, FacetBasis, LinearForm, MeshHex

from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.resolution import COARSE, FINE, frame_of
from ashen_bridge.thermal.sheets import sheets_of
from ashen_bridge.uncertainty.preparation import prepared
from devices import FOUR, Card, project
from test_boards import heated_plate, material, outline

Plain = dict[str, Any]
FILM = 1 / (0.5 * 60e-3 * 50e-3)


def spread_by(sheet: Plain | None, area: tuple[float, float, float, float], k: float = 12.0, along: float = 1500.0) -> Project:
    """A part of 12 × 10 mm under a rather poor plate of 60 × 50 mm, with a sheet of 0.2 mm between that may reach beyond it."""
    made = heated_plate(thickness_mm={"value": 0.6}).model_dump(mode="json")
    made["materials"].append(material("foil", k, along) | {"kind": "solder"})
    piece = {"id": "sheet", "material": "foil", "thickness_mm": {"value": 0.2}, "footprint": outline(*area), **(sheet or {})}
    made["builds"][0]["joints"][0].update(stated_mm2k_w=None, pieces=[piece], compliance_um_n={"value": 1e-9})
    made["points"][0]["powers_w"] = {"source": {"value": 10.0}}
    return Project.parse(made)


def finite_elements(area: tuple[float, float, float, float], k: float, along: float) -> float:
    """The same by trilinear finite elements: part, sheet and plate as solids; mean rise of the part."""
    mm = 1e-3
    x0, y0, w, h = (v * mm for v in area)

    def line(marks: list[float], end: float) -> np.ndarray:
        points = {0.0, end}
        for mark in marks:
            step = 0.3 * mm * 1.7 ** np.arange(9)
            points |= {mark, *(mark + np.cumsum(step)), *(mark - np.cumsum(step))}
        kept = np.array(sorted(v for v in points if 0 <= v <= end))
        marks_too = np.array([*marks, 0.0, end])
        good = [kept[0]]
        for v in kept[1:]:
            close = v - good[-1] < 0.25 * mm
            if close and np.isclose(marks_too, v, atol=1e-9).any():
                good[-1] = v if not np.isclose(marks_too, good[-1], atol=1e-9).any() else good[-1]
            elif not close:
                good.append(v)
        return np.array(good)

    x = line([14 * mm, 26 * mm, x0, x0 + w], 60 * mm)
    y = line([12 * mm, 22 * mm, y0, y0 + h], 50 * mm)
    z = mm * np.array([0, 0.25, 0.5, 0.6, 0.7, 0.8, 0.9, 1.1, 1.3])
    mesh = MeshHex.init_tensor(x, y, z)
    c = mesh.p[:, mesh.t].mean(axis=1)
    part = (c[2] < 0.5 * mm) & (c[0] > 14 * mm) & (c[0] < 26 * mm) & (c[1] > 12 * mm) & (c[1] < 22 * mm)
    sheet = (c[2] > 0.5 * mm) & (c[2] < 0.7 * mm) & (c[0] > x0) & (c[0] < x0 + w) & (c[1] > y0) & (c[1] < y0 + h)
    plate = c[2] > 0.7 * mm
    mesh = mesh.restrict(np.flatnonzero(part | sheet | plate))
    keep = part | sheet | plate
    part, sheet = part[keep], sheet[keep]
    basis = Basis(mesh, ElementHex1(), intorder=3)
    shape = (1, basis.X.shape[-1])
    k_along = np.where(part, 200.0, np.where(sheet, along, 200.0))
    k_through = np.where(part, 200.0, np.where(sheet, k, 200.0))

    def conduction(u: Any, v: Any, q: Any) -> Any:
        return q["a"] * (u.grad[0] * v.grad[0] + u.grad[1] * v.grad[1]) + q["t"] * u.grad[2] * v.grad[2]

    matrix = BilinearForm(conduction).assemble(basis, a=np.tile(k_along[:, None], shape), t=np.tile(k_through[:, None], shape))
    cooled = mesh.facets_satisfying(lambda p: np.isclose(p[2], 1.3 * mm), boundaries_only=True)
    matrix = matrix + BilinearForm(lambda u, v, q: FILM * u * v).assemble(
        FacetBasis(mesh, ElementHex1(), facets=cooled, intorder=3)
    )
    heated = Basis(mesh, ElementHex1(), elements=np.flatnonzero(part), intorder=3)
    volume = 12e-3 * 10e-3 * 0.5e-3
    load = LinearForm(lambda v, q: 10.0 / volume * v).assemble(heated)
    found = spsolve(matrix.tocsc(), load, permc_spec="MMD_AT_PLUS_A")
    return float(load @ found / 10.0)


WIDE, JUST = (5.0, 4.0, 35.0, 30.0), (14.0, 12.0, 12.0, 10.0)


@pytest.mark.parametrize("area", [WIDE, JUST], ids=["reaches beyond", "as large as the part"])
def test_a_spreading_sheet_against_finite_elements(area: tuple[float, float, float, float]) -> None:
    ours = Engine().predict(spread_by(None, area)).report.component("source").t_mean_c - 25.0
    assert ours == pytest.approx(finite_elements(area, 12.0, 1500.0), rel=0.04)


def test_without_the_sheets_own_spreading_it_would_be_far_hotter() -> None:
    hot = {along: Engine().predict(spread_by(None, WIDE, along=along)).report for along in (12.0, 1500.0)}
    rises = [report.component("source").t_mean_c - 25.0 for report in hot.values()]
    assert rises[0] > 1.5 * rises[1]
    for report in hot.values():
        assert report.balance.energy_rel < 1e-6
        ledger = [row.watts for row in report.ledger if row.component == "source"]
        assert sum(ledger) == pytest.approx(10.0, rel=1e-5)


def thick_pads(thickness: float = 2.5) -> Card:
    return Card(tuple(replace(part, pad=thickness, height=3.0 - thickness + 0.3) for part in FOUR))


def test_the_program_decides_which_layers_get_cells() -> None:
    thin, thick = (make_scene(resolve(project(card))) for card in (Card(FOUR), thick_pads()))
    assert not [one for one in sheets_of(thin) if one.joint == "die_joint"], "paste leads heat straight across"
    assert {one.joint for one in sheets_of(thick)} == {"pad_0", "pad_1", "pad_2", "pad_3"}
    for scene in (thin, thick):
        assert {one.id for one in frame_of(scene, COARSE).sheets} == {one.id for one in frame_of(scene, FINE).sheets}


def test_cells_or_a_link_make_little_difference_where_little_goes_sideways(monkeypatch: pytest.MonkeyPatch) -> None:
    """The switch is no cliff: the same pads once as links, once as sheets."""
    made = project(thick_pads(1.5))
    tops = []
    for far in (1.0, 1e-5):
        monkeypatch.setattr("ashen_bridge.thermal.sheets.FAR", far)
        monkeypatch.setattr("ashen_bridge.thermal.sheets.OF_SIZE", 1e3)
        report = Engine().predict(made).report
        tops.append([row.t_max_c for row in report.components])
        row = report.joint_rows("pad_0")[0]
        assert row.resistance_mm2k_w == pytest.approx(sum(one.resistance_mm2k_w for one in row.layers), rel=0.05)
    assert np.abs(np.diff(tops, axis=0)).max() < 0.3


def test_chances_see_through_a_sheet() -> None:
    """First order, by moving the pads' conductivity in whole predictions, against the sampler's own answer."""
    made = paths.set_values(project(thick_pads()), {"materials.pad_medium.conductivity_w_mk.uncertainty": 0.6})
    sampler = prepared(Engine(), made)
    at = next(n for n, one in enumerate(sampler.numbers) if one.paths[0] == "materials.pad_medium.conductivity_w_mk")
    drawn = np.zeros((2, len(sampler.numbers)))
    drawn[:, at] = (1.0, -1.0)
    values, fine = sampler.temperatures(drawn)
    assert fine.all()
    for sign, row in zip((1.0, -1.0), values, strict=True):
        moved = paths.set_values(made, {"materials.pad_medium.conductivity_w_mk": 6.0 + sign * 0.6})
        report = Engine().predict(moved, fidelity="coarse").report
        base = Engine().predict(made, fidelity="coarse").report
        expected = [a.value_c - b.value_c for a, b in zip(report.sensors, base.sensors, strict=True)]
        assert row - sampler.nominal == pytest.approx(expected, abs=0.15)
