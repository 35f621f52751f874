"""What Cut looks at beside what all workspaces do: a piece; and its question."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.model.bodies import Side
from ashen_bridge.planning import errands
from ashen_bridge.planning.cutting.orders import CutPlan
from ashen_bridge.planning.cutting.pieces import Cut
from ashen_bridge.planning.cutting.volumes import Dispensed

SAID = ("stock", "shop", "currency", "aims")
Found = tuple[CutPlan, tuple[Dispensed, ...]]


@dataclass(frozen=True)
class CutView:
    """`piece` is the number of the one that is looked at, 0 for none."""

    piece: int = 0


class CutDesk(QObject):
    """Cut's own state. `changed` follows what is looked at and what was found."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = CutView()
        self.question: Question[Found] = Question(session.questions, "Cut plan", self._now)
        self.question.changed.connect(self.changed)

    def look(self, view: CutView) -> None:
        """Look at something else."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    def _now(self) -> Asked | None:
        session = self.session
        if not session.project.builds or session.scene() is None:
            return None
        key = key_of(session.keys.project(session.computed, *SAID), session.view.build)
        return Asked(key, errands.cutting, (session.computed, session.view.build))

    @property
    def found(self) -> Found | None:
        """The latest plan that speaks of the build, be it of a moment before."""
        known = self.question.value or self.question.last
        return known if known is not None and known[0].build == self.session.view.build else None

    @property
    def piece(self) -> Cut | None:
        """The piece that is looked at."""
        found = self.found
        return next((one for one in found[0].cuts if one.number == self.view.piece), None) if found is not None else None

    @property
    def side(self) -> Side:
        """The side of the board on which the piece lies."""
        return self.piece.side if self.piece is not None else Side.FRONT
