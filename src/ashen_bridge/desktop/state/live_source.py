"""Where live readings come from: a simulated device in a process of its own, or any program behind a local socket or pipe."""

from __future__ import annotations

import contextlib
import os
import socket
import stat
import subprocess
import sys
import tempfile
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal

from ashen_bridge.files.archive import save_project
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

_LOCAL = ("localhost", "127.0.0.1", "::1")
_PATIENCE_S = 0.5
_PIECE = 1 << 16


class SourceError(AshenError, OSError):
    """A source that cannot be listened to."""


class LiveSource(QObject):
    """Listens to one source. `came` brings what it sent, `ended` that it has stopped, with the reason if it says one."""

    came = pyqtSignal(bytes)
    ended = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._process: subprocess.Popen[bytes] | None = None
        self._socket: socket.socket | None = None
        self._file = -1
        self._notifier: QSocketNotifier | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def simulate(
        self,
        project: Project,
        build: str,
        point: str,
        *,
        speed: float,
        minutes: float,
        seed: int = 1,
        cycle: tuple[float, float] | None = None,
    ) -> None:
        """Start a device that is nearly what the model says, under load, or hot and cold by minutes of load and of pause."""
        self.stop()
        self._folder = tempfile.TemporaryDirectory(prefix="ashen-bridge-device-")
        path = Path(self._folder.name) / "device.json"
        save_project(path, project)
        wanted = ["simulate", str(path), "--build", build, "--point", point, "--unlike", "7", "--seed", str(seed)]
        wanted += ["--speed", f"{speed:g}", "--minutes", f"{minutes:g}"]
        wanted += ["--cycle", f"{cycle[0]:g}", f"{cycle[1]:g}"] if cycle is not None else []
        self._process = subprocess.Popen(
            [sys.executable, "-m", "ashen_bridge", *wanted],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            stdin=subprocess.DEVNULL,
        )
        assert self._process.stdout is not None
        self._listen(self._process.stdout.fileno())

    def connect_to(self, address: str) -> None:
        """Listen to `HOST:PORT` on this machine, a Unix socket, or a named pipe. Raises `SourceError` in words."""
        self.stop()
        host, colon, port = address.rpartition(":")
        try:
            if colon and port.isdigit() and "/" not in address:
                if host.strip("[]") not in _LOCAL:
                    raise SourceError(f"“{host}” is not this machine; only local sources are listened to.")
                self._socket = socket.create_connection((host.strip("[]"), int(port)), _PATIENCE_S)
                self._listen(self._socket.fileno())
                return
            mode = os.stat(address).st_mode
            if stat.S_ISSOCK(mode):
                self._socket = socket.socket(socket.AF_UNIX)
                self._socket.settimeout(_PATIENCE_S)
                self._socket.connect(address)
                self._listen(self._socket.fileno())
            elif stat.S_ISFIFO(mode):
                self._file = os.open(address, os.O_RDONLY | os.O_NONBLOCK)
                self._listen(self._file)
            else:
                raise SourceError(f"“{Path(address).name}” is neither a socket nor a pipe; a file is brought in as a log.")
        except SourceError:
            self.stop()
            raise
        except (OSError, OverflowError) as error:
            self.stop()
            reason = getattr(error, "strerror", None) or str(error) or type(error).__name__
            raise SourceError(f"Nothing can be heard at “{address}”: {reason}.") from error

    def _listen(self, number: int) -> None:
        os.set_blocking(number, False)
        self._notifier = QSocketNotifier(sip.voidptr(number), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(lambda *_: self._hear(number))

    def _hear(self, number: int) -> None:
        if self._notifier is None:
            return
        try:
            data = os.read(number, _PIECE)
        except BlockingIOError:
            return
        except OSError as error:
            self._over(f"The source broke off: {error.strerror}.")
            return
        if data:
            self.came.emit(data)
        else:
            self._over(self._last_words())

    def _last_words(self) -> str:
        """What a simulated device that failed has to say."""
        if self._process is None or self._process.stderr is None:
            return ""
        if self._process.wait(2) == 0:
            return ""
        said = self._process.stderr.read().decode(errors="replace").strip().splitlines()
        return said[-1] if said else "The simulated device has stopped unexpectedly."

    def _over(self, reason: str) -> None:
        self.stop()
        self.ended.emit(reason)

    def stop(self) -> None:
        """Stop listening, and end the device if it is a simulated one."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if self._process is not None:
            if self._process.poll() is None:
                self._process.terminate()
                with contextlib.suppress(subprocess.TimeoutExpired):
                    self._process.wait(2)
                if self._process.poll() is None:
                    self._process.kill()
                    self._process.wait()
            for pipe in (self._process.stdout, self._process.stderr):
                if pipe is not None:
                    pipe.close()
            self._process = None
        if self._socket is not None:
            self._socket.close()
            self._socket = None
        if self._file >= 0:
            os.close(self._file)
            self._file = -1
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None
