"""A prediction for scripts: temperatures by id, and fields and joints as arrays with coordinates and units."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.api.engines import engine, engine_for
from ashen_bridge.arrays import Floats
from ashen_bridge.assess.assessment import judge
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.meshes import MOST_HALVINGS, Mesh
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import Report


@dataclass(frozen=True)
class Raster:
    """Values on a raster in plan, in board coordinates seen from the front.

    x_mm (nx,), y_mm (ny,) : middles of its cells, rising; values (ny, nx) : NaN where nothing is; `unit` of the values.
    """

    x_mm: Floats
    y_mm: Floats
    values: Floats
    unit: str

    def at(self, x_mm: float, y_mm: float) -> float:
        """Return the value of the cell whose middle is nearest."""
        return float(self.values[np.abs(self.y_mm - y_mm).argmin(), np.abs(self.x_mm - x_mm).argmin()])


@dataclass(frozen=True)
class Result:
    """One prediction: what it says in short, and everything it knows in `report`; what is wrong with the build in `findings`."""

    report: Report
    findings: tuple[Finding, ...]
    prediction: Prediction

    @property
    def ambient_c(self) -> float:
        """Ambient [°C]."""
        return self.report.ambient_c

    @property
    def sensors_c(self) -> dict[str, float]:
        """What every sensor shows [°C], by id."""
        return {row.id: row.value_c for row in self.report.sensors}

    @property
    def hottest_c(self) -> dict[str, float]:
        """The hottest place of every component [°C], by id."""
        return {row.id: row.t_max_c for row in self.report.components}

    @property
    def plates_c(self) -> dict[str, float]:
        """The mean temperature of every plate [°C], by id."""
        return {row.id: row.t_mean_c for row in self.report.plates}

    @property
    def faces_c(self) -> dict[str, float]:
        """The hottest place of every face that can be touched [°C], by what it is called in the report."""
        return {row.name: row.t_max_c for row in self.report.skin}

    @property
    def mesh_error_k(self) -> float | None:
        """What refining the mesh would still change [K], at most; None on the coarse mesh."""
        return self.report.mesh.refinement_k

    @property
    def storeys(self) -> tuple[str, ...]:
        """What `field` can show: `front` and `rear` of the board with all that stands on it, and every plate by id."""
        return tuple(self.prediction.maps.storeys)

    def field(self, storey: str) -> Raster:
        """Return the temperature [°C] of a storey in plan. Raises `AshenError` for one that there is not.

        The cells are those of the mesh, so they are not all of one size.
        """
        maps = self.prediction.maps
        if storey not in maps.storeys:
            raise AshenError(f"There is no storey '{storey}'; there are: {', '.join(maps.storeys)}.")
        x, y = ((lines[1:] + lines[:-1]) / 2 for lines in (maps.x_mm, maps.y_mm))
        return Raster(x, y, np.asarray(maps.storeys[storey], dtype=float), "°C")

    def bond_line(self, joint: str, lower: str | None = None) -> Raster:
        """Return the bond line [µm] of a joint over one of its lower bodies (the first if none is named)."""
        return self._of_joint(joint, lower, "bond_line_um", "µm")

    def pressure(self, joint: str, lower: str | None = None) -> Raster:
        """Return the pressure [kPa] of a joint over one of its lower bodies (the first if none is named)."""
        return self._of_joint(joint, lower, "pressure_kpa", "kPa")

    def _of_joint(self, joint: str, lower: str | None, what: str, unit: str) -> Raster:
        known = [one for one in self.prediction.maps.joints if one.joint == joint]
        found = next((one for one in known if lower is None or one.lower == lower), None)
        if found is None:
            there = ", ".join(f"{one.joint} over {one.lower}" for one in self.prediction.maps.joints)
            raise AshenError(f"There is no map of joint '{joint}'{f' over {lower!r}' if lower else ''}; there are: {there}.")
        values = np.asarray(getattr(found, what), dtype=float)
        x0, y0, x1, y1 = found.box
        ny, nx = values.shape
        x = x0 + (np.arange(nx) + 0.5) * (x1 - x0) / nx
        return Raster(x, y0 + (np.arange(ny) + 0.5) * (y1 - y0) / ny, values, unit)


def predict(
    project: Project,
    build: str | None = None,
    point: str | None = None,
    *,
    mesh: Mesh = "fine",
    tolerance_k: float | None = None,
) -> Result:
    """Return the prediction of a build (the main one) at an operating point (the first), with the calibration in use.

    `mesh` : "coarse", "fine", or how many times every interval of the fine one is halved (0 to 3). `tolerance_k` : refine until
    what refining would still change is at most that [K]; `mesh` then says where to begin. Raises `AshenError` in one sentence
    for what cannot be computed, and where the finest mesh does not reach the tolerance.

    >>> from ashen_bridge import api
    >>> found = api.predict(api.open("demo:correlator"), build="as_found", mesh="coarse")
    >>> found.bond_line("die_joint").values.shape == found.pressure("die_joint").values.shape
    True
    """
    used = in_force(project)
    found, fidelity = engine_for(mesh)
    made = found.predict(used, build, point, fidelity=fidelity)
    if tolerance_k is not None:
        halvings = mesh if isinstance(mesh, int) else 0
        if fidelity == "coarse":
            made = engine().predict(used, build, point)
        while (made.report.mesh.refinement_k or 0.0) > tolerance_k:
            halvings += 1
            if halvings > MOST_HALVINGS:
                left = made.report.mesh.refinement_k
                raise AshenError(f"On the finest mesh {left:.2g} K are still uncertain, more than {tolerance_k:g} K.")
            found = engine(halvings)
            made = found.predict(used, build, point)
    assessment = judge(used, made, engine=found)
    return Result(made.report, assessment.findings, made)
