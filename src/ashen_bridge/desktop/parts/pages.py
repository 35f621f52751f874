"""The column beside a workspace's picture: pages with their names above, one shown at a time."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme

WIDTH = 412


@dataclass(frozen=True)
class Leaf:
    """One page: how the view state calls it, its name and tip, what is on it, and whether that scrolls as a whole."""

    key: str
    words: str
    tip: str
    inside: QWidget
    scrolls: bool = True


class Pages(QWidget):
    """Pages in a column of fixed width. `chosen` tells by key which is asked for; nothing is shown before `show_page`."""

    chosen = pyqtSignal(str)

    def __init__(self, leaves: tuple[Leaf, ...], widest: float = 1.25) -> None:
        super().__init__()
        self._keys, self._widest = [leaf.key for leaf in leaves], widest
        self.buttons = QButtonGroup(self)
        self._stack = QStackedWidget()
        tabs = QHBoxLayout()
        tabs.setSpacing(4)
        for at, leaf in enumerate(leaves):
            button = checkable(leaf.words, leaf.tip)
            self.buttons.addButton(button, at)
            tabs.addWidget(button, 1)
            self._stack.addWidget(scrolled(leaf.inside) if leaf.scrolls else leaf.inside)
        self.buttons.idClicked.connect(lambda at: self.chosen.emit(self._keys[at]))
        self.setFixedWidth(WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(tabs)
        column.addWidget(self._stack, 1)

    def set_theme(self, theme: Theme) -> None:
        """Grow with the text, within what leaves the picture its room."""
        self.setFixedWidth(round(WIDTH * min(max(theme.scale, 0.9), self._widest)))

    def show_page(self, key: str) -> bool:
        """Show a page; returns whether another one was shown before."""
        at = self._keys.index(key)
        check(self.buttons, at)
        turned = self._stack.currentIndex() != at
        self._stack.setCurrentIndex(at)
        return turned


def checkable(words: str, tip: str) -> QPushButton:
    """Return a button that stays down."""
    button = QPushButton(words)
    button.setCheckable(True)
    button.setToolTip(tip)
    return button


def check(group: QButtonGroup, at: int) -> None:
    """Put one button of a group down."""
    button = group.button(at)
    if button is not None:
        button.setChecked(True)


def scrolled(inside: QWidget) -> QScrollArea:
    """Return something that scrolls up and down."""
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inside)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    return area


def card(widget: QWidget) -> QFrame:
    """Return a frame around a picture."""
    frame = QFrame()
    frame.setObjectName("card")
    inside = QVBoxLayout(frame)
    inside.setContentsMargins(3, 3, 3, 3)
    inside.addWidget(widget)
    return frame
