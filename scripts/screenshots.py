"""Take the pictures in docs/screenshots from the demo and from a guided start, with the real window on an offscreen display.

Arguments: where to put them (docs/screenshots if nothing is said), then the names of those wanted (all if none).
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QApplication, QWidget

from ashen_bridge.bench.first_power.expecting import at_time
from ashen_bridge.desktop.__main__ import make_application
from ashen_bridge.desktop.baseline.triage_sheet import TriageSheet
from ashen_bridge.desktop.choose.page import ChoosePage
from ashen_bridge.desktop.closeup.page import ClosePage
from ashen_bridge.desktop.guided.dialog import GuidedDialog
from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.openup.page import OpenPage
from ashen_bridge.desktop.shell.general import EMPTY
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.files.demos import open_anything
from ashen_bridge.geometry.section import Cut
from ashen_bridge.guided.answers import DeviceKind
from ashen_bridge.model.project import Project

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from windows import baseline, desk, look, prove
from windows import stack as stack_of

LOGS = Path(__file__).parents[1] / "src/ashen_bridge/files/demos/logs"
TARGET = Path(__file__).parents[1] / "docs/screenshots"
DEMO = "demo:correlator"


def pump(seconds: float) -> None:
    """Let the application run for a while."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)


def settle(window: MainWindow, seconds: float = 60.0) -> None:
    """Let the application run until numbers and strip are final and nothing is worked on."""
    end = time.monotonic() + seconds
    quiet = 0
    while time.monotonic() < end and quiet < 12:
        QApplication.processEvents()
        time.sleep(0.02)
        session = window.session
        done = (
            session.results.state == "current"
            and len(session.results.strip) >= len(session.results.thicknesses)
            and not session.questions.running
        )
        done = done and not session.runs.busy
        quiet = quiet + 1 if done or session.results.state == "refused" else 0


class Camera:
    """Takes the pictures that are wanted."""

    def __init__(self, target: Path, wanted: set[str]) -> None:
        self.target, self.wanted = target, wanted
        target.mkdir(parents=True, exist_ok=True)

    def window(self, window: MainWindow, name: str) -> None:
        """Take a window once it is at rest."""
        if not self.wanted or name in self.wanted:
            settle(window)
            window.grab().save(str(self.target / f"{name}.png"))

    def over(self, window: MainWindow, sheet: QWidget, name: str) -> None:
        """Take a sheet or dialog over its window, as they stand on the screen."""
        if self.wanted and name not in self.wanted:
            return
        pump(0.3)
        whole: QPixmap = window.grab()
        painter = QPainter(whole)
        painter.fillRect(whole.rect(), window.theme.colour("ink", 0.28))
        place = QPoint((whole.width() - sheet.width()) // 2, max((whole.height() - sheet.height()) // 2, 10))
        painter.drawPixmap(place, sheet.grab())
        painter.end()
        whole.save(str(self.target / f"{name}.png"))


def opened(bench: Workbench, demo: str = DEMO) -> MainWindow:
    """Open a demo in a window of the usual size."""
    window = bench.open(demo, open_anything(demo))
    window.resize(1280, 800)
    return window


def stack(bench: Workbench, camera: Camera) -> None:
    """The main workspace."""
    window = opened(bench)
    camera.window(window, "stack-light")
    stack_of(window).panel.choose_thickness(1.5)
    look(window, overlay="margins")
    camera.window(window, "finding-thick-pads")
    bench.set_look("dark")
    look(window, build="as_found", overlay="margins", selected="mem_r2", cut=Cut("x", 0.052))
    camera.window(window, "stack-dark")
    finish(bench, window)


def choosing(bench: Workbench, camera: Camera) -> None:
    """Plans, builds beside each other."""
    window = opened(bench)
    look(window, workspace="choose", build="as_found", selected="mem_l1")
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    camera.window(window, "choose-plans")
    bench.set_look("dark")
    page.turn_to("compare")
    camera.window(window, "choose-compare")
    bench.set_look("light")
    finish(bench, window)


def measuring(bench: Workbench, camera: Camera) -> None:
    """Gaps and what is known of them."""
    window = opened(bench)
    look(window, workspace="measure", build="as_found", selected="mem_r1")
    pump(0.5)
    camera.window(window, "measure")
    finish(bench, window)


def opening(bench: Workbench, camera: Camera) -> None:
    """Steps, and what old pads show."""
    window = opened(bench)
    look(window, workspace="openup", build="as_found")
    page = window.workspaces["openup"].page()
    assert isinstance(page, OpenPage)
    procedure = page.desk.procedure
    assert procedure is not None  # the demo's is half done
    page.desk.choose_step(next(one for one in procedure.steps if one.about[:1] == ("spring_sw",)))
    camera.window(window, "openup-steps")
    page.turn_to("seen")
    settle(window)
    page.desk.look(replace(page.desk.view, joint="pad_t1", lower="mem_t1"))
    page.seen.say("untouched")
    settle(window)
    camera.window(window, "openup-shows")
    finish(bench, window)


def closing(bench: Workbench, camera: Camera) -> None:
    """Pieces on sheets, steps on the way back, the first minutes under load."""
    window = opened(bench)
    look(window, workspace="cut", build="plan_a")
    camera.window(window, "cut")
    look(window, workspace="closeup", build="plan_a")
    settle(window)
    page = window.workspaces["closeup"].page()
    assert isinstance(page, ClosePage)
    procedure = page.desk.procedure
    assert procedure is not None  # it has been worked out
    page.desk.choose_step(next(one for one in procedure.steps if "crosswise" in one.text.lower()))
    camera.window(window, "closeup-steps")
    page.turn_to("first")
    settle(window, 180.0)
    desk_of_first = page.first_desk
    expected = desk_of_first.expected.value
    assert expected is not None
    misses = next(one for one in expected.cases if one.id.startswith("touch-pad"))
    for name, shown in zip(expected.sensors, at_time(expected, misses.shown_c[-1], 180.0), strict=True):
        desk_of_first.type(name, round(float(shown), 1))
    camera.window(window, "closeup-first")
    finish(bench, window)


def others(bench: Workbench, camera: Camera) -> None:
    """Another demo: temperatures over time."""
    window = opened(bench, "demo:buoy")
    settle(window)
    stack_of(window).time.pattern.setCurrentIndex(1)
    look(window, lower="time")
    pump(0.5)
    camera.window(window, "time-soak")
    bench.set_look("dark")
    finish(bench, window)


def editing(bench: Workbench, camera: Camera) -> None:
    """The device edited, light and dark, and what stands beside it."""
    window = opened(bench)
    settle(window)
    window.commands["edit_mode"].trigger()
    desk(window).choose("device.bodies.mem_r2")
    camera.window(window, "editing-light")
    finish(bench, window)


def runs(bench: Workbench, camera: Camera) -> None:
    """Logs brought in, a run, faults weighed, the repair proved."""
    window = opened(bench)
    look(window, workspace="baseline", run="pads")
    camera.window(window, "baseline-run")
    window.workspaces["baseline"].actions.read(str(LOGS / "correlator-repaired-3.csv"))
    page = baseline(window)
    assert page is not None
    while not page.is_importing:
        pump(0.05)
    window.workspaces["baseline"].actions.leave()
    look(window, run="repaired", run_page="diagnose")
    settle(window)
    page.diagnosis.question.ask()
    pump(0.3)
    camera.window(window, "baseline-diagnosis")
    look(window, workspace="prove", run="repaired", against="stock")
    settle(window)
    prove(window).proof.ask()
    pump(0.3)
    camera.window(window, "prove-repair")
    finish(bench, window)


def guided(bench: Workbench, camera: Camera) -> None:
    """From questions to assumptions."""
    window = opened(bench)
    settle(window)
    window.general.start_guided()
    dialog = window.findChildren(GuidedDialog)[-1]
    for field, value in {
        "kind": DeviceKind.CARD,
        "name": "Marsh harrier card",
        "die_w_mm": 22.4,
        "rear": 2,
        "pad_now_mm": 1.25,
        "watts": 170.0,
        "rear_meets": "pads",
        "core_c": 84.0,
        "hot_c": 96.0,
        "memory_c": 104.0,
        "pad_wanted_mm": 1.5,
    }.items():
        dialog.answer(field, value)
    dialog.go(4)
    camera.over(window, dialog, "guided-start")
    dialog.build()
    while not dialog.finish.isEnabled():
        pump(0.1)
    pump(0.3)
    camera.over(window, dialog, "guided-result")
    dialog.build()
    pump(3.0)
    made = bench.windows[-1]
    made.resize(1280, 800)
    settle(made)
    pump(1.0)
    settle(made)
    finish(bench, made)
    if window is not made:
        finish(bench, window)


def triage(bench: Workbench, camera: Camera) -> None:
    """A log on an empty window."""
    window = bench.show(Document(Project.parse(EMPTY), title="New project"))
    window.resize(1280, 800)
    window.workspaces["baseline"].actions.triage.of([str(LOGS / "correlator-repaired-3.csv")])
    while not window.findChildren(TriageSheet):
        pump(0.1)
    camera.over(window, window.findChildren(TriageSheet)[0], "triage")
    finish(bench, window)


def finish(bench: Workbench, window: MainWindow) -> None:
    """Close a window without questions and go back to light."""
    window.asker.choose = lambda *_: "Do not save"  # type: ignore[method-assign]
    window.close()
    QApplication.processEvents()
    bench.set_look("light")


def main() -> None:
    for variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
        os.environ[variable] = tempfile.mkdtemp(prefix="ashen-bridge-pictures-")
    camera = Camera(Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET, set(sys.argv[2:]))
    application = make_application(sys.argv[:1])
    bench = Workbench(Preferences(Path(tempfile.mkdtemp()) / "settings.ini"))
    bench.set_look("light")
    for part in (stack, opening, choosing, measuring, closing, others, editing, guided, triage, runs):
        part(bench, camera)
    application.processEvents()


if __name__ == "__main__":
    main()
