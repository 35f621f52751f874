"""The slim rail at the left: one button per workspace, in the order of the work. Only those that work are there."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.icons import icon
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Spec
from ashen_bridge.desktop.state.commands import Commands


class _Step(QAbstractButton):
    """One workspace; the one that is shown is raised."""

    def __init__(self, name: str, symbol: str, theme: Theme) -> None:
        super().__init__()
        self.name, self.symbol, self.theme = name, symbol, theme
        self.setCheckable(True)
        self.setText(name)
        self.setAccessibleName(f"{name} workspace")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def sizeHint(self) -> QSize:
        return QSize(62, round(30 + self.theme.px(32)))

    def minimumSizeHint(self) -> QSize:
        """Where the screen is low, steps stand closer."""
        return QSize(56, round(24 + self.theme.px(17)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        ink = self.theme.colour("ink" if self.isChecked() or self.underMouse() else "quiet")
        if self.isChecked():
            painter.setBrush(self.theme.colour("surface"))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(4, 0, 6, 0), 7, 7)
            painter.setBrush(self.theme.colour("ember"))
            painter.drawRoundedRect(QRectF(0, 12, 4, self.height() - 24), 2, 2)
        top = round(max((self.height() - 26 - self.theme.px(20)) / 2, 0.0))
        icon(self.symbol, ink).paint(painter, QRect(0, top, self.width(), 26))
        painter.setFont(self.theme.font(12, bold=self.isChecked()))
        painter.setPen(ink)
        where = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.drawText(self.rect().adjusted(0, top + 27, 0, 0), where, self.name)
        if self.hasFocus():
            painter.setPen(QPen(self.theme.colour("ember"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(5, 1, -1, -1), 7, 7)


class Rail(QWidget):
    """Workspaces of this window; at its foot what helps everywhere."""

    def __init__(self, theme: Theme, actions: Commands, specs: Sequence[Spec], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._actions = actions
        self._steps = {spec.name: _Step(spec.words, spec.symbol, theme) for spec in specs}
        for name, step in self._steps.items():
            action = actions[f"go_{name}"]
            step.setToolTip(action.toolTip())
            step.clicked.connect(action.trigger)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 50, 0, 30)
        column.setSpacing(4)
        for step in self._steps.values():
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

    def show_workspace(self, name: str) -> None:
        """Raise the workspace that is shown."""
        for step_name, step in self._steps.items():
            step.setChecked(step_name == name)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self._theme = theme
        for name, symbol in self._tools.items():
            self._actions[name].setIcon(icon(symbol, theme.colour("ink")))
        for step in self._steps.values():
            step.theme = theme
            step.setMinimumHeight(step.minimumSizeHint().height())
            step.setMaximumHeight(step.sizeHint().height())
            step.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
            step.update()
        self.updateGeometry()
