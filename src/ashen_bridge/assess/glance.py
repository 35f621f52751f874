"""A first look at a changed device: bond lines and pressures as they are, temperatures from the last system's factors.

The mechanics are those of a whole prediction. Of the heat, the coarse system of a state that was predicted is kept with its
factors; another thickness or material changes some of its links, and conjugate gradients led by those factors answer in a few
steps. Rises are brought to the refined prediction in proportion, and everything is found anew by the fields that follow.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import LinearOperator, cg

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.model.project import Project
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.mechanics_rows import poses
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.report import ComponentRow, JointRow, Report, SensorRow
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.thermal.factorised import Factorised
from ashen_bridge.uncertainty.directions import Base
from ashen_bridge.uncertainty.heat_answers import HeatAnswers
from ashen_bridge.uncertainty.joint_links import JointLinks

_CLOSE, _MOST = 1e-3, 12  # relative residual of a first look, and steps after which new factors are the shorter way
_LITTLE_K = 1.0  # rises below which there is no proportion
_FIELDS = 10  # of earlier looks, from which the next one starts
_HOTTEST = "hottest "


def glance_at(engine: Engine, project: Project, build: str, point: str) -> Prediction | None:
    """Return a first look at a state; None where nothing alike has been predicted yet."""
    known = engine.workings.get(_key(build, point))
    return known.shows(engine, project) if isinstance(known, Glance) else None


def keep_for_glances(engine: Engine, project: Project, prediction: Prediction) -> None:
    """Keep what later first looks at states like this one stand on."""
    report = prediction.report
    if not project.point(report.point).throttle_at_c:
        engine.workings.keep(_key(report.build, report.point), Glance(engine, project, prediction))


def _key(build: str, point: str) -> str:
    return f"glance {build} {point}"


class Glance:
    """What is kept of a state that was predicted, to look at others of its shape."""

    def __init__(self, engine: Engine, project: Project, prediction: Prediction) -> None:
        report = prediction.report
        half = engine.rest(project, report.build, None)
        self.prediction = prediction
        self._coarse = CoarseModel(half, project.point(report.point))
        system = self._coarse.system
        joints = JointLinks(half.scene, half.assembly, system, self._coarse.rises)
        self._base = Base(project, report.build, report.point, half.scene, half.assembly, half.coordinates, joints)
        self._answers = HeatAnswers(self._base, self._coarse)
        self._factors = Factorised(system)
        self._rises = self._factors.solve(system.right[:, None])[:, 0]
        self._middle = self._read(self._rises)
        self._fields = [self._rises]

    @property
    def size(self) -> float:
        """About how much memory it takes [bytes]."""
        return 8.0 * 60 * self._coarse.system.n

    def shows(self, engine: Engine, project: Project) -> Prediction | None:
        """Return the prediction with what another project changes of it at once; None where that has another shape."""
        point = project.point(self._base.point)
        if point.throttle_at_c:
            return None
        try:
            half = engine.rest(project, self._base.build, point)
            rises = self._solved(project, half, engine.called_off) if self._alike(half) else None
        except AshenError:
            return None
        return None if rises is None else self._shown(half, self._read(rises))

    def _alike(self, half: AtRest) -> bool:
        base = self._base
        same = half.scene.plan.facings == base.scene.plan.facings and half.scene.bodies.keys() == base.scene.bodies.keys()
        return same and half.assembly.n_dof == base.assembly.n_dof

    def _solved(self, project: Project, half: AtRest, called_off: Callable[[], bool]) -> Floats:
        """Return the rises (n,) [K] of the changed system. Raises `Cancelled`: of a strip nobody need wait for a whole look."""

        def go_on(_: Floats | None = None) -> None:
            if called_off():
                raise Cancelled

        go_on()
        system, joints = self._coarse.system, self._base.joints
        change, halves = self._answers.in_project(project)
        conductance = system.conductance.copy()
        conductance[change.links] += change.conductance
        conductance[joints.links] = joints.conductance_in(half.scene, half.assembly, half.coordinates, half.coverage, halves)
        matrix = self._factors.matrix(conductance, system.diagonal + change.diagonal)
        led = LinearOperator(matrix.shape, matvec=lambda right: self._factors.solve(right.reshape(-1, 1))[:, 0], dtype=np.float64)
        right = system.right + change.right
        found, info = cg(matrix, right, x0=self._nearest(matrix, right), rtol=_CLOSE, maxiter=_MOST, M=led, callback=go_on)
        rises = self._factors.solved_anew(matrix, right) if info else np.asarray(found)
        self._fields = [self._rises, rises, *self._fields[1 : _FIELDS - 1]]
        return rises

    def _nearest(self, matrix: csr_matrix, right: Floats) -> Floats:
        """Return the field that comes nearest in energy among those that were seen already."""
        seen = np.column_stack(self._fields)
        return np.asarray(seen @ np.linalg.lstsq(seen.T @ (matrix @ seen), seen.T @ right, rcond=1e-12)[0])

    def _read(self, rises: Floats) -> dict[str, float]:
        """Return what sensors and the hottest places of components show on the coarse field [°C]."""
        values = self._coarse.read(rises[:, None], np.ones((1, 1)))[0]
        read = {one.id: float(value) for one, value in zip(self._coarse.readings, values, strict=True)}
        return read | {f"{_HOTTEST}{name}": value for name, value in self._coarse.hottest(rises).items()}

    def _refined(self, key: str, was: float, now: dict[str, float]) -> float:
        """Return a temperature [°C] that was `was` refined, by the proportion in which the coarse field moved."""
        if key not in now:
            return was
        ambient = self.prediction.report.ambient_c
        before = self._middle[key] - ambient
        moved = now[key] - self._middle[key]
        return was + moved * ((was - ambient) / before if abs(before) > _LITTLE_K else 1.0)

    def _shown(self, half: AtRest, now: dict[str, float]) -> Prediction:
        report, maps = self.prediction.report, self.prediction.maps
        changed = {
            "fidelity": "glance",
            "input_hash": half.input_hash,
            "sensors": tuple(self._sensor(row, now) for row in report.sensors),
            "components": tuple(self._component(row, now) for row in report.components),
            "joints": _joints(report, half),
        }
        made = type(maps)(half.maps, maps.x_mm, maps.y_mm, maps.storeys, maps.flux, maps.bow_um)
        return Prediction(report.model_copy(update=changed), made, poses(half.assembly, half.coordinates))

    def _sensor(self, row: SensorRow, now: dict[str, float]) -> SensorRow:
        value = self._refined(row.id, row.value_c, now)
        margin = None if row.limit_c is None else row.limit_c - value
        return row.model_copy(update={"value_c": value, "margin_k": margin})

    def _component(self, row: ComponentRow, now: dict[str, float]) -> ComponentRow:
        hottest = self._refined(f"{_HOTTEST}{row.id}", row.t_max_c, now)
        return row.model_copy(update={"t_max_c": hottest, "t_mean_c": row.t_mean_c + hottest - row.t_max_c})


def _joints(report: Report, half: AtRest) -> tuple[JointRow, ...]:
    now = {(one.joint, one.lower): one for one in half.joints}
    rows = []
    for row in report.joints:
        found = now.get((row.id, row.lower))
        if found is not None:
            row = row.model_copy(update={name: getattr(found, name) for name in found.__dataclass_fields__ if name != "joint"})
        rows.append(row)
    return tuple(rows)
