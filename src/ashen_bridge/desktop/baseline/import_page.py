"""A log that was read: what each column is taken for, with its curve, before it is kept as a run or a further pass."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QModelIndex, QRectF, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.bench.errands import ReadFile
from ashen_bridge.desktop.charts.thinning import polygon, thinned
from ashen_bridge.desktop.charts.trace_picture import Trace, TracePicture
from ashen_bridge.desktop.charts.trace_view import TraceView
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.scales import celsius
from ashen_bridge.model.records import RunChannel
from ashen_bridge.words.numbers import number

_HEADS = ("Column", "Unit", "Is", "From … to", "Curve")
_ROLES = ("rate", "power", "clock", "fan", "noise", "ambient", "temperature", "other")
_ROLE_WORDS = {
    "power": "power",
    "clock": "clock",
    "fan": "fan speed",
    "noise": "noise",
    "rate": "work rate: score, frames/s, jobs/s",
    "ambient": "air around the device",
    "temperature": "a temperature, no sensor of ours",
    "other": "nothing we need",
}
_ROW = 30.0


class _Curves(QStyledItemDelegate):
    """Draws a column's whole curve in its row."""

    def __init__(self, owner: ImportPage) -> None:
        super().__init__(owner)
        self._owner = owner

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        log = self._owner.log
        if painter is None or log is None or index.row() >= len(log.columns):
            return
        theme, values = self._owner.theme, log.columns[index.row()].values
        box = QRectF(option.rect).adjusted(6, 5, -6, -5)
        used = self._owner.channels[index.row()].role != "other"
        t, v = thinned(log.time_s, values, float(log.time_s[0]), float(log.time_s[-1]), int(box.width() / 2))
        if not len(v):
            return
        low, high = float(v.min()), float(v.max())
        span = max(high - low, 1e-9)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.colour("ember" if used else "stale"), 1.3))
        x = box.left() + (t - t[0]) / max(float(t[-1] - t[0]), 1e-9) * box.width()
        y = box.bottom() - (v - low) / span * box.height() if high > low else np.full(len(v), box.center().y())
        painter.drawPolyline(polygon(x, y))
        painter.restore()


class ImportPage(QWidget):
    """Columns and what they are. `kept` asks to keep the log, `left` to leave it."""

    kept = pyqtSignal()
    left = pyqtSignal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.log: Log | None = None
        self.channels: list[RunChannel] = []
        self.remaps = ""
        self.title = Words()
        self.title.setObjectName("title")
        self.notes = Words()
        self.notes.setWordWrap(True)
        self.notes.setObjectName("quiet")
        self.table = QTableWidget(0, len(_HEADS))
        self.curve = TraceView(theme)
        self.where = QComboBox()
        self.name = QComboBox()
        self.build = QComboBox()
        self.point = QComboBox()
        self.ambient = NumberField(Wanted("Air around the device", "°C", optional=True, low=-60, high=90), self._take_ambient)
        self.ambient_c: float | None = None
        self.problem = Words()
        self.problem.setObjectName("wrong")
        self.problem.setWordWrap(True)
        self.keep = QPushButton("Keep it")
        self.leave = QPushButton("Discard")
        self._lay_out()

    def _lay_out(self) -> None:
        self.table.setAccessibleName("What every column is")
        self.table.setHorizontalHeaderLabels(list(_HEADS))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setItemDelegateForColumn(4, _Curves(self))
        self.table.itemSelectionChanged.connect(self._show_curve)
        side, top = self.table.verticalHeader(), self.table.horizontalHeader()
        if side is not None:
            side.hide()
        if top is not None:
            for column, mode in enumerate("srsrs"):
                stretch = mode == "s"
                way = QHeaderView.ResizeMode.Stretch if stretch else QHeaderView.ResizeMode.ResizeToContents
                top.setSectionResizeMode(column, way)
            top.setHighlightSections(False)
            top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.name.setEditable(True)
        for box, words in (
            (self.where, "New run or another pass"),
            (self.name, "Name of the run"),
            (self.build, "Build that was tested"),
            (self.point, "Operating point of the test"),
        ):
            box.setAccessibleName(words)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.where.activated.connect(lambda _: self._follow_where())
        form = QFormLayout()
        form.setVerticalSpacing(6)
        for words, field in (
            ("Keep as", self.where),
            ("Name", self.name),
            ("Build", self.build),
            ("At", self.point),
            ("Air", self.ambient),
        ):
            label = Words(words)
            label.setObjectName("quiet")
            form.addRow(label, field)
        self.keep.clicked.connect(self.kept)
        self.leave.clicked.connect(self.left)
        buttons = QHBoxLayout()
        buttons.addWidget(self.leave)
        buttons.addWidget(self.keep, 1)
        card = QFrame()
        card.setObjectName("card")
        card.setFixedWidth(320)
        inner = QVBoxLayout(card)
        inner.setContentsMargins(12, 9, 12, 10)
        inner.setSpacing(8)
        inner.addWidget(self.title)
        inner.addWidget(self.notes)
        inner.addLayout(form)
        inner.addWidget(self.problem)
        inner.addLayout(buttons)
        inner.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.table, 3)
        left.addWidget(self.curve, 2)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(8)
        whole.addLayout(left, 1)
        whole.addWidget(card)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.curve.theme = theme
        side = self.table.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(round(theme.px(_ROW)))
        self._repaint()

    # ---- what is shown

    def show_file(self, read: ReadFile, run_id: str = "") -> None:
        """Show a log that was read from a file; `run_id` is the run it is to be a further pass of."""
        self.remaps = ""
        self._show(read.name, read.log, list(read.channels), read.log.notes)
        runs = self.session.project.runs
        with QSignalBlocker(self.where):
            self.where.clear()
            self.where.addItem("a new run", "")
            for run in runs:
                self.where.addItem(f"another pass of {run.label}", run.id)
            self.where.setCurrentIndex(max(self.where.findData(run_id), 0))
        stem = read.name.rsplit(".", 1)[0]
        self.name.clear()
        self.name.addItems([stem, "Before", "After the repair"])
        for box, items, present in (
            (self.build, self.session.project.builds, self.session.view.build),
            (self.point, self.session.project.points, self.session.view.point),
        ):
            box.clear()
            for one in items:
                box.addItem(one.label, one.id)
            box.setCurrentIndex(box.findData(present))
        self.ambient_c = None
        self.ambient.show_value(None)
        self.keep.setText("Keep it")
        self._follow_where()

    def show_run(self, run_id: str, name: str, log: Log, channels: tuple[RunChannel, ...]) -> None:
        """Show the columns of a run that is kept, to say anew what they are."""
        self.remaps = run_id
        by_name = {one.column: one for one in channels}
        listed = [by_name.get(one.name, RunChannel(column=one.name, unit=one.unit)) for one in log.columns]
        self._show(name, log, listed, ())
        for field in (self.where, self.name, self.build, self.point, self.ambient):
            field.setEnabled(False)
        self.keep.setText("Keep this mapping")

    def _show(self, name: str, log: Log, channels: list[RunChannel], notes: tuple[str, ...]) -> None:
        self.log, self.channels = log, channels
        self.title.setText(name)
        self.title.setToolTip(name)
        length = float(log.time_s[-1] - log.time_s[0])
        facts = f"{len(log.time_s)} lines over {number(length / 60, 1)} min, {len(log.columns)} columns of numbers."
        self.notes.setText("\n".join((facts, *notes)))
        self.problem.setText("")
        for field in (self.where, self.name, self.build, self.point, self.ambient):
            field.setEnabled(True)
        sensors = self.session.project.device.sensors
        with QSignalBlocker(self.table):
            self.table.setRowCount(0)
            self.table.setRowCount(len(channels))
            for n, (channel, column) in enumerate(zip(channels, log.columns, strict=True)):
                for k, words in enumerate((column.name, column.unit, "", _range(column), "")):
                    item = QTableWidgetItem(words)
                    item.setToolTip(column.name)
                    self.table.setItem(n, k, item)
                box = QComboBox()
                box.setAccessibleName(f"What “{column.name}” is")
                box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
                for role in _ROLES:
                    box.addItem(_ROLE_WORDS[role], (None, role))
                for sensor in sensors:
                    box.addItem(sensor.label, (sensor.id, "temperature"))
                box.setCurrentIndex(box.findText(_words(channel, {one.id: one.label for one in sensors})))
                box.activated.connect(lambda at, row=n, box=box: self._map(row, box.itemData(at)))
                self.table.setCellWidget(n, 2, box)
            self.set_theme(self.theme)
        self.table.selectRow(0)
        self._check()

    def _follow_where(self) -> None:
        """A further pass has the conditions of its run."""
        run_id = self.where.currentData()
        run = next((one for one in self.session.project.runs if one.id == run_id), None)
        for field in (self.name, self.build, self.point, self.ambient):
            field.setEnabled(run is None)
        if run is not None:
            self.build.setCurrentIndex(self.build.findData(run.build))
            self.point.setCurrentIndex(self.point.findData(run.point))

    def _show_curve(self) -> None:
        row = self.table.currentRow()
        if self.log is None or not 0 <= row < len(self.channels):
            return
        column, channel = self.log.columns[row], self.channels[row]
        warm = channel.role in ("temperature", "ambient")
        values = celsius(channel, column.values) if warm else column.values
        trace = Trace(column.name, "°C" if warm else column.unit, self.log.time_s, values, 0)
        self.curve.show_picture(TracePicture((trace,)))

    # ---- what is said

    def _map(self, row: int, told: tuple[str | None, str]) -> None:
        sensor, role = told
        self.channels[row] = self.channels[row].model_copy(update={"sensor": sensor, "role": role})
        self.table.selectRow(row)
        self._show_curve()
        self._check()
        self._repaint()

    def _repaint(self) -> None:
        viewport = self.table.viewport()
        if viewport is not None:
            viewport.update()

    def _take_ambient(self, value: float | None) -> str:
        self.ambient_c = value
        return ""

    def _check(self) -> None:
        """Say what stands in the way of keeping it."""
        taken = [one.sensor for one in self.channels if one.sensor]
        twice = next((one for one in taken if taken.count(one) > 1), None)
        words = ""
        if twice is not None:
            labels = {one.id: one.label for one in self.session.project.device.sensors}
            names = " and ".join(f"“{one.column}”" for one in self.channels if one.sensor == twice)
            words = f"{names} are both taken for {labels.get(twice, twice)}; one of them must be something else."
        elif not taken and self.session.project.device.sensors:
            words = "No column is one of the device's sensors yet, so the log could not be compared with the model."
        self.problem.setText(words)
        self.keep.setEnabled(twice is None)

    def told(self) -> tuple[RunChannel, ...]:
        """Return what the columns are."""
        return tuple(replace_unit(one) for one in self.channels)


def replace_unit(channel: RunChannel) -> RunChannel:
    """Return the channel with temperatures in °C where the logger said nothing."""
    if channel.role in ("temperature", "ambient") and not channel.unit:
        return channel.model_copy(update={"unit": "°C"})
    return channel


def _words(channel: RunChannel, sensors: dict[str, str]) -> str:
    return sensors[channel.sensor] if channel.sensor in sensors else _ROLE_WORDS[channel.role]


def _range(column: Column) -> str:
    there = column.values[np.isfinite(column.values)]
    if not len(there):
        return "no numbers"
    digits = 0 if abs(float(there.max())) >= 1000 else 1
    return f"{number(float(there.min()), digits)} … {number(float(there.max()), digits)}"
