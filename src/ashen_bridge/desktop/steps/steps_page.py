"""The page of steps: the board, the present step beside it, the tray below, all steps at the right."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.steps.board_view import BoardView
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.desktop.steps.found_dialog import FoundDialog
from ashen_bridge.desktop.steps.printing import Printing
from ashen_bridge.desktop.steps.step_card import StepCard
from ashen_bridge.desktop.steps.step_list import StepList
from ashen_bridge.desktop.steps.tray_view import TrayView
from ashen_bridge.editing import procedures as edits
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError
from ashen_bridge.planning.recipe import read_recipe, write_recipe

RIGHT_WIDTH = 330
_OF_STEPS = 5  # entries of the menu that need a procedure which was begun


class StepsPage(QWidget):
    """Steps, one after another. A kind of work puts what it knows beside them into `known`."""

    def __init__(self, desk: StepsDesk, room: Room) -> None:
        super().__init__()
        theme = room.theme()
        self.desk, self.room, self.theme = desk, room, theme
        self.board = BoardView(desk, theme)
        self.card = StepCard(desk, theme, room.asker, room.folder)
        self.tray = TrayView(desk, theme)
        self.steps = StepList(desk, theme)
        self.printing = Printing(desk, room)
        self.told = Words()
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.back_in = QPushButton("Back in")
        self.back_in.setToolTip("The chosen screw, else the one that is asked for, went back into the device")
        self.back_in.clicked.connect(self._back_in)
        self.lost = QPushButton("Not here")
        self.lost.setToolTip("The chosen screw lies in no cell")
        self.lost.clicked.connect(self._lost)
        self.known = self.beside()
        self.looks = QPushButton("Looks…")
        self.looks.setToolTip("How the chosen screw looks: length, thread, head, what it turns in")
        self.looks.clicked.connect(self._show_looks)
        self._put: Callable[..., Edit] = edits.add_plug
        self._of_steps: list[QAction] = []
        self.more = QPushButton("Procedure…")
        self.more.setProperty("popup", True)
        self.more.setMenu(self._menu())
        self.board.screw_chosen.connect(self._choose_screw)
        self.tray.screw_chosen.connect(self._choose_screw)
        self.steps.chosen.connect(self._choose_step)
        self.board.plug_chosen.connect(lambda name: self.show_found(f"device.plugs.{name}"))
        self.board.placed.connect(self._placed)
        self._lay_out()

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for words, act in (
            ("Add a step of your own…", self._add_step),
            ("Take this step out", self._remove_step),
            ("Move this step up", lambda: self._move(-1)),
            ("Move this step down", lambda: self._move(1)),
            ("Begin anew", self._anew),
            ("Go by a recipe…", self.open_recipe),
            ("Save as a recipe…", self.save_recipe),
            ("A plug: click where it is", partial(self._place, edits.add_plug)),
            ("A cover screw: click where it is", partial(self._place, edits.add_screw)),
        ):
            action = menu.addAction(words)
            assert action is not None  # just made
            action.triggered.connect(lambda _, act=act: act())
            self._of_steps += [action] if len(self._of_steps) < _OF_STEPS else []
        return menu

    def _lay_out(self) -> None:
        frame = Card()
        frame.column.addWidget(self.board, 1)
        under = Card((12, 8, 12, 8), spacing=5)
        below = under.column
        head = QHBoxLayout()
        title = Words("Screw tray")
        title.setObjectName("heading")
        head.addWidget(title)
        head.addWidget(self.told, 1)
        head.addWidget(self.looks)
        head.addWidget(self.lost)
        head.addWidget(self.back_in)
        below.addLayout(head)
        below.addWidget(self.tray)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(frame, 3)
        left.addWidget(self.card, 2)
        left.addWidget(under)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.steps, 1)
        area = QScrollArea()
        area.setWidget(self.known)
        area.setWidgetResizable(True)
        card = Card((1, 1, 1, 1))
        card.column.addWidget(area)
        column.addWidget(card, 1)
        foot = QHBoxLayout()
        foot.addWidget(self.more)
        foot.addWidget(self.printing.button, 1)
        column.addLayout(foot)
        self._right = right
        right.setFixedWidth(RIGHT_WIDTH)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addLayout(left, 1)
        row.addWidget(right)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.board.theme = self.tray.theme = self.steps.theme = theme
        self._right.setFixedWidth(round(RIGHT_WIDTH * min(max(theme.scale, 0.9), 1.25)))
        self.card.set_theme(theme)

    def refresh(self) -> None:
        """Take over how far it is."""
        desk = self.desk
        self.board.update()
        self.card.refresh()
        self.steps.refresh()
        self.tray.refresh()
        self.printing.refresh()
        found = desk.tray
        self.told.setText(found.told)
        self.told.setStyleSheet(f"color: {self.theme.roles['bad']};" if found.missing else "")
        chosen = next((one for one in found.lying if one.id == desk.view.screw), None)
        asked = chosen or found.asked()
        self.back_in.setEnabled(asked is not None)
        self.back_in.setText(f"{asked.number} back in" if asked is not None else "Back in")
        self.lost.setEnabled(chosen is not None)
        for action in self._of_steps:
            action.setEnabled(desk.begun is not None)
        self.looks.setEnabled(bool(desk.view.screw))
        self.refresh_beside()

    def beside(self) -> QWidget:
        """Return what stands under the list of steps."""
        raise NotImplementedError

    def refresh_beside(self) -> None:
        """Take over what stands under the list of steps."""

    # ---- what is done here

    def _choose_step(self, name: str) -> None:
        procedure = self.desk.procedure
        step = next((one for one in procedure.steps if one.id == name), None) if procedure is not None else None
        if step is not None:
            self.desk.choose_step(step)

    def _choose_screw(self, name: str) -> None:
        slot = next((one for one in self.desk.tray.slots if one.id == name), None)
        if slot is not None:
            self.desk.look(replace(self.desk.view, screw="" if self.desk.view.screw == name else name))

    def _place(self, put: Callable[..., Edit]) -> None:
        self._put = put
        self.board.place(True)

    def _placed(self, x_mm: float, y_mm: float) -> None:
        session, kind = self.desk.session, "plugs" if self._put is edits.add_plug else "screws"
        if session.apply(self._put(session.project, round(x_mm, 1), round(y_mm, 1), self.desk.view.side)):
            self.show_found(f"device.{kind}.{getattr(session.project.device, kind)[-1].id}")

    def _show_looks(self) -> None:
        name, device = self.desk.view.screw, self.desk.session.project.device
        known = any(one.id == name for one in device.fasteners)
        self.show_found(f"device.fasteners.{name}.hardware" if known else f"device.screws.{name}")

    def show_found(self, path: str) -> None:
        """Show how a screw or plug looks, to be said."""
        FoundDialog(self.desk.session, path, self).show()

    def _back_in(self) -> None:
        lying = self.desk.tray.lying
        chosen = next((one for one in lying if one.id == self.desk.view.screw), None) or self.desk.tray.asked()
        if chosen is not None:
            self.desk.session.apply(edits.put_back(chosen.id))
            self.desk.look(replace(self.desk.view, screw=""))

    def _lost(self) -> None:
        if any(one.id == self.desk.view.screw for one in self.desk.tray.lying):
            self.desk.session.apply(edits.lose(self.desk.view.screw))

    def _add_step(self) -> None:
        begun, step = self.desk.begun, self.desk.step
        text = self.room.asker.text("A step of your own", "What is to be done, after the step that is shown:") if begun else ""
        if begun is not None and text:
            self.desk.session.apply(edits.add_step(self.desk.session.project, begun.id, text, step.id if step else None))

    def _remove_step(self) -> None:
        begun, step = self.desk.begun, self.desk.step
        if begun is not None and step is not None:
            self.desk.session.apply(edits.remove_step(begun.id, step))

    def _move(self, by: int) -> None:
        begun, step = self.desk.begun, self.desk.step
        if begun is not None and step is not None:
            self.desk.session.apply(edits.move_step(begun.id, step, by))

    def _anew(self) -> None:
        if self.desk.begun is not None:
            self.desk.session.apply(edits.remove_procedure(self.desk.begun))

    def save_recipe(self) -> None:
        """Save the procedure as a recipe for the next device of the kind."""
        procedure = self.desk.procedure
        if procedure is None:
            return
        start = f"{self.room.folder()}/{procedure.id}.recipe.json"
        name = self.room.asker.save_file("Save as a recipe", start, "Recipe (*.json)")
        if name:
            try:
                write_atomically(Path(name), write_recipe(procedure))
            except AshenError as error:
                self.room.notice.say(str(error))
            else:
                self.room.notice.say(f"Recipe saved as {Path(name).name}.")

    def open_recipe(self) -> None:
        """Go by a recipe."""
        name = self.room.asker.open_file("Go by a recipe", self.room.folder(), "Recipe (*.json)")
        if name:
            self.take_recipe(Path(name))

    def take_recipe(self, path: Path) -> None:
        """Go by the recipe in a file; what is none is said in words."""
        session = self.desk.session
        try:
            made = read_recipe(path.read_bytes(), session.project, session.view.build)
        except OSError as error:
            session.refused.emit(f"“{path.name}” cannot be read: {error.strerror}.")
        except AshenError as error:
            session.refused.emit(str(error))
        else:
            session.apply(edits.add_procedure(made))
