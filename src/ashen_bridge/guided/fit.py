"""Bring a described device in line with every temperature that was seen, and say what that told and what it could not."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ashen_bridge.bench.calibrate import Fit
from ashen_bridge.bench.calibrate import fitting as fitting_numbers
from ashen_bridge.bench.judgement import Calibration
from ashen_bridge.bench.readings import uncertain_numbers
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.bodies import CORE_SHARE
from ashen_bridge.guided.build import project_from
from ashen_bridge.guided.instead import aim_c, without_opening
from ashen_bridge.guided.matters import told_of
from ashen_bridge.guided.measure import helping_most, watched
from ashen_bridge.guided.result import Described, SeenBeside
from ashen_bridge.guided.telling import assumed_words, causes_of, fitted_words, misfit_words
from ashen_bridge.logs.runs import figures
from ashen_bridge.model import paths
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Origin, q
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.together import left
from ashen_bridge.uncertainty.weighing import weighing

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

BUILD, POINT = "as_found", "load"
# Of what the usual power map gives: over 21 invented lidded devices, none of those that the study judges by, hot spots stood
# 0.6 times as far above their die's mean in the middle, two thirds of them 0.2 to 1.9 times.
_SPOT_SHARE = 0.45
_NEAR = 0.7  # standard uncertainties: slopes taken that far away still hold
_SHARE = "device.bodies.die.make_up.power_map"


def fitting(engine: Engine, answers: Answers) -> Iterator[tuple[float, Described | None]]:
    """Yield progress, the described device once it is fitted, and at the end what more there is to say about it."""
    project = project_from(answers)
    if answers.core_c is not None and answers.hot_c is not None:
        project = _concentrated(engine, project, answers.hot_c - answers.core_c)
    elif answers.hot_c is None:
        project = _vague_spot(engine, project)
    yield 0.1, None
    about = watched(engine, project, answers)
    seen = figures(project.runs[0], [], project.device) if project.runs else None
    if seen is None:
        listed = told_of([one for one in assumptions(project, BUILD, POINT) if one.uncertainty > 0])
        told = Described(project, assumed_words(answers), fitted_words(None), (), ())
        yield 0.2, told
        weighed: list[Assumption] = []
        for progress, found_now in weighing(engine, project, BUILD, POINT, listed):
            weighed = list(found_now or ())
            yield 0.2 + 0.7 * progress, None
    else:
        fit: Fit | None = None
        numbers = told_of(uncertain_numbers(project, [seen]))
        for progress, step in fitting_numbers(engine, project, [seen], numbers, (about,), _NEAR):
            fit = step
            yield 0.1 + 0.8 * progress, None
        assert fit is not None  # the last one always is
        found = fit.calibration(project, [seen])
        project, weighed = found.recorded(project), _weighed(fit)
        beside = _beside(found)
        causes = causes_of(weighed, project, beside)
        told = Described(project, assumed_words(answers), fitted_words(found), beside, misfit_words(beside, causes))
    used = in_force(project)
    rows = engine.predict(used, BUILD, POINT).report.sensors
    now = next(row.value_c for row in rows if row.id == about)
    aim = aim_c(used, answers, about)
    told = replace(told, project=project, measure=helping_most(weighed, about), about=used.device.sensor(about).label)
    told = replace(told, shown_c=now, goal_c=aim)
    yield 0.9, told
    yield 1.0, replace(told, instead=without_opening(engine, used, about, now, aim))


def _weighed(fit: Fit) -> list[Assumption]:
    """Return the fitted numbers as they are now, with what they do to every sensor that was read or watched."""
    directions = fit.directions
    weighed = []
    for n, one in enumerate(fit.numbers):
        kept = float(left(directions)[n])
        effects = tuple(
            (sensor, float(fit.slopes[k, n]) * kept) for k, (_, sensor) in enumerate(fit.readings.what) if sensor is not None
        )
        most = max((abs(effect) for _, effect in effects), default=0.0)
        value, spread = one.value + float(fit.x[n]) * one.uncertainty, one.uncertainty * kept
        told = tuple(float(share) for share in directions[n])
        weighed.append(replace(one, value=value, uncertainty=spread, effects=effects, effect_k=most, told=told))
    return weighed


def _concentrated(engine: Engine, project: Project, apart_k: float) -> Project:
    """Return the project with as much of the chip's power in its middle as brings hot spot and mean so far apart [K]."""

    def apart(share: float) -> tuple[float, Project]:
        moved = paths.set_values(project, {f"{_SHARE}.core.share": round(share, 3)})
        rows = {row.id: row.value_c for row in engine.shown(moved, BUILD, POINT)[0]}
        return rows["hot_spot"] - rows["core"], moved

    low, high = 0.25, 0.9  # evenly spread over the die, and nearly all of it in a quarter
    share, found = CORE_SHARE, project
    (at, found), (least, _) = apart(share), apart(low)
    # What the share adds to an even spread goes in a straight line with it.
    if at - least > 0.1:
        share = min(max(low + (share - low) * (apart_k - least) / (at - least), low), high)
        _, found = apart(share)
    return found


def _vague_spot(engine: Engine, project: Project) -> Project:
    """Return the project with a hot spot that may be off by a part of what the usual power map gives: nobody has seen it."""
    rows = {row.id: row.value_c for row in engine.shown(project, BUILD, POINT)[0]}
    apart = max(rows["hot_spot"] - rows["core"], 0.0)
    offset = q(0.0, round(_SPOT_SHARE * apart, 2), Origin.ASSUMED, "how the chip's power is spread is not known")
    return paths.set_values(project, {"device.sensors.hot_spot.offset_k": offset})


def _beside(found: Calibration | None) -> tuple[SeenBeside, ...]:
    if found is None:
        return ()
    return tuple(SeenBeside(one.name, one.measured, one.before, one.after, one.uncertainty) for one in found.residuals)
