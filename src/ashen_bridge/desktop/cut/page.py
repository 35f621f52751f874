"""The page of Cut: sheets at scale, the board below, pieces and what has to be at hand beside them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Literal

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.desktop.cut.board_view import PiecesOnBoard
from ashen_bridge.desktop.cut.desk import CutDesk, CutView
from ashen_bridge.desktop.cut.papers import Papers
from ashen_bridge.desktop.cut.sheets_view import SheetsView
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import Rich, bold, coloured, table
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.editing import cutting as edits
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AshenError
from ashen_bridge.planning.cutting.orders import CutPlan
from ashen_bridge.planning.cutting.pieces import Cut
from ashen_bridge.words.numbers import short

_PIECE = Qt.ItemDataRole.UserRole
_CAUTION = "Knives: on a board, away from the hand that holds. Films stay on until a pad is placed."


class CutPage(QWidget):
    """Pieces of the build that is looked at."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        self._room, self._shown = room, shown
        self.desk = CutDesk(room.session, self)
        theme = self._theme = room.theme()
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.sheets = SheetsView(theme)
        self.boards = {side: PiecesOnBoard(self.desk, theme, side) for side in Side}
        self.list = QListWidget()
        self.list.setAccessibleName("Pieces")
        self.list.setSpacing(1)
        self.list.currentItemChanged.connect(self._listed)
        self.told = Words()
        self.told.setTextFormat(Qt.TextFormat.RichText)
        self.told.setWordWrap(True)
        self.done = QPushButton("It is cut")
        self.done.setToolTip("Used sheets leave the stock, offcuts large enough to keep join it: one edit")
        self.done.clicked.connect(self.keep_rests)
        self.papers = Papers(self.desk, room)
        self.save = QPushButton("Save drawing…")
        self.save.setProperty("popup", True)
        menu = QMenu(self.save)
        kinds: tuple[Literal["svg", "dxf"], ...] = ("svg", "dxf")
        for kind in kinds:
            action = menu.addAction(f"{kind.upper()}, in millimetres…")
            assert action is not None  # just made
            action.triggered.connect(lambda _, kind=kind: self._ask_drawing(kind))
        self.save.setMenu(menu)
        self.sheets.piece_chosen.connect(self.choose)
        for view in self.boards.values():
            view.piece_chosen.connect(self.choose)
        self._lay_out()
        for signal in (room.session.project_changed, room.session.view_changed, self.desk.changed):
            signal.connect(self.refresh)

    def _lay_out(self) -> None:
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self.says)
        words.addWidget(self.state)
        head = QHBoxLayout()
        head.addLayout(words, 1)
        for button in (self.papers.button, self.save, self.done):
            head.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.sheets)
        area.setWidgetResizable(True)
        boards = QHBoxLayout()
        boards.setSpacing(8)
        for view in self.boards.values():
            boards.addWidget(view, 1)
        card = Card((12, 10, 12, 10))
        card.column.addLayout(head)
        card.column.addWidget(self.wrong)
        card.column.addWidget(area, 3)
        card.column.addLayout(boards, 2)
        self._side = SideCard(340)
        section = Words("Pieces")
        section.setObjectName("section")
        self._side.column.addWidget(section)
        self._side.column.addWidget(self.list, 2)
        self._side.column.addWidget(self.told)
        caution = Words(_CAUTION)
        caution.setObjectName("hint")
        caution.setWordWrap(True)
        self._side.column.addWidget(caution)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(card, 1)
        row.addWidget(self._side)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self._theme = self.sheets.theme = theme
        for view in self.boards.values():
            view.theme = theme
        self._side.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Take over the build and its plan; a workspace that is not shown waits."""
        if not self._shown():
            return
        desk = self.desk
        desk.question.ask_by_itself()
        found = desk.found
        plan = found[0] if found is not None else None
        self.says.setText(_sum_up(plan) if plan is not None else "What is cut for this build?")
        self.state.setText(
            standing(desk.question, "Laying pieces onto sheets…", "A build with joints is needed.") or _price(plan)
        )
        self.wrong.setText("\n".join(plan.wrong) if plan is not None else "")
        self.wrong.setVisible(bool(self.wrong.text()))
        self.sheets.show_sheets(plan.laid if plan is not None else (), desk.view.piece)
        for side, view in self.boards.items():
            view.setVisible(side is Side.FRONT or any(one.side is side for one in (plan.cuts if plan is not None else ())))
            view.update()
        self._show_list(plan)
        self.told.setText(self._tell())
        current = desk.question.state == "current" and plan is not None
        self.done.setEnabled(current and plan is not None and bool(plan.laid))
        self.save.setEnabled(plan is not None and bool(plan.laid))
        self.papers.refresh()

    def _show_list(self, plan: CutPlan | None) -> None:
        """List pieces under the sheet that they are cut from; heads have the number 0."""
        rows: list[tuple[int, str]] = []
        for one in plan.cuts if plan is not None else ():
            head = f"{one.name}, {short(one.sheet_mm)} mm"
            if (0, head) not in rows:
                rows.append((0, head))
            rows.append((one.number, _piece(one)))
        present = [(self._number(n), self._item(n).text()) for n in range(self.list.count())]
        self.list.blockSignals(True)
        if rows != present:
            self.list.clear()
            for number, words in rows:
                item = QListWidgetItem(words)
                item.setData(_PIECE, number)
                if not number:
                    item.setFlags(Qt.ItemFlag.NoItemFlags)
                self.list.addItem(item)
        at = next((n for n, (number, _) in enumerate(rows) if number and number == self.desk.view.piece), -1)
        self.list.setCurrentRow(at)
        self.list.blockSignals(False)

    def _item(self, n: int) -> QListWidgetItem:
        item = self.list.item(n)
        assert item is not None  # it is counted
        return item

    def _number(self, n: int) -> int:
        return int(self._item(n).data(_PIECE))

    def _tell(self) -> Rich:
        """Return what has to be at hand, what is dispensed, and what to mind about the piece that is lit."""
        if self.desk.found is None:
            return Rich("")
        plan, dispensed = self.desk.found
        ember, quiet = self._theme.colour("ember").name(), self._theme.colour("quiet").name()
        rows: list[list[object]] = []
        piece = self.desk.piece
        if piece is not None and (piece.notes or piece.wrong):
            rows.append([bold(f"{piece.number}"), "; ".join((*piece.wrong, *piece.notes))])
        rows += [[bold("≈"), f"{one.label}: {one.name}. {one.says}"] for one in dispensed]
        for one in plan.orders:
            price = "" if one.price is None else f" {one.price:.2f} {plan.currency}".rstrip()
            or_else = f" Or: {one.alternative}." if one.alternative else ""
            count = coloured(quiet if one.at_hand else ember, f"{one.quantity} ×")
            rows.append([count, f"{one.what}{price}: {one.why}.{or_else}"])
        return table(rows, spacing=5) if rows else Rich("")

    # ---- doing

    def choose(self, number: int) -> None:
        """Light a piece everywhere, and look at its part."""
        self.desk.look(CutView(piece=number))
        piece, session = self.desk.piece, self.desk.session
        if piece is not None and session.view.selected != piece.lower:
            session.look(replace(session.view, selected=piece.lower))

    def _listed(self, item: QListWidgetItem | None, _: object = None) -> None:
        if item is not None and item.data(_PIECE):
            self.choose(int(item.data(_PIECE)))

    def keep_rests(self) -> None:
        """Take used sheets out of the stock and keep the offcuts."""
        found, session = self.desk.found, self.desk.session
        if found is None:
            return
        before = len(session.project.stock)
        wrong = session.attempt(edits.keep_rests(session.project, found[0], date.today().isoformat()))
        if wrong:
            self._room.notice.say(wrong)
        else:
            more = len(session.project.stock) - before
            self._room.notice.say(f"The stock is as after cutting ({more:+d} items). Undo takes it back.")

    def _ask_drawing(self, kind: Literal["svg", "dxf"]) -> None:
        name = self._room.asker.save_file("Save the drawing", f"{self._room.folder()}/cut.{kind}", f"{kind.upper()} (*.{kind})")
        if name:
            self.save_drawing(Path(name), kind)

    def save_drawing(self, path: Path, kind: Literal["svg", "dxf"]) -> None:
        """Save all sheets as a drawing."""
        found = self.desk.found
        if found is None:
            return
        if kind == "svg":
            from ashen_bridge.report.cut_drawing import all_sheets_svg

            content = all_sheets_svg(found[0].laid).encode()
        else:
            from ashen_bridge.report.cut_dxf import cut_dxf

            content = cut_dxf(found[0].laid)
        try:
            write_atomically(path, content)
        except (AshenError, OSError) as error:
            self._room.notice.say(str(error))
        else:
            self._room.notice.say(f"The drawing is in {path.name}.")


def _sum_up(plan: CutPlan) -> str:
    soft = [one for one in plan.cuts if not one.metal]
    if not soft:
        return "Nothing is cut for this build."
    cuts = sum(len(one.cuts) for one in plan.laid)
    bought = sum(not one.sheet.stock for one in plan.laid)
    sheets = f"{len(plan.laid)} sheet{'s' if len(plan.laid) != 1 else ''}"
    buy = "all at hand" if not bought else f"{bought} to be bought"
    return f"{len(soft)} piece{'s' if len(soft) != 1 else ''} from {sheets} ({buy}), {cuts} straight cuts"


def _price(plan: CutPlan | None) -> str:
    if plan is None:
        return ""
    price = f"To be bought: {plan.price:.2f} {plan.currency}. ".replace(" .", ".") if plan.price is not None else ""
    return f"{price}Pieces are numbered; the dashed lines are the knife's, straight through."


def _piece(one: Cut) -> str:
    w, h = one.size_mm
    return f"{one.number}  {one.label}: {short(w)} × {short(h)} mm"
