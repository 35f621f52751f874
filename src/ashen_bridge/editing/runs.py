"""Edits of what is kept of tests: runs with their conditions and windows, goals, and which calibration is in use."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.bench.judgement import Calibration
from ashen_bridge.bench.recording import run_of, with_run
from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, item, slug
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import RunChannel


def add_run(
    project: Project, name: str, digests: Sequence[str], channels: Sequence[RunChannel], build: str, point: str, **conditions: Any
) -> tuple[Edit, str]:
    """Add a run of stored logs; returns the edit and the run's id."""
    run_id = fresh_id(slug(name, "run"), [run.id for run in project.runs])

    def change(project: Project) -> Project:
        return with_run(project, run_id, digests, channels, build=build, point=point, name=name, **conditions)

    return Edit(f"Run {name}", change), run_id


def add_pass(run_id: str, digests: Sequence[str], channels: Sequence[RunChannel]) -> Edit:
    """Add stored logs to a run as further passes."""
    return Edit("Another pass", lambda project: with_run(project, run_id, digests, channels))


def change_run(run_id: str, what: str, **fields: Any) -> Edit:
    """Change fields of a run; `what` says it in words."""
    keys = "+".join(sorted(fields))
    return edit_project(what, lambda data: item(data["runs"], run_id).update(fields), f"run:{run_id}:{keys}")


def set_window(run_id: str, window_s: tuple[float, float] | None) -> Edit:
    """Set the settled window by hand [s], or let it be found again."""
    words = "Settled window" if window_s is not None else "Settled window found again"
    return edit_project(words, lambda data: item(data["runs"], run_id).update(settled_s=window_s), f"run:{run_id}:window")


def remap_run(run_id: str, channels: Sequence[RunChannel]) -> Edit:
    """Say anew what a run's columns are; later logs of this device are read so too."""

    def change(data: Plain) -> None:
        plain = [one.model_dump(mode="json") for one in channels]
        item(data["runs"], run_id)["channels"] = plain
        kept = {one["column"]: one for one in (*data["mappings"], *plain)}
        data["mappings"] = list(kept.values())

    return edit_project("What the columns are", change)


def add_spots(run_id: str, spots: Sequence[dict[str, Any]]) -> Edit:
    """Add readings typed by hand to a run; one of a sensor that has one takes its place."""

    def change(data: Plain) -> None:
        run = item(data["runs"], run_id)
        told = {spot["sensor"] for spot in spots}
        run["spots"] = [*(spot for spot in run["spots"] if spot["sensor"] not in told), *spots]

    return edit_project("Typed readings", change)


def add_typed_run(project: Project, name: str, spots: Sequence[dict[str, Any]], build: str, point: str) -> tuple[Edit, str]:
    """Add a run of nothing but readings typed by hand; returns the edit and the run's id."""
    run_id = fresh_id(slug(name, "run"), [run.id for run in project.runs])
    new = {"id": run_id, "name": name, "build": build, "point": point, "spots": list(spots)}
    return edit_project(f"Run {name}", lambda data: data["runs"].append(new)), run_id


def remove_run(project: Project, run_id: str) -> Edit:
    """Remove a run, and the calibrations that were fitted to it."""
    label = run_of(project, run_id).label

    def change(data: Plain) -> None:
        data["runs"] = [run for run in data["runs"] if run["id"] != run_id]
        data["calibrations"] = [one for one in data["calibrations"] if run_id not in one["runs"]]
        if data["calibration"] not in {one["id"] for one in data["calibrations"]}:
            data["calibration"] = None

    return edit_project(f"Remove run {label}", change)


# ---- what is wanted


def set_aim(field: str, value: Any) -> Edit:
    """Say what is wrong or wanted; `field` is one of `Aims`."""
    return edit_project("What is wanted", lambda data: data["aims"].update({field: value}), f"aims:{field}")


def set_goal(sensor: str, at_most_c: float | None) -> Edit:
    """Set what a sensor shall keep below [°C], or take that goal away."""

    def change(data: Plain) -> None:
        kept = [goal for goal in data["goals"] if goal["sensor"] != sensor]
        if at_most_c is not None:
            used = [goal["id"] for goal in kept]
            kept.append({"id": fresh_id(f"goal_{sensor}"[:44], used), "sensor": sensor, "at_most_c": {"value": at_most_c}})
        data["goals"] = kept

    return edit_project("Goal", change, f"goal:{sensor}")


# ---- calibrations


def keep_calibration(found: Calibration) -> Edit:
    """Keep a fit and use it from now on."""
    return Edit(f"Calibration from {', '.join(found.runs)}", found.recorded)


def use_calibration(name: str | None) -> Edit:
    """Use a kept fit for every prediction, or the numbers as they stand."""
    words = "Use the calibration" if name else "Use the numbers as they stand"
    return edit_project(words, lambda data: data.update(calibration=name))


def remove_calibration(name: str) -> Edit:
    """Forget a fit."""

    def change(data: Plain) -> None:
        data["calibrations"] = [one for one in data["calibrations"] if one["id"] != name]
        if data["calibration"] == name:
            data["calibration"] = None

    return edit_project("Forget a calibration", change)
