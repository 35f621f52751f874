"""The page of the Stack: plan over elevation on the left; on the right joint and descent, the chosen part, or the assumptions."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.stack.assumptions_panel import AssumptionsPanel
from ashen_bridge.desktop.stack.chance_panel import ChancePanel
from ashen_bridge.desktop.stack.descent import DescentView
from ashen_bridge.desktop.stack.desk import OVERLAYS, Page, StackDesk
from ashen_bridge.desktop.stack.edit_bar import EditBar
from ashen_bridge.desktop.stack.elevation import ElevationView
from ashen_bridge.desktop.stack.inspector import Inspector
from ashen_bridge.desktop.stack.joint_panel import JointPanel
from ashen_bridge.desktop.stack.photo import PlacingHand
from ashen_bridge.desktop.stack.plan import PlanView
from ashen_bridge.desktop.stack.time_view import TimeView
from ashen_bridge.desktop.stack.ways import WaysView
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.model.bodies import Side

RIGHT_WIDTH = 412
_PAGES: dict[Page, str] = {
    "joint": "What lies between the faces, and where the temperature falls",
    "part": "Everything about what is chosen",
    "assumptions": "Every number the prediction stands on, by weight (Ctrl+I)",
    "chance": "How likely every limit holds, and what to measure better (Ctrl+J)",
}


class StackPage(QWidget):
    """Everything one needs to decide what goes between the faces."""

    def __init__(self, desk: StackDesk, theme: Theme, actions: Commands, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session = desk, session
        self._actions = actions
        self.plan = PlanView(desk, theme)
        self.elevation = ElevationView(desk, theme)
        self.panel = JointPanel(session, theme)
        self.descent = DescentView(session, theme)
        self.inspector = Inspector(desk, theme)
        self.assumptions = AssumptionsPanel(desk, theme)
        self.ways = WaysView(session, theme, self.descent)
        self.chance = ChancePanel(desk, theme)
        self.time = TimeView(desk, theme)
        self._lower = QStackedWidget()
        self._lowers = QButtonGroup(self)
        self.bar = EditBar(desk, actions)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self._pages = QButtonGroup(self)
        self._stack = QStackedWidget()
        self._overlays = QButtonGroup(self)
        self._sides = QButtonGroup(self)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self._left(), 1)
        layout.addWidget(self._right())
        self.setFocusProxy(self.plan)
        desk.changed.connect(self.refresh)
        self.refresh()

    def _left(self) -> QWidget:
        desk = self.desk
        bar = FlowLayout()
        for at, name in enumerate(OVERLAYS):
            bar.addWidget(self._toggle(self._overlays, at, name.capitalize(), f"Show {name} in the plan ({at + 1})"))
        self.edit = QPushButton("Edit")
        self.edit.setCheckable(True)
        self.edit.setToolTip("Move, size, draw and describe the device itself (E)")
        self.edit.clicked.connect(self._actions["edit_mode"].trigger)
        bar.add_right(self.edit)
        for at, side in enumerate(Side):
            words = "the front" if side is Side.FRONT else "the rear, turned over like the board in the hand"
            bar.addWidget(self._toggle(self._sides, at, side.value.capitalize(), f"Show {words} (F)"))
        turn = QPushButton("Turn")
        turn.setToolTip("Turn the cut line by a quarter (X)")
        turn.clicked.connect(self.plan.turn_cut)
        bar.addWidget(turn)
        for at, (words, tip) in enumerate(
            (("Cut", "Show the section below the plan (T)"), ("Time", "Show temperatures over time (T)"))
        ):
            bar.addWidget(self._toggle(self._lowers, at, words, tip))
        self._lowers.idClicked.connect(self._choose_lower)
        self._overlays.idClicked.connect(lambda at: desk.look(replace(desk.view, overlay=OVERLAYS[at])))
        self._sides.idClicked.connect(lambda at: desk.look(replace(desk.view, side=list(Side)[at])))
        split = self.split
        split.addWidget(_card(self.plan))
        self._lower.addWidget(self.elevation)
        self._lower.addWidget(self.time)
        split.addWidget(_card(self._lower))
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setChildrenCollapsible(False)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(bar)
        column.addWidget(self.bar)
        column.addWidget(split, 1)
        return left

    def _right(self) -> QWidget:
        tabs = QHBoxLayout()
        tabs.setSpacing(4)
        for at, (page, tip) in enumerate(_PAGES.items()):
            tabs.addWidget(self._toggle(self._pages, at, page.capitalize(), tip), 1)
        self._pages.idClicked.connect(lambda at: self.desk.look(replace(self.desk.view, page=list(_PAGES)[at])))
        joint = QWidget()
        column = QVBoxLayout(joint)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.panel)
        card = QFrame()
        card.setObjectName("card")
        inner = QVBoxLayout(card)
        inner.setContentsMargins(12, 8, 12, 8)
        inner.addWidget(self.descent)
        inner.addWidget(self.ways)
        column.addWidget(card)
        column.addStretch(1)
        self._stack.addWidget(_scrolled(joint))
        self._stack.addWidget(_scrolled(self.inspector))
        self._stack.addWidget(self.assumptions)
        self._stack.addWidget(self.chance)
        right = QWidget()
        right.setFixedWidth(RIGHT_WIDTH)
        whole = QVBoxLayout(right)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(6)
        whole.addLayout(tabs)
        whole.addWidget(self._stack, 1)
        self._right_side = right
        return right

    def _choose_lower(self, at: int) -> None:
        self.desk.look(replace(self.desk.view, lower="time" if at else "cut"))

    def _toggle(self, group: QButtonGroup, at: int, words: str, tip: str) -> QPushButton:
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(tip)
        group.addButton(button, at)
        return button

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self._right_side.setFixedWidth(round(RIGHT_WIDTH * min(max(theme.scale, 0.9), 1.25)))
        for view in (
            *(self.plan, self.elevation, self.panel, self.descent, self.ways),
            *(self.inspector, self.assumptions, self.chance, self.time),
        ):
            view.set_theme(theme)

    def place_photo(self) -> None:
        """Ask for the two known points of the photo under this side."""
        tracing = self.plan.photo.tracing()
        if tracing is None:
            self.session.refused.emit("There is no photo under this side yet.")
            return
        self.plan.placing = PlacingHand(self.desk, tracing)
        self.plan.setFocus()
        self.plan.update()

    def refresh(self) -> None:
        """Show which overlay, side and page are on."""
        view = self.desk.view
        self.edit.setChecked(view.editing)
        at = list(_PAGES).index(view.page)
        _check(self._pages, at)
        if self._stack.currentIndex() != at:
            self._stack.setCurrentIndex(at)
            # A hidden page does not follow; it catches up when it is shown.
            {
                "joint": self.panel.refresh,
                "part": self.inspector.refresh,
                "assumptions": self.assumptions.refresh,
                "chance": self.chance.refresh,
            }[view.page]()
        lower = ("cut", "time").index(view.lower)
        _check(self._lowers, lower)
        if self._lower.currentIndex() != lower:
            self._lower.setCurrentIndex(lower)
            self.time.refresh()
        _check(self._overlays, OVERLAYS.index(view.overlay))
        _check(self._sides, list(Side).index(view.side))


def _check(group: QButtonGroup, at: int) -> None:
    button = group.button(at)
    if button is not None:
        button.setChecked(True)


def _scrolled(inside: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(inside)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    return area


def _card(widget: QWidget) -> QFrame:
    card = QFrame()
    card.setObjectName("card")
    inside = QVBoxLayout(card)
    inside.setContentsMargins(3, 3, 3, 3)
    inside.addWidget(widget)
    return card
