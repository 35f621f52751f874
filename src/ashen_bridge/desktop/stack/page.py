"""The page of the Stack: plan over elevation on the left; on the right joint and descent, the chosen part, or the assumptions."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.parts.pages import Leaf, Pages, card, check, checkable
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
from ashen_bridge.desktop.stack.where import Where
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.model.bodies import Side

_PAGES: dict[Page, str] = {
    "joint": "What lies between the faces, and where the temperature falls",
    "part": "Everything about what is chosen",
    "assumptions": "Every number the prediction stands on, by weight (Ctrl+I)",
    "chance": "How likely every limit holds, and what to measure better (Ctrl+J)",
}


class StackPage(QWidget):
    """Everything one needs to decide what goes between the faces."""

    def __init__(self, desk: StackDesk, theme: Theme, actions: Commands, asker: Asker, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session = desk, session
        self._actions = actions
        self.plan = PlanView(desk, theme)
        where = Where(session, asker)
        self.elevation = ElevationView(desk, theme, where)
        self.elevation.follow(self.plan.placement)
        self.plan.placed.connect(self.elevation.update)
        self.panel = JointPanel(session, theme)
        self.descent = DescentView(session, theme)
        self.inspector = Inspector(desk, theme, where)
        self.assumptions = AssumptionsPanel(desk, theme)
        self.ways = WaysView(session, theme, self.descent)
        self.chance = ChancePanel(desk, theme)
        self.time = TimeView(desk, theme)
        self._lower = QStackedWidget()
        self._lowers = QButtonGroup(self)
        self.bar = EditBar(desk, actions)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self._overlays = QButtonGroup(self)
        self._sides = QButtonGroup(self)
        self.pages = self._right()
        self.pages.chosen.connect(lambda page: desk.look(replace(desk.view, page=page)))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self._left(), 1)
        layout.addWidget(self.pages)
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
        split.addWidget(card(self.plan))
        self._lower.addWidget(self.elevation)
        self._lower.addWidget(self.time)
        split.addWidget(card(self._lower))
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

    def _right(self) -> Pages:
        joint = QWidget()
        column = QVBoxLayout(joint)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.panel)
        falls = QFrame()
        falls.setObjectName("card")
        inner = QVBoxLayout(falls)
        inner.setContentsMargins(12, 8, 12, 8)
        inner.addWidget(self.descent)
        inner.addWidget(self.ways)
        column.addWidget(falls)
        column.addStretch(1)
        insides = {"joint": joint, "part": self.inspector, "assumptions": self.assumptions, "chance": self.chance}
        return Pages(
            tuple(Leaf(key, key.capitalize(), tip, insides[key], scrolls=key in ("joint", "part")) for key, tip in _PAGES.items())
        )

    def _choose_lower(self, at: int) -> None:
        self.desk.look(replace(self.desk.view, lower="time" if at else "cut"))

    def _toggle(self, group: QButtonGroup, at: int, words: str, tip: str) -> QPushButton:
        button = checkable(words, tip)
        group.addButton(button, at)
        return button

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.pages.set_theme(theme)
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
        if self.pages.show_page(view.page):
            # A hidden page does not follow; it catches up when it is shown.
            {
                "joint": self.panel.refresh,
                "part": self.inspector.refresh,
                "assumptions": self.assumptions.refresh,
                "chance": self.chance.refresh,
            }[view.page]()
        lower = ("cut", "time").index(view.lower)
        check(self._lowers, lower)
        if self._lower.currentIndex() != lower:
            self._lower.setCurrentIndex(lower)
            self.time.refresh()
        check(self._overlays, OVERLAYS.index(view.overlay))
        check(self._sides, list(Side).index(view.side))
