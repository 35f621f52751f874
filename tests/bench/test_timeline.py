"""Which run was before which, and what was opened in between: said by closings, by days, or by nobody."""

from __future__ import annotations

import pytest

from ashen_bridge.bench.diagnosis.timeline import Timeline
from ashen_bridge.changes.builds import copy_build, delete_build
from ashen_bridge.changes.closings import remove_closing, set_closing
from ashen_bridge.changes.records import change_run, remove_run
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project

FRONT, REAR = frozenset({"cooler"}), frozenset({"backplate"})


@pytest.fixture(scope="module")
def card() -> Project:
    return open_anything("demo:correlator").project


def unsaid(project: Project) -> Project:
    """The project as somebody has it who never wrote down when anything was."""
    for closing in project.closings:
        project = remove_closing(project, closing.id)
    for run in project.runs:
        project = change_run(project, run.id, {"taken": ""})
    return project


def test_closings_say_what_was_opened(card: Project) -> None:
    found = Timeline.of(card, card.runs)
    assert found.runs == ("stock", "pads", "repaired")
    assert found.known
    assert not found.unsaid
    assert found.lifted["repaired"] == FRONT | REAR
    assert found.together("pads", REAR) == {"pads"}


def test_days_order_what_the_file_does_not(card: Project) -> None:
    mixed = card.model_copy(update={"runs": card.runs[::-1]})
    assert Timeline.of(mixed, mixed.runs).runs == ("stock", "pads", "repaired")
    later = change_run(unsaid(card), "stock", {"taken": "2031-06-01T08:30"})
    for run, day in (("pads", "2031-06-02"), ("repaired", "2031-05-01")):
        later = change_run(later, run, {"taken": day})
    found = Timeline.of(later, later.runs)
    assert (found.runs, found.known) == (("repaired", "stock", "pads"), True)


def test_without_a_word_the_file_orders_and_anything_may_have_been_opened(card: Project) -> None:
    bare = unsaid(card)
    found = Timeline.of(bare, bare.runs)
    assert found.runs == ("stock", "pads", "repaired")
    assert not found.known
    assert found.lifted["repaired"] == FRONT, "the rear's joints are the same ones by what builds say"
    assert found.together("repaired", REAR) == {"repaired"}, "yet they may have been changed for others alike"
    assert not found.opened_before("repaired", frozenset({"nothing"}))


def test_a_joint_that_was_not_opened_stays_what_it_was(card: Project) -> None:
    last = card.closings[-1]
    front = tuple(one for one in last.opened or () if not one.startswith("pad_b"))
    said = set_closing(card, last.model_copy(update={"opened": front}))
    found = Timeline.of(said, said.runs)
    assert found.together("repaired", REAR) == {"pads", "repaired"}
    assert found.together("repaired", FRONT) == {"repaired"}
    assert found.together("stock", REAR) == {"stock"}


def test_a_closing_covers_a_run_that_names_no_closing_by_its_build(card: Project) -> None:
    bare = card.closings[0].model_copy(update={"runs": ()})
    assert Timeline.of(set_closing(card, bare), card.runs) == Timeline.of(card, card.runs)


def test_a_run_belongs_to_one_closing_and_leaves_with_it(card: Project) -> None:
    moved = set_closing(card, Closing(id="again", builds=("plan_a",), runs=("repaired",), opened=("pad_b2",)))
    assert [one.id for one in moved.closings if "repaired" in one.runs] == ["again"]
    gone = remove_run(moved, "repaired")
    assert all("repaired" not in one.runs for one in gone.closings)
    with pytest.raises(ProjectError, match="belongs to two closings"):
        Project.parse(card.model_dump(mode="json") | {"closings": [{"id": one, "runs": ["pads"]} for one in ("a", "b")]})


def test_a_build_that_goes_leaves_its_closings(card: Project) -> None:
    more = copy_build(card, "plan_a", "spare", "Spare")
    more = set_closing(more, Closing(id="last", builds=("spare", "plan_a")))
    assert next(one for one in delete_build(more, "spare").closings if one.id == "last").builds == ("plan_a",)


@pytest.mark.parametrize("day", ["yesterday", "2031-13-01", "2031-01-01 08:00", "2031-01-01T25:00"])
def test_a_moment_that_is_none_is_refused(card: Project, day: str) -> None:
    with pytest.raises(ProjectError, match="taken"):
        change_run(card, "stock", {"taken": day})


def test_a_closing_is_history_and_may_name_what_is_gone(card: Project) -> None:
    old = set_closing(card, Closing(id="old", builds=("gone",), runs=("lost",), opened=("nowhere", "pad_b1")))
    assert Timeline.of(old, old.runs).runs == ("stock", "pads", "repaired")
    bare = Project.parse(card.model_dump(mode="json") | {"runs": [], "calibrations": [], "calibration": None})
    assert len(bare.closings) == len(card.closings)
