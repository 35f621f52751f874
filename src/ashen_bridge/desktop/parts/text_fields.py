"""Fields for words and choices that send an edit when they are left, and show nothing else while one types."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPlainTextEdit, QWidget


class WordsField(QLineEdit):
    """A line of words. `commit` gets it when Enter is pressed or the field is left, if it has changed."""

    def __init__(self, name: str, commit: Callable[[str], object], parent: QWidget | None = None, *, most: int = 200) -> None:
        super().__init__(parent)
        self._commit = commit
        self.setMaxLength(most)
        self.setAccessibleName(name)
        self.editingFinished.connect(self._finish)

    def show_words(self, words: str) -> None:
        """Show what holds, unless something is being typed."""
        if not (self.hasFocus() and self.isModified()):
            self.setText(words)
            self.setModified(False)

    def _finish(self) -> None:
        if self.isModified():
            self.setModified(False)
            self._commit(self.text().strip())


class StoryField(QPlainTextEdit):
    """Several lines of words, sent when the field is left."""

    def __init__(self, name: str, commit: Callable[[str], object], parent: QWidget | None = None, *, lines: int = 3) -> None:
        super().__init__(parent)
        self._commit = commit
        self._shown = ""
        self._lines = lines
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self.setFixedHeight(self.fontMetrics().lineSpacing() * lines + 14)

    def show_words(self, words: str) -> None:
        """Show what holds, unless something is being typed."""
        if words != self._shown or not self.hasFocus():
            self._shown = words
            if self.toPlainText() != words:
                self.setPlainText(words)

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        words = self.toPlainText().strip()[:4000]
        if words != self._shown:
            self._shown = words
            self._commit(words)


class ChoiceField(QComboBox):
    """One of several. `commit` gets the chosen value."""

    def __init__(self, name: str, commit: Callable[[Any], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._commit = commit
        self.setAccessibleName(name)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)
        self.activated.connect(lambda at: self._commit(self.itemData(at)))

    def show_choice(self, choices: Sequence[tuple[str, Any]], present: Any) -> None:
        """Show the choices, words and value each, and which one holds."""
        with QSignalBlocker(self):
            if [(self.itemText(n), self.itemData(n)) for n in range(self.count())] != list(choices):
                self.clear()
                for words, value in choices:
                    self.addItem(words, value)
            self.setCurrentIndex(next((n for n, (_, value) in enumerate(choices) if value == present), -1))
