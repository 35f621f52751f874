"""Speed of the hands-on end: pieces laid onto sheets, the first minutes, the record and the bench card as PDF."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ashen_bridge.bench.first_power.expecting import expect
from ashen_bridge.bench.first_power.judging import judge
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.files.demos import open_anything
from ashen_bridge.planning.checking import quick_check
from ashen_bridge.planning.cutting.nesting import checked, nested
from ashen_bridge.planning.cutting.orders import cut_plan, sheets
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.record.card import card_pdf
from ashen_bridge.report.record.paper import known_of, record_pdf

Say = Callable[[str, float, str, str], None]
Seconds = Callable[[Callable[[], object]], float]
_PIECES = 40


def made(say: Say, seconds: Seconds) -> None:
    """Print the figures."""
    project, engine = open_anything("demo:correlator").project, Engine()
    plan = cut_plan(project, "plan_a", ())
    soft = [cut for cut in plan.cuts if not cut.metal]
    some = [replace(soft[n % len(soft)], number=n + 1) for n in range(_PIECES)]
    offered = checked(sheets(project, some))
    check = seconds(lambda: quick_check(engine, project, "plan_a", None))
    say("quick check against the record", check, "s", "none stated")
    say(f"cut plan of {_PIECES} pieces", seconds(lambda: nested(some, offered)), "s", "<= 1")
    engine.predict(project, "plan_a", None)
    known_of(engine, project, "plan_a", None)
    for what in ("first", "again"):
        spent = seconds(lambda: record_pdf(known_of(engine, project, "plan_a", None)))
        say(f"record of the demo as PDF, prediction known, {what}", spent, "s", "<= 3")
    figures = [figures_of(project, run.id) for run in project.runs]
    spent = seconds(lambda: record_pdf(known_of(engine, project, "plan_a", None, figures)))
    say("the same in the window, where figures of runs are known", spent, "s", "<= 3")
    say(
        "bench card of the demo as PDF, prediction known",
        seconds(lambda: card_pdf(engine, project, "plan_a", None)),
        "s",
        "none stated",
    )
    say("first minutes of the demo, every fault", seconds(lambda: expect(engine, project, "plan_a", None)), "s", "none stated")
    expected = expect(engine, project, "plan_a", None)
    readings = dict(zip(expected.sensors, map(float, expected.healthy_c[7]), strict=True))
    say("readings of the first minutes judged", 1e3 * seconds(lambda: judge(expected, 180.0, readings)), "ms", "none stated")
