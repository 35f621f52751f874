"""Logs know no solver: reading, packing and weighing one loads neither multigrid nor the sparse solvers nor Qt."""

from __future__ import annotations

import subprocess
import sys

from here import DEMO_LOG

CODE = """
import sys
from ashen_bridge.bench import errands
from ashen_bridge.logs import settling, triage, live, packing, mapping, runs
from ashen_bridge.files.demos import open_anything
project = open_anything("demo:correlator").project
(_, found), = errands.read_file(None, sys.argv[1], project)
(_, told), = errands.triage_files(None, (sys.argv[1],))
run = project.runs[0]
(_, read), = errands.read_run(None, run, project.device)
assert read.figures.passes and told.remarks and found.channels
heavy = ("pyamg", "scipy.sparse.linalg", "skfem", "PyQt6", "distributed", "ashen_bridge.thermal", "ashen_bridge.predict.engine")
print(*[name for name in heavy if name in sys.modules])
"""


def test_weighing_a_log_loads_no_solver() -> None:
    done = subprocess.run([sys.executable, "-c", CODE, str(DEMO_LOG)], capture_output=True, text=True, check=True)
    assert done.stdout.split() == []
