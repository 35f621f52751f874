"""Text that comes from files is never markup: labels show it as it stands, tool tips and questions too."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QEvent, QObject, QPoint, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractItemView, QApplication, QLabel, QToolTip, QWidget


class Words(QLabel):
    """A label that shows its text as it stands. One that builds its own markup says so, and escapes what it puts in."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class Elided(Words):
    """A line of words that ends in an ellipsis where there is no room for all of it; the tool tip then has all."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        self._whole = ""
        super().__init__(text, parent)

    def setText(self, text: str | None) -> None:
        """Show a text, as much of it as there is room for."""
        self._whole = text or ""
        self.updateGeometry()
        self._fit()

    def text(self) -> str:
        """Return all of it."""
        return self._whole

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self._whole) + 2, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(4 * self.fontMetrics().averageCharWidth(), super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def changeEvent(self, event: QEvent | None) -> None:
        """Another font or size: other room."""
        super().changeEvent(event)
        if event is not None and event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange):
            self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, max(self.width(), 1))
        super().setText(shown)
        self.setToolTip(self._whole if shown != self._whole else "")


def dressed_anew(widget: QWidget) -> None:
    """Let the style sheet look at a widget again: its name or state has changed."""
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


class PlainTips(QObject):
    """Shows tool tips that could be taken for markup as plain text, whichever widget they belong to."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Show such a tip in the widget's place."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and isinstance(watched, QWidget):
            tip = _tip_at(watched, event)
            if "<" in tip:
                show_tip(event.globalPos(), tip, watched)
                return True
        return super().eventFilter(watched, event)


def show_tip(at: QPoint, text: str, widget: QWidget) -> None:
    """Show a tool tip as it stands."""
    QToolTip.showText(at, f"<span style='white-space:pre-wrap'>{escape(text)}</span>" if "<" in text else text, widget)


def plain_tips(application: QApplication) -> None:
    """Let no tool tip of an application be markup."""
    application.installEventFilter(PlainTips(application))


def _tip_at(widget: QWidget, event: QHelpEvent) -> str:
    view = widget.parent()
    if isinstance(view, QAbstractItemView) and widget is view.viewport():
        return str(view.indexAt(event.pos()).data(Qt.ItemDataRole.ToolTipRole) or "")
    return widget.toolTip()
