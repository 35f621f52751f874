"""What Baseline looks at beside what all workspaces do: which page, pass and columns of the run."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.session import Session

NAME = "baseline"
Page = Literal["run", "compare", "power", "diagnose", "fit", "aims"]


@dataclass(frozen=True)
class BaselineView:
    """What is looked at in Baseline: page, pass and columns of the run. The run before may have a repeat `again`."""

    page: Page = "run"
    again: str = ""
    run_pass: int = 0
    columns: tuple[str, ...] = ()
    equal_power: bool = False


class BaselineDesk(QObject):
    """Baseline's own state, over that of the window. `changed` follows what is looked at, here or in all workspaces."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = BaselineView()
        self._run = session.view.run
        session.view_changed.connect(self._follow)
        session.project_changed.connect(self._follow)
        session.document_replaced.connect(lambda: self.look(BaselineView()))

    @property
    def shown(self) -> bool:
        """Whether Baseline is the workspace that is looked at."""
        return self.session.view.workspace == NAME

    def look(self, view: BaselineView) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    def choose_run(self, run: str) -> None:
        """Look at a run, its first pass in front."""
        self.session.look(replace(self.session.view, run=run))

    def _follow(self) -> None:
        runs = {"", *(run.id for run in self.session.project.runs)}
        view = replace(self.view, again=self.view.again if self.view.again in runs else "")
        if self.session.view.run != self._run:
            self._run = self.session.view.run
            view = replace(view, run_pass=0)
        self.view = view
        self.changed.emit()
