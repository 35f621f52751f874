"""What was measured of the invented devices while they lay open: made from a drawn truth, with the errors that hands make.

`SLIPS` is what the files do not say: one reading was written down wrongly.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ashen_bridge.changes.readings import add_readings, set_instrument
from ashen_bridge.measuring.expected import Looks
from ashen_bridge.measuring.numbers import separate_numbers
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Origin, q
from ashen_bridge.model.readings import Instrument
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.together import correlation_of

CALIPER = Instrument(
    id="caliper", name="Caliper", kind="caliper", zero_mm=0.01, calibration_mm=0.01, jaw_force_n=q(0.4, 0.2, Origin.ASSUMED)
)
DEPTH = Instrument(id="depth", name="Depth gauge", kind="depth gauge", zero_mm=0.01, calibration_mm=0.01)
SLIPS = {"correlator": {"step_left": 0.3}, "beamformer": {}, "buoy": {"height_radio": 1.0}}
_HAND_MM, _TAMER, _RECOVERED = 0.012, 0.6, 0.2

# By demo: the build that lies open, when, and of what: heights, steps (plate, landing), imprints (closing, joint, lower).
OPENED: dict[str, tuple[str, str, dict[str, str], dict[str, tuple[str, str]], dict[str, tuple[str, str, str]]]] = {
    "correlator": (
        "as_found",
        "2031-03-01",
        {"height_die": "die", "height_l1": "mem_l1", "height_l2": "mem_l2", "height_r1": "mem_r1", "height_reg": "reg_1"},
        {"step_left": ("cooler", "memory_left"), "step_right": ("cooler", "memory_right"), "step_reg": ("cooler", "regulators")},
        {
            "imprint_l1": ("closed_pads", "pad_l1", "mem_l1"),
            "imprint_l2": ("closed_pads", "pad_l2", "mem_l2"),
            "imprint_r1": ("closed_pads", "pad_r1", "mem_r1"),
        },
    ),
    "beamformer": ("as_found", "2031-04-12", {"height_bank_1": "bank_1", "height_stage_1": "stage_1"}, {}, {}),
    "buoy": (
        "as_found",
        "2031-05-20",
        {"height_cpu": "processor", "height_memory": "memory", "height_radio": "radio"},
        {},
        {"imprint_memory": ("closed_pad", "mem_pad", "memory")},
    ),
}


def with_readings(project: Project, name: str, seed: int = 20_310_301) -> Project:
    """Return the project with instruments and what was read with them."""
    build, day, heights, steps, imprints = OPENED[name]
    random = np.random.default_rng([seed, len(name)])
    real = _real(project, build, random)  # the first that is drawn: `real_device` draws the same
    engine = Engine()
    closed = {one.builds[0]: engine.mechanics(real, one.builds[0])[0] for one in project.closings}
    gaps = {at: {(row.joint, row.lower): row.gap_mm for row in rows} for at, rows in closed.items()}
    looks = Looks(real, build, gaps)
    project = set_instrument(set_instrument(project, CALIPER), DEPTH)
    zero = {"caliper": 0.01 * random.standard_normal(), "depth": 0.01 * random.standard_normal()}
    plain: list[dict[str, Any]] = []
    for key, body in heights.items():
        plain.append({"form": "height", "id": key, "body": body, "above": "board", "instrument": "depth"})
    for key, (plate, landing) in steps.items():
        plain.append({"form": "step", "id": key, "plate": plate, "landing": landing, "instrument": "depth"})
    for key, (closing, joint, lower) in imprints.items():
        plain.append({"form": "imprint", "id": key, "closing": closing, "joint": joint, "lower": lower, "instrument": "caliper"})
    made = []
    for one in plain:
        told = one | {"values_mm": [0.0], "sitting": day, "taken": day}
        reading = add_readings(project, [_parsed(project, told)]).readings[-1]
        value = looks.expected(reading) + (zero[one["instrument"]] if one["form"] != "step" else 0.0)
        value += SLIPS[name].get(one["id"], 0.0)
        repeats = np.round(value + _HAND_MM * random.standard_normal(3), 2)
        made.append(_parsed(project, told | {"values_mm": repeats.tolist()}))
    return add_readings(project, made)


def real_device(project: Project, name: str, seed: int = 20_310_301) -> Project:
    """Return the device as it really is, which is what was read and seen."""
    return _real(project, OPENED[name][0], np.random.default_rng([seed, len(name)]))


def _parsed(project: Project, plain: dict[str, Any]) -> Any:
    data = project.model_dump(mode="json") | {"readings": [plain]}
    return Project.parse(data).readings[0]


def _real(project: Project, build: str, random: np.random.Generator) -> Project:
    """Return the device as it really is: every length a little off, alike ones in common."""
    numbers = [one for one in separate_numbers(project, (build,)) if one.paths[0].endswith(("height_mm", "step_mm"))]
    shared = correlation_of(numbers)
    root = np.eye(len(numbers)) if shared is None else np.linalg.cholesky(shared)
    x = _TAMER * root @ random.standard_normal(len(numbers))
    return paths.set_numbers(
        project, {one.paths[0]: one.value + by * one.uncertainty for one, by in zip(numbers, x, strict=True)}
    )
