"""Long studies over invented devices, resumable: what is done is kept in a folder and not done again.

`mesh`: how far the hottest point of every component still is from that of a field refined twice more, in plan and through the
thickness of every body, powers and inside air held; demos and forty devices. `mesh_once` takes minutes where that takes hours,
refined once more and carried on by the order that the twice refined ones have. `./check long [NAME]` runs them.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from ashen_bridge.files.demos import demo_names, open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.predict.joint_heat import joint_conductance
from ashen_bridge.predict.mesh_error import mesh_error
from ashen_bridge.predict.operating import Operating
from ashen_bridge.predict.readings import active_extremes
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.simulated.devices import any_of
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.resolution import FINE, frame_of
from ashen_bridge.thermal.steady import Accuracy, SteadySolver

FOLDER = Path(__file__).resolve().parent.parent / ".studies"
FIRST_SEED, COUNT = 1000, 40
_CARRIED = 1.4  # error of a field over what refining it once changes, in the middle of the twice refined ones
_ACCURACY = Accuracy(residual=1e-6, settled=5e-3, energy=1e-4)


def devices() -> Iterator[tuple[str, Project]]:
    """Yield the demos and the invented devices with their names."""
    for name in demo_names():
        yield name, open_anything(f"demo:{name}").project
    for n, data in enumerate(any_of(FIRST_SEED, COUNT)):
        yield f"{FIRST_SEED + n}", Project.parse(data)


def hottest(half: AtRest, found: Operating, halvings: int) -> tuple[dict[str, float], int, float]:
    """Return the hottest point of every component on a refined grid, its cells and the time it took [s]."""
    begin = time.perf_counter()
    frame = frame_of(half.scene, replace(FINE, halvings=halvings))
    conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
    field = SteadySolver().solve(heat_model(half.scene, frame, found.point, conductance, found.inside), _ACCURACY)
    seen = {name: active_extremes(field, name, layers)[0] for name, layers in frame.slabs.active.items()}
    return seen, field.grid.n_cell, time.perf_counter() - begin


def one_device(project: Project, times: int) -> dict[str, Any]:
    """Return the errors of one device's fine field against one refined some times, and the figure that is stated for them."""
    engine, point = Engine(), project.point(None)
    half = engine.rest(project, None, point)
    found, frame = engine.field(half, point, "fine")
    coarse, rough = engine.field(half, point, "coarse")
    fields = [
        {name: active_extremes(one.field, name, layers)[0] for name, layers in at.slabs.active.items()}
        for one, at in ((found, frame), (coarse, rough))
    ]
    true, cells, seconds = hottest(half, found, times)
    ambient = point.ambient_c.value
    stated = mesh_error(fields[0], fields[1], ambient)
    return {
        "cells": found.field.grid.n_cell,
        "true_cells": cells,
        "seconds": seconds,
        "stated_k": stated[0] if stated else None,
        "components": {
            name: {
                "error_k": (fields[0][name] - true[name]) * (_CARRIED if times == 1 else 1.0),
                "rise_k": true[name] - ambient,
                "coarse_k": fields[1][name] - true[name],
            }
            for name in true
        },
    }


def mesh(name: str = "mesh", times: int = 2) -> None:
    """Run what is not done yet and print the count."""
    FOLDER.mkdir(exist_ok=True)
    kept = FOLDER / f"{name}.json"
    done: dict[str, Any] = json.loads(kept.read_text()) if kept.exists() else {}
    for device, project in devices():
        key = f"{input_hash(project, None, None)}:{FINE}"
        if done.get(device, {}).get("key") != key:
            done[device] = one_device(project, times) | {"key": key}
            kept.write_text(json.dumps(done, indent=1))
            worst = max((abs(row["error_k"]) for row in done[device]["components"].values()), default=0.0)
            print(
                f"{device}: {done[device]['cells']} cells, worst {worst:.2f} K, truth took {done[device]['seconds']:.0f} s",
                flush=True,
            )
    rows = [row for one in done.values() for row in one["components"].values()]
    share = np.array([abs(row["error_k"]) / max(0.5, 0.01 * row["rise_k"]) for row in rows])
    stated = np.array([one["stated_k"] for one in done.values()])
    worst = np.array([max(abs(row["error_k"]) for row in one["components"].values()) for one in done.values()])
    print(
        f"{len(done)} devices, {len(rows)} components: {np.mean(share <= 1):.1%} within max(0.5 K, 1 % of the rise), "
        f"median {np.median(share):.2f} and worst {share.max():.2f} of it.\n"
        f"The stated figure covers the worst component of {np.mean(stated >= worst):.1%} of the devices; "
        f"its median is {np.median(stated / worst):.1f} times the true change."
    )


STUDIES = {"mesh": mesh, "mesh_once": lambda: mesh("mesh_once", 1)}


if __name__ == "__main__":
    for wanted in sys.argv[1:] or STUDIES:
        if wanted not in STUDIES:
            sys.exit(f"There is no study '{wanted}'; there is: {', '.join(STUDIES)}.")
        STUDIES[wanted]()
