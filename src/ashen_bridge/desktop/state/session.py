"""One open window's state: document, what is looked at, and the results that belong to it. Data flows one way:

edit → document → request → worker → result → views. Views only read from here and ask for edits.
"""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess import errands
from ashen_bridge.assess.result import Assessment
from ashen_bridge.assess.stored import REPORT, named, pack, unpack
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.desktop.state.keys import Keys
from ashen_bridge.desktop.state.question import Asked, Question, Questions
from ashen_bridge.desktop.state.results import Results
from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.desktop.state.runs_desk import RunsDesk
from ashen_bridge.desktop.state.view import View, first_view
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.outcome import Chances

SAMPLES = 2000


class Session(QObject):
    """State of one window.

    `refused` carries a sentence; `part_wanted` the path of a part that shall be shown where parts are (empty: the selected one);
    `device_wanted` temperatures of a log with which a device shall be described.
    """

    project_changed = pyqtSignal()
    view_changed = pyqtSignal()
    document_replaced = pyqtSignal()
    refused = pyqtSignal(str)
    part_wanted = pyqtSignal(str)
    device_wanted = pyqtSignal(dict)

    def __init__(self, document: Document, extras: dict[str, bytes], runner: Runner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.runner = runner
        self.keys = Keys()
        self.questions = Questions(runner, self)
        self.runs = RunsDesk(self)
        self.results = Results(self, runner, self)
        self.results.changed.connect(lambda: self.runs.is_as_slow_as(self.results.stored_s))
        self.chances: Question[Chances] = Question(self.questions, "Drawing samples", lambda: _samples(self))
        self._scene_of: tuple[Project, str, Scene | None] | None = None
        self._computed_of: tuple[Project, Project] | None = None
        self.replace_document(document, extras)

    # ---- document

    def replace_document(self, document: Document, extras: dict[str, bytes]) -> None:
        """Show another document; its stored prediction is painted at once if it can be read and is of what it holds.

        What a file stores is shown until it has been computed afresh, never taken for that.
        """
        self.questions.cancel_all()
        self.document = document
        document.changed.connect(self._document_changed)
        self.view = first_view(document.project)
        self.results.start(_stored(self, extras), document.shipped)
        self.document_replaced.emit()
        self.project_changed.emit()
        self.view_changed.emit()
        self.results.request()

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

    def extras_to_save(self) -> dict[str, bytes]:
        """Return the files of the present prediction, if it is a finished one."""
        results = self.results
        return pack(results.assessment) if results.assessment is not None and results.state == "current" else {}

    def _document_changed(self) -> None:
        """What is looked at may be gone: then the first of its kind is."""
        view, first = self.view, first_view(self.project)
        runs = {"", *(run.id for run in self.project.runs)}
        self.look(
            replace(
                view,
                build=view.build if any(one.id == view.build for one in self.project.builds) else first.build,
                point=view.point if any(one.id == view.point for one in self.project.points) else first.point,
                run=view.run if view.run in runs else "",
                against=view.against if view.against in runs else "",
            )
        )
        self.project_changed.emit()
        self.results.request()

    # ---- view

    def look(self, view: View) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        old = self.view
        self.view = view
        if view == old:
            return
        self.view_changed.emit()
        if (view.build, view.point) != (old.build, old.point):
            self.project_changed.emit()
            self.results.request()
        elif (view.selected, view.whole_group) != (old.selected, old.whole_group):
            self.results.request_strip()

    def select(self, selected: str) -> None:
        """Select a body or joint by id."""
        self.look(replace(self.view, selected=selected))

    @property
    def run(self) -> Run | None:
        """The run that is looked at: the chosen one, else the first."""
        return self._run(self.view.run)

    @property
    def against(self) -> Run | None:
        """The run that stands for "before": the chosen one, else the first."""
        return self._run(self.view.against)

    def _run(self, wanted: str) -> Run | None:
        runs = {run.id: run for run in self.project.runs}
        return runs.get(wanted) or next(iter(runs.values()), None)

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

    # ---- what follows from it

    def scene(self) -> Scene | None:
        """Return the geometry of the build, or None where it cannot exist."""
        # A project is immutable, so its identity says whether the scene still holds.
        if self._scene_of is None or self._scene_of[0] is not self.project or self._scene_of[1] != self.view.build:
            self._scene_of = (self.project, self.view.build, _scene(self.project, self.view.build))
        return self._scene_of[2]


def _scene(project: Project, build: str) -> Scene | None:
    try:
        resolved = resolve(project, build)
    except AshenError:
        return None
    return make_scene(resolved) if next(assembly_problems(resolved), None) is None else None


def _stored(session: Session, extras: dict[str, bytes]) -> Assessment | None:
    """Return the stored prediction of what is looked at; None where there is none, or it is damaged or of something else."""
    if REPORT not in extras:
        return None
    try:
        stored = unpack(extras)
        wanted = input_hash(session.computed, session.view.build, session.view.point)
    except AshenError:
        return None
    bodies = set(session.project.bodies_known(session.build))
    return stored if stored.report.input_hash == wanted and named(stored) <= bodies else None


def _samples(session: Session) -> Asked | None:
    """What is drawn: everything uncertain about exactly what is shown now."""
    results = session.results
    if results.assessment is None or results.state != "current":
        return None
    report = results.assessment.report
    # The ± are not part of what a prediction depends on, but of what is drawn.
    key = f"{report.input_hash}{session.keys.project(session.computed)}"
    return Asked(key, errands.draw_chances, (session.computed, session.view.build, session.view.point, report, SAMPLES))
