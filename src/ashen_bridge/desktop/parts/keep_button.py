"""The button that keeps an answer for the record; it says so where that very answer is kept already."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PyQt6.QtWidgets import QPushButton

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.files.who import who
from ashen_bridge.model.history import Conclusion

Keeping = Callable[[str, datetime], Edit | None]
"""What makes the edit that keeps the present answer, by whom and when; None where there is no answer."""
_KEEP, _KEPT = "Keep for the record", "✓ Kept for the record"


class KeepButton(QPushButton):
    """Keeps what `keeping` makes."""

    def __init__(self, session: Session, keeping: Keeping) -> None:
        super().__init__(_KEEP)
        self._session, self._keeping = session, keeping
        self.setToolTip("Keep this answer as it is now, with its day: the record prints it. Undo takes it out")
        self.clicked.connect(self.keep)
        session.project_changed.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """Show whether there is an answer, and whether it is kept."""
        made = self._keeping("", datetime.now())
        self.setVisible(made is not None)
        if made is not None:
            kept = any(_same(one, dict(made.says)["conclusion"]) for one in self._session.project.conclusions)
            self.setText(_KEPT if kept else _KEEP)
            self.setEnabled(not kept)

    def keep(self) -> None:
        """Keep it."""
        made = self._keeping(who(), datetime.now())
        if made is not None:
            self._session.attempt(made)


def _same(one: Conclusion, other: Conclusion) -> bool:
    return (one.kind, one.title, one.about, one.says, one.rows) == (other.kind, other.title, other.about, other.says, other.rows)
