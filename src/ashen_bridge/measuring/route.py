"""What can be read of a device, what is expected of it, and which of it to read next: by what it takes of a gap's variance per
minute of work.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.next_reading import Offer, next_readings
from ashen_bridge.measuring.expected import Looks
from ashen_bridge.measuring.gauging import Gauging
from ashen_bridge.measuring.practice import practice
from ashen_bridge.measuring.result import Next, Offered
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Board, Component, Plate, Substrate
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import HeightReading, Instrument, Reading, StepReading
from ashen_bridge.model.signs import unit_of, without_unit

_REPEATS = 3
_SHOWN, _LEAST = 8, 0.03  # candidates that are shown, and which share of the variance they must take
_READ_AS_LENGTHS = (".height_mm", ".step_mm")
_USUAL = Instrument(id="usual")


@dataclass(frozen=True)
class Candidate:
    """A reading that could be taken: what it says beside its value, in words, what is expected and how that answers to the
    numbers (n_number,) [mm].
    """

    form: str
    of: dict[str, str]
    words: str
    value: float
    slopes: Floats


def candidates(project: Project, gauging: Gauging) -> tuple[Candidate, ...]:
    """Return every length of a build that can be read, and its gaps by putty; expected is what all readings say by now."""
    listed = list(_lengths(project, gauging.build))
    readings = [one for one, _, _ in listed]
    count = len(gauging.numbers)
    mean = gauging.found.mean[:count]
    told = Looks(project, gauging.build, {}).of(readings)
    slopes = np.zeros((len(readings), count))
    for n, number in enumerate(gauging.numbers):
        try:
            moved = paths.set_numbers(project, {number.paths[0]: number.value + number.uncertainty})
            slopes[:, n] = Looks(moved, gauging.build, {}).of(readings) - told
        except AshenError:
            continue
    found = [
        Candidate(one.form, of, words, float(told[n] + slopes[n] @ mean), slopes[n]) for n, (one, of, words) in enumerate(listed)
    ]
    build = project.build(gauging.build)
    for n, gap in enumerate(gauging.gaps):
        # Closed with putty and no pads, the gap is what there is to fill.
        if build.joint(gap.joint).sheet_at is not None:
            of = {"joint": gap.joint, "lower": gap.lower}
            found.append(Candidate("putty", of, f"putty squashed in {gap.name}", gap.now[0], gauging.slopes.of_gaps[n]))
    return (*found, *_edges(project, gauging))


def _edges(project: Project, gauging: Gauging) -> Iterator[Candidate]:
    """Yield what old pads of the build's own closing say at their free edges: how thick they were."""
    closing = next((one.id for one in reversed(project.closings) if gauging.build in one.builds), None)
    at = {one.paths[0]: n for n, one in enumerate(gauging.numbers)}
    for joint in project.build(gauging.build).joints if closing is not None else ():
        if joint.sheet_at is None:
            continue
        piece = joint.pieces[joint.sheet_at]
        n = at.get(f"builds.{gauging.build}.joints.{joint.id}.pieces.{piece.id}.thickness_mm")
        if n is not None and closing is not None:
            slopes = np.zeros(len(gauging.numbers))
            slopes[n] = gauging.numbers[n].uncertainty
            value = gauging.numbers[n].value + slopes[n] * float(gauging.found.mean[n])
            of = {"closing": closing, "joint": joint.id, "piece": piece.id}
            yield Candidate("edge", of, f"old pad of {joint.label} at its edge", value, slopes)


def _lengths(project: Project, build: str) -> Iterator[tuple[Reading, dict[str, str], str]]:
    bodies = project.bodies_of(project.build(build))
    board = next((one for one in bodies if isinstance(one, Board)), None)
    for body in bodies:
        if isinstance(body, Component | Substrate) and board is not None:
            of: dict[str, Any] = {"body": body.id, "above": board.id}
            yield HeightReading(id="offer", values_mm=(0.0,), **of), of, f"height of {body.label}"
        for landing in body.landings if isinstance(body, Plate) else ():
            of = {"plate": body.id, "landing": landing.id}
            yield StepReading(id="offer", values_mm=(0.0,), **of), of, f"step of {landing.id} on {body.label}"


def offered(project: Project, gauging: Gauging, listed: tuple[Candidate, ...]) -> tuple[Offered, ...]:
    """Return what can be read, with what is expected of it; and what old pads of earlier closings may show."""
    root = gauging.found.root[: len(gauging.numbers)]
    lengths = [
        Offered(one.form, tuple(one.of.items()), one.words, (one.value, float(np.linalg.norm(one.slopes @ root))))
        for one in listed
    ]
    return (*lengths, *_depths(project, gauging.build), *_old_pads(project), *_numbers(gauging))


def _depths(project: Project, build: str) -> Iterator[Offered]:
    """Yield what lies below a straight edge: tops of parts and landings, in their middles."""
    for body in project.bodies_of(project.build(build)):
        if isinstance(body, Component):
            x0, y0, x1, y1 = body.footprint.bounds
            said = {"body": body.id, "x_mm": str((x0 + x1) / 2), "y_mm": str((y0 + y1) / 2)}
            yield Offered("depth", tuple(said.items()), f"top of {body.label}")
        for landing in body.landings if isinstance(body, Plate) else ():
            x0, y0, x1, y1 = landing.area.bounds
            said = {"body": body.id, "landing": landing.id, "x_mm": str((x0 + x1) / 2), "y_mm": str((y0 + y1) / 2)}
            yield Offered("depth", tuple(said.items()), f"{landing.name or landing.id} on {body.label}")


def _numbers(gauging: Gauging) -> Iterator[Offered]:
    """Yield every other number that lengths, springs and screws stand on, as far as one instrument reads it."""
    for n, one in enumerate(gauging.numbers):
        field = one.field.rpartition(".")[2]
        if one.paths[0].endswith(_READ_AS_LENGTHS) or unit_of(field) not in ("mm", "N/mm", "N", "mm³"):
            continue
        sd = float(np.linalg.norm(gauging.found.root[n])) * one.uncertainty
        value = one.value + float(gauging.found.mean[n]) * one.uncertainty
        words = f"{without_unit(field).replace('_', ' ')} of {one.owners[0]}"
        yield Offered("number", (("path", one.paths[0]),), words, (value, sd))


def _old_pads(project: Project) -> Iterator[Offered]:
    """Yield what the pads of every closing can be asked, the last closing first."""
    builds = {one.id: one for one in project.builds}
    for closing in reversed(project.closings):
        build = next((builds[name] for name in closing.builds if name in builds), None)
        for joint in build.joints if build is not None else ():
            if joint.sheet_at is None:
                continue
            for lower in joint.lower:
                said = {"closing": closing.id, "joint": joint.id, "lower": lower}
                yield Offered("imprint", tuple(said.items()), f"{joint.label} of “{closing.label}”")
            said = {"closing": closing.id, "joint": joint.id, "piece": joint.pieces[joint.sheet_at].id}
            yield Offered("edge", tuple(said.items()), f"{joint.label} of “{closing.label}”")
            yield Offered("beside", tuple(said.items()), f"{joint.label} of “{closing.label}”")
        for joint in build.joints if build is not None else ():
            for lower in joint.lower:
                said = {"closing": closing.id, "joint": joint.id, "lower": lower}
                yield Offered("feeler", tuple(said.items()), f"{joint.label} of “{closing.label}”")


def next_for(project: Project, gauging: Gauging, gap: int, listed: tuple[Candidate, ...]) -> tuple[Next, ...]:
    """Return what to read next for one gap, the most worth per minute first, each by itself."""
    found = gauging.found
    more = np.zeros(found.rows.n_number - len(gauging.numbers))
    own = gauging.gaps[gap]
    instrument = next(iter(project.instruments), _USUAL)
    offers: list[Offer] = []
    of: dict[str, Candidate] = {}
    for n, one in enumerate(listed):
        if one.form == "putty" and (one.of["joint"], one.of["lower"]) != (own.joint, own.lower):
            continue
        if one.slopes.any():
            of[str(n)] = one
            minutes = practice().forms[one.form].minutes
            offers.append(Offer(str(n), np.append(one.slopes, more), error_of(one.form, instrument), minutes))
    ranked = next_readings(found, np.append(gauging.slopes.of_gaps[gap], more), offers)
    return tuple(
        Next(one.form, ".".join(one.of.values()), one.words, each.offer.minutes, each.now, each.then)
        for each in ranked[:_SHOWN]
        if each.then < each.now * math.sqrt(1 - _LEAST)
        for one in (of[each.offer.label],)
    )


def on_the_way(
    gauging: Gauging, gaps: Sequence[int], listed: Sequence[Candidate], most: int, by_time: bool = True
) -> Iterator[int]:
    """Yield which candidates to read one after another, each the one that takes most of the variance of all these gaps together
    per minute, those before it done; per reading if not `by_time`.
    """
    count = len(gauging.numbers)
    root = gauging.found.root[:count]
    targets = gauging.slopes.of_gaps[list(gaps)] @ root
    reads = np.array([one.slopes @ root for one in listed])
    errors = np.array([error_of(one.form, _USUAL) for one in listed])
    minutes = np.array([practice().forms[one.form].minutes if by_time else 1.0 for one in listed])
    left = list(range(len(listed)))
    for _ in range(min(most, len(listed))):
        own = np.sum(reads**2, axis=1) + errors**2
        taken = np.sum((targets @ reads.T) ** 2, axis=0) / own / minutes
        best = max(left, key=lambda n: taken[n])
        left.remove(best)
        yield best
        # What it told is gone from everything else: a step of the Kalman filter, without its result.
        along = reads[best].copy()
        keep = 1 - np.sqrt(errors[best] ** 2 / own[best])
        scale = keep / float(along @ along) if along.any() else 0.0
        reads = reads - scale * np.outer(reads @ along, along)
        targets = targets - scale * np.outer(targets @ along, along)


def error_of(form: str, instrument: Instrument) -> float:
    """Return the standard error of some repeats of a form [mm]."""
    hand = practice().hand_mm / math.sqrt(_REPEATS)
    digits = instrument.resolution_mm / math.sqrt(12)
    return math.hypot(hand, digits, practice().forms[form].own_mm, instrument.calibration_mm, instrument.zero_mm)
