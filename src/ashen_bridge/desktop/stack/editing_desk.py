"""What the editing actions do with what is chosen: clipboard, copies, alignment, photo. Shared by menu, palette and keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit

from ashen_bridge.changes.boxes import Box, hull
from ashen_bridge.changes.edit import Edit
from ashen_bridge.changes.parts import read_parts
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.part_actions import one_pad
from ashen_bridge.desktop.state.commands import Command
from ashen_bridge.editing import fragment, reshape
from ashen_bridge.editing.arrange import Edge, around, row
from ashen_bridge.editing.tracing import add_tracing
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.model.bodies import Board, Component
from ashen_bridge.model.errors import AshenError

_OFFSET_MM = 2.0
_EDGES: dict[Edge, str] = {
    "left": "Align left edges",
    "centre": "Align on an upright line",
    "right": "Align right edges",
    "top": "Align upper edges",
    "middle": "Align on a level line",
    "bottom": "Align lower edges",
}
_MOST_PIXELS = 12000


class EditingDesk(QObject):
    """Editing actions of one window."""

    def __init__(self, desk: StackDesk, asker: Asker, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk, self.session, self.asker = desk, desk.session, asker

    def commands(self, here: Callable[[], bool]) -> tuple[Command, ...]:
        """Return what is done with what is chosen; `here` says whether the Stack is seen, so that keys mean anything."""

        def needs(count: int) -> Callable[[], bool]:
            return lambda: here() and self.desk.view.editing and len(self.desk.view.chosen) >= count

        one, two, three = needs(1), needs(2), needs(3)
        return (
            Command("cut", "Cut", "Ctrl+X", "Change", self.cut, one),
            Command("copy", "Copy", "Ctrl+C", "Change", self.copy, one),
            Command("paste", "Paste", "Ctrl+V", "Change", self.paste, needs(0)),
            Command("duplicate", "Duplicate", "Ctrl+D", "Change", self.duplicate, one),
            Command("remove", "Remove", "Del", "Change", self.remove, one),
            Command("choose_all", "Choose everything on this side", "Ctrl+A", "Change", self.choose_all),
            *(Command(f"align_{edge}", words, "", "Arrange", partial(self.align, edge), two) for edge, words in _EDGES.items()),
            Command("distribute_x", "Equal gaps from left to right", "", "Arrange", partial(self.distribute, "x"), three),
            Command("distribute_y", "Equal gaps from bottom to top", "", "Arrange", partial(self.distribute, "y"), three),
            Command("mirror_x", "Mirror left to right about the die", "M", "Arrange", partial(self.mirror, "x"), one),
            Command("mirror_y", "Mirror bottom to top about the die", "Shift+M", "Arrange", partial(self.mirror, "y"), one),
            Command("row", "Row of copies…", "", "Arrange", self.row, one),
            Command("ring", "Ring of copies around the die…", "", "Arrange", self.ring, one),
            Command("one_pad", "One pad over all chosen parts", "", "Arrange", partial(one_pad, self.desk), two),
        )

    # ---- clipboard

    def copy(self) -> None:
        """Put what is chosen on the clipboard."""
        field = _text_field()
        if field is not None:
            field.copy()
            return
        clipboard = QApplication.clipboard()
        if clipboard is not None and self.desk.chosen:
            clipboard.setText(fragment.copy(self.session.project, self.session.view.build, self.desk.chosen))

    def cut(self) -> None:
        """Put what is chosen on the clipboard and take it out."""
        field = _text_field()
        if field is not None:
            field.cut()
            return
        self.copy()
        self.remove()

    def paste(self) -> None:
        """Put the parts on the clipboard in, a little beside where they were."""
        field = _text_field()
        clipboard = QApplication.clipboard()
        if field is not None:
            field.paste()
        elif clipboard is not None:
            parts = read_parts(clipboard.text())
            if parts is None:
                self.session.refused.emit("There are no parts on the clipboard; choose some and copy them first.")
                return
            self._and_choose_new(lambda: fragment.paste(parts, self.session.view.build, _OFFSET_MM, -_OFFSET_MM))

    def remove(self) -> None:
        """Take out what is chosen."""
        chosen = self.desk.chosen
        if chosen:
            self.desk.choose()
            self.session.apply(reshape.remove(chosen))

    # ---- copies

    def duplicate(self) -> None:
        """Put a second one beside what is chosen."""
        box = hull([target.box for target in self.desk.chosen])
        step = max(box[2] - box[0], 1.0) + _OFFSET_MM
        self._and_choose_new(lambda: fragment.repeat(self.desk.chosen, self.session.view.build, [(step, 0.0)]))

    def mirror(self, axis: str) -> None:
        """Add a mirror image about the die's middle, or the board's where there is no die."""
        x, y = self._middle()
        at = x if axis == "x" else y
        self._and_choose_new(lambda: fragment.mirror(self.desk.chosen, self.session.view.build, axis, at))

    def row(self) -> None:
        """Ask how many and how far apart, and make a row."""
        box = hull([target.box for target in self.desk.chosen])
        preset = f"4, {box[2] - box[0] + 3:g}, 0"
        numbers = self._numbers("Row of copies", "How many in all, step to the right, step upwards [mm]:", preset, 3)
        if numbers is None:
            return
        count = int(numbers[0])
        if not 2 <= count <= 40:
            self.session.refused.emit("A row has from 2 to 40 members.")
            return
        offsets = row(count, numbers[1], numbers[2])
        self._and_choose_new(lambda: fragment.repeat(self.desk.chosen, self.session.view.build, offsets, "Row of copies"))

    def ring(self) -> None:
        """Ask how many on each side and the gap, and stand copies around the die."""
        numbers = self._numbers("Ring of copies", "How many left, above, right, below, and the gap [mm]:", "3, 2, 3, 0, 7", 5)
        if numbers is None:
            return
        counts = tuple(int(number) for number in numbers[:4])
        if any(not 0 <= count <= 12 for count in counts):
            self.session.refused.emit("Each side of a ring has from 0 to 12 members.")
            return
        box = hull([target.box for target in self.desk.chosen])
        size = box[2] - box[0], box[3] - box[1]
        places = around(self._around(), size, (counts[0], counts[1], counts[2], counts[3]), numbers[4], 3.0)
        self._and_choose_new(lambda: fragment.ring(self.desk.chosen, self.session.view.build, places))

    def _around(self) -> Box:
        """Return what a ring stands around: the die's carrier if that is a substrate, else the die, else the middle."""
        bodies = {body.id: body for body in self.session.project.device.bodies}
        die = next((b for b in bodies.values() if isinstance(b, Component) and b.role == "die"), None)
        if die is None:
            x, y = self._middle()
            return x, y, x, y
        carrier = bodies.get(die.on)
        return die.footprint.bounds if carrier is None or isinstance(carrier, Board) else carrier.footprint.bounds

    def _middle(self) -> tuple[float, float]:
        bodies = self.session.project.device.bodies
        dies = [body for body in bodies if isinstance(body, Component) and body.role == "die"]
        boards = [body for body in bodies if isinstance(body, Board)]
        return (*dies, *boards)[0].footprint.centre if dies or boards else (0.0, 0.0)

    def _numbers(self, title: str, label: str, preset: str, count: int) -> list[float] | None:
        text = self.asker.text(title, label, preset)
        if not text:
            return None
        try:
            numbers = [read_number(one, "mm") for one in text.replace(";", ",").split(",")]
        except TypedError as error:
            self.session.refused.emit(str(error))
            return None
        if len(numbers) != count:
            self.session.refused.emit(f"{title}: {count} numbers are needed, parted by commas; there are {len(numbers)}.")
            return None
        return numbers

    def _and_choose_new(self, make: Callable[[], Edit]) -> None:
        """Apply an edit and choose what it brought."""
        before = {target.path for target in self.desk.targets()}
        try:
            edit = make()
        except AshenError as error:
            self.session.refused.emit(str(error))
            return
        if self.session.apply(edit):
            new = [target for target in self.desk.targets() if target.path not in before]
            self.desk.choose(*(target.path for target in new if target.kind not in ("landing", "hole", "piece")))

    # ---- order

    def align(self, edge: Edge) -> None:
        """Line what is chosen up."""
        self.session.apply(reshape.align_targets(self.desk.chosen, edge))

    def distribute(self, axis: str) -> None:
        """Make the gaps equal."""
        self.session.apply(reshape.distribute_targets(self.desk.chosen, axis))

    def choose_all(self) -> None:
        """Choose every part, plate and screw on this side."""
        field = _text_field()
        if field is not None:
            field.selectAll()
            return
        side = self.desk.view.side
        kinds = ("substrate", "component", "plate", "fastener")
        found = [target.path for target in self.desk.targets() if target.side in (None, side) and target.kind in kinds]
        self.desk.choose(*found)

    # ---- photo

    def lay_photo(self, path: Path) -> bool:
        """Store a picture and lay it under the side that is looked at; returns whether that was done."""
        if path.exists() and not path.is_file():
            self.session.refused.emit(f"'{path.name}' is a folder, a pipe or a device, not a picture.")
            return False
        try:
            content = path.read_bytes()
        except OSError as error:
            self.session.refused.emit(f"Cannot read '{path.name}': {error.strerror}.")
            return False
        image = QImage.fromData(content)
        if image.isNull() or max(image.width(), image.height()) > _MOST_PIXELS:
            self.session.refused.emit(
                f"'{path.name}' is not a picture that can be shown (PNG or JPEG, up to {_MOST_PIXELS} pixels)."
            )
            return False
        board = next((body for body in self.session.project.device.bodies if isinstance(body, Board)), None)
        if board is None:
            self.session.refused.emit("Draw the board first; the photo is laid over it.")
            return False
        suffix = "png" if content[:4] == b"\x89PNG" else "jpg"
        try:
            digest = BlobStore(default_folder()).put(content)
        except AshenError as error:
            self.session.refused.emit(str(error))
            return False
        size = float(image.width()), float(image.height())
        side = self.desk.view.side
        return self.session.apply(add_tracing(self.session.project, digest, suffix, side, size, board.footprint.bounds))


def _text_field() -> QLineEdit | QPlainTextEdit | None:
    """Return the text field that has the keys now: it gets copy, cut and paste for itself."""
    focus = QApplication.focusWidget()
    return focus if isinstance(focus, QLineEdit | QPlainTextEdit) else None
