"""Which reading to take next for a gap: candidates by what they take of its variance, per minute of work."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ashen_bridge.estimate.next_reading import Offer, next_readings
from ashen_bridge.measuring.gauging import Gauging
from ashen_bridge.measuring.practice import practice
from ashen_bridge.model.bodies import Component, Plate, Substrate
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import Instrument

_REPEATS = 3
_SHOWN, _LEAST = 8, 0.01  # candidates that are shown, and which share of the variance they must take
_USUAL = Instrument(id="usual")


@dataclass(frozen=True)
class Next:
    """A reading that could be taken: its form and what of, minutes, and the gap's standard uncertainty now and then [mm]."""

    form: str
    of: str
    words: str
    minutes: float
    now_mm: float
    then_mm: float


def next_for(project: Project, gauging: Gauging, gap: int) -> tuple[Next, ...]:
    """Return what to read next for one gap, the most worth per minute first, each by itself."""
    found = gauging.found
    target = np.zeros(found.rows.n_number)
    target[: len(gauging.numbers)] = gauging.slopes.of_gaps[gap]
    instrument = next(iter(project.instruments), _USUAL)
    offers: list[Offer] = []
    words: dict[str, tuple[str, str, str]] = {}
    at = {one.paths[0]: n for n, one in enumerate(gauging.numbers)}

    def offer(form: str, of: str, said: str, slopes: np.ndarray, own: float) -> None:
        label = f"{form} {of}"
        words[label] = (form, of, said)
        offers.append(Offer(label, slopes, own, practice().forms[form].minutes))

    for body in project.bodies_of(project.build(gauging.build)):
        if isinstance(body, Component | Substrate):
            path = f"device.bodies.{body.id}.{'height' if isinstance(body, Component) else 'thickness'}_mm"
            if path in at:
                slopes = np.zeros(found.rows.n_number)
                slopes[at[path]] = gauging.numbers[at[path]].uncertainty
                offer("height", body.id, f"height of {body.label}", slopes, _error("height", instrument))
        for landing in body.landings if isinstance(body, Plate) else ():
            path = f"device.bodies.{body.id}.landings.{landing.id}.step_mm"
            if path in at:
                slopes = np.zeros(found.rows.n_number)
                slopes[at[path]] = gauging.numbers[at[path]].uncertainty
                offer(
                    "step", f"{body.id}.{landing.id}", f"landing {landing.id} of {body.label}", slopes, _error("step", instrument)
                )
    one = gauging.gaps[gap]
    joint = project.build(gauging.build).joint(one.joint)
    # Closed with putty and no pads, the gap is what there is to fill.
    if joint.sheet_at is not None:
        offer("putty", f"{one.joint}.{one.lower}", f"putty squashed in {one.name}", target, _error("putty", instrument))
    ranked = next_readings(found, target, offers)
    return tuple(
        Next(*words[each.offer.label], each.offer.minutes, each.now, each.then)
        for each in ranked[:_SHOWN]
        if each.then < each.now * math.sqrt(1 - _LEAST)
    )


def _error(form: str, instrument: Instrument) -> float:
    """Return the standard error of some repeats of a form [mm]."""
    hand = practice().hand_mm / math.sqrt(_REPEATS)
    digits = instrument.resolution_mm / math.sqrt(12)
    return math.hypot(hand, digits, practice().forms[form].own_mm, instrument.calibration_mm, instrument.zero_mm)
