"""Speed of what is done with logs: a day of sixty columns opened and drawn, zoomed and pushed; runs read, weighed and proved."""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pandas as pd

from ashen_bridge.bench.calibrate import calibrate
from ashen_bridge.bench.diagnosis.diagnose import diagnose
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.bench.prove import proving
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.reading import read_log
from ashen_bridge.predict.engine import Engine

Say = Callable[[str, float, str, str], None]
Seconds = Callable[[Callable[[], object]], float]

OPEN = """
import os, sys, time
from PyQt6.QtCore import Qt
from ashen_bridge.desktop.__main__ import make_application
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.demos import open_anything
application = make_application(['bench'])
window = Workbench().open('demo:buoy', open_anything('demo:buoy'))
window.resize(1280, 800)
while window.session.results.state != 'current':
    application.processEvents(); time.sleep(0.002)
baseline = window.workspaces['baseline']
baseline.show()
while window.session.runs.busy or any(
    window.session.runs.figures(run, window.session.project.device) is None for run in window.session.project.runs
):
    application.processEvents(); time.sleep(0.002)
begin = time.perf_counter()
baseline.actions.read(sys.argv[1])
while not baseline.page().is_importing:
    application.processEvents(); time.sleep(0.002)
window.grab()
opened = time.perf_counter() - begin
from ashen_bridge.desktop.charts.trace_picture import Trace, TracePicture
log = baseline.page().importing.log
traces = tuple(Trace(one.name, one.unit, log.time_s, one.values, n if n < 6 else None) for n, one in enumerate(log.columns))
view = baseline.page().importing.curve
view.setFixedHeight(420)
view.show_picture(TracePicture(traces[:40], traces[40:44]))
application.processEvents()
frames = []
for n in range(40):
    start = time.perf_counter()
    if n < 20:
        view.zoom(0.8, 40000.0)
    else:
        view._look_at(view._span[0] + 0.2 * (view._span[1] - view._span[0]), view._span[1] - view._span[0])
        if n == 30: view.show_all(); view.zoom(0.7, 50000.0)
    view.repaint()
    frames.append(time.perf_counter() - start)
frames.sort()
print(opened, frames[len(frames) // 2], frames[-1])
os._exit(0)
"""


def day(path: Path) -> None:
    """Write a log of 24 h at 1 Hz with 60 columns."""
    chance = np.random.default_rng(1)
    seconds = np.arange(86_400)
    columns: dict[str, object] = {
        "Time": pd.date_range("2031-03-14", periods=len(seconds), freq="s").strftime("%Y-%m-%d %H:%M:%S")
    }
    for k in range(60):
        unit = "°C" if k < 40 else "W" if k < 50 else "MHz"
        climb = 10 * (1 - np.exp(-seconds / 3000))
        columns[f"Channel {k} [{unit}]"] = np.round(50 + k / 3 + climb + chance.normal(0, 0.2, len(seconds)), 1)
    pd.DataFrame(columns).to_csv(path, index=False)


def logs(say: Say, seconds: Seconds) -> None:
    """A day of sixty columns."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "day.csv"
        day(path)
        say(
            "log of 24 h at 1 Hz x 60 columns, read",
            statistics.median(seconds(lambda: read_log(path)) for _ in range(3)),
            "s",
            "<= 3",
        )
        done = subprocess.run([sys.executable, "-c", OPEN, str(path)], capture_output=True, text=True, check=True)
        opened, usual, longest = (float(word) for word in done.stdout.split()[-3:])
    say("log of 24 h at 1 Hz x 60 columns, dropped until drawn", opened, "s", "<= 3")
    say("frame while zooming and pushing 44 curves of 24 h, median", usual * 1e3, "ms", "<= 33")
    say("frame while zooming and pushing 44 curves of 24 h, longest", longest * 1e3, "ms", "<= 33")


def runs(say: Say, seconds: Seconds) -> None:
    """The first demo's runs: read, weighed, fitted, proved; by one engine, whose predictions are there, and once more."""
    project = open_anything("demo:correlator").project
    engine = Engine()
    for build in project.builds:
        engine.predict(project, build.id)
    say("figures of a demo run of three passes", seconds(lambda: figures_of(project, "stock")), "s", "none stated")
    before, pads, after = (figures_of(project, name) for name in ("stock", "pads", "repaired"))
    for again in ("", ", again"):
        say(f"calibration on a demo run{again}", seconds(lambda: calibrate(engine, project, [before])), "s", "<= 3")
        say(f"proof of the demo's repair{again}", seconds(lambda: list(proving(engine, project, before, after))), "s", "<= 4")
        say(f"diagnosis over three runs{again}", seconds(lambda: diagnose(engine, project, [after], [before, pads])), "s", "<= 4")
