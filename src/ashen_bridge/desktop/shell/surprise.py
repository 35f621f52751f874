"""The last net under the windows: an error nobody foresaw becomes a sentence, a recovery copy and a report."""

from __future__ import annotations

import sys
import threading
from types import TracebackType

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.surprise import keep_report, sentence


class Net(QObject):
    """Catches what reaches the event loop or ends a thread. Other windows go on, and so does the one it happened in."""

    _fell = pyqtSignal(str)

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self._bench = bench
        self._seen: set[str] = set()
        self._fell.connect(self._say)  # queued where another thread sends it

    def spread(self) -> None:
        """Catch from now on."""
        sys.excepthook = self.caught
        threading.excepthook = lambda told: self.caught(told.exc_type, told.exc_value, told.exc_traceback)

    def caught(self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        """Take an error: write it down, keep all open work, say it once."""
        if error is None or issubclass(kind, KeyboardInterrupt | SystemExit):
            sys.__excepthook__(kind, error or kind(), trace)
            return
        last = trace
        while last is not None and last.tb_next is not None:
            last = last.tb_next
        key = f"{kind.__name__} {last.tb_frame.f_code.co_filename}:{last.tb_lineno}" if last is not None else kind.__name__
        # What a painter stumbles over comes again with every picture.
        if key in self._seen:
            return
        self._seen.add(key)
        self._fell.emit(sentence(error, keep_report(error)))

    def _say(self, text: str) -> None:
        for window in list(self._bench.windows):
            window.session.document.keep_recovery_copy()
        shown = next((window for window in self._bench.windows if window.isActiveWindow()), None)
        for window in [shown] if shown else self._bench.windows[:1]:
            window.notice.ask(text, [("Understood", lambda: None)])
