"""From eight answers to a computable device; what nobody said is marked assumed."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ashen_bridge.changes.boxes import contains, meet
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.guided.answers import AnswerError, Answers, DeviceKind, Wish, check
from ashen_bridge.guided.build import project_from
from ashen_bridge.guided.fit import fitting
from ashen_bridge.guided.layout import lay_out
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import assumptions, weigh

ENGINE = Engine()
COUNT = st.integers(0, 8)
ANSWERS = st.builds(
    Answers,
    kind=st.sampled_from(DeviceKind),
    die_w_mm=st.floats(2, 60).map(lambda v: round(v, 1)),
    die_h_mm=st.floats(2, 60).map(lambda v: round(v, 1)),
    around=st.tuples(COUNT, COUNT, COUNT, COUNT),
    rear=COUNT,
    pad_now_mm=st.none() | st.sampled_from([0.25, 0.5, 1.0, 3.0]),
    screws=st.integers(2, 12),
    pad_wanted_mm=st.none() | st.just(1.5),
    wish=st.sampled_from(Wish),
)


@settings(max_examples=60)
@given(ANSWERS)
def test_any_answers_make_an_assembly_that_can_exist(answers: Answers) -> None:
    project = project_from(answers)
    for build in project.builds:
        check_assembly(resolve(project, build.id))
    assert len(project.builds) == (2 if answers.pad_wanted_mm else 1)
    assert sum(body.id.startswith("mem_") for body in project.device.bodies) == sum(answers.around) + answers.rear


@settings(max_examples=40)
@given(ANSWERS)
def test_the_layout_keeps_everything_apart_and_on_the_board(answers: Answers) -> None:
    layout = lay_out(answers)
    boxes = [layout.substrate, *(box for _, box in layout.parts.values())]
    for n, box in enumerate(boxes):
        assert contains(layout.board, box)
        assert contains(layout.plate, box)
        assert not any(meet(box, other) for other in boxes[n + 1 :])
    assert contains(layout.substrate, layout.die)
    assert len(set(layout.screws)) == answers.screws
    for x, y in layout.screws:
        assert contains(layout.plate, (x, y, x, y))


def fitted_project(answers: Answers, engine: Engine) -> Project:
    return next(project for _, project in fitting(engine, answers) if project is not None)


@pytest.mark.parametrize("kind", list(DeviceKind))
def test_every_kind_computes_and_is_as_hot_as_it_was_seen(kind: DeviceKind) -> None:
    answers = Answers(kind=kind, around=(2, 0, 2, 0), rear=1, die_seen_c=78.0, pad_wanted_mm=1.5)
    project = fitted_project(answers, ENGINE)
    for build in project.builds:
        report = ENGINE.predict(project, build.id, fidelity="coarse").report
        assert report.balance.force_rel < 1e-3
    # What is fitted is fitted to what is shown: the fine field.
    now = ENGINE.predict(project, "as_found").report
    assert now.component("die").t_max_c == pytest.approx(78.0, abs=0.6)
    assert any("78" in quantity.note for quantity in [_sink(project)])


def _sink(project: Any) -> Any:
    return next(body.sink.convective_k_w for body in project.device.bodies if getattr(body, "sink", None))


def test_a_temperature_no_cooler_explains_is_said_so() -> None:
    project = fitted_project(Answers(die_seen_c=26.0), ENGINE)
    assert "as near as" in _sink(project).note


def test_fitting_tells_its_progress_and_ends_with_the_project() -> None:
    steps = list(fitting(ENGINE, Answers(die_seen_c=80.0)))
    assert [progress for progress, _ in steps] == sorted(progress for progress, _ in steps)
    assert steps[-1][1] is not None
    assert all(project is None for _, project in steps[:-1])


def test_what_was_answered_is_measured_and_everything_else_assumed_with_a_spread() -> None:
    project = project_from(Answers(pad_now_mm=1.25, pad_wanted_mm=2.0, die_seen_c=90.0, memory_seen_c=101.0, rear=1))
    origins: dict[str, int] = {}
    for path, value in paths.list_paths(project):
        if path.startswith("materials."):
            continue
        origin = path + ".origin"
        try:
            found = paths.get(project, origin)
        except Exception:
            continue
        origins[found] = origins.get(found, 0) + 1
        if found == "assumed" and value:
            stated_as_they_are = ("roughness", "emissivity", "at_most", "offset", "crown", "heat_capacity", "air_rise", "washers")
            if not any(word in path for word in stated_as_they_are):
                assert paths.get(project, path + ".uncertainty") > 0, path
    assert origins["measured"] > 3
    pad = project.build("as_found").joints[1].pieces[0].thickness_mm
    assert pad is not None
    assert (pad.value, pad.origin) == (1.25, "measured")
    assert {m.about for m in project.measurements} == {"device.sensors.die_hot", "device.sensors.s_mem_l1"}
    assert project.build("plan_a").label == "Plan A, 2 mm"


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"die_w_mm": 0}, "die_w_mm"),
        ({"die_w_mm": "wide"}, "die_w_mm"),
        ({"around": (1, 2, 3, 9)}, "around"),
        ({"rear": -1}, "rear"),
        ({"pad_now_mm": 12.0}, "pad_now_mm"),
        ({"screws": 1}, "screws"),
        ({"die_seen_c": 900.0}, "die_seen_c"),
        ({"die_seen_c": 20.0}, "die_seen_c"),
        ({"memory_seen_c": 24.0}, "memory_seen_c"),
        ({"room_c": float("nan")}, "room_c"),
    ],
)
def test_answers_that_cannot_be_name_the_question(given: dict[str, Any], field: str) -> None:
    with pytest.raises(AnswerError) as error:
        check(given)
    assert error.value.field == field
    assert str(error.value).endswith(".")


# ---- assumptions


def test_alike_numbers_are_one_assumption_and_all_that_count_are_there() -> None:
    project = project_from(Answers(around=(3, 2, 3, 0), rear=2))
    listed = assumptions(project, "as_found", "load")
    heights = next(one for one in listed if one.field == "height_mm" and one.owners[0] == "Memory L1")
    assert len(heights.paths) == 8
    fields = {one.field for one in listed}
    assert {"power_w", "sink.convective_k_w", "landings.step_mm", "rate_n_mm", "thickness_mm"} <= fields
    assert not any("density" in field for field in fields), "heat storage plays no part in a steady prediction"
    assert len({path for one in listed for path in one.paths}) == sum(len(one.paths) for one in listed), "each number once"


def test_weights_are_the_change_of_the_temperature_that_moves_most() -> None:
    """Against a direct difference of two predictions of the same engine."""
    project = project_from(Answers(around=(1, 0, 1, 0)))
    wanted = [one for one in assumptions(project, "as_found", "load") if one.field in ("sink.convective_k_w", "roughness_um")]
    weighed = [value[1] for _, value in weigh(ENGINE, project, "as_found", "load", wanted)]
    sink = next(one for one in weighed if one.field == "sink.convective_k_w")
    base = ENGINE.predict(project, fidelity="coarse").report
    moved = ENGINE.predict(paths.set_values(project, {sink.paths[0]: sink.value + sink.uncertainty}), fidelity="coarse").report
    expected = max(abs(b.value_c - a.value_c) for a, b in zip(base.sensors, moved.sensors, strict=True))
    assert sink.effect_k == pytest.approx(expected, abs=0.05)
    # All of the heat but what the board loses goes through the sink: ΔT is close to P·ΔR.
    assert sink.effect_k == pytest.approx(157.0 * 0.06, rel=0.15)
    assert sink.sensor


def test_what_cannot_be_assembled_when_moved_is_left_open() -> None:
    project = project_from(Answers(around=(0, 0, 0, 0)))
    path = "device.bodies.die.height_mm"
    thin = paths.set_values(project, {path: {"value": 0.5, "uncertainty": 0.6, "origin": "assumed", "note": ""}})
    wanted = [one for one in assumptions(thin, "as_found", "load") if one.paths == (path,)]
    weighed = next(value[1] for _, value in weigh(ENGINE, thin, "as_found", "load", wanted))
    assert weighed.effect_k is not None, "upwards it can be assembled, so that side is taken"
