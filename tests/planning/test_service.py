"""Service and burn-in: dates against a closed form, melting against a hand calculation; recipes without the one device."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from icalendar import Calendar

from ashen_bridge.changes.kinds import as_kind
from ashen_bridge.cli.opening import opened
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning import burn_in as burning
from ashen_bridge.planning.burn_in import burn_in, burn_in_steps
from ashen_bridge.planning.devices import devices
from ashen_bridge.planning.service import YEARS, Due, _crosses, calendar, service_due
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR, die_power=120.0))


def limited(card: Project, die_c: float) -> Project:
    """The card with one limit, on its hottest die sensor."""
    first = next(one for one in card.device.limits if one.sensor == "s_die")
    return replaced(card, device=replaced(card.device, limits=(replaced(first, max_c=q(die_c)),)))


# ---- service


def test_a_margin_that_shrinks_evenly_is_used_up_where_the_line_says() -> None:
    """Margin 6 K, 1.5 K a year: four years, by the closed form of a straight line."""
    years = np.array(YEARS)
    assert _crosses(6.0 - 1.5 * years) == pytest.approx(4.0)
    assert _crosses(6.0 - 0.1 * years) is None
    assert _crosses(-1.0 - years) == 0.0


def test_the_date_is_when_the_aged_layer_takes_the_margin(card: Project) -> None:
    """Only the paste ages: the predicted rise of the sensor by years of service, cut with its limit by another root finder."""
    from scipy.optimize import brentq

    still = replaced(card, materials=tuple(replaced(m, ageing_per_year=q(0.0)) for m in card.materials))
    name = still.build().joint("die_joint").pieces[0].material
    fast = tuple(replaced(m, ageing_per_year=q(0.5)) if m.id == name else m for m in still.materials)
    aging = replaced(still, materials=fast)
    engine = Engine()

    def shown(years: float) -> float:
        path = "builds.now.joints.die_joint.pieces.paste.age_days"
        rows = engine.shown(paths.set_values(aging, {path: years * 365.25}), None, None)[0]
        return next(row.value_c for row in rows if row.id == "s_die")

    limit = shown(4.0)
    due = service_due(Engine(), limited(aging, limit))
    assert due is not None
    assert due.part == "die_joint"
    exact = brentq(lambda years: shown(years) - limit, 0.1, 9.0)
    assert due.years[1] == pytest.approx(exact, abs=0.25)
    low, middle, high = due.years
    assert low is not None
    assert middle is not None
    assert low < middle
    assert high is None or high > middle


def test_what_never_comes_and_what_is_over_already_are_answers(card: Project) -> None:
    never = service_due(Engine(), limited(card, 300.0))
    assert never is not None
    assert never.words.startswith("Not within ten years")
    over = service_due(Engine(), limited(card, 40.0))
    assert over is not None
    assert over.words.startswith("Due now")
    without = replaced(card, device=replaced(card.device, limits=()))
    assert service_due(Engine(), without) is None


def test_the_calendar_is_read_back_by_a_calendar_library() -> None:
    due = Due("Die", "Paste", 8.0, (1.0, 2.5, None))
    never = Due("Die", "Paste", 80.0, (None, None, None))
    found = Calendar.from_ical(calendar([("Card, “A”; B", due), ("Other", never)], date(2031, 3, 14)))
    (event,) = [one for one in found.walk() if one.name == "VEVENT"]
    assert event["summary"] == "Service: Card, “A”; B"
    assert event["dtstart"].dt == date(2033, 9, 12)
    assert "2.5 years" in event["description"]


def test_what_was_measured_is_todays_margin() -> None:
    """The last run of the build, read by another way: the mean over its passes, brought to the load's air."""
    from ashen_bridge.bench.logbook import figures_of

    demo = open_anything("demo:correlator").project
    due = service_due(Engine(), demo, "plan_a", "correlate")
    assert due is not None
    sensor = next(one for one in demo.device.sensors if one.label == due.sensor)
    run = next(one for one in demo.runs if one.build == "plan_a")
    found = figures_of(demo, run.id)
    column = found.column_of(sensor.id)
    assert column is not None
    rises = [one.channels[column].mean - (one.ambient_c or 0.0) for one in found.passes]
    limit = min(one.max_c.value for one in demo.device.limits if one.sensor == sensor.id)
    shown = demo.point("correlate").ambient_c.value + float(np.mean(rises))
    assert due.today_k == pytest.approx(limit - shown, abs=0.1)
    bare = service_due(Engine(), replaced(demo, runs=(), closings=()), "plan_a", "correlate")
    assert bare is not None
    predicted = next(row for row in Engine().shown(demo, "plan_a", "correlate")[0] if row.name == bare.sensor)
    assert bare.today_k == pytest.approx(predicted.margin_k, abs=0.1)


def test_heat_that_would_run_away_is_a_margin_used_up() -> None:
    """Aged so far that no steady state is left: an answer, not a refusal."""
    demo = open_anything("demo:beamformer").project
    due = service_due(Engine(), demo, "pad_on_lid", demo.points[0].id)
    assert due is not None
    assert due.years[1] is not None


def test_the_list_says_the_last_verdict_and_the_measured_margin(tmp_path: object) -> None:
    from pathlib import Path

    demo = open_anything("demo:correlator").project
    save_project(Path(str(tmp_path)) / "a.ashb", demo)
    (row,) = devices(Engine(), Path(str(tmp_path)), opened)
    last = max((one for one in demo.conclusions if one.kind != "plan"), key=lambda one: one.at)
    assert row.verdict == f"{last.at[:10]}: {last.title}"
    assert row.due is not None
    assert row.margin_k == pytest.approx(row.due.today_k, abs=0.1), "the worst one is the one that is due"
    assert row.verdict in row.line


def test_a_folder_is_a_list_and_a_bad_file_says_why(card: Project, tmp_path: object) -> None:
    from pathlib import Path

    folder = Path(str(tmp_path))
    save_project(folder / "b.ashb", replaced(card, name="Second"))
    save_project(folder / "a.ashb", replaced(card, name="First"))
    (folder / "c.ashb").write_bytes(b"nothing")
    rows = list(devices(Engine(), folder, opened))
    assert [row.name for row in rows] == ["First", "Second", "c"]
    assert rows[0].state == "nothing measured yet"
    assert rows[2].problem
    plain = rows[0].plain(date(2031, 1, 1))
    assert {"name", "state", "worst", "margin_k", "due", "part", "says"} <= plain.keys()


# ---- burn-in


def with_sheet(card: Project) -> Project:
    from ashen_bridge.changes.materials import with_library

    sheet = Piece(id="sheet", material="phase_change", thickness_mm=q(0.2))
    build = card.build()
    joints = tuple(replaced(j, pieces=(sheet,)) if j.id == "die_joint" else j for j in build.joints)
    return replaced(with_library(card, ["phase_change"]), builds=(replaced(build, joints=joints),))


def test_a_sheet_is_hot_until_it_has_melted_and_ten_minutes_more(card: Project) -> None:
    plan = burn_in(Engine(), with_sheet(card))
    (melted,) = plan.melting
    assert melted.minutes is not None
    course = Engine().transient(with_sheet(card), None, None, burning.read_pattern("step 90min"))
    at = int(np.argmin(np.abs(course.time_s - melted.minutes * 60)))
    die = [course.values_c[at, n] for n, name in enumerate(course.sensors) if "die" in name.lower()]
    assert min(die) >= burning.MELTS_C - 0.5
    assert plan.hot_min == pytest.approx(melted.minutes + 10)
    assert plan.cycles == 3
    assert plan.shares[0] < 1


def test_melting_goes_as_a_lump_warms(card: Project) -> None:
    """A hand calculation: a lump of the device's slowest time constant reaches 60 °C at −τ·ln(1 − rise to 60/rise at the end)."""
    made = with_sheet(card)
    plan = burn_in(Engine(), made)
    (melted,) = plan.melting
    assert melted.minutes is not None
    course = Engine().transient(made, None, None, burning.read_pattern("step 90min"))
    n = next(k for k, name in enumerate(course.sensors) if "die" in name.lower())
    ambient = made.point().ambient_c.value
    end = float(course.steady_c[n]) - ambient
    share = (burning.MELTS_C - ambient) / end
    # A die is faster than the lump of its cooler, so it is melted no later than the lump says.
    third = float(np.interp(0.632 * end, course.values_c[:, n] - ambient, course.time_s)) / 60
    lump = -third * np.log(1 - share)
    assert melted.minutes <= 1.3 * lump + 0.5


def test_what_never_melts_is_said_and_paste_settles(card: Project) -> None:
    cold = paths.set_values(with_sheet(card), {"points.load.powers_w.die": 5.0})
    plan = burn_in(Engine(), cold)
    assert plan.melting[0].minutes is None
    assert "does not get to 60 °C" in plan.says
    assert "settles" in burn_in(Engine(), card).says
    pads = tuple(one for one in card.build().joints if one.id != "die_joint")
    dry = replaced(card, builds=(replaced(card.build(), joints=pads),))
    assert "no burn-in is needed" in burn_in(Engine(), dry).says


def test_a_burn_in_is_a_procedure_with_timers(card: Project) -> None:
    made = with_sheet(card)
    steps = burn_in_steps(made, burn_in(Engine(), made)).steps
    waits = [one for one in steps if one.kind == "wait"]
    assert len(waits) == 6
    assert all(one.timer_s > 0 for one in waits)
    assert "50 % of the power" in waits[0].text


# ---- recipes of a kind


def test_a_recipe_keeps_the_kind_and_forgets_the_one_device() -> None:
    demo = open_anything("demo:correlator").project
    kind = as_kind(demo, "Correlator cards")
    assert (kind.device, kind.builds, kind.points, kind.stock) == (demo.device, demo.builds, demo.points, demo.stock)
    left = (kind.runs, kind.readings, kind.images, kind.evidence, kind.tray, kind.closings)
    assert not any(left)
    assert kind.procedures
    assert not any(step.done or step.note or step.images for one in kind.procedures for step in one.steps)
    report = Engine().predict(kind, fidelity="coarse").report
    assert report.sensors
