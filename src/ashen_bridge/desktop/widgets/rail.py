"""The slim rail at the left: one button per workspace, in the order of the work. Only those that work are there."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QAction, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QToolButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.icons import icon
from ashen_bridge.desktop.theme import Theme


class _Step(QWidget):
    def __init__(self, name: str, symbol: str, theme: Theme) -> None:
        super().__init__()
        self.name, self.symbol, self.theme = name, symbol, theme
        self.setAccessibleName(f"{name} workspace")

    def sizeHint(self) -> QSize:
        return QSize(62, round(30 + self.theme.px(32)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("surface"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(4, 0, 6, 0), 7, 7)
        painter.setBrush(self.theme.colour("ember"))
        painter.drawRoundedRect(QRectF(0, 12, 4, self.height() - 24), 2, 2)
        icon(self.symbol, self.theme.colour("ink")).paint(painter, QRect(0, 8, self.width(), 26))
        painter.setFont(self.theme.font(12, bold=True))
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(self.rect().adjusted(0, 36, 0, 0), Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, self.name)


class Rail(QWidget):
    """Workspaces of this window; at its foot what helps everywhere."""

    def __init__(self, theme: Theme, actions: dict[str, QAction], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._actions = actions
        self._steps = [_Step("Stack", "stack", theme)]
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 50, 0, 30)
        for step in self._steps:
            column.addWidget(step)
        column.addStretch(1)
        self._tools = {"new_guided": "new", "palette": "find", "guide": "guide"}
        for name in self._tools:
            button = QToolButton()
            button.setObjectName("rail")
            button.setDefaultAction(actions[name])
            button.setIconSize(QSize(20, 20))
            button.setAccessibleName(actions[name].text())
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignHCenter)
        self.set_theme(theme)

    def sizeHint(self) -> QSize:
        return QSize(round(max(self._theme.px(62), 56)), 400)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self._theme = theme
        for name, symbol in self._tools.items():
            self._actions[name].setIcon(icon(symbol, theme.colour("ink")))
        for step in self._steps:
            step.theme = theme
            step.setFixedHeight(step.sizeHint().height())
            step.update()
        self.updateGeometry()
