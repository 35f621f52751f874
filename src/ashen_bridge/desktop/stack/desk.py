"""What the Stack looks at beside what all workspaces do: overlay, side, cut, and what is chosen for editing."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal, get_args

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing.targets import Target, targets
from ashen_bridge.geometry.section import Cut
from ashen_bridge.model.bodies import Component, Side
from ashen_bridge.model.project import Project

Overlay = Literal["margins", "bond line", "pressure", "temperature", "bow", "flux"]
OVERLAYS: tuple[Overlay, ...] = get_args(Overlay)
Page = Literal["joint", "part", "assumptions", "chance"]
_BODIES = ("board", "substrate", "component", "plate", "piece")


@dataclass(frozen=True)
class StackView:
    """What is looked at in the Stack. While the device is `editing`, `chosen` holds the paths of what the next edit is about
    and `tool` what the mouse does."""

    overlay: Overlay = "margins"
    side: Side = Side.FRONT
    cut: Cut = field(default_factory=lambda: Cut("x", 0.05))
    editing: bool = False
    chosen: tuple[str, ...] = ()
    tool: str = "choose"
    page: Page = "joint"
    lower: Literal["cut", "time"] = "cut"
    true_heights: bool = False


class StackDesk(QObject):
    """The Stack's own state, over that of the window. `changed` follows what is looked at, here or in all workspaces."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = _first_view(session.project)
        self._targets_of: tuple[Project, str, tuple[Target, ...]] | None = None
        self._selected = session.view.selected
        session.view_changed.connect(self._follow)
        session.document_replaced.connect(self._start)

    def look(self, view: StackView) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    def _follow(self) -> None:
        """Follow what is looked at everywhere; what is newly selected is shown on its own side of the board."""
        session, selected = self.session, self.session.view.selected
        if selected != self._selected:
            self._selected = selected
            joint = next((one for one in session.build.joints if one.id == selected), None)
            body = session.project.bodies_known(session.build).get(joint.lower[0] if joint is not None else selected)
            side = getattr(body, "side", None)
            if side is not None and side is not self.view.side:
                self.view = replace(self.view, side=side)
        self.changed.emit()

    def _start(self) -> None:
        self.look(_first_view(self.session.project))

    def targets(self) -> tuple[Target, ...]:
        """Return everything that can be chosen in the build that is looked at."""
        project, build = self.session.project, self.session.view.build
        if self._targets_of is None or self._targets_of[0] is not project or self._targets_of[1] != build:
            self._targets_of = (project, build, targets(project, build))
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
        self.look(replace(self.view, chosen=kept))
        first = by_path[kept[0]] if kept else None
        if first is not None and first.kind in _BODIES:
            self.session.select(first.id)


def _first_view(project: Project) -> StackView:
    dies = [body for body in project.device.bodies if isinstance(body, Component) and body.role == "die"]
    return StackView(cut=Cut("x", dies[0].footprint.centre[1] * 1e-3 if dies else 0.0))
