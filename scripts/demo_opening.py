"""How the invented devices were opened, and what their old pads showed: made from the same drawn truth as the readings.

`OPENED` says who did what how far; the marks themselves come off the real device's contacts, so that they hang together with
the readings. What is wrong with each device is left for the user to find.
"""

from __future__ import annotations

from dataclasses import replace as with_
from typing import Any

import numpy as np

from ashen_bridge.changes import evidence as said
from ashen_bridge.changes import procedures as changes
from ashen_bridge.editing import evidence as edits
from ashen_bridge.editing import procedures as steps
from ashen_bridge.evidence.contacts import Where, contacts_of
from ashen_bridge.evidence.film import learnt_scale, read_film
from ashen_bridge.evidence.likelihood import expected_mark
from ashen_bridge.evidence.picture import opened
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.model.evidence import Sign
from ashen_bridge.model.hardware import Hardware, Hazards, Plug, Screw
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced, with_each
from ashen_bridge.planning.opening import opening
from ashen_bridge.predict.engine import Engine
from ashen_bridge.simulated.film import Scanner, scan
from demo_readings import real_device

HAZARDS = {
    "correlator": Hazards(mains="no", battery="no", regulated="no", charged_parts="no", liquid_metal="no", sharp_fins="yes"),
    "beamformer": Hazards(mains="no", battery="no", regulated="no", charged_parts="unknown", sharp_fins="yes"),
    "buoy": Hazards(
        **dict.fromkeys(("mains", "regulated", "charged_parts", "liquid_metal", "sharp_fins"), "no"),
        **{"battery": "yes", "battery_state": "sound", "settings_in_battery": "yes"},
    ),
}
# By demo: how fasteners whose ids begin so look.
LOOKS = {
    "correlator": {
        "spring": Hardware(length_mm=11, thread="M2.5", head="shoulder", driver="PH1", turns_in="metal", locker="no"),
        "rear": Hardware(length_mm=6, thread="M3", head="pan", driver="PH1", turns_in="metal", locker="yes"),
    },
    "beamformer": {"screw": Hardware(length_mm=14, thread="M3", head="shoulder", driver="T8", turns_in="metal")},
    "buoy": {"post": Hardware(length_mm=9, thread="M2", head="pan", driver="PH0", turns_in="plastic")},
}
SHELL = Hardware(length_mm=8, driver="T6", turns_in="plastic")
COVERS = {
    "correlator": [
        Screw(id=f"bracket_{n}", name=f"Bracket screw {n + 1}", x_mm=8, y_mm=20 + 70 * n, holds="bracket") for n in (0, 1)
    ],
    "beamformer": [],
    "buoy": [
        Screw(
            id=f"shell_{n}",
            name=f"Shell screw {n + 1}",
            x_mm=x,
            y_mm=y,
            holds="shell",
            hardware=Hardware(length_mm=8, driver="T6"),
        )
        for n, (x, y) in enumerate(((6, 6), (100, 6), (6, 70), (100, 70)))
    ],
}
PLUGS = {
    "correlator": [
        Plug(id="blower", name="Blower", what="fan", x_mm=156, y_mm=97, of="cooler", hidden=True),
        Plug(id="lamps", name="Status lamps", what="light", x_mm=14, y_mm=60),
    ],
    "beamformer": [Plug(id="fan", name="Fan", what="fan", x_mm=104, y_mm=58, of="cooler")],
    "buoy": [Plug(id="cell", name="Cell pack", what="battery", x_mm=92, y_mm=12)],
}
# By demo: build, closing, the step before which the evening ended, where marks were noted, and where films lay.
OPENED: dict[str, tuple[str, str, str, tuple[tuple[str, str], ...], tuple[tuple[str, str], ...]]] = {
    "correlator": (
        "as_found",
        "closed_pads",
        "look_die_joint",
        (("pad_l1", "mem_l1"), ("pad_l2", "mem_l2"), ("pad_r1", "mem_r1"), ("pad_reg_2", "reg_2"), ("die_joint", "die")),
        (("die_joint", "die"),),
    ),
    "beamformer": ("as_found", "", "lift_cooler", (), ()),
    "buoy": ("thick_memory", "closed_pad", "look_cpu_pad", (("mem_pad", "memory"),), (("cpu_pad", "processor"),)),
}
SIGNS = {"correlator": ("noisy fan", "cooler"), "beamformer": ("hot place", None), "buoy": ("hot place", "wall")}


def with_opening(project: Project, name: str, seed: int = 20_310_301) -> Project:
    """Return the project with its screws, plugs and hazards, a procedure half done, and what was seen by then."""
    build, closing, until, marks, films = OPENED[name]
    project = _hardware(project, name)
    sign, body = SIGNS[name]
    project = said.notice(project, Sign(id=sign.replace(" ", "_"), says=sign, body=body, taken="2031-03-01"))  # type: ignore[arg-type]
    made = opening(project, build)
    project = steps.add_procedure(made).applied(project)
    for n, one in enumerate(made.steps):
        if one.id == until:
            break
        project = steps.tick(project, made.id, one.id, f"2031-03-01T19:{n:02d}").applied(project)
    random = np.random.default_rng([seed, len(name), 2])
    real = real_device(project, name, seed)
    pushed = Pushed(Engine(), real, build, ())
    list(pushed.prepare())
    contacts = contacts_of(real, {build: pushed}, np.zeros((1, 0)))
    for joint, lower in marks:
        shape = contacts[Where(build, joint, lower)].shape
        mark, _ = expected_mark(shape)
        toward = float(round(shape.toward_deg[0] + random.normal(0, 12))) if mark == "wedge" else None
        project = edits.say(project, closing, joint, lower, mark, toward, "2031-03-01").applied(project)
    for joint, lower in films:
        project = _filmed(project, real, build, closing, joint, lower, random)
    return project


def _hardware(project: Project, name: str) -> Project:
    project = changes.set_hazards(project, HAZARDS[name])
    for screw in COVERS[name]:
        project = changes.set_screw(project, screw)
    for plug in PLUGS[name]:
        project = changes.set_plug(project, plug)

    def looking(one: Any) -> Any:
        looks = next((looks for stem, looks in LOOKS[name].items() if one.id.startswith(stem)), None)
        return one if looks is None else replaced(one, hardware=looks)

    return replaced(project, device=with_each(project.device, "fasteners", looking))


def _filmed(
    project: Project, real: Project, build: str, closing: str, joint: str, lower: str, random: np.random.Generator
) -> Project:
    """Scan a film of the real device, read it, and take it in."""
    found = Engine().predict(real, build, None).maps.joints
    there = next(one for one in found if (one.joint, one.lower) == (joint, lower))
    w, h = there.box[2] - there.box[0], there.box[3] - there.box[1]
    scanner = with_(Scanner(), turned_deg=float(random.uniform(-20, 20)), pixels=900, seed=int(random.integers(1, 99)))
    made = scan(there.pressure_kpa.astype(float), w, h, scanner, "jpg")
    image = opened(made.content)
    scale = learnt_scale(image, made.strip, made.strip_pressures, made.corners, w, h)
    reading = read_film(image, made.corners, w, h, scale)
    digest = BlobStore(default_folder()).put(made.content)
    file, strip = f"film {lower}.jpg", (made.strip, made.strip_pressures)
    return edits.take_film(project, reading, made.corners, closing, joint, lower, file, digest, "jpg", strip).applied(project)
