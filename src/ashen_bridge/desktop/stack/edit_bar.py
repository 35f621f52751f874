"""The row of tools over the plan while the device is edited."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from ashen_bridge.desktop.parts.flow import FlowLayout
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.drawing_tools import PARTS, PLATES, TIPS, WORDS
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.editing.tracing import remove_tracing, show_tracing
from ashen_bridge.model.records import Tracing


class EditBar(QWidget):
    """Choose, draw, arrange, photo. `placing_wanted`: the photo shall be placed by two known points."""

    placing_wanted = pyqtSignal()

    def __init__(self, desk: StackDesk, actions: Commands, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session = desk, session
        self.buttons: dict[str, QPushButton] = {}
        row = FlowLayout(self)
        self._tool(row, "choose", "Choose", "Choose, move and size what is there (Esc)")
        self.part = self._menu(row, "Part", PARTS, "Draw a part: drag its outline, or click for a usual size")
        self.plate = self._menu(row, "Plate", PLATES, "Draw a plate: cooler, lid, backplate…")
        self._tool(row, "board", "Board", "Draw the board")
        for name in ("landing", "screw", "hole", "outline"):
            self._tool(row, name, WORDS[name], TIPS[name])
        arrange = QPushButton("Arrange")
        arrange.setProperty("popup", True)
        menu = QMenu(arrange)
        names = ("align_left", "align_centre", "align_right", "", "align_top", "align_middle", "align_bottom", "")
        for name in (
            *names,
            "distribute_x",
            "distribute_y",
            "",
            "duplicate",
            "mirror_x",
            "mirror_y",
            "row",
            "ring",
            "",
            "one_pad",
        ):
            if name:
                menu.addAction(actions[name])
            else:
                menu.addSeparator()
        arrange.setMenu(menu)
        row.add_right(arrange)
        self._photo = QPushButton("Photo")
        self._photo.setProperty("popup", True)
        self._photo_menu = QMenu(self._photo)
        self._photo.setMenu(self._photo_menu)
        self._lay = actions["photo"]
        row.addWidget(self._photo)
        desk.changed.connect(self.refresh)
        session.project_changed.connect(self.refresh)
        self.refresh()

    def _tool(self, row: FlowLayout, name: str, words: str, tip: str) -> None:
        button = QPushButton(words)
        button.setCheckable(True)
        button.setToolTip(tip)
        button.clicked.connect(lambda _: self._pick(name))
        self.buttons[name] = button
        row.addWidget(button)

    def _menu(self, row: FlowLayout, words: str, names: tuple[str, ...], tip: str) -> QPushButton:
        button = QPushButton(words)
        button.setCheckable(True)
        button.setProperty("popup", True)
        button.setToolTip(tip)
        menu = QMenu(button)
        for name in names:
            action = menu.addAction(WORDS[name])
            if action is not None:
                action.triggered.connect(partial(self._pick, name))
        button.setMenu(menu)
        for name in names:
            self.buttons[name] = button
        row.addWidget(button)
        return button

    def _pick(self, name: str, _: bool = False) -> None:
        self.desk.look(replace(self.desk.view, tool=name))
        self.refresh()

    def refresh(self) -> None:
        """Show which tool is in the hand."""
        tool = self.desk.view.tool
        self.setVisible(self.desk.view.editing)
        for name, button in self.buttons.items():
            if button not in (self.part, self.plate):
                button.setChecked(name == tool)
        self.part.setChecked(tool in PARTS)
        self.part.setText(WORDS[tool] if tool in PARTS else "Part")
        self.plate.setChecked(tool in PLATES)
        self.plate.setText(WORDS[tool] if tool in PLATES else "Plate")
        self._fill_photo_menu()

    def _fill_photo_menu(self) -> None:
        side = self.desk.view.side
        tracing = next((one for one in self.session.project.tracings if one.side is side), None)
        self._photo_menu.clear()
        self._photo_menu.addAction(self._lay)
        if tracing is None:
            return
        words = "Hide it" if tracing.shown else "Show it"
        entries = (
            ("Place it by two known points", self.placing_wanted.emit),
            (words, partial(self._show, tracing)),
            ("Take it away", partial(self._take_away, tracing)),
        )
        for text, act in entries:
            action = self._photo_menu.addAction(text)
            if action is not None:
                action.triggered.connect(lambda _, act=act: act())

    def _show(self, tracing: Tracing) -> None:
        self.session.apply(show_tracing(tracing, not tracing.shown))

    def _take_away(self, tracing: Tracing) -> None:
        self.session.apply(remove_tracing(tracing))
