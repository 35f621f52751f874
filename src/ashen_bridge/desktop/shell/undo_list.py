"""The list of what was done, by name; choosing a line goes back or forth to it."""

from __future__ import annotations

from PyQt6.QtGui import QUndoStack
from PyQt6.QtWidgets import QUndoView, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.sheet import Sheet


class UndoList(Sheet):
    """All edits of one document."""

    def __init__(self, stack: QUndoStack, over: QWidget) -> None:
        super().__init__(over, (0.34, 0.6), "What was done")
        title = Words("What was done")
        title.setObjectName("title")
        self.view = QUndoView(stack)
        self.view.setEmptyLabel("As it was opened")
        self.view.setAccessibleName("What was done, oldest first")
        self.column.addWidget(title)
        self.column.addWidget(self.view, 1)
        self.setFocusProxy(self.view)
