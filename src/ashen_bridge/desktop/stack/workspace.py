"""The Stack workspace: plan over elevation on the left, joint panel over descent on the right."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.session import OVERLAYS, Session
from ashen_bridge.desktop.stack.descent import DescentView
from ashen_bridge.desktop.stack.elevation import ElevationView
from ashen_bridge.desktop.stack.joint_panel import JointPanel
from ashen_bridge.desktop.stack.plan import PlanView
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.model.bodies import Side

RIGHT_WIDTH = 412


class StackWorkspace(QWidget):
    """Everything one needs to decide what goes between the faces."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.plan = PlanView(session, theme)
        self.elevation = ElevationView(session, theme)
        self.panel = JointPanel(session, theme)
        self.descent = DescentView(session, theme)
        self._overlays = QButtonGroup(self)
        self._sides = QButtonGroup(self)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self._left(), 1)
        layout.addWidget(self._right())
        session.view_changed.connect(self.refresh)
        self.refresh()

    def _left(self) -> QWidget:
        bar = QHBoxLayout()
        bar.setSpacing(4)
        bar.addWidget(_heading("Show"))
        for at, name in enumerate(OVERLAYS):
            button = self._toggle(self._overlays, at, name.capitalize(), f"Show {name} in the plan ({at + 1})")
            bar.addWidget(button)
            # A button's own shortcut would wait for its press animation.
            QShortcut(QKeySequence(str(at + 1)), self).activated.connect(partial(self.session.look, overlay=name))
        bar.addStretch(1)
        for at, side in enumerate(Side):
            bar.addWidget(
                self._toggle(self._sides, at, side.value.capitalize(), f"Show the {side.value} of the board, seen from the front")
            )
        turn = QPushButton("Turn cut")
        turn.setToolTip("Turn the cut line by a quarter (X in the plan)")
        turn.clicked.connect(self.plan.turn_cut)
        bar.addWidget(turn)
        self._overlays.idClicked.connect(lambda at: self.session.look(overlay=OVERLAYS[at]))
        self._sides.idClicked.connect(lambda at: self.session.look(side=list(Side)[at]))
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(_card(self.plan))
        split.addWidget(_card(self.elevation))
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setChildrenCollapsible(False)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(bar)
        column.addWidget(split, 1)
        return left

    def _right(self) -> QWidget:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.panel)
        card = QFrame()
        card.setObjectName("card")
        inner = QVBoxLayout(card)
        inner.setContentsMargins(12, 8, 12, 8)
        inner.addWidget(self.descent)
        column.addWidget(card)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFixedWidth(RIGHT_WIDTH)
        area.setFrameShape(QFrame.Shape.NoFrame)
        return area

    def _toggle(self, group: QButtonGroup, at: int, words: str, tip: str) -> QPushButton:
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(tip)
        group.addButton(button, at)
        return button

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        for view in (self.plan, self.elevation, self.panel, self.descent):
            view.set_theme(theme)

    def refresh(self) -> None:
        """Show which overlay and side are on."""
        self._overlays.button(OVERLAYS.index(self.session.view.overlay)).setChecked(True)
        self._sides.button(list(Side).index(self.session.view.side)).setChecked(True)


def _heading(words: str) -> QLabel:
    label = QLabel(words)
    label.setObjectName("heading")
    return label


def _card(widget: QWidget) -> QFrame:
    card = QFrame()
    card.setObjectName("card")
    inside = QVBoxLayout(card)
    inside.setContentsMargins(3, 3, 3, 3)
    inside.addWidget(widget)
    return card
