"""Edits of runs, goals and calibrations: what holds afterwards, what goes with what, what is refused in words."""

from __future__ import annotations

import pytest

from ashen_bridge.bench.recording import new_names, with_run
from ashen_bridge.changes.places import remove
from ashen_bridge.editing import runs as edits
from ashen_bridge.editing.edits import set_values
from ashen_bridge.logs.outcome import RunError
from ashen_bridge.logs.runs import figures
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import RunChannel
from devices import FOUR, Card, project

HASHES = tuple(f"{n:x}" * 64 for n in range(1, 10))
DIE = RunChannel(column="Die", unit="°C", sensor="die_max", role="temperature")
POWER = RunChannel(column="P", unit="W", role="power")


@pytest.fixture
def card() -> Project:
    made = project(Card(FOUR))
    sensor = made.device.sensors[0].id
    channels = (DIE.model_copy(update={"sensor": sensor}), POWER)
    return with_run(made, "before", HASHES[:2], channels, name="Before")


def sensor_of(card: Project) -> str:
    return card.device.sensors[0].id


def fitted(card: Project, name: str = "fit_1") -> Project:
    record = {"id": name, "runs": ["before"], "numbers": [], "misfit_before_k": 2.0, "misfit_after_k": 0.3}
    data = card.model_dump(mode="json")
    return Project.parse(data | {"calibrations": [*data["calibrations"], record], "calibration": name})


def test_a_run_and_its_further_passes(card: Project) -> None:
    run = card.runs[0]
    assert run.passes == HASHES[:2]
    assert {one.column for one in card.mappings} == {"Die", "P"}, "what columns are is remembered"
    more = edits.add_pass(card, "before", [HASHES[2]], run.channels).applied(card)
    assert more.runs[0].passes == HASHES[:3]
    with pytest.raises(RunError, match="holds these logs already"):
        edits.add_pass(more, "before", [HASHES[0]], run.channels).applied(more)
    edit, run_id = edits.add_run(card, "Before", [HASHES[3]], run.channels, card.builds[0].id, card.points[0].id, ambient_c=22.5)
    twice = edit.applied(card)
    assert run_id == "before_2"
    assert twice.runs[1].ambient_c is not None
    assert twice.runs[1].ambient_c.value == 22.5


def test_columns_of_another_logger_go_by_the_runs_names() -> None:
    other = (DIE.model_copy(update={"column": "Chip"}), POWER.model_copy(update={"column": "Leistung"}))
    assert new_names(other, (DIE, POWER)) == {"Chip": "Die", "Leistung": "P"}
    assert new_names((DIE, POWER), (DIE, POWER)) == {}, "equal names need no other"
    two = (*other, POWER.model_copy(update={"column": "P2"}))
    assert new_names(two, (DIE, POWER)) == {"Chip": "Die"}, "of two powers none is surely the one"


def test_conditions_windows_and_mappings(card: Project) -> None:
    changed = edits.change_run("before", "Fan rule", fan_rule="fixed", noise_at_m=0.5).applied(card)
    assert (changed.runs[0].fan_rule, changed.runs[0].noise_at_m) == ("fixed", 0.5)
    held = edits.set_window("before", (10.0, 60.0)).applied(changed)
    assert held.runs[0].settled_s == (10.0, 60.0)
    assert edits.set_window("before", None).applied(held).runs[0].settled_s is None
    told = [POWER.model_copy(update={"column": "Die", "role": "other"})]
    remapped = edits.remap_run("before", told).applied(held)
    assert remapped.runs[0].channels[0].role == "other"
    assert {one.column: one.role for one in remapped.mappings} == {"Die": "other", "P": "power"}
    with pytest.raises(ProjectError, match="noise_at_m"):
        edits.change_run("before", "x", noise_at_m=-1).applied(card)


def test_readings_by_hand_stand_alone_or_beside_a_log(card: Project) -> None:
    sensor = sensor_of(card)
    spot = {"sensor": sensor, "value_c": {"value": 61.0, "uncertainty": 1.0}}
    edit, run_id = edits.add_typed_run(card, "By hand", [spot], card.builds[0].id, card.points[0].id)
    typed = edit.applied(card)
    run = next(one for one in typed.runs if one.id == run_id)
    assert run.passes == ()
    found = figures(run, [], typed.device)
    column = found.column_of(sensor)
    assert column is not None
    assert found.values(column) == [61.0]
    again = edits.add_spots(run_id, [spot | {"value_c": {"value": 62.0}}]).applied(typed)
    assert [one.value_c.value for one in again.runs[1].spots] == [62.0], "one reading per sensor, the later one"
    later = edits.add_pass(again, run_id, [HASHES[5]], (POWER,)).applied(again)
    assert later.runs[1].passes == (HASHES[5],)
    with pytest.raises(ProjectError, match="needs a log, or readings"):
        set_values("x", {f"runs.{run_id}.spots": [], f"runs.{run_id}.log_sha256": None}).applied(typed)
    with pytest.raises(ProjectError, match="reading of sensor 'nobody'"):
        edits.add_spots(run_id, [spot | {"sensor": "nobody"}]).applied(typed)


def test_goals_and_aims(card: Project) -> None:
    sensor = sensor_of(card)
    wished = edits.set_goal(sensor, 85.0).applied(card)
    assert [(goal.sensor, goal.at_most_c.value) for goal in wished.goals] == [(sensor, 85.0)]
    lower = edits.set_goal(sensor, 80.0).applied(wished)
    assert [goal.at_most_c.value for goal in lower.goals] == [80.0]
    assert edits.set_goal(sensor, None).applied(lower).goals == ()
    told = edits.set_aim("complaint", "It is loud.").applied(card)
    assert told.aims.complaint == "It is loud."
    with pytest.raises(ProjectError, match="said to matter"):
        edits.set_aim("sensors", ["nobody"]).applied(card)
    with pytest.raises(ProjectError):
        edits.set_aim("opening", "perhaps").applied(card)


def test_a_calibration_goes_with_its_run(card: Project) -> None:
    kept = fitted(card)
    assert edits.use_calibration(None).applied(kept).calibration is None
    gone = edits.remove_run(kept, "before").applied(kept)
    assert gone.runs == ()
    assert gone.calibrations == ()
    assert gone.calibration is None
    assert edits.remove_calibration("fit_1").applied(kept).calibrations == ()
    with pytest.raises(ProjectError, match="is to be used, but does not exist"):
        edits.use_calibration("fit_9").applied(kept)
    with pytest.raises(RunError, match="There is no run 'x'; there are: before"):
        edits.remove_run(kept, "x")
    bad = card.model_dump(mode="json") | {
        "calibrations": [{"id": "f", "runs": ["x"], "misfit_before_k": 1.0, "misfit_after_k": 1.0}]
    }
    with pytest.raises(ProjectError, match="was fitted to run 'x', which does not exist"):
        Project.parse(bad)


def test_what_speaks_of_a_sensor_goes_with_it(card: Project) -> None:
    sensor = sensor_of(card)
    body = card.device.sensors[0].body
    spot = {"sensor": sensor, "value_c": {"value": 61.0}}
    full = edits.set_aim("sensors", [sensor]).applied(edits.set_goal(sensor, 85.0).applied(card))
    full = edits.add_spots("before", [spot]).applied(full)
    left = remove(full, (f"device.bodies.{body}",))
    assert sensor not in {one.id for one in left.device.sensors}
    assert left.goals == ()
    assert left.aims.sensors == ()
    assert left.runs[0].spots == ()
    assert all(one.sensor != sensor for one in (*left.runs[0].channels, *left.mappings))
