"""A proof in sentences: whether the goals were reached, and what to open again for, if at all."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.bench.judgement import Proof, ProvedSensor, beside_words
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number, plus_minus

_TELLS = 2.8  # of the uncertainty of one reading: where two of them differ for certain (95 %)

State = Literal["met", "missed", "open", "none"]


@dataclass(frozen=True)
class ProofVerdict:
    """The headline with its state, what it rests on, and what to do next, one sentence each."""

    state: State
    headline: str
    lines: tuple[str, ...]
    next: tuple[str, ...]


def verdict_of(proof: Proof, project: Project, after: RunFigures) -> ProofVerdict:
    """Return what a proof comes to, held against the goals that were set at the start, else against the limits."""
    matter = project.aims.sensors
    judged = [one for one in proof.sensors if one.state != "none" and (not matter or one.sensor in matter)]
    aside = [one for one in proof.sensors if one.state == "missed" and one not in judged]
    missed = [one for one in judged if one.state == "missed"]
    unsure = [one for one in judged if one.state == "open"]
    with_goal = sum(one.goal_c is not None for one in judged)
    what = "limit" if not with_goal else "goal" if with_goal == len(judged) else "aim"
    if not judged:
        headline, state = "Nothing to hold it against: no sensor has a goal or a limit.", "none"
    elif missed:
        headline, state = f"Not reached: {len(missed)} of {len(judged)} {what}s missed.", "missed"
    elif unsure:
        headline, state = f"Too close to tell for {len(unsure)} of {len(judged)} {what}s; the others hold.", "open"
    else:
        closest = min(judged, key=_spare)
        headline = f"Reached: all {len(judged)} {what}s hold, {closest.name} closest with {number(_spare(closest))} K to spare."
        state = "met"
    lines = [f"{one.name} is {number(-_spare(one), 1)} {plus_minus(one.measured[1])} K over {_aim(one)}." for one in missed]
    lines += [
        f"{one.name} is at {_aim(one)} within its uncertainty ({number(_spare(one), 1, sign=True)} "
        f"{plus_minus(one.measured[1])} K)."
        for one in unsure
    ]
    lines += [f"{one.name}, which was not said to matter, is {number(-_spare(one), 1)} K over {_aim(one)}." for one in aside]
    lines += _as_before(proof)
    lines += _better(proof)
    lines += _worse(proof)
    lines += _skin(proof, project)
    lines += [words] if (words := beside_words(proof.beside)) else []
    lines += _circumstances(project, after)
    return ProofVerdict(state, headline, tuple(lines), tuple(_next(proof, project, missed, unsure)))  # type: ignore[arg-type]


def _spare(one: ProvedSensor) -> float:
    return (one.aim_c or 0.0) - one.measured[0]


def _aim(one: ProvedSensor) -> str:
    return f"its {'goal' if one.goal_c is not None else 'limit'} of {number(one.aim_c or 0.0)} °C"


def _worse(proof: Proof) -> list[str]:
    """Sensors that became hotter than they were by more than both uncertainties."""
    return _changed(proof, "Hotter", 1.0)


def _better(proof: Proof) -> list[str]:
    """Sensors that became cooler than they were by more than both uncertainties."""
    return _changed(proof, "Cooler", -1.0)


def _changed(proof: Proof, word: str, sign: float) -> list[str]:
    away = {one.name: sign * (one.measured[0] - one.was_c) for one in proof.sensors if one.was_c is not None}
    found = [one.name for one in proof.sensors if one.name in away and away[one.name] > _TELLS * one.measured[1]]
    if not found:
        return []
    most = max(found, key=lambda name: away[name])
    rest = f", and {len(found) - 1} more" if len(found) > 1 else ""
    return [f"{word} than before: {most} by {number(away[most], 1)} K{rest}."]


def _as_before(proof: Proof) -> list[str]:
    """Say it where the run looks as if nothing had been changed, though the build should have changed something."""
    known = [one for one in proof.sensors if one.was_c is not None]
    expected = [one for one in known if abs(one.calibrated[0] - (one.was_c or 0.0)) > _TELLS * _both(one)]
    if not expected or any(abs(one.measured[0] - (one.was_c or 0.0)) > _TELLS * one.measured[1] for one in known):
        return []
    if all(abs(one.surprise) < 2 for one in expected):
        return []  # too little was expected to tell the two apart
    return ["It reads as if nothing had been changed: every sensor is where it was before. Is this the log of the new build?"]


def _both(one: ProvedSensor) -> float:
    return math.hypot(one.calibrated[1], one.measured[1])


def _skin(proof: Proof, project: Project) -> list[str]:
    """The hottest skin by the calibrated model, against what was wanted."""
    wanted = project.aims.skin_c
    if wanted is None or not proof.skin:
        return []
    name, value = max(proof.skin, key=lambda one: one[1])
    over = value - wanted.value
    how = f"{number(over)} K over" if over > 0 else f"{number(-over)} K within"
    return [f"{name} comes to {number(value)} °C by the calibrated model, {how} what was wanted; nobody measured it."]


def _circumstances(project: Project, after: RunFigures) -> list[str]:
    said = []
    aims, run = project.aims, after.run
    if aims.noise_db is not None and run.noise_db is not None:
        over = run.noise_db.value - aims.noise_db.value
        said.append(f"Noise is {number(abs(over))} dB {'over' if over > 0 else 'within'} what was wanted.")
    power = next((one.column for one in run.channels if one.role == "power"), None)
    values = after.values(power) if power else []
    if aims.power_w is not None and values:
        short = aims.power_w.value - sum(values) / len(values)
        if short > 0:
            said.append(f"Power was {number(short)} W short of what was wanted.")
    if any(one.throttled is not None for one in after.passes):
        said.append("It throttled: at full power it would have been hotter.")
    air = project.point(run.point).ambient_c.value
    passes = f"{len(after.passes)} pass{'es' if len(after.passes) != 1 else ''}"
    said.append(f"Measured in {passes}, brought to the {number(air)} °C of air that the operating point states.")
    return said


def _next(proof: Proof, project: Project, missed: list[ProvedSensor], unsure: list[ProvedSensor]) -> list[str]:
    surprises = proof.surprises()
    said = []
    for one in surprises[:3]:
        away = one.measured[0] - one.calibrated[0]
        where = _joints_over(project, proof, one.body)
        said.append(
            f"{one.name} is {number(away, 1)} K hotter than the calibrated model can explain: something there "
            f"is not as the build says. "
            f"Look at {where}."
        )
    better = [one for one in missed if one.surprise < -2]
    plain = [one for one in missed if one not in surprises and one not in better]
    if plain:
        names = ", ".join(one.name for one in plain[:3])
        said.append(f"{names}: as hot as predicted, so opening it again for the same gains nothing. Change plan, fan or power.")
    if better:
        cooler = ", ".join(f"{one.name} by {number(one.calibrated[0] - one.measured[0], 1)} K" for one in better[:3])
        said.append(f"Cooler than predicted, and still too hot: {cooler}. The build is sound. Change plan, fan or power.")
    if surprises and project.aims.opening == "never":
        said.append("It is not to be opened: keep this in the record and test again later.")
    elif unsure and not said:
        names = ", ".join(one.name for one in unsure[:3])
        said.append(f"Leave it closed. If {names} must be certain, log more passes and check what that sensor reads.")
    elif surprises and not missed and not unsure:
        said.append("All that was wanted holds, so this can wait for the next service.")
    elif not said:
        cool = min(proof.sensors, key=lambda one: one.surprise, default=None)
        if cool is not None and cool.surprise < -2.5:
            away = cool.calibrated[0] - cool.measured[0]
            said.append(
                f"Leave it closed: it does what was wanted, {cool.name} {number(away, 1)} K better than the model can explain."
            )
        else:
            said.append("Leave it closed: it does what was predicted, and what was wanted.")
    return said


def _joints_over(project: Project, proof: Proof, body: str) -> str:
    run = next((one for one in project.runs if one.id == proof.after), None)
    joints = project.build(run.build).joints if run is not None else ()
    names = [joint.label for joint in joints if body in (joint.upper, *joint.lower)]
    return (
        f"{' and '.join(names[:2])} again, and at what that sensor reads"
        if names
        else "what touches it, and at what that sensor reads"
    )
