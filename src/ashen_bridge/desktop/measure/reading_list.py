"""All readings as one list, the last taken first; each can be set aside."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.editing import readings as edits
from ashen_bridge.model.readings import BesideReading, FeelerReading, NumberReading, Reading
from ashen_bridge.words.numbers import number

_ID = Qt.ItemDataRole.UserRole
_KINDS = {
    "height": "height", "step": "landing step", "depth": "below a straight edge", "edge": "old pad, edge", "imprint": "imprint",
    "putty": "putty", "feeler": "feeler", "beside": "beside thin pads", "number": "number",
}  # fmt: skip


def values_of(reading: Reading) -> str:
    """Return what a reading says."""
    if isinstance(reading, FeelerReading):
        return f"{number(reading.goes_mm, 2)} goes, {number(reading.stops_mm, 2)} does not"
    if isinstance(reading, BesideReading):
        return f"{number(reading.least_mm, 2)} to {number(reading.most_mm, 2)}"
    if isinstance(reading, NumberReading):
        listed = [f"{value:g}".replace("-", "−") for value in reading.values]
    else:
        listed = [number(value, 2) for value in reading.values_mm]
    return ", ".join(listed[:6]) + (f" and {len(listed) - 6} more" if len(listed) > 6 else "")


class ReadingList(QTreeWidget):
    """What was read. The box before a reading says whether it counts."""

    def __init__(self, desk: MeasureDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self.setHeaderLabels(["Counts", "Reading", "What", "Read [mm]", ""])
        self.setRootIsDecorated(False)
        self.setUniformRowHeights(True)
        self.setAccessibleName("Readings")
        header = self.header()
        assert header is not None  # every tree has one
        for at, mode in enumerate((0, 0, 0, 1, 1)):
            header.setSectionResizeMode(at, (QHeaderView.ResizeMode.ResizeToContents, QHeaderView.ResizeMode.Stretch)[mode])
        self.itemChanged.connect(self._ticked)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def refresh(self) -> None:
        """Take over the project's readings, and what was found of them."""
        found = self.desk.found
        odd = {one.reading: one for one in found.odd} if found is not None else {}
        refused = dict(found.refused) if found is not None else {}
        self.blockSignals(True)
        self.clear()
        for one in reversed(self.desk.session.project.readings):
            why = ""
            if one.id in odd:
                why = f"does not fit: others say {number(odd[one.id].expected[0], 2)}"
            elif one.id in refused and not one.aside:
                why = refused[one.id]
            item = QTreeWidgetItem(["", one.id, _KINDS[one.form], values_of(one), "set aside" if one.aside else why])
            item.setData(0, _ID, one.id)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(0, Qt.CheckState.Unchecked if one.aside else Qt.CheckState.Checked)
            colour = self.theme.roles["bad"] if why else self.theme.roles["stale" if one.aside else "ink"]
            for column in range(5):
                item.setForeground(column, QColor(colour))
            item.setToolTip(4, why)
            self.addTopLevelItem(item)
        self.blockSignals(False)

    def _ticked(self, item: QTreeWidgetItem, column: int) -> None:
        if column == 0:
            made = edits.set_aside(item.data(0, _ID), item.checkState(0) is Qt.CheckState.Unchecked)
            # Once the item is done with: the list is made anew by what follows.
            QTimer.singleShot(0, lambda: self.desk.session.apply(made))
