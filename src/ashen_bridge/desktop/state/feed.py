"""Live readings of the device on the bench, looked at once a second: from a simulated one or any program of this machine."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ashen_bridge.desktop.state.live_source import LiveSource
from ashen_bridge.logs.live import LineReader
from ashen_bridge.logs.log import Log, LogError
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

_LOOK_MS = 1000
_LEAST = 2  # readings before there is anything to look at


class Feed(QObject):
    """One source at a time. `looked` comes every second while something is heard, `over` when it ends, with the reason if any."""

    looked = pyqtSignal()
    over = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.source = LiveSource(self)
        self.source.came.connect(self._hear)
        self.source.ended.connect(self._ended)
        self.following = False
        self._reader = LineReader()
        self._looking = QTimer(self)
        self._looking.setInterval(_LOOK_MS)
        self._looking.timeout.connect(self.looked)

    def connect_to(self, address: str) -> str:
        """Follow another program; returns what is wrong, if anything is."""
        self.stop()
        try:
            self.source.connect_to(address)
        except AshenError as error:
            return str(error)
        self._begin()
        return ""

    def simulate(
        self, project: Project, build: str, point: str, *, speed: float, minutes: float, cycle: tuple[float, float] | None = None
    ) -> str:
        """Follow a simulated device that is nearly what the model says; returns what is wrong, if anything is."""
        self.stop()
        try:
            self.source.simulate(project, build, point, speed=speed, minutes=minutes, cycle=cycle)
        except AshenError as error:
            return str(error)
        self._begin()
        return ""

    def _begin(self) -> None:
        self._reader, self.following = LineReader(), True
        self._looking.start()

    def stop(self) -> None:
        """Listen no more; what was heard stays."""
        self._looking.stop()
        self.source.stop()
        self.following = False

    def log(self) -> Log | None:
        """Return all that was heard, None while that is nothing to speak of."""
        return self._reader.log() if self._reader.count >= _LEAST else None

    def _hear(self, data: bytes) -> None:
        try:
            self._reader.feed(data)
        except LogError as error:
            self._ended(str(error))

    def _ended(self, reason: str) -> None:
        self.looked.emit()
        self.stop()
        self.over.emit(reason)
