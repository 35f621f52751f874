"""One open window's state: document, what is looked at, and the results that belong to it. Data flows one way:

edit → document → request → worker → result → views. Views only read from here and ask for edits.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess.result import Assessment, StripCell
from ashen_bridge.assess.stored import REPORT, named, pack, unpack
from ashen_bridge.assess.worker import Result
from ashen_bridge.changes.edit import Edit
from ashen_bridge.changes.layers import stock_of
from ashen_bridge.desktop.document import Document
from ashen_bridge.desktop.jobs import JobRunner
from ashen_bridge.desktop.runs_desk import RunsDesk
from ashen_bridge.desktop.tasks import Tasks
from ashen_bridge.editing.targets import Target, targets
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.geometry.section import Cut
from ashen_bridge.model.bodies import Component, Side
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.outcome import Chances

State = Literal["absent", "stale", "provisional", "current", "refused"]
Overlay = Literal["margins", "bond line", "pressure", "temperature", "bow", "flux"]
Page = Literal["joint", "part", "assumptions", "chance"]
Workspace = Literal["baseline", "stack", "prove"]
RunPage = Literal["run", "compare", "diagnose", "fit", "aims"]
OVERLAYS: tuple[Overlay, ...] = ("margins", "bond line", "pressure", "temperature", "bow", "flux")


@dataclass(frozen=True)
class View:
    """What is looked at; never part of undo. `selected` is the id of a body or a joint.

    `run` is looked at `against` an earlier one, which may have a repeat `again`; of `run_pass` the `columns` that were chosen.

    While the device is `editing`, `chosen` holds the paths of what the next edit is about and `tool` what the mouse does.
    """

    build: str
    point: str
    selected: str = ""
    whole_group: bool = True
    overlay: Overlay = "margins"
    side: Side = Side.FRONT
    cut: Cut = field(default_factory=lambda: Cut("x", 0.05))
    editing: bool = False
    chosen: tuple[str, ...] = ()
    tool: str = "choose"
    page: Page = "joint"
    lower: Literal["cut", "time"] = "cut"
    workspace: Workspace = "stack"
    run: str = ""
    against: str = ""
    again: str = ""
    run_page: RunPage = "run"
    run_pass: int = 0
    columns: tuple[str, ...] = ()
    equal_power: bool = False


class Session(QObject):
    """State of one window."""

    project_changed = pyqtSignal()
    view_changed = pyqtSignal()
    result_changed = pyqtSignal()
    strip_changed = pyqtSignal()
    busy_changed = pyqtSignal(bool)
    refused = pyqtSignal(str)
    document_replaced = pyqtSignal()
    chance_changed = pyqtSignal()

    def __init__(self, document: Document, extras: dict[str, bytes], runner: JobRunner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.runner = runner
        self.tasks = Tasks(runner, self)
        self.runs = RunsDesk(self)
        self.result_changed.connect(self._tell_runs)
        runner.finished.connect(self._take)
        runner.busy.connect(self.busy_changed)
        self._results: OrderedDict[str, Assessment] = OrderedDict()
        self._strips: OrderedDict[tuple[str, tuple[str, ...]], dict[float, StripCell]] = OrderedDict()
        self._strip_for: tuple[str, tuple[str, ...]] | None = None
        self._number = self._strip_number = 0
        self._chances: OrderedDict[str, Chances] = OrderedDict()
        self._scene_of: tuple[Project, str, Scene | None] | None = None
        self._computed_of: tuple[Project, Project] | None = None
        self._targets_of: tuple[Project, str, tuple[Target, ...]] | None = None
        self.assessment: Assessment | None = None
        self.state: State = "absent"
        self.refusal = ""
        self.replace_document(document, extras)

    # ---- document

    def replace_document(self, document: Document, extras: dict[str, bytes]) -> None:
        """Show another document; its stored prediction is painted at once if it can be read and is of what it holds.

        What a file stores is shown until it has been computed afresh, never taken for that.
        """
        self.tasks.cancel()
        self.document = document
        document.changed.connect(self._document_changed)
        self.assessment, self.state, self.refusal = None, "absent", ""
        self.view = _first_view(document.project)
        stored = self._stored(extras)
        if stored is not None:
            self.assessment, self.state = stored, "stale"
            if document.shipped:
                self._remember(stored)
        self.document_replaced.emit()
        self.project_changed.emit()
        self.view_changed.emit()
        self.request()

    def _stored(self, extras: dict[str, bytes]) -> Assessment | None:
        """Return the stored prediction of what is looked at; None where there is none, or it is damaged or of something else."""
        if REPORT not in extras:
            return None
        try:
            stored = unpack(extras)
            wanted = input_hash(self.computed, self.view.build, self.view.point)
        except AshenError:
            return None
        bodies = set(self.project.bodies_known(self.build))
        return stored if stored.report.input_hash == wanted and named(stored) <= bodies else None

    @property
    def project(self) -> Project:
        """The present project."""
        return self.document.project

    @property
    def computed(self) -> Project:
        """The project that is computed: with the numbers of the calibration in use."""
        if self._computed_of is None or self._computed_of[0] is not self.project:
            self._computed_of = (self.project, in_force(self.project))
        return self._computed_of[1]

    @property
    def build(self) -> Build:
        """The build that is looked at; an empty one while the project has none."""
        return self.project.build(self.view.build) if self.project.builds else Build(id="none")

    @property
    def point(self) -> OperatingPoint:
        """The operating point that is looked at."""
        return self.project.point(self.view.point)

    def apply(self, edit: Edit) -> bool:
        """Apply an edit; a refusal is reported in words and leaves everything as it was."""
        problem = self.attempt(edit)
        if problem:
            self.refused.emit(problem)
        return not problem

    def attempt(self, edit: Edit) -> str:
        """Apply an edit and return nothing, or the sentence that says why it was refused."""
        try:
            self.document.apply(edit)
        except AshenError as error:
            return str(error)
        return ""

    def targets(self) -> tuple[Target, ...]:
        """Return everything that can be chosen in the build that is looked at."""
        if self._targets_of is None or self._targets_of[0] is not self.project or self._targets_of[1] != self.view.build:
            self._targets_of = (self.project, self.view.build, targets(self.project, self.view.build))
        return self._targets_of[2]

    @property
    def chosen(self) -> tuple[Target, ...]:
        """What the next edit is about, in the order it was chosen."""
        by_path = {target.path: target for target in self.targets()}
        return tuple(by_path[path] for path in self.view.chosen if path in by_path)

    def choose(self, *paths: str) -> None:
        """Choose by path; a single body is also what the figures are shown of."""
        by_path = {target.path: target for target in self.targets()}
        kept = tuple(dict.fromkeys(path for path in paths if path in by_path))
        bodies = ("board", "substrate", "component", "plate", "piece")
        first = by_path[kept[0]] if kept else None
        self.look(chosen=kept, selected=first.id if first is not None and first.kind in bodies else self.view.selected)

    def extras_to_save(self) -> dict[str, bytes]:
        """Return the files of the present prediction, if it is a finished one."""
        return pack(self.assessment) if self.assessment is not None and self.state == "current" else {}

    def _document_changed(self) -> None:
        ids = [build.id for build in self.project.builds]
        points = [point.id for point in self.project.points]
        if self.view.build not in ids or self.view.point not in points:
            first = _first_view(self.project)
            build = self.view.build if self.view.build in ids else first.build
            self.look(build=build, point=self.view.point if self.view.point in points else first.point)
        runs = [run.id for run in self.project.runs]
        gone = {name: "" for name in ("run", "against", "again") if getattr(self.view, name) not in (*runs, "")}
        if gone:
            self.look(**gone)
        self.project_changed.emit()
        self.request()

    # ---- view

    def look(self, **changes: object) -> None:
        """Change what is looked at."""
        old = self.view
        self.view = View(**{**vars(old), **changes})
        if self.view == old:
            return
        self.view_changed.emit()
        if (self.view.build, self.view.point) != (old.build, old.point):
            self.project_changed.emit()
            self.request()
        elif (self.view.selected, self.view.whole_group) != (old.selected, old.whole_group):
            self.request_strip()

    @property
    def run(self) -> Run | None:
        """The run that is looked at: the chosen one, else the first."""
        runs = {run.id: run for run in self.project.runs}
        chosen = runs.get(self.view.run)
        return chosen or next(iter(runs.values()), None)

    @property
    def against(self) -> Run | None:
        """The run that stands for "before": the chosen one, else the first."""
        runs = {run.id: run for run in self.project.runs}
        return runs.get(self.view.against) or next(iter(runs.values()), None)

    @property
    def joint(self) -> Joint | None:
        """The joint that is selected, or the one over the selected body."""
        for joint in self.build.joints:
            if joint.id == self.view.selected or self.view.selected in joint.lower:
                return joint
        return None

    @property
    def joints(self) -> tuple[str, ...]:
        """The joints an edit acts on: the selected joint's whole group, or it alone."""
        joint = self.joint
        if joint is None:
            return ()
        group = self.project.group_of(joint.id) if self.view.whole_group else None
        present = {other.id for other in self.build.joints}
        return tuple(name for name in group.joints if name in present) if group else (joint.id,)

    @property
    def joints_label(self) -> str:
        """What to call the joints an edit acts on."""
        joint = self.joint
        if joint is None:
            return ""
        group = self.project.group_of(joint.id) if self.view.whole_group else None
        return group.label if group else joint.label

    def scene(self) -> Scene | None:
        """Return the geometry of the build, or None where it cannot exist."""
        # A project is immutable, so its identity says whether the scene still holds.
        if self._scene_of is None or self._scene_of[0] is not self.project or self._scene_of[1] != self.view.build:
            self._scene_of = (self.project, self.view.build, _scene(self.project, self.view.build))
        return self._scene_of[2]

    # ---- results

    def request(self) -> None:
        """Bring the results up to date: from memory if they are there, else by asking the worker."""
        try:
            key = input_hash(self.computed, self.view.build, self.view.point)
        except AshenError as error:
            self._refuse(str(error))
            return
        known = self._results.get(key)
        if known is not None:
            self._results.move_to_end(key)
            self._number = -1
            self.assessment, self.state, self.refusal = known, "current", ""
            self.result_changed.emit()
            self.request_strip()
            return
        self.state = "stale" if self.assessment and self.assessment.report.build == self.view.build else "absent"
        if self.state == "absent":
            self.assessment = None
        self.result_changed.emit()
        self._number = self.runner.predict(self.computed, self.view.build, self.view.point)

    def request_strip(self) -> None:
        """Ask for the thickness strip of the selected joints, once the numbers it stands on are final."""
        joints = self.joints
        if self.state != "current" or self.assessment is None or not joints or not self.thicknesses:
            self._strip_for = None
            self.strip_changed.emit()
            return
        self._strip_for = (self.assessment.report.input_hash, joints)
        if len(self._strips.get(self._strip_for, {})) < len(self.thicknesses):
            self._strips[self._strip_for] = {}
            self._strip_number = self.runner.strip(self.computed, self.assessment.report, joints, self.thicknesses)
        self.strip_changed.emit()

    @property
    def thicknesses(self) -> tuple[float, ...]:
        """Stock thicknesses [mm] of the selected joints, empty if they hold no sheet."""
        joint = self.joint
        if joint is None or joint.sheet_at is None:
            return ()
        return stock_of(self.project, self.view.build, self.joints)

    @property
    def strip(self) -> dict[float, StripCell]:
        """The cells of the present strip that are ready."""
        return self._strips.get(self._strip_for, {}) if self._strip_for else {}

    @property
    def chances(self) -> Chances | None:
        """What was drawn for exactly what is shown now; None until it has been."""
        return self._chances.get(self.assessment.report.input_hash) if self.assessment and self.state == "current" else None

    def keep_chances(self, key: str, found: Chances) -> None:
        """Keep what was drawn for a prediction."""
        self._chances[key] = found
        while len(self._chances) > 24:
            self._chances.popitem(last=False)
        self.chance_changed.emit()

    def _take(self, result: Result) -> None:
        if result.stage == "strip":
            if result.number == self._strip_number and self._strip_for and isinstance(result.value, StripCell):
                self._strips[self._strip_for][result.value.thickness_mm] = result.value
                while len(self._strips) > 40:
                    self._strips.popitem(last=False)
                self.strip_changed.emit()
            return
        if result.number != self._number:
            return
        if isinstance(result.value, Assessment):
            findings = self.assessment.findings if self.assessment and result.stage == "coarse" else result.value.findings
            self.assessment = Assessment(result.value.prediction, findings)
            self.state, self.refusal = ("provisional" if result.stage == "coarse" else "current"), ""
            if result.stage == "fine":
                self._remember(result.value)
            self.result_changed.emit()
            if result.stage == "fine":
                self.request_strip()
        else:
            self._refuse(str(result.value))

    def _tell_runs(self) -> None:
        if self.assessment is not None:
            self.runs.is_as_slow_as(self.assessment.report.stored_s)

    def _refuse(self, text: str) -> None:
        self.state, self.refusal = "refused", text
        self._strip_for = None
        self.result_changed.emit()
        self.strip_changed.emit()

    def _remember(self, assessment: Assessment) -> None:
        self._results[assessment.report.input_hash] = assessment
        while len(self._results) > 24:
            self._results.popitem(last=False)


def _scene(project: Project, build: str) -> Scene | None:
    try:
        resolved = resolve(project, build)
    except AshenError:
        return None
    return make_scene(resolved) if next(assembly_problems(resolved), None) is None else None


def _first_view(project: Project) -> View:
    build = project.build().id if project.builds else ""
    point = project.point().id if project.points else ""
    dies = [body for body in project.device.bodies if isinstance(body, Component) and body.role == "die"]
    groups = [group for group in project.groups if project.builds and any(j.id in group.joints for j in project.build().joints)]
    at = dies[0].footprint.centre[1] * 1e-3 if dies else 0.0
    return View(build, point, selected=groups[0].joints[0] if groups else dies[0].id if dies else "", cut=Cut("x", at))
