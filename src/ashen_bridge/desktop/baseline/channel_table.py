"""The columns of a pass with their figures; choosing some brings them to the front of the curves."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from ashen_bridge.desktop.baseline.curves import label_of
from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.logs.outcome import Heading, RunFigures
from ashen_bridge.model.records import RunChannel
from ashen_bridge.words.numbers import measured, number

_HEADS = ("Column", "Is", "Mean", "Highest", "99 %", "Ends at")
_UNITS = {"temperature": "°C", "ambient": "°C"}


class ChannelTable(QTableWidget):
    """One row per mapped column."""

    def __init__(self, desk: BaselineDesk) -> None:
        super().__init__(0, len(_HEADS))
        self.desk, self.session = desk, desk.session
        self.setAccessibleName("Columns and their figures")
        self.setHorizontalHeaderLabels(list(_HEADS))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        side, top = self.verticalHeader(), self.horizontalHeader()
        if side is not None:
            side.hide()
        if top is not None:
            top.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            top.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            top.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
            top.setHighlightSections(False)
            top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.itemSelectionChanged.connect(self._choose)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        side, top = self.verticalHeader(), self.horizontalHeader()
        if top is not None:
            top.setMinimumSectionSize(round(theme.px(58)))
        if side is not None:
            side.setDefaultSectionSize(round(theme.px(22)))

    def show_figures(self, found: RunFigures | None, at: int) -> None:
        """Show one pass of a run."""
        rows = []
        device = self.session.project.device
        if found is not None and at < len(found.passes):
            figures = found.passes[at].channels
            rows = [one for one in found.run.channels if one.column in figures]
        with QSignalBlocker(self):
            self.setRowCount(len(rows))
            for n, one in enumerate(rows):
                assert found is not None
                label = label_of(one, device)
                cells = (one.column, label if one.sensor else one.role, *_figures(found, at, one))
                for column, words in enumerate(cells):
                    item = QTableWidgetItem(words)
                    if column >= 2:
                        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                    item.setData(Qt.ItemDataRole.UserRole, one.column)
                    item.setSelected(False)
                    self.setItem(n, column, item)
                if one.column in self.desk.view.columns:
                    for column in range(len(_HEADS)):
                        cell = self.item(n, column)
                        if cell is not None:
                            cell.setSelected(True)

    def _choose(self) -> None:
        chosen = dict.fromkeys(item.data(Qt.ItemDataRole.UserRole) for item in self.selectedItems())
        self.desk.look(replace(self.desk.view, columns=tuple(chosen)))


def _figures(found: RunFigures, at: int, one: RunChannel) -> tuple[str, str, str, str]:
    figures, ahead = found.passes[at].channels[one.column], found.passes[at].climbing.get(one.column)
    unit = _UNITS.get(one.role, one.unit)
    digits = 0 if abs(figures.maximum) >= 1000 else 1
    if isinstance(ahead, Heading):
        end = f"↗ {measured(ahead.end, max((ahead.high - ahead.low) / 4, 0.05), unit)}"
    else:
        end = "↗ not told" if ahead is not None else ""
    # No more digits than a reading has: the mean of many is no better than the sensor.
    mean = f"{number(figures.mean, digits)} ± {number(max(figures.standard_error, 10.0**-digits), digits)} {unit}"
    return mean, f"{number(figures.maximum, digits)} {unit}", f"{number(figures.p99, digits)} {unit}", end
