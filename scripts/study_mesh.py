"""How far the hottest point of every component is from that of a field refined once or twice more; demos and forty devices."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from dataclasses import replace

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
from study import Case, Plain, Study

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


def one_device(project: Project, times: int) -> Plain:
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


def _cases(times: int) -> Iterator[Case]:
    for name, project in devices():
        yield Case(name, f"{input_hash(project, None, None)}:{FINE}", lambda project=project: one_device(project, times))  # type: ignore[misc]


def _line(one: Plain) -> str:
    return f"{one['cells']} cells, worst {_worst(one):.2f} K, stated {one['stated_k']:.2f} K"


def _worst(one: Plain) -> float:
    return max((abs(row["error_k"]) for row in one["components"].values()), default=0.0)


def _tell(done: Mapping[str, Plain]) -> str:
    rows = [row for one in done.values() for row in one["components"].values()]
    share = np.array([abs(row["error_k"]) / max(0.5, 0.01 * row["rise_k"]) for row in rows])
    stated, worst = np.array([one["stated_k"] for one in done.values()]), np.array([_worst(one) for one in done.values()])
    return (
        f"{len(done)} devices, {len(rows)} components: {np.mean(share <= 1):.1%} within max(0.5 K, 1 % of the rise), "
        f"median {np.median(share):.2f} and worst {share.max():.2f} of it. "
        f"The stated figure covers the worst component of {np.mean(stated >= worst):.1%} of the devices; "
        f"its median is {np.median(stated / worst):.1f} times the true change."
    )


_ABOUT = (
    "The hottest point of every component against that of a field refined {} more in plan and through the thickness of every "
    "body, powers and inside air held; demos and forty invented devices."
)
ONCE = Study(
    "mesh_once",
    "Mesh error, against one refinement",
    _ABOUT.format("once") + " Carried on by the order that twice refined ones have; takes minutes.",
    lambda: _cases(1),
    _line,
    _tell,
)
TWICE = Study(
    "mesh", "Mesh error, against two refinements", _ABOUT.format("twice") + " Takes hours.", lambda: _cases(2), _line, _tell
)
