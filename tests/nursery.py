"""Workers for windows under test, forked from one process that has the solvers loaded and the first demo predicted.

What a worker does is the same; only what it would load and warm up first is shared. `test_window` starts real ones too.
"""

from __future__ import annotations

import contextlib
import os
import select
import signal
import socket
import subprocess
import sys
from functools import cache
from multiprocessing.connection import Connection

ENGINE = "ashen_bridge.predict.engine:Engine"


class Forked:
    """A forked worker, which is not a child of this process."""

    def __init__(self, pid: int) -> None:
        self.pid = pid
        self._handle = os.pidfd_open(pid)

    def __del__(self) -> None:
        os.close(self._handle)

    def poll(self) -> int | None:
        return 0 if select.select([self._handle], [], [], 0)[0] else None

    def terminate(self) -> None:
        self._send(signal.SIGTERM)

    def kill(self) -> None:
        self._send(signal.SIGKILL)

    def wait(self, timeout: float | None = None) -> int:
        if not select.select([self._handle], [], [], timeout)[0]:
            raise subprocess.TimeoutExpired("worker", timeout or 0.0)
        return 0

    def _send(self, number: int) -> None:
        with contextlib.suppress(ProcessLookupError):
            signal.pidfd_send_signal(self._handle, number)


def launch(theirs: Connection, tools: str) -> Forked:
    """Fork a worker on one end of a connection."""
    there = begin()
    socket.send_fds(there, [tools.encode() or b"-"], [theirs.fileno()])
    return Forked(int(there.recv(32)))


@cache
def begin() -> socket.socket:
    """Start the process that forks, once; return what it is asked by."""
    ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
    code = f"import sys; sys.path[:0] = {sys.path!r}; from nursery import main; main({theirs.fileno()})"
    environment = os.environ | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    subprocess.Popen([sys.executable, "-c", code], pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL, env=environment)
    theirs.close()
    return ours


def end() -> None:
    """Close what it is asked by, so that it ends."""
    if begin.cache_info().currsize:
        begin().close()
        begin.cache_clear()


def main(number: int) -> None:
    """Serve one socket until its other end is gone: each message is a connection and the tools that are wanted."""
    from ashen_bridge.assess import errands
    from ashen_bridge.files.demos import open_anything
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.worker.serve import Worker

    engine = Engine()
    project = open_anything("demo:correlator").project
    list(errands.predict(engine, project, project.build().id, project.point().id))
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for them
    with socket.socket(fileno=number) as there:
        while True:
            tools, handles, _, _ = socket.recv_fds(there, 256, 1)
            if not tools:
                return
            pid = os.fork()
            if pid == 0:
                there.close()
                signal.signal(signal.SIGCHLD, signal.SIG_DFL)
                with Connection(handles[0]) as connection:
                    Worker(connection, (lambda: engine) if tools.decode() == ENGINE else None).serve()
                os._exit(0)
            os.close(handles[0])
            there.send(str(pid).encode())
