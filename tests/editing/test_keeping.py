"""Answers kept for the record: what they say is what was answered, whole, and the record prints it escaped."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

import pytest
from click.testing import CliRunner

from ashen_bridge.bench.judgement import Alike, ComparedSensor, Comparison, Diagnosis, Difference, Proof, ProvedSensor, Suspect
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.cli.main import cli
from ashen_bridge.editing.closings import tie_numbers, untie
from ashen_bridge.editing.keeping import keep_advice, keep_burn_in, keep_comparison, keep_diagnosis, keep_proof
from ashen_bridge.files.archive import open_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import ProjectError, RefusedError
from ashen_bridge.model.history import Conclusion
from ashen_bridge.model.project import Project
from ashen_bridge.planning.burn_follow import Gained
from ashen_bridge.planning.choosing.result import Advice, CandidateRow, Chosen, Plan, SensorOutlook, Undecided, WhyNot

NOW = datetime(2031, 3, 14, 9, 0)


@pytest.fixture
def demo() -> Project:
    return open_anything("demo:correlator").project


def kept(project: Project) -> Conclusion:
    return project.conclusions[-1]


def test_a_comparison_keeps_every_sensor_with_its_interval(demo: Project) -> None:
    worse = ComparedSensor("die_hot", "Die hot spot", Difference(60.0, 66.0, 6.0, 4.5, 7.5, "worse"))
    same = ComparedSensor("mem_1", "Memory 1", Difference(50.0, 50.2, 0.2, -0.8, 1.2, "no difference that this test can show"))
    found = Comparison("stock", "pads", True, (worse, same), None, ("The room was warmer.",))
    one = kept(keep_comparison(demo, found, who="Ada", now=NOW).applied(demo))
    assert one.about == "“As delivered” → “After the pad change”, at equal power"
    assert one.rows[0] == ("Die hot spot", "60.0", "66.0", "+6.0", "4.5 to 7.5", "worse")
    assert len(one.rows) == 2
    assert one.says == ("The room was warmer.",)
    assert one.title.startswith("1 of 2 sensors became worse: Die hot spot most, by 6.0 K.")
    assert one.at == "2031-03-14T09:00"


def test_a_diagnosis_keeps_who_is_suspected_who_is_not_and_what_is_not_told_apart(demo: Project) -> None:
    loud = Suspect("a", "Pad <B2>", "30 %", "", "Look at it.", 0.3, 1.7, 3.0, 0.52)
    quiet = Suspect("b", "Fan", "slow", "", "Count it.", 0.8, 1.9, 3.0, 0.001)
    groups = (Alike(("a",), 0.52, "Open it."), Alike(("b",), 0.001, "Listen."))
    found = Diagnosis(("repaired",), (loud, quiet), 1.9, 0.4, "Pad <B2> it is.", "a", groups=groups)
    one = kept(keep_diagnosis(demo, found, who="", now=NOW).applied(demo))
    assert [row[0] for row in one.rows] == ["Pad <B2>", "Nothing is wrong"], "what nobody believes is left out"
    assert one.rows[-1][1] == "40 %"
    assert one.says == ("Not told apart, 52 % together: Open it.",)
    assert one.about == "“After the repair”"


def test_a_proof_keeps_all_four_temperatures(demo: Project) -> None:
    sensor = ProvedSensor("die_hot", "Die hot spot", "die", None, (91.4, 4.5), (94.2, 0.8), (94.3, 0.43), 96.0, 100.0)
    figures = figures_of(demo, "repaired")
    one = kept(keep_proof(demo, Proof("stock", "repaired", (sensor,)), figures, who="", now=NOW).applied(demo))
    assert one.rows == (("Die hot spot", "–", "91.4 ± 4.5", "94.2 ± 0.8", "94.3 ± 0.4", "96.0"),)
    assert len(one.head) == len(one.rows[0])


def test_a_plan_keeps_its_choices_its_chances_and_every_refusal(demo: Project) -> None:
    outlook = SensorOutlook("die_hot", "Die hot spot", 91.0, 4.2, 96.0, 0.88, 98.0)
    chosen = (Chosen("die", "Die joint", "x", "0.25 mm sheet", "", True), Chosen("mem", "Memory", "y", "1 mm pad", "", False))
    plan = Plan(
        "p", "Coolest", "the lowest", chosen, 0.0, (), (outlook,), 0.6, 91.0, 100.0, None, (), 3, 20.0, 4.0, risks=("Tight.",)
    )
    refused = [
        CandidateRow(str(n), f"candidate {n}", n == 0, "", None, None, None, None, None, None, "" if n == 0 else "Too thick.")
        for n in range(4)
    ]
    unsure = Undecided("mem", "Memory", "Cannot tell.", "", "")
    found = Advice(
        "as_found", "correlate", 0.9, (plan,), why_not=(WhyNot("mem", "Memory", 0.8, 0.05, tuple(refused)),), undecided=(unsure,)
    )
    one = kept(keep_advice(demo, found, 0, who="", now=NOW).applied(demo))
    assert "Die joint: 0.25 mm sheet" in one.says
    assert "Memory: 1 mm pad (as it is)" in one.says
    assert "Die hot spot: 91.0 °C ± 4.2 K, at most 96 °C, holds in 88 %" in one.says
    assert "Risk: Tight." in one.says
    assert "Cannot tell." in one.says
    assert [row[1] for row in one.rows] == ["candidate 1", "candidate 2", "candidate 3"], "what was chosen is no refusal"
    assert one.title.endswith("Taken: Coolest.")


def test_a_burn_in_says_what_gained_most(demo: Project) -> None:
    rows = (Gained("a", "Die", 0.5, 0.45), Gained("b", "Memory", 0.2, 0.21))
    one = kept(keep_burn_in(demo, "plan_a", rows, who="", now=NOW).applied(demo))
    assert one.title == "Burn-in: Die rises 10.0 % less per watt than in the first cycle."
    assert one.rows[1] == ("Memory", "0.200", "0.210", "+5.0")
    assert one.id == "burn_in"


def test_comparing_by_the_command_line_keeps_it_with_all_else(demo: Project, tmp_path: Path) -> None:
    out = tmp_path / "out.ashb"
    done = CliRunner().invoke(cli, ["compare", "demo:correlator", "stock", "pads", "--keep", str(out)])
    assert done.exit_code == 0, done.output
    again = open_project(out).project
    assert again.conclusions[:-1] == demo.conclusions
    assert again.runs == demo.runs
    assert kept(again).kind == "comparison"


def test_numbers_are_tied_said_anew_and_let_go(demo: Project) -> None:
    paths = ["device.bodies.die.height_mm", "device.bodies.mem_l1.height_mm", "device.bodies.die.height_mm"]
    made = tie_numbers(demo, "One caliper", paths, 0.5)
    tied = made.applied(demo)
    (one,) = tied.ties
    assert (one.id, one.share, len(one.paths)) == ("one_caliper", 0.5, 2), "nothing is tied to itself"
    again = tie_numbers(tied, "One caliper", one.paths, 0.7, one.id).applied(tied)
    assert [each.share for each in again.ties] == [0.7]
    assert untie(one.id).applied(again).ties == ()
    with pytest.raises(RefusedError):
        tie_numbers(tied, "More than all", one.paths, 0.6).applied(again)
    with pytest.raises(ProjectError, match="any more"):
        untie("gone").applied(demo)
