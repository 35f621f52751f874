"""What every page of steps looks at: a side of the board, a step, a screw; and the procedure that is worked by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.session import Session
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.procedures import Procedure, ProcedureStep
from ashen_bridge.planning.tray import Tray, tray

if TYPE_CHECKING:
    from ashen_bridge.desktop.charts.outlines import Box
    from ashen_bridge.desktop.steps.contact_mark import ContactMark


@dataclass(frozen=True)
class StepsView:
    """`step` is the one that is looked at, the next one while empty; `screw` one of the tray."""

    side: Side = Side.FRONT
    step: str = ""
    screw: str = ""


class StepsDesk(QObject):
    """State of a page of steps. `changed` follows what is looked at and what was found.

    A kind of work says which `kind` of procedure it goes by, and what one would be (`made`) while none was begun.
    """

    changed = pyqtSignal()
    kind: ClassVar[Literal["open up", "close up", "burn in", "service"]] = "open up"
    nothing: ClassVar[str] = "There is nothing to do yet."

    def __init__(self, session: Session, view: Any, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = view

    def look(self, view: Any) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    def made(self) -> Procedure | None:
        """Return the procedure as it would be; None where there is none, or not yet."""
        raise NotImplementedError

    @property
    def at_steps(self) -> bool:
        """Whether steps are looked at."""
        return True

    def contacts(self, boxes: Mapping[str, Box]) -> Sequence[ContactMark]:
        """Return what contacts show where no steps are looked at."""
        del boxes
        return ()

    @property
    def begun(self) -> Procedure | None:
        """The procedure by which this build is worked on, if one was begun."""
        build = self.session.view.build
        found = [one for one in self.session.project.procedures if one.kind == self.kind and one.build in (build, None)]
        return found[-1] if found else None

    @property
    def procedure(self) -> Procedure | None:
        """The procedure that is looked at: begun, or as it would be."""
        if self.begun is not None or not self.session.project.builds:
            return self.begun
        return self.made()

    @property
    def step(self) -> ProcedureStep | None:
        """The step that is looked at: the chosen one, else the next."""
        procedure = self.procedure
        if procedure is None:
            return None
        chosen = next((one for one in procedure.steps if one.id == self.view.step), None)
        return chosen or procedure.next or (procedure.steps[-1] if procedure.steps else None)

    @property
    def tray(self) -> Tray:
        """Where every screw is; none where the build cannot be resolved."""
        try:
            return tray(self.session.project, self.session.view.build) if self.session.project.builds else Tray(())
        except AshenError:
            return Tray(())

    def choose_step(self, step: ProcedureStep) -> None:
        """Look at a step, on its side of the board."""
        self.look(replace(self.view, step=step.id, side=step.side))
