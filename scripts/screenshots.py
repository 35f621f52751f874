"""Take the pictures in docs/screenshots from the demo, with the real window on an offscreen display."""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from ashen_bridge.desktop.__main__ import make_application
from ashen_bridge.desktop.preferences import Preferences
from ashen_bridge.desktop.window import MainWindow
from ashen_bridge.desktop.workbench import Workbench
from ashen_bridge.files.demos import open_anything
from ashen_bridge.geometry.section import Cut

TARGET = Path(__file__).parents[1] / "docs/screenshots"


def settle(window: MainWindow, seconds: float = 60.0) -> None:
    """Let the application run until numbers and strip are final."""
    end = time.monotonic() + seconds
    quiet = 0
    while time.monotonic() < end and quiet < 12:
        QApplication.processEvents()
        time.sleep(0.02)
        session = window.session
        done = session.state == "current" and len(session.strip) >= len(session.thicknesses)
        quiet = quiet + 1 if done or session.state == "refused" else 0


def main() -> None:
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET
    wanted = set(sys.argv[2:])
    target.mkdir(parents=True, exist_ok=True)
    application = make_application(sys.argv[:1])
    window = MainWindow("demo:correlator", open_anything("demo:correlator"), THEMES["light"])
    window.show()
    session = window.session

    def shot(name: str) -> None:
        if wanted and name not in wanted:
            return
        settle(window)
        window.grab().save(str(target / f"{name}.png"))

    shot("stack-light")
    session.look(overlay="temperature")
    shot("overlay-temperature")
    window.workspace.panel.choose_thickness(1.5)
    session.look(overlay="margins")
    shot("finding-thick-pads")
    session.look(overlay="pressure")
    shot("overlay-pressure")
    session.look(overlay="bond line", selected="die", cut=Cut("y", 0.109))
    shot("overlay-bond-line")
    window.apply_theme(THEMES["dark"])
    session.look(build="as_found", overlay="margins", selected="mem_r2", cut=Cut("x", 0.052))
    shot("stack-dark")
    window.session.document.undo_stack.setClean()
    window.close()
    application.processEvents()


if __name__ == "__main__":
    main()
