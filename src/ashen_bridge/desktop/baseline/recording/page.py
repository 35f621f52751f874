"""The page that records: choose a source, watch the readings come in, stop when they have settled, keep or discard."""

from __future__ import annotations

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.bench.errands import ReadFile
from ashen_bridge.bench.recording import remembered
from ashen_bridge.desktop.charts.trace_picture import Trace, TracePicture
from ashen_bridge.desktop.charts.trace_view import TraceView
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.live_source import LiveSource
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.logs.live import LineReader
from ashen_bridge.logs.log import LogError
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.scales import celsius
from ashen_bridge.logs.standing import Ahead
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.records import RunChannel
from ashen_bridge.words.times import time_words

_SPEEDS = (("in real time", 1.0), ("ten times faster", 10.0), ("sixty times faster", 60.0), ("as fast as it can", 100_000.0))
_DRAW_MS, _JUDGE_MS = 250, 1500
_MINUTES = 240.0
_WORTH_ASKING = 60  # readings from which discarding is asked about
DISCARD, GO_ON = "Discard", "Go on"
_MOST = 6


class RecordPage(QWidget):
    """Records one run at a time. `recorded` brings what is to be kept, `left` that the page is done with."""

    recorded = pyqtSignal(object)
    left = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, asker: Asker) -> None:
        super().__init__()
        self.session, self.theme, self.asker = session, theme, asker
        self.source = LiveSource(self)
        self.source.came.connect(self._hear)
        self.source.ended.connect(self._end)
        self.reader = LineReader()
        self.channels: tuple[RunChannel, ...] = ()
        self.ahead: Ahead | None = None
        self.state = "choose"
        self.curves = TraceView(theme)
        self.simulated = QRadioButton("A simulated device")
        self.other = QRadioButton("Another program")
        self.simulated.setChecked(True)
        self.speed = QComboBox()
        self.speed.setAccessibleName("Speed of the simulated device")
        for words, value in _SPEEDS:
            self.speed.addItem(words, value)
        self.speed.setCurrentIndex(2)
        self.address = QLineEdit()
        self.address.setAccessibleName("Where the other program sends")
        self.address.setPlaceholderText("localhost:7000, or path of a socket or pipe")
        self.start = QPushButton("Start")
        self.start.clicked.connect(self.begin)
        self.leave = QPushButton("Leave")
        self.leave.clicked.connect(self._leave)
        self.clock = Words()
        self.clock.setObjectName("question")
        self.words = Words()
        self.words.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.problem = Words()
        self.problem.setObjectName("wrong")
        self.problem.setWordWrap(True)
        self.stop = QPushButton("Stop and keep…")
        self.stop.clicked.connect(self.keep)
        self.discard = QPushButton("Discard")
        self.discard.clicked.connect(self.throw_away)
        self._drawing = QTimer(self)
        self._drawing.setInterval(_DRAW_MS)
        self._drawing.timeout.connect(self._draw)
        self._judging = QTimer(self)
        self._judging.setInterval(_JUDGE_MS)
        self._judging.timeout.connect(self._judge)
        self._lay_out()
        self._show_state()

    def _lay_out(self) -> None:
        self._choosing = QWidget()
        choose = QVBoxLayout(self._choosing)
        choose.setContentsMargins(0, 0, 0, 0)
        choose.setSpacing(6)
        for widget in (self.simulated, self.speed, self.other, self.address):
            choose.addWidget(widget)
        caution = Words("Let nobody touch hot metal or a hot case while it runs, and stay with it. Mains and fans stay covered.")
        caution.setObjectName("quiet")
        caution.setWordWrap(True)
        choose.addWidget(caution)
        row = QHBoxLayout()
        row.addWidget(self.leave)
        row.addWidget(self.start, 1)
        choose.addLayout(row)
        self._running = QWidget()
        running = QVBoxLayout(self._running)
        running.setContentsMargins(0, 0, 0, 0)
        running.setSpacing(8)
        for shown in (self.clock, self.bar, self.words):
            running.addWidget(shown)
        line = QHBoxLayout()
        line.addWidget(self.discard)
        line.addWidget(self.stop, 1)
        running.addLayout(line)
        title = Words("Record a run")
        title.setObjectName("title")
        card = QFrame()
        card.setObjectName("card")
        card.setFixedWidth(320)
        column = QVBoxLayout(card)
        column.setContentsMargins(12, 9, 12, 10)
        column.setSpacing(8)
        for part in (title, self._choosing, self._running, self.problem):
            column.addWidget(part)
        column.addStretch(1)
        picture = QFrame()
        picture.setObjectName("card")
        inner = QVBoxLayout(picture)
        inner.setContentsMargins(3, 3, 3, 3)
        inner.addWidget(self.curves)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(8)
        whole.addWidget(picture, 1)
        whole.addWidget(card)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.curves.theme = theme
        self.curves.update()

    # ---- what is done

    def begin(self) -> None:
        """Start listening."""
        self.reader, self.channels, self.ahead = LineReader(), (), None
        self.problem.setText("")
        view = self.session.view
        try:
            if self.simulated.isChecked():
                seed = 1 + len(self.session.project.runs)
                self.source.simulate(
                    self.session.computed, view.build, view.point, speed=self.speed.currentData(), minutes=_MINUTES, seed=seed
                )
            else:
                self.source.connect_to(self.address.text().strip())
        except AshenError as error:
            self.problem.setText(str(error))
            return
        self.state = "running"
        self._drawing.start()
        self._judging.start()
        self._show_state()

    def keep(self) -> None:
        """Stop, and hand over what came in."""
        self._halt()
        try:
            log = self.reader.log()
        except LogError as error:
            self.problem.setText(str(error))
            self.state = "choose"
            self._show_state()
            return
        self.state = "choose"
        self._show_state()
        project = self.session.project
        self.recorded.emit(ReadFile("Recording", log, propose(log, project.device, remembered(project))))

    def throw_away(self) -> None:
        """Stop and forget what came in; asked about when it is more than a minute."""
        question = f"{self.reader.count} readings have come in. Discard them? They cannot be brought back."
        if (
            self.reader.count > _WORTH_ASKING
            and self.asker.choose("Discard", question, (DISCARD, GO_ON), GO_ON, GO_ON) != DISCARD
        ):
            return
        self._halt()
        self.reader = LineReader()
        self.state = "choose"
        self._show_state()

    def close_source(self) -> None:
        """Stop listening: the window goes."""
        self._halt()

    def _leave(self) -> None:
        self._halt()
        self.left.emit()

    def _halt(self) -> None:
        self._drawing.stop()
        self._judging.stop()
        self.source.stop()

    # ---- what comes in

    def _hear(self, data: bytes) -> None:
        try:
            self.reader.feed(data)
        except LogError as error:
            self._halt()
            self.state = "choose"
            self._show_state()
            self.problem.setText(str(error))

    def _end(self, reason: str) -> None:
        """The source has stopped; what came in can still be kept."""
        self._drawing.stop()
        self._judging.stop()
        self._draw()
        if self.reader.count < 2:
            self.state = "choose"
            self._show_state()
            self.problem.setText(reason or "The source ended before two readings had come in.")
            return
        self.state = "over"
        self._show_state()
        self.problem.setText(reason)

    def _draw(self) -> None:
        if self.reader.count < 2:
            first = "The simulated device starts: its course over time is computed first, which takes some seconds."
            waiting = first if self.simulated.isChecked() else "Waiting for the first readings from the other program…"
            self.curves.show_picture(None, waiting)
            self._say()
            return
        log = self.reader.log()
        if not self.channels:
            self.channels = propose(log, self.session.project.device, remembered(self.session.project))
        warm = [one for one in self.channels if one.role in ("temperature", "ambient")]
        by_name = {one.name: one.values for one in log.columns}
        order = sorted(warm, key=lambda one: (one.role == "ambient", -float(by_name[one.column][-1])))
        tints = {one.column: n for n, one in enumerate(order[:_MOST])}
        upper = tuple(
            Trace(one.column, "°C", log.time_s, celsius(one, by_name[one.column]), tints.get(one.column)) for one in warm
        )
        below = [one for role in ("power", "clock", "fan") for one in self.channels if one.role == role][:1]
        lower = tuple(Trace(one.column, one.unit, log.time_s, by_name[one.column], 4) for one in below)
        self.curves.show_picture(TracePicture(upper, lower), "No temperature comes in yet.")
        self._say()

    def _judge(self) -> None:
        if self.reader.count >= 30 and self.channels:
            self.session.runs.look_ahead(self.reader.log(), self.channels, self._take_ahead)

    def _take_ahead(self, value: Ahead | None, problem: str) -> None:
        if value is not None and self.state == "running":
            self.ahead = value
            self._say()

    # ---- what is said

    def _say(self) -> None:
        log = self.reader.log() if self.reader.count >= 2 else None
        elapsed = float(log.time_s[-1]) if log is not None else 0.0
        self.clock.setText(time_words(elapsed))
        ahead = self.ahead
        if ahead is None:
            self.bar.setValue(0)
            self.words.setText(f"{self.reader.count} readings. How long it will take is told after a while under load.")
        elif ahead.enough:
            self.bar.setValue(100)
            self.words.setText(f"✓ Settled for {time_words(ahead.settled_s)}: it can be stopped.")
        elif ahead.left_s is None or ahead.settled_s > 0:
            share = 95 if ahead.settled_s > 0 else 5
            self.bar.setValue(share)
            told = "Just settled; a minute more makes a good mean." if ahead.settled_s > 0 else ""
            self.words.setText(told or f"Still moving ({ahead.slowest}); how long it will take cannot be told yet.")
        else:
            self.bar.setValue(round(100 * elapsed / max(elapsed + ahead.left_s, 1.0)))
            self.words.setText(f"About {time_words(ahead.left_s)} left until settled; {ahead.slowest} takes longest.")

    def _show_state(self) -> None:
        self._choosing.setVisible(self.state == "choose")
        self._running.setVisible(self.state != "choose")
        if self.state == "choose":
            words = "Choose where readings come from, and start. The build and operating point above are what is tested."
            self.curves.show_picture(None, words)
        elif self.state == "over":
            self.words.setText("The source has stopped.")
