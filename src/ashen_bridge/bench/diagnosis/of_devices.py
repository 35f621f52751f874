"""What may be wrong with a device itself, whoever closes it: sinks, heat pipes, faces, batches of material."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ashen_bridge.bench.diagnosis.hypothesis import Hypothesis
from ashen_bridge.bench.diagnosis.of_closings import BESIDE, SPREAD
from ashen_bridge.changes import bodies, faults
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.paths import set_numbers
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.words.numbers import number, percent


def of_devices(project: Project, build: str) -> Iterator[Hypothesis]:
    """Yield what belongs to the device."""
    for plate in resolve(project, build).bodies:
        if isinstance(plate, Plate):
            yield from _sinks(plate)
            if plate.on == "floating" and plate.landings:
                yield from _faces(plate)
    yield from _batches(project, build)


def _sinks(plate: Plate) -> Iterator[Hypothesis]:
    about = f"device.bodies.{plate.id}"
    if plate.sink is not None and getattr(plate.sink, "convective_k_w", None) is not None:
        yield Hypothesis(
            f"sink-{plate.id}",
            f"{plate.label} gives less to the air than rated",
            about,
            1.0,
            3.0,
            lambda factor: f"its resistance to the air is {number(factor, 2)} times the rated one",
            "Look for dust and a fan that is slow or blocked; feel whether all heat pipes get warm.",
            partial(_weaker_sink, plate=plate.id),
        )
    if plate.sink is not None and plate.sink.fans and getattr(plate.sink, "type", "") == "fins":
        yield Hypothesis(
            f"clogged-{plate.id}",
            f"The fins of {plate.label} are clogged",
            about,
            0.0,
            0.85,
            lambda share: f"{percent(share)} of the air goes elsewhere",
            "Hold a light behind the fins, and a strip of paper at the outlet.",
            partial(_clogged, plate=plate.id),
        )
    if plate.heat_pipes or plate.base is not BaseKind.SOLID:
        yield Hypothesis(
            f"pipe-{plate.id}",
            f"The heat pipes of {plate.label} have run dry",
            about,
            0.0,
            1.0,
            lambda _: "they conduct as their metal does",
            "Feel both ends of each pipe a minute after the start: a dry one stays cold at its far end.",
            partial(_dry, plate=plate.id),
            all_or_nothing=True,
        )


def _faces(plate: Plate) -> Iterator[Hypothesis]:
    for sign, word in ((-1.0, "hollow"), (1.0, "crowned")):
        yield Hypothesis(
            f"{word}-{plate.id}",
            f"The base of {plate.label} is {word}",
            f"device.bodies.{plate.id}",
            0.0,
            sign * 120.0,
            lambda more: f"by {number(abs(more))} µm more than said",
            "Lay a straight edge over the base, against the light.",
            partial(_bent, plate=plate.id, landing=plate.landings[0].id),
        )
    for landing in plate.landings[1:]:
        for sign, word in ((1.0, "deeper"), (-1.0, "shallower")):
            yield Hypothesis(
                f"{word}-{plate.id}-{landing.id}",
                f"Landing {landing.name or landing.id} of {plate.label} is set back {'more' if sign > 0 else 'less'} than said",
                f"device.bodies.{plate.id}.landings.{landing.id}",
                0.0,
                sign * 0.4,
                lambda more: f"by {number(abs(more), 2)} mm",
                "Measure that landing's step from a straight edge over the base.",
                partial(_set_back, plate=plate.id, landing=landing.id),
            )


def _batches(project: Project, build: str) -> Iterator[Hypothesis]:
    used = {piece.material: None for joint in resolve(project, build).joints for piece in joint.pieces}
    for name in used:
        material = project.material(name)
        if material.kind in SPREAD | BESIDE:
            yield Hypothesis(
                f"batch-{name}",
                f"{material.name} conducts worse than said, wherever it is",
                f"materials.{name}",
                1.0,
                4.0,
                lambda factor: f"{number(factor, 1)} times worse",
                "Measure a piece of it between two plates, or put another kind in one place.",
                partial(_worse_batch, material=name),
            )


def _weaker_sink(project: Project, factor: float, plate: str) -> Project:
    return bodies.weaken_sink(project, plate, factor)


def _clogged(project: Project, share: float, plate: str) -> Project:
    return faults.lose_air(project, plate, share)


def _dry(project: Project, _: float, plate: str) -> Project:
    return faults.dry_pipes(project, plate)


def _bent(project: Project, more: float, plate: str, landing: str) -> Project:
    return bodies.crown_landing(project, plate, landing, more)


def _set_back(project: Project, more: float, plate: str, landing: str) -> Project:
    return faults.lower_landing(project, plate, landing, more)


def _worse_batch(project: Project, factor: float, material: str) -> Project:
    of, path = project.material(material), f"materials.{material}"
    conducts, touches = of.conductivity_w_mk.value / factor, of.contact_mm2k_w.value * factor
    return set_numbers(project, {f"{path}.conductivity_w_mk": conducts, f"{path}.contact_mm2k_w": touches})
