"""Changes of what is kept beside the model: runs with their columns and readings, aims, goals, calibrations, photos."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.records import CalibrationRecord, Goal, Image, Run, RunChannel, SpotReading, Tracing
from ashen_bridge.model.sharing import find, replaced, with_each, with_more, with_part

Channels = tuple[RunChannel, ...]


def add_run(project: Project, run: Run) -> Project:
    """Add a run, and remember what its columns are."""
    return with_more(remember_columns(project, run.channels), "runs", run)


def add_logs(project: Project, run: str, logs: tuple[str, ...], channels: Channels) -> Project:
    """Add stored logs to a run as further passes; their columns go by the names given here."""

    def change(one: Run) -> Run:
        kept = {channel.column: channel for channel in (*one.channels, *channels)}
        passes = (*one.passes, *logs)
        return replaced(one, log_sha256=passes[0], further_passes=passes[1:], channels=tuple(kept.values()))

    return with_each(project, "runs", change, (run,))


def change_run(project: Project, run: str, fields: dict[str, Any]) -> Project:
    """Change fields of a run."""
    return with_each(project, "runs", lambda one: replaced(one, **fields), (run,))


def remember_columns(project: Project, channels: Channels) -> Project:
    """Remember what columns are, for later logs of this device."""
    kept = {one.column: one for one in (*project.mappings, *channels)}
    return replaced(project, mappings=tuple(kept.values()))


def remap_run(project: Project, run: str, channels: Channels) -> Project:
    """Say anew what a run's columns are; later logs of this device are read so too."""
    return change_run(remember_columns(project, channels), run, {"channels": channels})


def add_spots(project: Project, run: str, spots: tuple[SpotReading, ...]) -> Project:
    """Add readings typed by hand to a run; one of a sensor that has one takes its place."""
    told = {spot.sensor for spot in spots}

    def change(one: Run) -> Run:
        return replaced(one, spots=(*(spot for spot in one.spots if spot.sensor not in told), *spots))

    return with_each(project, "runs", change, (run,))


def remove_run(project: Project, run: str) -> Project:
    """Remove a run, and the calibrations that were fitted to it."""
    find(project.runs, run, "run")
    kept = tuple(one for one in project.calibrations if run not in one.runs)
    closings = tuple(replaced(one, runs=tuple(name for name in one.runs if name != run)) for one in project.closings)
    return _calibrated(project, kept, runs=tuple(one for one in project.runs if one.id != run), closings=closings)


def _calibrated(project: Project, kept: tuple[CalibrationRecord, ...], **more: Any) -> Project:
    """Return the project with these calibrations; the one in use goes out of use with its record."""
    used = project.calibration if any(one.id == project.calibration for one in kept) else None
    return replaced(project, calibrations=kept, calibration=used, **more)


def set_aim(project: Project, field: str, value: Any) -> Project:
    """Say what is wrong or wanted; `field` is one of `Aims`."""
    return with_part(project, "aims", lambda aims: replaced(aims, **{field: value}))


def set_goal(project: Project, sensor: str, at_most_c: float | None) -> Project:
    """Set what a sensor shall keep below [°C], or take that goal away."""
    kept = tuple(goal for goal in project.goals if goal.sensor != sensor)
    if at_most_c is not None:
        new = fresh_id(f"goal_{sensor}"[:44], [goal.id for goal in kept])
        kept += (Goal(id=new, sensor=sensor, at_most_c=q(at_most_c)),)
    return replaced(project, goals=kept)


def set_prior(project: Project, kind: str, odds: float | None) -> Project:
    """Say how often a kind of fault is met, as odds against nothing being wrong; None leaves it to common practice."""
    kept = {name: value for name, value in project.priors.items() if name != kind}
    return replaced(project, priors=kept if odds is None else {**kept, kind: odds})


def keep_calibration(project: Project, record: CalibrationRecord) -> Project:
    """Keep a fit and use it from now on."""
    return replaced(project, calibrations=(*project.calibrations, record), calibration=record.id)


def use_calibration(project: Project, name: str | None) -> Project:
    """Use a kept fit for every prediction, or (None) the numbers as they stand."""
    return replaced(project, calibration=name)


def remove_calibration(project: Project, name: str) -> Project:
    """Forget a fit."""
    find(project.calibrations, name, "calibration")
    return _calibrated(project, tuple(one for one in project.calibrations if one.id != name))


def add_tracing(project: Project, image: Image, tracing: Tracing) -> Project:
    """Lay a photo under one side; it takes the place of the one there."""
    kept = (one for one in project.tracings if one.side is not tracing.side)
    return replaced(project, images=(*project.images, image), tracings=(*kept, tracing))


def change_tracing(project: Project, tracing: str, fields: dict[str, Any]) -> Project:
    """Place a photo anew, show it or hide it."""
    return with_each(project, "tracings", lambda one: replaced(one, **fields), (tracing,))


def remove_tracing(project: Project, tracing: str) -> Project:
    """Take a photo away."""
    gone = find(project.tracings, tracing, "tracing")
    return replaced(
        project,
        tracings=tuple(one for one in project.tracings if one is not gone),
        images=tuple(image for image in project.images if image.id != gone.image),
    )
