"""Write the demonstration projects with their stored predictions. Run again whenever physics or scenario change."""

from __future__ import annotations

from pathlib import Path

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.stored import pack
from ashen_bridge.files.archive import save_project
from ashen_bridge.predict.engine import Engine
from beamformer import beamformer
from buoy import buoy
from correlator import correlator
from demo_history import with_history
from demo_kept import with_kept
from demo_opening import with_opening
from demo_readings import with_readings
from demo_runs import with_runs
from demo_shelf import with_shelf

TARGET = Path(__file__).parents[1] / "src/ashen_bridge/files/demos"


def main() -> None:
    engine = Engine()
    for name, make in (("correlator", correlator), ("beamformer", beamformer), ("buoy", buoy)):
        told = with_readings(with_history(with_runs(engine, make(), name), name), name)
        project = with_kept(engine, with_shelf(with_opening(told, name), name))
        save_project(TARGET / f"{name}.ashb", project, pack(assess(project)))


if __name__ == "__main__":
    main()
