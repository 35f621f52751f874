"""From answers to a computable device; what nobody said is marked assumed, what was seen is fitted or said not to fit."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ashen_bridge.changes.boxes import contains, meet
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.guided.answers import Answers, DeviceKind, Wish
from ashen_bridge.guided.build import project_from
from ashen_bridge.guided.check import AnswerError, check, problems
from ashen_bridge.guided.fit import fitting
from ashen_bridge.guided.interview import Interview
from ashen_bridge.guided.layout import lay_out
from ashen_bridge.guided.questions import PAGES, Ask, has_memory, pages, rear_parts, usual_words
from ashen_bridge.guided.result import Described
from ashen_bridge.guided.usual import value_of
from ashen_bridge.model import paths
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.weighing import weigh

ENGINE = Engine()
COUNT = st.integers(0, 12)
SIZE = st.none() | st.floats(2, 60).map(lambda v: round(v, 1))


def maybe(*values: Any) -> st.SearchStrategy[Any]:
    return st.sampled_from([None, *values])


ANSWERS = st.builds(
    Answers,
    kind=st.sampled_from(DeviceKind),
    wish=maybe(*Wish),
    die_w_mm=SIZE,
    die_h_mm=SIZE,
    watts=maybe(5.0, 60.0),
    watts_of=st.sampled_from(["chip", "device"]),
    paste=maybe("thin", "generous"),
    under_lid=maybe("solder", "paste", "liquid metal"),
    around=st.none() | st.tuples(COUNT, COUNT, COUNT, COUNT),
    regulators=st.none() | st.integers(0, 24),
    pad_now_mm=maybe(0.25, 0.5, 1.0, 3.0),
    pad_feel=maybe("soft", "firm"),
    rear_plate=maybe("metal", "plastic", "none"),
    rear_meets=maybe("air", "pads", "touching"),
    rear=st.none() | COUNT,
    base=maybe(*BaseKind),
    screws=st.none() | st.integers(2, 12),
    cover=maybe("metal", "plastic"),
    spreader=maybe("plate", "none"),
    on_chip=maybe("paste", "pad"),
    over_memory=maybe("pads", "air"),
    reach=maybe("air", "pad"),
    changed=maybe("pads", "paste", "pads and paste"),
    worse=maybe("memory", "the die", "both"),
    pad_wanted_mm=maybe(1.5),
).filter(lambda one: not list(problems(one)))


@settings(max_examples=80)
@given(ANSWERS)
def test_any_answers_make_an_assembly_that_can_exist(answers: Answers) -> None:
    project = project_from(answers)
    for build in project.builds:
        check_assembly(resolve(project, build.id))
    counted = 0 if answers.kind is DeviceKind.LIDDED else sum(value_of(answers, "around")) + rear_parts(answers)
    assert sum(body.id.startswith("mem_") for body in project.device.bodies) == counted


@settings(max_examples=60)
@given(ANSWERS)
def test_the_layout_keeps_everything_apart_and_on_the_board(answers: Answers) -> None:
    layout = lay_out(answers)
    boxes = [layout.substrate, *(box for _, box in layout.parts.values()), *layout.regulators.values()]
    fanless = answers.kind is DeviceKind.BOX
    for n, box in enumerate(boxes):
        assert contains(layout.board, box)
        assert fanless or contains(layout.plate, box)
        assert not any(meet(box, other) for other in boxes[n + 1 :])
    assert contains(layout.substrate, layout.die)
    assert len(set(layout.screws)) == (4 if fanless else value_of(answers, "screws"))
    for x, y in layout.screws:
        assert contains(layout.plate, (x, y, x, y))


@settings(max_examples=60)
@given(ANSWERS)
def test_nothing_is_asked_that_cannot_apply_and_every_question_shows_what_stands_for_it(answers: Answers) -> None:
    asked = [ask for page in pages(answers) for ask in page.asked(answers)]
    fields = [ask.field for ask in asked]
    assert len(pages(answers)) <= 7, "the result is the eighth"
    assert len(set(fields)) == len(fields), "nothing is asked twice"
    told: dict[DeviceKind, set[str]] = {
        DeviceKind.CARD: {"under_lid", "cover", "device_w_mm", "spreader", "skin_c"},
        DeviceKind.LIDDED: {"around", "rear_plate", "pad_now_mm", "cover", "skin_c", "regulators"},
        DeviceKind.BOX: {"fan_percent", "screws", "base", "rear_plate", "under_lid", "regulators"},
        DeviceKind.OTHER: {"under_lid", "cover", "skin_c"},
    }
    assert not told[answers.kind] & set(fields)
    assert ("memory_c" in fields) == has_memory(answers)
    assert {"core_c", "hot_c", "watts"} <= set(fields)
    for ask in asked:
        stands = usual_words(ask, answers)
        assert stands or ask.how in ("text", "cards") or getattr(answers, ask.field), ask.field
        if getattr(answers, ask.field) is None and ask.how == "number":
            assert stands in ("none", "not seen") or stands.startswith("usual: ")


def described(answers: Answers, engine: Engine | None = None) -> Described:
    *_, (_, found) = fitting(engine or ENGINE, answers)
    assert found is not None
    return found


SEEN = {
    "card": Answers(
        around=(2, 0, 2, 0), rear=1, rear_meets="pads", core_c=78, hot_c=88, memory_c=92, watts=160, pad_wanted_mm=1.5
    ),
    "lidded": Answers(kind=DeviceKind.LIDDED, core_c=71, watts=95, under_lid="solder"),
    "metal": Answers(kind=DeviceKind.BOX, core_c=74, memory_c=70, skin_c=47, watts=6, around=(1, 0, 0, 0)),
    "plastic": Answers(kind=DeviceKind.BOX, cover="plastic", core_c=82, skin_c=52, watts=4, around=(0, 0, 0, 0)),
    "other": Answers(kind=DeviceKind.OTHER, core_c=66, watts=35),
}


@pytest.mark.parametrize("name", SEEN)
def test_every_kind_computes_and_what_was_seen_is_fitted_or_said(name: str) -> None:
    """Fitted to what is shown: the refined field of the project as it opens."""
    answers = SEEN[name]
    engine = Engine()
    found = described(answers, engine)
    project = found.project
    for build in project.builds:
        report = engine.predict(in_force(project), build.id, fidelity="coarse").report
        assert report.balance.force_rel < 1e-3
    now = {row.id: row.value_c for row in engine.predict(in_force(project), "as_found").report.sensors}
    seen = {one.name: one for one in found.seen}
    ids = {sensor.label: sensor.id for sensor in project.device.sensors}
    assert len(seen) == sum(getattr(answers, field) is not None for field in ("core_c", "hot_c", "memory_c", "skin_c"))
    for label, one in seen.items():
        assert now[ids[label]] == pytest.approx(one.after_c, abs=0.3), "the numbers that were fitted are the ones in use"
        assert one.met or any(label in words for words in found.misfits)
    assert all(one.met for one in seen.values()), found.misfits
    assert found.shown_c == pytest.approx(now[ids[found.about]])
    assert 1 <= len(found.measure) <= 3
    assert [one.after_k for one in found.measure] == sorted(one.after_k for one in found.measure)
    assert found.instead
    assert found.assumed
    assert project.runs[0].build == "as_found", "what was seen is a run like any other"


@pytest.mark.long
def test_what_cannot_be_fitted_is_said_with_what_would_have_to_be_otherwise() -> None:
    """Four hundred watts that leave the chip at two kelvins over the room: no cooler of the kind does that."""
    found = described(Answers(core_c=27.0, hot_c=28.0, watts=400.0, around=(0, 0, 0, 0), room_c=25.0))
    assert len(found.misfits) >= 1
    assert any("You saw 28 °C at Hot spot, this device gives" in words and "a better cooler" in words for words in found.misfits)


def test_a_temperature_that_was_not_seen_leaves_the_usual_and_says_so() -> None:
    found = described(Answers(around=(0, 0, 0, 0)))
    assert found.seen == ()
    assert found.fitted.startswith("Nothing was seen")
    assert not found.project.runs
    assert found.project.calibration is None


def test_telling_progress_ends_with_the_device() -> None:
    steps = list(fitting(ENGINE, SEEN["lidded"]))
    assert [progress for progress, _ in steps] == sorted(progress for progress, _ in steps)
    assert steps[-1][0] == 1.0
    assert steps[-1][1] is not None


def test_the_better_known_way_to_the_goal_keeps_closed_what_need_not_be_opened() -> None:
    """Half the rise more than is wanted: power falls by about as much as the rise must; checked by the prediction itself."""
    answers = Answers(kind=DeviceKind.OTHER, wish=Wish.DIE, goal_c=65.0, core_c=80.0, watts=40.0, room_c=20.0)
    engine = Engine()
    found = described(answers, engine)
    assert found.shown_c is not None
    words = next(one for one in found.instead if "less power" in one)
    share = 1 - float(words.split(" %")[0]) / 100
    less = paths.set_values(in_force(found.project), {"points.load.powers_w.die": 40.0 * share})
    die = in_force(found.project).point("load").powers_w["die"].value
    less = paths.set_values(in_force(found.project), {"points.load.powers_w.die": die * share})
    there = engine.predict(less, "as_found").report
    assert next(row.value_c for row in there.sensors if row.id == "hot_spot") == pytest.approx(65.0, abs=1.0)


def test_pads_that_made_the_die_worse_are_taken_as_too_thick() -> None:
    plain = project_from(Answers(pad_now_mm=1.5))
    worse = project_from(Answers(pad_now_mm=1.5, changed="pads", worse="the die"))
    step = "device.bodies.cooler.landings.landing_left.step_mm"
    assert paths.get(worse, step) < paths.get(plain, step) - 0.1, "a smaller gap: the pad is squashed more"


def test_what_was_answered_is_measured_and_everything_else_assumed_with_a_spread() -> None:
    answers = Answers(
        pad_now_mm=1.25, pad_wanted_mm=2.0, core_c=90, memory_c=101, rear=1, rear_meets="pads", watts=170, room_c=23
    )
    project = project_from(answers)
    origins: dict[str, int] = {}
    for path, value in paths.list_paths(project):
        if path.startswith(("materials.", "goals.")):
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
    pad = project.build("as_found").joint("pad_mem_l1").pieces[0].thickness_mm
    assert pad is not None
    assert (pad.value, pad.origin) == (1.25, "measured")
    assert {spot.sensor: spot.value_c.value for spot in project.runs[0].spots} == {"core": 90.0, "memory_hot": 101.0}
    assert project.build("plan_a").label == "Plan A, 2 mm"
    die = project.point("load").powers_w["die"]
    assert (die.value, die.origin) == (170.0, "measured")


def test_watts_of_the_whole_device_leave_the_chip_what_the_others_do_not_take() -> None:
    project = project_from(Answers(watts=200.0, watts_of="device"))
    report = ENGINE.predict(project, fidelity="coarse").report
    assert report.power_w == pytest.approx(200.0, rel=1e-6)


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"die_w_mm": 0}, "die_w_mm"),
        ({"die_w_mm": "wide"}, "die_w_mm"),
        ({"around": (1, 2, 3, 13)}, "around"),
        ({"rear": -1}, "rear"),
        ({"pad_now_mm": 12.0}, "pad_now_mm"),
        ({"screws": 1}, "screws"),
        ({"core_c": 900.0}, "core_c"),
        ({"core_c": 20.0}, "core_c"),
        ({"memory_c": 24.0}, "memory_c"),
        ({"room_c": float("nan")}, "room_c"),
        ({"watts": 0.0}, "watts"),
        ({"watts": 1e4}, "watts"),
        ({"kind": "thin fanless device", "watts": 1000.0}, "watts"),
        ({"name": "x" * 201}, "name"),
        ({"fan_percent": 0.0}, "fan_percent"),
    ],
)
def test_answers_that_cannot_be_name_the_question(given: dict[str, Any], field: str) -> None:
    with pytest.raises(AnswerError) as error:
        check(given)
    assert error.value.field == field
    assert str(error.value).endswith(".")


@pytest.mark.parametrize(
    ("given", "fields", "words"),
    [
        ({"core_c": 90.0, "hot_c": 80.0}, {"core_c", "hot_c"}, ("90", "80")),
        ({"core_c": 30.0, "room_c": 35.0}, {"core_c", "room_c"}, ("30", "35")),
        ({"around": (0, 0, 0, 0), "memory_c": 80.0}, {"memory_c", "around"}, ("80",)),
        ({"kind": DeviceKind.LIDDED, "die_w_mm": 30.0, "lid_w_mm": 20.0}, {"die_w_mm", "lid_w_mm"}, ("30", "20")),
        ({"kind": DeviceKind.BOX, "cover_mm": 6.0, "device_t_mm": 9.0}, {"cover_mm", "device_t_mm"}, ("6", "9")),
        ({"kind": DeviceKind.BOX, "device_t_mm": 4.0}, {"cover_mm", "device_t_mm"}, ("4",)),
        ({"kind": DeviceKind.BOX, "die_w_mm": 70.0, "device_w_mm": 60.0}, {"die_w_mm", "device_w_mm"}, ("60",)),
        ({"kind": DeviceKind.BOX, "around": (12, 0, 12, 0)}, {"around", "device_w_mm"}, ("180",)),
        ({"kind": DeviceKind.BOX, "spreader_w_mm": 179.0}, {"spreader_w_mm", "device_w_mm"}, ("179", "180")),
        ({"kind": DeviceKind.BOX, "core_c": 50.0, "skin_c": 60.0}, {"skin_c", "core_c"}, ("60", "50")),
        ({"rear": 2, "rear_meets": "pads", "rear_plate": "none"}, {"rear_meets", "rear_plate"}, ("not there",)),
    ],
)
def test_answers_that_contradict_each_other_say_which_two(
    given: dict[str, Any], fields: set[str], words: tuple[str, ...]
) -> None:
    with pytest.raises(AnswerError) as error:
        check(given)
    assert {error.value.field, error.value.other} == fields
    for word in words:
        assert word in str(error.value)


def test_forty_parts_and_none_are_devices_too() -> None:
    for around in ((10, 10, 10, 10), (0, 0, 0, 0)):
        project = project_from(check({"around": around}))
        assert sum(body.id.startswith("mem_") for body in project.device.bodies) == sum(around)
        check_assembly(resolve(project, "as_found"))


# ---- the interview


def test_an_interview_keeps_what_contradicts_and_says_where() -> None:
    talk = Interview().answered("core_c", 90.0).answered("hot_c", 80.0)
    assert talk.wrong is not None
    assert "hot spot" in str(talk.wrong)
    with pytest.raises(AnswerError):
        talk.finished()
    assert talk.answered("hot_c", 95.0).finished().hot_c == 95.0
    with pytest.raises(AnswerError, match="from 2 to 12"):
        talk.answered("screws", 99)


def test_what_was_typed_comes_back_and_nonsense_that_was_kept_does_not_matter() -> None:
    talk = Interview().answered("die_w_mm", 22.4).answered("around", (1, 2, 3, 4)).answered("wish", Wish.DIE)
    assert Interview.of(talk.kept()) == talk
    for text in ("", "{", "[]", '{"die_w_mm": "x"}', '{"new": 1}'):
        assert Interview.of(text) == Interview()


def test_a_log_fills_in_what_it_told() -> None:
    talk, told = Interview().read({"ambient": 23.44, "core": 80.0, "hot": 95.06, "memory": 101.0, "power": 171.0, "clock": 2e9})
    assert talk.answers.room_c == 23.4
    assert (talk.answers.core_c, talk.answers.hot_c, talk.answers.memory_c, talk.answers.watts) == (80.0, 95.1, 101.0, 171.0)
    assert len(told) == 5
    odd, told = Interview().read({"core": 900.0, "ambient": 22.0})
    assert told == ("room_c",), "what cannot be is left out"
    assert odd.answers.core_c is None


def test_pages_say_what_was_answered() -> None:
    talk = Interview().answered("around", (3, 2, 3, 0)).answered("pad_now_mm", 1.25).answered("pad_feel", "soft")
    by_id = {page.id: talk.said(page) for page in talk.pages}
    assert by_id["parts"] == "3 · 2 · 3 · 0"
    assert by_id["pads"] == "1.25 mm, soft"
    assert by_id["cooler"] == "left open"
    assert all(isinstance(ask, Ask) for page in PAGES for ask in page.asks)


# ---- assumptions


def test_alike_numbers_are_one_assumption_and_all_that_count_are_there() -> None:
    project = project_from(Answers(around=(3, 2, 3, 0), rear=2))
    listed = assumptions(project, "as_found", "load")
    heights = next(one for one in listed if one.field == "height_mm" and one.owners[0] == "Memory L1")
    assert len(heights.paths) == 8
    fields = {one.field for one in listed}
    assert {"power_w", "sink.convective_k_w", "landings.step_mm", "rate_n_mm", "pieces.thickness_mm"} <= fields
    assert not any("density" in field for field in fields), "heat storage plays no part in a steady prediction"
    assert len({path for one in listed for path in one.paths}) == sum(len(one.paths) for one in listed), "each number once"


def test_weights_are_the_change_of_the_temperature_that_moves_most() -> None:
    """Against a direct difference of two predictions of the same engine."""
    project = project_from(Answers(around=(1, 0, 1, 0)))
    wanted = [one for one in assumptions(project, "as_found", "load") if one.field in ("sink.convective_k_w", "roughness_um")]
    weighed = weigh(ENGINE, project, "as_found", "load", wanted)
    sink = next(one for one in weighed if one.field == "sink.convective_k_w")
    base = ENGINE.predict(project, fidelity="coarse").report
    moved = ENGINE.predict(paths.set_values(project, {sink.paths[0]: sink.value + sink.uncertainty}), fidelity="coarse").report
    expected = max(abs(b.value_c - a.value_c) for a, b in zip(base.sensors, moved.sensors, strict=True))
    assert sink.effect_k == pytest.approx(expected, abs=0.05)
    # All of the heat but what the board loses goes through the sink: ΔT is close to P·ΔR.
    assert sink.effect_k == pytest.approx(157.0 * sink.uncertainty, rel=0.15)
    assert sink.sensor


def test_what_cannot_be_assembled_when_moved_is_left_open() -> None:
    project = project_from(Answers(around=(0, 0, 0, 0)))
    path = "device.bodies.die.height_mm"
    thin = paths.set_values(project, {path: {"value": 0.5, "uncertainty": 0.6, "origin": "assumed", "note": ""}})
    wanted = [one for one in assumptions(thin, "as_found", "load") if one.paths == (path,)]
    (weighed,) = weigh(ENGINE, thin, "as_found", "load", wanted)
    assert weighed.effect_k is not None, "upwards it can be assembled, so that side is taken"
