"""Every candidate of one place, with what would come of it and why it was not taken."""

from __future__ import annotations

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QAbstractItemView, QTableView

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.planning.choosing.result import CandidateRow, WhyNot
from ashen_bridge.words.numbers import number, percent

_HEADS = ("candidate", "nearest limit", "die °C", "push N", "squeezed", "cost", "why not")
_FAR_C = 200.0
_ROOT = QModelIndex()


class CandidateModel(QAbstractTableModel):
    """Candidates as rows."""

    def __init__(self, theme: Theme, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.rows: tuple[CandidateRow, ...] = ()

    def show_place(self, place: WhyNot | None) -> None:
        """Show the candidates of a place, the chosen one first, then those that hold."""
        self.beginResetModel()
        rows = place.rows if place is not None else ()
        self.rows = tuple(sorted(rows, key=lambda row: (not row.chosen, _kills(row), -(row.margin_k or -99.0))))
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = _ROOT) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = _ROOT) -> int:
        return len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _HEADS[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return _cell(row, index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.refusal or row.says
        if role == Qt.ItemDataRole.FontRole and row.chosen:
            font = QFont(self.theme.font(12, bold=True))
            return font
        if role == Qt.ItemDataRole.ForegroundRole:
            return self.theme.colour("ember" if row.chosen else "quiet" if _kills(row) else "ink")
        if role == Qt.ItemDataRole.TextAlignmentRole and 2 <= index.column() <= 5:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None


def _kills(row: CandidateRow) -> bool:
    return bool(row.refusal) and not row.refusal.startswith(("The die gets", "As good")) and "to spare" not in row.refusal


def _cell(row: CandidateRow, column: int) -> str:
    match column:
        case 0:
            return row.says
        case 1:
            return "–" if row.closest_c is None else f"{row.closest} {_degrees(row.closest_c)}"
        case 2:
            return "–" if row.die_c is None else _degrees(row.die_c)
        case 3:
            return "–" if row.force_n is None else number(row.force_n)
        case 4:
            return "–" if row.squeezed is None else percent(row.squeezed)
        case 5:
            return "–" if row.cost is None else f"{row.cost:g}"
    return "chosen" if row.chosen else row.refusal


def _degrees(value: float) -> str:
    return "runs away" if value > _FAR_C else number(value, 1)


class CandidateTable(QTableView):
    """The candidates as a table."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.candidates = CandidateModel(theme, self)
        self.setModel(self.candidates)
        self.setAccessibleName("Candidates")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setShowGrid(False)
        self.setWordWrap(False)
        head = self.verticalHeader()
        assert head is not None  # a table has one
        head.hide()
        head.setDefaultSectionSize(round(theme.px(24)))
        across = self.horizontalHeader()
        assert across is not None  # a table has one
        across.setStretchLastSection(True)
        across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)

    def show_place(self, place: WhyNot | None) -> None:
        """Show the candidates of a place."""
        self.candidates.show_place(place)
        priced = any(row.cost is not None and row.cost > 0 for row in self.candidates.rows)
        self.setColumnHidden(5, not priced)
        for n, most in enumerate((230, 190, 76, 70, 80, 70)):
            self.resizeColumnToContents(n)
            self.setColumnWidth(n, min(self.columnWidth(n) + 8, round(self.candidates.theme.px(most))))

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.candidates.theme = theme
        head = self.verticalHeader()
        if head is not None:
            head.setDefaultSectionSize(round(theme.px(24)))
