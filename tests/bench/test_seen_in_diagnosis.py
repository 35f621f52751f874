"""What was seen of the opened device joins the diagnosis as one more term, for runs of its own closing."""

from __future__ import annotations

import math

from ashen_bridge.bench.diagnosis.hypotheses import hypotheses
from ashen_bridge.bench.diagnosis.since import Case
from ashen_bridge.bench.diagnosis.weighing import log_odds
from ashen_bridge.editing import evidence as edits
from ashen_bridge.evidence.bearing import spoken
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine

OWN, OTHER = frozenset({"pads"}), frozenset({"stock"})


def card(*said: tuple[str, str, str]) -> Project:
    project = replaced(open_anything("demo:correlator").project, evidence=(), signs=(), pictures=())
    for joint, lower, says in said:
        project = edits.say(project, "closed_pads", joint, lower, says).applied(project)
    return project


def case(project: Project, name: str, runs: frozenset[str] = OWN) -> Case:
    listed = hypotheses(project, "as_found", project.points[0].id, "stock")
    return Case(next(one for one in listed if one.id == name), runs, 0.01)


def test_a_pad_said_to_be_part_bare_is_believed_not_to_touch() -> None:
    project = card(("pad_b2", "mem_b2", "part bare"), ("pad_b1", "mem_b1", "even"))
    heard = spoken(Engine(), project)
    bare, even, elsewhere = (
        case(project, "touch-pad_b2"),
        case(project, "touch-pad_b1"),
        case(project, "touch-pad_b2", OTHER),
    )
    assert log_odds(bare.with_seen(heard)) - log_odds(bare) > math.log(10)
    assert log_odds(even.with_seen(heard)) - log_odds(even) < -math.log(4)
    assert elsewhere.with_seen(heard) is elsewhere, "the pads of another closing"


def test_one_statement_is_worth_no_more_than_its_chance_of_being_misread() -> None:
    """However odd the data say, what is misread once in fourteen cannot weigh more than about fourteen to one."""
    project = card(("pad_b2", "mem_b2", "missing"))
    heard = spoken(Engine(), project)
    one = case(project, "touch-pad_b2")
    gained = log_odds(one.with_seen(heard)) - log_odds(one)
    assert gained < math.log(1 / project.evidence[0].misread) + 0.1


def test_many_marks_of_one_tilt_count_once() -> None:
    """Six wedges under one cooler have one cause: they speak for a loose screw as one does."""
    joints = [("pad_l1", "mem_l1"), ("pad_l2", "mem_l2"), ("pad_l3", "mem_l3"), ("pad_r1", "mem_r1"), ("pad_r2", "mem_r2")]
    few, many = card((*joints[0], "wedge")), card(*((*one, "wedge") for one in joints))
    gained = []
    for project in (few, many):
        one = case(project, "loose-spring_sw")
        gained.append(log_odds(one.with_seen(spoken(Engine(), project))) - log_odds(one))
    assert gained[0] > 0
    assert abs(gained[1] - gained[0]) < 1e-9


def test_without_evidence_nothing_changes() -> None:
    project = card()
    assert spoken(Engine(), project) == ()
    one = case(project, "touch-pad_b2")
    assert one.with_seen(()) is one
