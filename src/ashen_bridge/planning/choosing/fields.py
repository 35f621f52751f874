"""The heat of many plans on few fields: the answers to every joint, and whole solutions at plans that show every option."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.sparse.linalg import LinearOperator, cg

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.readings import SensorCells
from ashen_bridge.thermal.factorised import Factorised
from ashen_bridge.thermal.reduced import Change, ReducedModel
from ashen_bridge.uncertainty.joint_links import JointLinks
from ashen_bridge.uncertainty.span import LEAST_K, Trials, applied, spanning

_CLOSE, _MOST, _TURNS = 1e-3, 40, 2
_CORRECTED = 6  # trials at which the answers to joints are corrected before whole solutions are asked for
_CHUNK = 200


class Fields:
    """A reduced model of one coarse system whose joints vary from plan to plan.

    `feedback` says what bodies change of it by getting warmer: air that rises faster, radiation, leakage, conductivities. Each
    plan's own temperatures act back on it, since plans may differ by tens of kelvins.
    """

    def __init__(
        self, coarse: CoarseModel, joints: JointLinks, feedback: Sequence[tuple[SensorCells, Change]], trials: Floats
    ) -> None:
        self._coarse, self._joints = coarse, joints
        self._bodies = [body for body, _ in feedback]
        changes = [change for _, change in feedback]
        system = coarse.system
        self._now = system.conductance[joints.links]
        few = trials[:: max(1, len(trials) // _CORRECTED)]
        basis = spanning(system, coarse.rises, [], joints, Trials(np.zeros((len(few), 0)), few))
        self._set(basis, changes)
        self._set(self._wider(basis, changes, trials), changes)

    def _set(self, basis: Floats, changes: Sequence[Change]) -> None:
        self.model = ReducedModel(self._coarse.system, basis, changes, self._joints.links, self._joints.groups)
        weights = [(body.cells, body.weights) for body in self._bodies]
        self._means = (
            np.stack([w @ basis[cells] for cells, w in weights if w is not None]) if weights else np.zeros((0, basis.shape[1]))
        )
        self._cells = [basis[cells] for cells in self._coarse.made_in().values()]
        self._at = np.array([w @ self._coarse.rises[cells] for cells, w in weights if w is not None])

    def _wider(self, basis: Floats, changes: Sequence[Change], trials: Floats) -> Floats:
        """Return the basis with what it lacks of whole solutions at the trials."""
        system = self._coarse.system
        solver = Factorised(system)
        found = self.solved(trials)
        missing = []
        for links, start in zip(trials, found, strict=True):
            acts = self._means @ start - self._at
            conductance, diagonal, right = applied(system, changes, acts)
            conductance[self._joints.links] += links - self._now
            matrix = solver.matrix(conductance, diagonal)
            led = LinearOperator(matrix.shape, matvec=lambda r: solver.solve(r.reshape(-1, 1))[:, 0], dtype=np.float64)
            field, _ = cg(matrix, right, x0=basis @ start, rtol=_CLOSE, maxiter=_MOST, M=led)
            missing.append(np.asarray(field) - basis @ (basis.T @ np.asarray(field)))
        rest = np.stack(missing, axis=1)
        sizes, along = np.linalg.eigh(rest.T @ rest)
        kept = np.flatnonzero(sizes > LEAST_K**2 * system.n)[::-1]
        return np.asarray(np.linalg.qr(np.hstack([basis, rest @ along[:, kept] / np.sqrt(sizes[kept])]))[0])

    @property
    def rank(self) -> int:
        """Number of fields."""
        return self.model.rank

    def solved(self, links: Floats) -> Floats:
        """Return coefficients (s, r) of plans whose joints' links conduct `links` (s, n_link) [W/K]."""
        parts = []
        with one_blas_thread():
            for at in range(0, len(links), _CHUNK):
                joints = self.model.joints(links[at : at + _CHUNK] - self._now)
                acts = np.zeros((len(joints), len(self._bodies)))
                found = self.model.answer(acts, joints)
                for _ in range(_TURNS if len(self._bodies) else 0):
                    found = self.model.answer(found @ self._means.T - self._at, joints)
                parts.append(found)
        return np.vstack(parts) if parts else np.zeros((0, self.rank))

    def sensors(self, found: Floats) -> Floats:
        """Return what sensors show (s, n_sensor) [°C]."""
        return self._coarse.read(self.model.basis, found)

    def parts(self, found: Floats) -> Floats:
        """Return how hot every part gets where it makes its heat (s, n_part) [°C]."""
        return np.stack([(found @ cells.T).max(axis=1) for cells in self._cells], axis=1) + self._coarse.celsius
