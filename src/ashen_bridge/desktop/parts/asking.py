"""Questions that stop the work: one place, so that the rest of the window does not know how they look."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLabel, QMessageBox, QWidget


class Asker:
    """Asks in dialogs over one window."""

    def __init__(self, over: QWidget) -> None:
        self._over = over

    def tell(self, title: str, text: str) -> None:
        """Say something that must be read."""
        box = QMessageBox(QMessageBox.Icon.Warning, title, text, QMessageBox.StandardButton.Ok, self._over)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.exec()

    def choose(self, title: str, text: str, options: Sequence[str], default: str, escape: str) -> str:
        """Return the option that was chosen; closing the question means `escape`."""
        box = QMessageBox(QMessageBox.Icon.Question, title, text, parent=self._over)
        box.setTextFormat(Qt.TextFormat.PlainText)
        roles = QMessageBox.ButtonRole
        buttons = {
            option: box.addButton(option, roles.RejectRole if option == escape else roles.AcceptRole) for option in options
        }
        box.setDefaultButton(buttons[default])
        box.setEscapeButton(buttons[escape])
        box.exec()
        clicked = box.clickedButton()
        return next((option for option, button in buttons.items() if button is clicked), escape)

    def text(self, title: str, label: str, preset: str = "") -> str:
        """Return a line of text, empty if it was called off."""
        box = QInputDialog(self._over)
        box.setWindowTitle(title)
        box.setLabelText(label)
        box.setTextValue(preset)
        for words in box.findChildren(QLabel):
            words.setTextFormat(Qt.TextFormat.PlainText)
        return box.textValue().strip()[:200] if box.exec() else ""

    def open_file(self, title: str, folder: str, pattern: str) -> str:
        """Return a file to open, empty if none was chosen."""
        return QFileDialog.getOpenFileName(self._over, title, folder, pattern)[0]

    def save_file(self, title: str, start: str, pattern: str) -> str:
        """Return where to save, empty if nowhere."""
        return QFileDialog.getSaveFileName(self._over, title, start, pattern)[0]

    def folder(self, title: str, start: str) -> str:
        """Ask for a folder; empty where none was chosen."""
        return QFileDialog.getExistingDirectory(self._over, title, start)
