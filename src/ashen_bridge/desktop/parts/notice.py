"""One sentence over the foot of the work: passing, or standing with buttons until it is answered. It stops and moves nothing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from ashen_bridge.desktop.parts.plain import Words

_PASSING_MS = 9000
_INSET = 6
Answer = tuple[str, Callable[[], object]]


class Notice(QFrame):
    """A bar that is hidden while there is nothing to say."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.words = Words()
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._buttons: list[QPushButton] = []
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(10, 5, 6, 5)
        self._row.addWidget(self.words, 1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_PASSING_MS)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def lie_over(self, page: QWidget) -> None:
        """Lie over the foot of a page, whatever its size: nothing below the mouse moves when something is said."""
        said = bool(self.words.text())  # before there was a window
        self.setParent(page)
        page.installEventFilter(self)
        self.setVisible(said)
        self._settle()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Follow the size of the page."""
        if event is not None and event.type() == QEvent.Type.Resize and watched is self.parent():
            self._settle()
        return super().eventFilter(watched, event)

    def _settle(self) -> None:
        page = self.parentWidget()
        if page is None:
            return
        width = page.width() - 2 * _INSET
        height = max(self.heightForWidth(width), self.sizeHint().height())
        self.setGeometry(_INSET, page.height() - height - _INSET, width, height)
        self.raise_()

    def say(self, text: str) -> None:
        """Say a sentence that goes away by itself; a question that stands is not covered by it."""
        if self._buttons and self.isVisible():
            return
        self._show(text, ())
        self._timer.start()

    def ask(self, text: str, answers: Sequence[Answer]) -> None:
        """Say a sentence with buttons; it stays until one of them is pressed."""
        self._timer.stop()
        self._show(text, answers)

    def _answer(self, act: Callable[[], object], _: bool = False) -> None:
        self.hide()
        act()

    def _show(self, text: str, answers: Sequence[Answer]) -> None:
        for button in self._buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self._buttons = []
        self.words.setText(text)
        self.setAccessibleName(text)
        for words, act in answers:
            button = QPushButton(words)
            button.clicked.connect(partial(self._answer, act))
            self._row.addWidget(button)
            self._buttons.append(button)
        self._settle()
        self.show()
