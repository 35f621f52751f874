"""Burn-in followed live: when it has melted, when it is cold, when it must stop, and what the cycles gained."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.changes.materials import with_library
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.burn_follow import COLD_K, HOLD_MIN, Heard, Warm, gained, is_cold, is_hot, stands, warm, watched
from ashen_bridge.planning.burn_in import burn_in, burn_in_steps
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def sheeted() -> Project:
    """The card with a phase-change sheet on its die."""
    card = card_project(Card(parts=FOUR, die_power=120.0))
    sheet = Piece(id="sheet", material="phase_change", thickness_mm=q(0.2))
    build = card.build()
    joints = tuple(replaced(one, pieces=(sheet,)) if one.id == "die_joint" else one for one in build.joints)
    card = with_library(card, ["phase_change"])
    return replaced(card, builds=tuple(replaced(one, joints=joints) if one.id == build.id else one for one in card.builds))


@pytest.fixture(scope="module")
def procedure(sheeted: Project) -> Procedure:
    return burn_in_steps(sheeted, burn_in(Engine(), sheeted))


def heard(minutes: float, value_c: object, **other: object) -> Heard:
    seconds = np.arange(0.0, 60.0 * minutes + 1)
    values = np.asarray(value_c(seconds / 60)) if callable(value_c) else np.full(len(seconds), value_c)
    return Heard(seconds, {"s_die": values}, **other)  # type: ignore[arg-type]


def test_hot_steps_name_what_has_to_melt_and_cold_ones_nothing(sheeted: Project, procedure: Procedure) -> None:
    hot, cold = [one for one in procedure.steps if is_hot(one)], [one for one in procedure.steps if is_cold(one)]
    assert len(hot) == len(cold) == 3
    sensors, melts = watched(sheeted, sheeted.build().id, hot[0])
    assert melts
    assert "s_die" in sensors
    assert hot[0].about == sheeted.build().joint("die_joint").lower


def test_it_goes_on_once_everything_was_liquid_for_ten_minutes(sheeted: Project, procedure: Procedure) -> None:
    """A ramp of 2 K a minute from 30 °C passes 60 °C after 15 minutes: ten minutes on, by hand, it is 25."""
    step = next(one for one in procedure.steps if is_hot(one))
    step = step.model_copy(update={"timer_s": 3600.0})
    build, point = sheeted.build().id, sheeted.point().id

    def ramp(minute: np.ndarray) -> np.ndarray:
        return np.minimum(30.0 + 2.0 * minute, 85.0)

    early = stands(sheeted, build, point, step, heard(14, ramp))
    assert not early.done
    assert "60 °C is needed" in early.says
    held = stands(sheeted, build, point, step, heard(20, ramp))
    assert "Melted for 5 of 10" in held.says
    assert not stands(sheeted, build, point, step, heard(15 + HOLD_MIN - 0.2, ramp)).done
    assert stands(sheeted, build, point, step, heard(15 + HOLD_MIN + 0.1, ramp)).done


def test_a_break_begins_the_ten_minutes_anew_and_time_ends_it(sheeted: Project, procedure: Procedure) -> None:
    step = next(one for one in procedure.steps if is_hot(one)).model_copy(update={"timer_s": 30 * 60.0})
    build, point = sheeted.build().id, sheeted.point().id
    dipped = heard(12, lambda minute: np.where((minute > 7) & (minute < 8), 58.0, 70.0))
    assert "Melted for 4 of 10" in stands(sheeted, build, point, step, dipped).says
    cool = stands(sheeted, build, point, step, heard(30, 52.0))
    assert cool.done
    assert "not melted everywhere" in cool.says


def test_it_is_cold_near_the_air_that_is_heard(sheeted: Project, procedure: Procedure) -> None:
    step = next(one for one in procedure.steps if is_cold(one))
    build, point = sheeted.build().id, sheeted.point().id
    air = sheeted.point().ambient_c.value
    assert stands(sheeted, build, point, step, heard(1, air + COLD_K - 1)).done
    warm_room = np.full(61, air + 6.0)
    assert not stands(sheeted, build, point, step, heard(1, air + COLD_K + 5)).done
    assert stands(sheeted, build, point, step, heard(1, air + COLD_K + 5, air_c=warm_room)).done


def test_load_that_is_on_or_off_at_the_wrong_time_is_said_and_not_counted(sheeted: Project, procedure: Procedure) -> None:
    build, point = sheeted.build().id, sheeted.point().id
    whole = sum(one.value for one in sheeted.point().powers_w.values())
    hot = next(one for one in procedure.steps if is_hot(one))
    cold = next(one for one in procedure.steps if is_cold(one))
    off = heard(60, 75.0, power_w=np.zeros(3601))
    assert stands(sheeted, build, point, hot, off).says.startswith("Switch the load on")
    on = heard(60, 30.0, power_w=np.full(3601, whole))
    assert stands(sheeted, build, point, cold, on).says.startswith("Switch the load off")
    late = np.where(np.arange(3601) < 3600 - 240, 0.0, whole)
    told = stands(sheeted, build, point, hot, heard(60, 75.0, power_w=late))
    assert "Melted for 4 of 10" in told.says


def test_as_cold_as_it_gets_is_cold(sheeted: Project, procedure: Procedure) -> None:
    """Warm air in a case: it stays 14 K over the room and falls no more."""
    build, point = sheeted.build().id, sheeted.point().id
    cold = next(one for one in procedure.steps if is_cold(one))
    air = sheeted.point().ambient_c.value
    falling = heard(10, lambda minute: air + 14 + 40 * np.exp(-minute / 2))
    assert not stands(sheeted, build, point, cold, falling).done
    still = heard(20, lambda minute: air + 14 + 40 * np.exp(-minute / 2))
    assert "As cold as it gets" in stands(sheeted, build, point, cold, still).says


def test_a_sensor_near_its_limit_stops_it_whatever_has_melted(sheeted: Project, procedure: Procedure) -> None:
    step = next(one for one in procedure.steps if is_hot(one))
    limit = next(one for one in sheeted.device.limits if one.sensor == "s_die").max_c.value
    told = stands(sheeted, sheeted.build().id, sheeted.point().id, step, heard(40, limit - 3))
    assert told.stop
    assert not told.done
    assert told.says.startswith("Stop")
    assert not stands(sheeted, sheeted.build().id, sheeted.point().id, step, heard(40, limit - 6)).stop


def test_nothing_heard_or_no_sensor_there_is_said(sheeted: Project, procedure: Procedure) -> None:
    step = next(one for one in procedure.steps if is_hot(one)).model_copy(update={"timer_s": 600.0})
    at = sheeted.build().id, sheeted.point().id
    assert stands(sheeted, *at, step, Heard(np.zeros(0), {})).says == "Nothing was heard yet."
    other = Heard(np.arange(301.0), {"s_part_0": np.full(301, 50.0)})
    told = stands(sheeted, *at, step, other)
    assert "by the clock" in told.says
    assert "5.0 minutes are left" in told.says


def test_what_was_gained_is_rise_over_power_by_hand(sheeted: Project) -> None:
    """30 K at 60 W, then 54 K at 120 W: 0.5 and 0.45 K/W, a tenth less."""
    first, last = (
        warm(
            sheeted, sheeted.point().id, Heard(np.arange(121.0), {"s_die": np.full(121, c)}, np.full(121, w), np.full(121, 25.0))
        )
        for c, w in ((55.0, 60.0), (79.0, 120.0))
    )
    (one,) = gained(sheeted, (first, Warm({}, 90.0), last))
    assert (one.before_k_w, one.after_k_w) == (pytest.approx(0.5), pytest.approx(0.45))
    assert one.share == pytest.approx(-0.1)
    assert gained(sheeted, (first,)) == ()
    assert gained(sheeted, (Warm({"s_die": 30.0}, None), last)) == ()
