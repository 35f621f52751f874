"""Advice for devices whose heat runs away as they are: what stays is found, and where nothing does that is said."""

from __future__ import annotations

import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.planning.choosing.advise import advise
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.steady import RUNAWAY, RunawayError


def test_a_device_whose_heat_runs_away_gets_advice_all_the_same() -> None:
    """Nine tenths of the paste are gone and the die leaks: what stays is advised, what does not is said to run away."""
    demo = open_anything("demo:beamformer").project
    dried = paths.set_values(demo, {"builds.as_found.joints.lid_paste.pieces.paste.bare_share": {"value": 0.9}})
    free = paths.set_values(dried, {"points.listen.throttle_at_c": {}})
    with pytest.raises(RunawayError):
        Engine().shown(free, "as_found", "listen")
    found = advise(Engine(), dried, "as_found", "listen")
    assert found.plans
    assert all(RUNAWAY not in one.broken for one in found.plans)
    assert found.plans[0].hottest_die_c is not None
    assert any(one.changed for one in found.plans[0].chosen)
    assert found.present is not None
    assert found.present.chance == 0.0
    assert found.closed is not None
    assert "runs away" in found.closed.says


@pytest.mark.long
def test_where_everything_runs_away_that_is_said_in_a_sentence() -> None:
    demo = open_anything("demo:beamformer").project
    with pytest.raises(RunawayError, match="Whatever may lie there"):
        advise(Engine(), demo, "pad_on_lid", "listen")
