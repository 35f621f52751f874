"""The first minutes under load: one sensor's course, readings typed or followed, and what they say as they come."""

from __future__ import annotations

from functools import partial

import numpy as np
from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QMenu, QPushButton, QWidget

from ashen_bridge.bench.first_power.expecting import at_time, grown
from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.desktop.closeup.first_desk import FirstDesk
from ashen_bridge.desktop.closeup.first_painter import FirstPainting, FirstPicture
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card, SideCard
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import bold, rich, table
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.words.numbers import number, percent

_WIDTH, _MOST = 350, 3
_EXPLAIN = "A build with an operating point is needed."
_WAITING = "Running what may go wrong in closing forward in time…"
_CAUTION = "Stay with it, one hand at the switch. A sensor near its limit, a smell or a fan that stands: power off at once."


class FirstView(QWidget):
    """The picture of one sensor."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.picture: FirstPicture | None = None
        self.setMinimumSize(260, 200)
        self.setAccessibleName("The first minutes of one sensor")

    def sizeHint(self) -> QSize:
        return QSize(700, 420)

    def show_picture(self, picture: FirstPicture | None) -> None:
        """Show a picture."""
        self.picture = picture
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.picture is not None:
            painter = QPainter(self)
            FirstPainting(painter, self.picture, self.theme, self.width(), self.height()).paint()


class FirstPage(QWidget):
    """What is expected at the left, what is read at the right."""

    def __init__(self, desk: FirstDesk, room: Room) -> None:
        super().__init__()
        self.desk, self.room, self.theme = desk, room, room.theme()
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.sensor = ChoiceField("Sensor that is shown", self._choose)
        self.view = FirstView(self.theme)
        self.suspects = Words()
        self.suspects.setTextFormat(Qt.TextFormat.RichText)
        self.suspects.setWordWrap(True)
        self.clock = Words()
        self.clock.setObjectName("question")
        self.on = QPushButton("Full power is on")
        self.on.setToolTip("Starts the clock; what is typed is of the moment it is typed")
        self.on.clicked.connect(desk.power_on)
        self.anew = QPushButton("Begin anew")
        self.anew.clicked.connect(desk.begin_anew)
        self.minutes = NumberField(Wanted("Readings are of minute", "min", 0.1, 5.0), self._minute)
        self.minutes.setMaximumWidth(110)
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(5)
        self.fields: dict[str, NumberField] = {}
        self._expected: dict[str, Words] = {}
        self._rows: list[QWidget] = []
        self.more = QPushButton("Readings from…")
        self.more.setProperty("popup", True)
        self.more.setMenu(self._menu())
        self._ticking = QTimer(self)
        self._ticking.setInterval(1000)
        self._ticking.timeout.connect(self._tick)
        self._lay_out()

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for words, act in (
            ("A log from a file…", self.open_log),
            ("A simulated device, ten times faster", lambda: self.desk.follow("")),
            ("Another program, live…", self._follow),
        ):
            action = menu.addAction(words)
            assert action is not None  # just made
            action.triggered.connect(lambda _, act=act: act())
        return menu

    def _lay_out(self) -> None:
        left = Card((14, 12, 14, 12))
        head = QHBoxLayout()
        title = Words("The first minutes")
        title.setObjectName("title")
        head.addWidget(title, 1)
        head.addWidget(self.sensor)
        left.column.addLayout(head)
        left.column.addWidget(self.says)
        left.column.addWidget(self.state)
        left.column.addWidget(self.view, 1)
        left.column.addWidget(self.suspects)
        self.right = SideCard(_WIDTH)
        caution = Words(_CAUTION)
        caution.setObjectName("caution")
        caution.setWordWrap(True)
        times = QHBoxLayout()
        label = Words("readings are of minute")
        label.setObjectName("quiet")
        self._of = label
        times.addWidget(label)
        times.addWidget(self.minutes)
        times.addStretch(1)
        for part in (caution, self.clock):
            self.right.column.addWidget(part)
        self.right.column.addLayout(times)
        self.right.column.addLayout(self.grid)
        self.right.column.addStretch(1)
        foot = QGridLayout()
        foot.addWidget(self.on, 0, 0)
        foot.addWidget(self.anew, 0, 1)
        foot.addWidget(self.more, 1, 0, 1, 2)
        self.right.foot.addLayout(foot)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(left, 1)
        row.addWidget(self.right)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.view.theme = theme
        self.right.set_theme(theme)

    def refresh(self) -> None:
        """Take over what is expected, what was read and what it says."""
        desk = self.desk
        desk.expected.ask_by_itself()
        expected = desk.shown
        told = desk.says
        role = "ink" if told is None else "bad" if told.stop else "good" if told.well > 0.5 else "ember"
        self.says.setText(told.says if told is not None else "What every sensor should show, and what it would if a part misses.")
        self.says.setStyleSheet(f"color: {self.theme.roles[role]};")
        waits = standing(desk.expected, _WAITING, _EXPLAIN)
        trouble = desk.problem or (desk.judged.problem if desk.read or desk.log else "")
        here = f"{len(expected.cases)} things that may have gone wrong were run for five minutes." if expected is not None else ""
        self.state.setText(trouble or desk.elsewhere or waits or here)
        self._ticking.start() if desk.running else self._ticking.stop()
        self.on.setEnabled(expected is not None and not desk.running and not desk.following)
        self.more.setEnabled(expected is not None)
        self.anew.setEnabled(bool(desk.running or desk.read or desk.log or desk.following))
        for widget in (self.minutes, self._of):
            widget.setVisible(not desk.running and not desk.following)
        self.minutes.show_value(desk.typed_s / 60)
        self._sensors(expected)
        self._tick()
        self.suspects.setText(self._suspected())
        self.suspects.setVisible(bool(self.suspects.text()))

    def _tick(self) -> None:
        seconds = self.desk.now_s
        clock = f"{int(seconds // 60)}:{int(seconds % 60):02d} at full power"
        self.clock.setText("Waiting for full power…" if self.desk.waiting else clock)
        self.clock.setVisible(self.desk.running or self.desk.following)
        expected = self.desk.shown
        if expected is not None:
            self._show(expected)

    def _sensors(self, expected: Expected | None) -> None:
        wanted = expected.sensors if expected is not None else ()
        if tuple(self.fields) != wanted:
            for widget in self._rows:
                self.grid.removeWidget(widget)
                widget.hide()
                widget.deleteLater()
            self._rows, self.fields, self._expected = [], {}, {}
            for n, sensor in enumerate(wanted):
                self._add_row(n, sensor, expected.names[n] if expected is not None else sensor)
            self.grid.setColumnStretch(0, 1)
        if expected is None:
            return
        read = {one.sensor: one.value_c for one in self.desk.latest()}
        for sensor, field in self.fields.items():
            field.show_value(read.get(sensor))
        self.sensor.show_choice(list(zip(expected.names, expected.sensors, strict=True)), self._chosen(expected))

    def _add_row(self, n: int, sensor: str, name: str) -> None:
        label, should = Words(name), Words()
        label.setWordWrap(True)
        should.setObjectName("quiet")
        field = NumberField(Wanted(f"{name} reads", "°C", -60.0, 250.0, optional=True), partial(self._typed, sensor))
        field.setMaximumWidth(96)
        for column, widget in enumerate((label, should, field)):
            self.grid.addWidget(widget, n, column)
            self._rows.append(widget)
        self.fields[sensor], self._expected[sensor] = field, should

    def _chosen(self, expected: Expected) -> str:
        """The sensor that is shown: the chosen one, else the one that a first suspect moves most, else the hottest."""
        if self.desk.sensor in expected.sensors:
            return self.desk.sensor
        told = self.desk.says
        shown = {one.id: one.shown_c for one in expected.cases}
        ends = expected.healthy_c[-1]
        if told is not None and told.suspects and told.well < 0.5:
            ends = np.abs(shown[told.suspects[0].id][-1][-1] - expected.healthy_c[-1])
        return expected.sensors[int(np.argmax(ends))]

    def _show(self, expected: Expected) -> None:
        """Show what is expected now, and the picture."""
        seconds = max(self.desk.now_s, 1.0)
        healthy = at_time(expected, expected.healthy_c, seconds)
        pm = grown(expected, expected.pm_k, seconds)
        for n, sensor in enumerate(expected.sensors):
            self._expected[sensor].setText(f"{number(float(healthy[n]), 1)} ± {number(float(pm[n]), 1)} °C")
        self.view.show_picture(self._picture(expected, expected.sensors.index(self._chosen(expected))))

    def _picture(self, expected: Expected, n: int) -> FirstPicture:
        told, shown = self.desk.says, {one.id: one for one in expected.cases}
        if told is not None and told.well < 0.9:
            cases = [shown[one.id] for one in told.suspects[:_MOST] if one.id in shown]
        else:
            moves = [float(np.abs(one.shown_c[-1, -1, n] - expected.healthy_c[-1, n])) for one in expected.cases]
            cases = [expected.cases[k] for k in np.argsort(moves)[::-1][:_MOST] if moves[k] > 1.0]
        start = float(np.broadcast_to(expected.ambient_c + expected.start_k, len(expected.sensors))[n])

        def begun(values: np.ndarray, first: float) -> np.ndarray:
            return np.concatenate([[first], values])

        name = expected.sensors[n]
        return FirstPicture(
            begun(expected.times_s, 0.0),
            begun(expected.healthy_c[:, n], start),
            begun(expected.pm_k[:, n], 0.0),
            tuple((one.title, begun(one.shown_c[-1, :, n], start)) for one in cases),
            tuple((one.at_s, one.value_c) for one in self.desk.read if one.sensor == name),
            float(expected.limits_c[n]),
            self.desk.now_s if self.desk.running or self.desk.following else None,
        )

    def _suspected(self) -> str:
        told = self.desk.says
        if told is None or told.well > 0.9:
            return ""
        rows = [[percent(one.belief), bold(one.title), one.confirm] for one in told.suspects[:_MOST] if one.belief > 0.01]
        return str(rich(table(rows, right=(0,), spacing=6, wide=False))) if rows else ""

    # ---- what is done

    def _choose(self, sensor: str) -> None:
        self.desk.sensor = sensor
        self.refresh()

    def _minute(self, minutes: float | None) -> str:
        if minutes is not None:
            self.desk.typed_at(60.0 * minutes)
        return ""

    def _typed(self, sensor: str, value: float | None) -> str:
        self.desk.type(sensor, value)
        return ""

    def open_log(self) -> None:
        """Judge a log from a file."""
        name = self.room.asker.open_file(
            "A log of the first minutes", self.room.folder(), "Logs (*.csv *.txt *.tsv *.log);;All (*)"
        )
        if name:
            self.desk.take_log(name)

    def _follow(self) -> None:
        address = self.room.asker.text("Another program", "Where it sends: localhost:7000, or the path of a socket or pipe")
        if address:
            self.desk.follow(address)
