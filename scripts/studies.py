"""Long studies, resumable: what is done is kept in a folder and not done again, what came out is written into docs/studies.

`./check long` runs all of them, `./check long NAME …` some. A case is done again when its key says that what it stands on is
another: its device, the physics, the mesh.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any

import study_advice
import study_beliefs
import study_described
import study_engine
import study_faults
import study_first_power
import study_gaps
import study_intervals
import study_mesh
import study_search
from ashen_bridge.predict.report import PHYSICS_VERSION
from study import Study

_OFTEN = 10  # cases after which what came out is written down
ROOT = Path(__file__).resolve().parent.parent
KEPT, PAGES = ROOT / ".studies", ROOT / "docs/studies"
ALL = (
    study_advice.STUDY,
    study_beliefs.STUDY,
    study_beliefs.MIX,
    study_described.STUDY,
    study_engine.STUDY,
    study_faults.STUDY,
    study_first_power.STUDY,
    study_gaps.STUDY,
    study_intervals.STUDY,
    study_mesh.ONCE,
    study_mesh.TWICE,
    study_search.STUDY,
)
STUDIES = {study.name: study for study in ALL}


def run(study: Study) -> None:
    """Do what is not done yet, keep it case by case, and write down what came out."""
    KEPT.mkdir(exist_ok=True)
    kept = KEPT / f"{study.name}.json"
    done: dict[str, Any] = json.loads(kept.read_text()) if kept.exists() else {}
    results: dict[str, Any] = {}
    cases = list(study.cases())
    for case in cases:
        if done.get(case.name, {}).get("key") != case.key:
            done[case.name] = {"key": case.key, **case.run()}
            kept.write_text(json.dumps(done, indent=1))
            print(f"{case.name}: {study.line(done[case.name])}", flush=True)
            if (len(results) + 1) % _OFTEN == 0:
                _write(study, {**results, case.name: done[case.name]}, len(cases))
        results[case.name] = done[case.name]
    _write(study, results, len(cases))
    print(study.tell(results))


def _write(study: Study, results: Mapping[str, Any], wanted: int) -> None:
    """Write down what came out so far."""
    PAGES.mkdir(exist_ok=True)
    lines = [f"- {name}: {study.line(one)}" for name, one in results.items()]
    head = f"# {study.title}\n\n{study.about} `./check long {study.name}`, physics version {PHYSICS_VERSION}."
    if len(results) < wanted:
        head += f" **The first {len(results)} of {wanted} cases so far**: it goes on where it stopped."
    (PAGES / f"{study.name}.md").write_text("\n\n".join((head, study.tell(results), "\n".join(lines))) + "\n")


def tested(name: str, title: str, arguments: list[str], **environment: str) -> None:
    """Run tests that take long, and write down how many passed."""
    done = subprocess.run(
        [sys.executable, "-m", "pytest", *arguments], cwd=ROOT, env=os.environ | environment, stdout=subprocess.PIPE, text=True
    )
    told = next((line for line in reversed(done.stdout.splitlines()) if " passed" in line or " failed" in line), "nothing ran")
    print(done.stdout if done.returncode else told)
    PAGES.mkdir(exist_ok=True)
    said = f"{title} `./check long {name}`, physics version {PHYSICS_VERSION}.\n\n{told.strip('= ')}\n"
    (PAGES / f"{name}.md").write_text(f"# {name.capitalize()}\n\n{said}")
    if done.returncode:
        sys.exit(done.returncode)


def long_tests() -> None:
    """Tests that are left out of a usual check."""
    tested("tests", "Tests that take so long that a usual check leaves them out.", ["-m", "long"])


def fuzz() -> None:
    """The fuzz tests with a hundred and ten times as many examples."""
    about = "Project files, path edits, logs and live lines with damage of every kind, 110 times as many as in a usual check."
    tested("fuzz", about, ["tests/files/test_fuzz.py"], ASHEN_BRIDGE_FUZZ="110")


RUNS: dict[str, Callable[[], None]] = {
    **{name: partial(run, study) for name, study in STUDIES.items()},
    "tests": long_tests,
    "fuzz": fuzz,
}


def main() -> None:
    """Run the studies that are named, else all."""
    for wanted in sys.argv[1:] or RUNS:
        if wanted not in RUNS:
            sys.exit(f"There is no study '{wanted}'; there is: {', '.join(RUNS)}.")
        RUNS[wanted]()


if __name__ == "__main__":
    main()
