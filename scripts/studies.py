"""Long studies, resumable: what is done is kept in a folder and not done again, what came out is written into docs/studies.

`./check long` runs all of them, `./check long NAME …` some. A case is done again when its key says that what it stands on is
another: its device, the physics, the mesh.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import study_faults
import study_intervals
import study_mesh
from ashen_bridge.predict.report import PHYSICS_VERSION
from study import Study

ROOT = Path(__file__).resolve().parent.parent
KEPT, PAGES = ROOT / ".studies", ROOT / "docs/studies"
STUDIES = {study.name: study for study in (study_faults.STUDY, study_intervals.STUDY, study_mesh.ONCE, study_mesh.TWICE)}


def run(study: Study) -> None:
    """Do what is not done yet, keep it case by case, and write down what came out."""
    KEPT.mkdir(exist_ok=True)
    kept = KEPT / f"{study.name}.json"
    done: dict[str, Any] = json.loads(kept.read_text()) if kept.exists() else {}
    results: dict[str, Any] = {}
    for case in study.cases():
        if done.get(case.name, {}).get("key") != case.key:
            done[case.name] = {"key": case.key, **case.run()}
            kept.write_text(json.dumps(done, indent=1))
            print(f"{case.name}: {study.line(done[case.name])}", flush=True)
        results[case.name] = done[case.name]
    told = study.tell(results)
    print(told)
    PAGES.mkdir(exist_ok=True)
    lines = [f"- {name}: {study.line(one)}" for name, one in results.items()]
    head = f"# {study.title}\n\n{study.about} `./check long {study.name}`, physics version {PHYSICS_VERSION}.\n\n{told}\n\n"
    (PAGES / f"{study.name}.md").write_text(head + "\n".join(lines) + "\n")


def main() -> None:
    """Run the studies that are named, else all."""
    for wanted in sys.argv[1:] or STUDIES:
        if wanted not in STUDIES:
            sys.exit(f"There is no study '{wanted}'; there is: {', '.join(STUDIES)}.")
        run(STUDIES[wanted])


if __name__ == "__main__":
    main()
