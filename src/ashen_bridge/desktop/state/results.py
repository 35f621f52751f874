"""Predictions of what is looked at: asked for, refined, remembered; and the thickness strip that stands on them."""

from __future__ import annotations

from collections import OrderedDict
from typing import Any, Literal, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess import errands
from ashen_bridge.assess.result import Assessment, StripCell
from ashen_bridge.changes.layers import stock_of
from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.desktop.state.view import View
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project
from ashen_bridge.predict.fingerprint import shown_hash
from ashen_bridge.worker.protocol import Lane

State = Literal["absent", "stale", "provisional", "current", "refused"]
_PREDICTIONS, _STRIPS = 24, 40  # kept


class Seen(Protocol):
    """What a window looks at, as far as predictions stand on it."""

    view: View

    @property
    def project(self) -> Project:
        """The project as it stands."""

    @property
    def computed(self) -> Project:
        """The project with the numbers of the calibration in use."""

    @property
    def joint(self) -> Joint | None:
        """The joint that is chosen."""

    @property
    def joints(self) -> tuple[str, ...]:
        """The joints that are edited together."""


class Results(QObject):
    """What has been computed of one window. `changed` follows the prediction, `strip_changed` the strip."""

    changed = pyqtSignal()
    strip_changed = pyqtSignal()

    def __init__(self, seen: Seen, runner: Runner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._seen, self._runner = seen, runner
        self._known: OrderedDict[str, Assessment] = OrderedDict()
        self._strips: OrderedDict[tuple[str, tuple[str, ...]], dict[float, StripCell]] = OrderedDict()
        self._strip_for: tuple[str, tuple[str, ...]] | None = None
        self._number = 0
        self._key = ""
        self.assessment: Assessment | None = None
        self.state: State = "absent"
        self.refusal = ""

    def start(self, stored: Assessment | None, believed: bool) -> None:
        """Begin with what a file stores: shown until it has been computed afresh, unless it is `believed`."""
        self.assessment, self.state, self.refusal = stored, "absent" if stored is None else "stale", ""
        if stored is not None and believed:
            self._known[self._now()] = stored

    @property
    def stored_s(self) -> float | None:
        """How slow the device is by its prediction [s], None while there is none."""
        return self.assessment.report.stored_s if self.assessment is not None else None

    def _now(self) -> str:
        """Return by what the prediction of what is looked at is known."""
        return shown_hash(self._seen.computed, self._seen.view.build, self._seen.view.point)

    def request(self) -> None:
        """Bring the prediction up to date: from memory if it is there, else by asking the worker."""
        seen = self._seen
        self._runner.forget(self._number)
        try:
            self._key = self._now()
        except AshenError as error:
            self._refuse(str(error))
            return
        known = self._known.get(self._key)
        if known is not None:
            self._known.move_to_end(self._key)
            self.assessment, self.state, self.refusal = known, "current", ""
            self.changed.emit()
            self.request_strip()
            return
        self.state = "stale" if self.assessment and self.assessment.report.build == seen.view.build else "absent"
        if self.state == "absent":
            self.assessment = None
        self.changed.emit()
        asked = seen.computed, seen.view.build, seen.view.point
        self._number = self._runner.ask(Lane.PREDICTION, errands.predict, *asked, step=self._take, end=self._end)

    def _take(self, found: Assessment, progress: float) -> None:
        judged = progress >= 1
        # Findings come after the fine field; until they are there those of before stay.
        findings = found.findings if judged or self.assessment is None else self.assessment.findings
        self.assessment = Assessment(found.prediction, findings)
        self.state, self.refusal = ("current" if judged else "provisional"), ""
        if judged:
            self._known[self._key] = found
            while len(self._known) > _PREDICTIONS:
                self._known.popitem(last=False)
        self.changed.emit()
        if judged:
            self.request_strip()

    def _end(self, stage: str, problem: str) -> None:
        if stage == "error":
            self._refuse(problem)

    def _refuse(self, text: str) -> None:
        self.state, self.refusal = "refused", text
        self._strip_for = None
        self.changed.emit()
        self.strip_changed.emit()

    # ---- the strip

    @property
    def thicknesses(self) -> tuple[float, ...]:
        """Stock thicknesses [mm] of the selected joints, empty if they hold no sheet."""
        seen = self._seen
        joint = seen.joint
        if joint is None or joint.sheet_at is None:
            return ()
        return stock_of(seen.project, seen.view.build, seen.joints)

    @property
    def strip(self) -> dict[float, StripCell]:
        """The cells of the present strip that are ready."""
        return self._strips.get(self._strip_for, {}) if self._strip_for else {}

    def request_strip(self) -> None:
        """Ask for the thickness strip of the selected joints, once the numbers it stands on are final."""
        joints = self._seen.joints
        if self.state != "current" or self.assessment is None or not joints or not self.thicknesses:
            self._strip_for = None
            self.strip_changed.emit()
            return
        place = self._strip_for = (self.assessment.report.input_hash, joints)
        if len(self._strips.get(place, {})) < len(self.thicknesses):
            cells: dict[float, StripCell] = {}
            self._strips[place] = cells
            while len(self._strips) > _STRIPS:
                self._strips.popitem(last=False)

            def take(cell: Any, _: float) -> None:
                cells[cell.thickness_mm] = cell
                self.strip_changed.emit()

            asked = self._seen.computed, self.assessment.report, joints, self.thicknesses
            self._runner.ask(Lane.STRIP, errands.thickness_strip, *asked, step=take)
        self.strip_changed.emit()
