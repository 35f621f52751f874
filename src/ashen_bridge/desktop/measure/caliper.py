"""A caliper on a serial port of this machine: what it says comes in with the event loop, one line after another."""

from __future__ import annotations

import contextlib
from typing import Any

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal

from ashen_bridge.measuring.lines import CaliperLines, Said

_MOST = 8  # values at once, beyond which no hand can have pressed so often
_AT_ONCE = 4096


class CaliperPort(QObject):
    """One port. `said` carries a line, `ended` why it is listened to no more; both in the event loop."""

    said = pyqtSignal(object)
    ended = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._serial: Any = None
        self._notifier: QSocketNotifier | None = None
        self._lines = CaliperLines()
        self.name = ""

    @property
    def listening(self) -> bool:
        """Whether a port is open."""
        return self._serial is not None

    def open(self, name: str) -> str:
        """Listen to a port; returns why it cannot be, if so."""
        import serial

        self.close()
        try:
            self._serial = serial.Serial(name, timeout=0)
        except (serial.SerialException, ValueError, OSError) as error:
            return f"The port “{name}” cannot be opened: {_why(error)}."
        self.name, self._lines = name, CaliperLines()
        self._notifier = QSocketNotifier(self._serial.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._read)
        return ""

    def close(self) -> None:
        """Listen no more."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if self._serial is not None:
            with contextlib.suppress(Exception):
                self._serial.close()
            self._serial = None

    def _read(self) -> None:
        try:
            data = self._serial.read(_AT_ONCE)
        except Exception as error:
            self._end(f"The caliper has gone: {_why(error)}. What it sent is kept.")
            return
        if not data:
            self._end("The caliper has gone. What it sent is kept.")
            return
        lines: list[Said] = self._lines.feed(data)
        values = [one for one in lines if one.kind == "value"]
        if len(values) > _MOST:
            self._end(f"The caliper sent {len(values)} values at once, more than a hand can press: none of them is taken.")
            return
        for one in lines:
            self.said.emit(one)

    def _end(self, why: str) -> None:
        self.close()
        self.ended.emit(why)


def ports() -> tuple[str, ...]:
    """Return the serial ports of this machine by name."""
    from serial.tools import list_ports

    return tuple(sorted(one.device for one in list_ports.comports()))


def _why(error: BaseException) -> str:
    text = str(error).splitlines()[0] if str(error) else type(error).__name__
    return text.rpartition("] ")[2].partition(":")[0].rstrip(".") or "it is not there"
