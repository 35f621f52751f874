"""Start the desktop application: `python -m ashen_bridge.desktop [FILE …]`; without a file it opens the demo."""

from __future__ import annotations

import os
import sys

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from ashen_bridge.desktop.look.icons import application_icon
from ashen_bridge.desktop.look.theme import load_fonts
from ashen_bridge.desktop.parts.plain import plain_tips
from ashen_bridge.desktop.shell.surprise import Net
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.files.demos import open_anything
from ashen_bridge.files.recovery import default_folder as recovery_folder
from ashen_bridge.files.sweep import sweep
from ashen_bridge.model.errors import AshenError

DEMO = "demo:correlator"


def make_application(arguments: list[str]) -> QApplication:
    """Return the application with its name, style and fonts set."""
    # The window asks for the interpreter while the worker computes: half a millisecond of waiting instead of five.
    sys.setswitchinterval(5e-4)
    application = QApplication(arguments)
    application.setApplicationName("Ashen Bridge")
    application.setOrganizationName("ashen-bridge")
    application.setDesktopFileName("ashen-bridge")
    application.setStyle("Fusion")
    plain_tips(application)
    load_fonts()
    application.setWindowIcon(QIcon(application_icon()))
    return application


def main() -> None:
    """Run the application; a file that cannot be opened is one sentence on stderr and exit code 2."""
    wanted = sys.argv[1:] or [DEMO]
    try:
        opened = [(where, open_anything(where)) for where in wanted]
    except AshenError as error:
        print(error, file=sys.stderr)
        sys.exit(2)
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        print("There is no display to open a window on; `./run predict FILE` works without one.", file=sys.stderr)
        sys.exit(2)
    application = make_application(sys.argv[:1])
    bench = Workbench()
    Net(bench).spread()
    windows = [bench.open(where, content) for where, content in opened]
    QTimer.singleShot(0, lambda: bench.offer_recovery(windows[0]))
    status = application.exec()
    # At the end, when nobody waits; what is open anywhere was used just now.
    sweep(BlobStore(default_folder()), recovery_folder())
    bench.preferences.save()
    sys.exit(status)


if __name__ == "__main__":
    main()
