"""Kept answers, gaps and history in the record: printed as they were kept, whole where a paper holds them, escaped."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.finding import finding
from ashen_bridge.model.history import Conclusion, Note
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.paper import html
from ashen_bridge.report.record.blocks import Chapter
from ashen_bridge.report.record.gaps import gaps_chapter
from ashen_bridge.report.record.kept import conclusions_of, history_chapter
from ashen_bridge.words.numbers import number


@pytest.fixture
def demo() -> Project:
    return open_anything("demo:buoy").project


def known(project: Project, **more: object) -> SimpleNamespace:
    return SimpleNamespace(project=project, build=project.build(), **more)


def printed(blocks: object) -> str:
    chapters = [vars(Chapter("part", "Part", tuple(blocks)))]  # type: ignore[arg-type]
    return html("record.html", {"title": "T", "running": "R", "under": "U", "chapters": chapters})


def test_the_last_answer_of_a_kind_stands_first_and_others_are_apart(demo: Project) -> None:
    kinds = ("proof", "check", "proof")
    said = [Conclusion(id=f"c{n}", kind=kind, title=f"Answer {n}", at="2031-03-14") for n, kind in enumerate(kinds)]
    blocks = list(conclusions_of("proof")(known(replaced(demo, conclusions=tuple(said)))))
    assert [one["text"] for one in blocks if one["kind"] == "answer"] == ["Answer 2", "Answer 0"]


def test_what_an_answer_says_is_words_never_markup(demo: Project) -> None:
    one = Conclusion(
        id="c", kind="diagnosis", title="<script>x</script>", who="<b>A</b>", says=("<img>",), head=("<i>",), rows=(("<u>",),)
    )
    page = printed(conclusions_of("diagnosis")(known(replaced(demo, conclusions=(one,)))))
    for tag in ("<script>x", "<b>A", "<img>", "<i>", "<u>"):
        assert tag not in page
    assert "&lt;script&gt;x&lt;/script&gt;" in page


def test_refusals_are_shortened_by_place_and_how_many_more_is_said(demo: Project) -> None:
    rows = tuple(("Memory" if n < 12 else "Die", f"pad {n}", "Too thick.") for n in range(15))
    one = Conclusion(id="c", kind="plan", title="Plan", head=("At", "Instead", "Why not"), rows=rows)
    (table,) = [b for b in conclusions_of("plan")(known(replaced(demo, conclusions=(one,)))) if b["kind"] == "table"]
    shown = [row[1] for row in table["body"]]
    assert shown.count("and 4 more") == 1
    assert len(shown) == 8 + 1 + 3
    assert [row[0] for row in table["body"] if row[0]] == ["Memory", "Die"]


def test_history_is_by_day_and_says_how_often(demo: Project) -> None:
    notes = (
        Note(at="2031-03-14T08:30", who="Ada", kind="reading", what="Readings", times=3),
        Note(at="2031-03-14T09:00", what="Rename"),
        Note(at="2031-03-15T07:00", what="Run: Later", kind="run"),
    )
    (table,) = history_chapter(known(replaced(demo, history=notes)))
    assert [row[0] for row in table["body"]] == ["2031-03-14", "", "2031-03-15"]
    assert table["body"][0] == ["2031-03-14", "08:30", "Readings × 3", "Ada"]
    assert list(history_chapter(known(replaced(demo, history=())))) == []


def test_every_gap_stands_there_as_measuring_has_it(demo: Project) -> None:
    engine = Engine()
    *_, (_, found) = finding(engine, demo, demo.build().id)
    assert found is not None
    table = next(one for one in gaps_chapter(known(demo, engine=engine)) if one["kind"] == "table")
    assert [row[0] for row in table["body"]] == [gap.name for gap in found.gaps]
    for row, gap in zip(table["body"], found.gaps, strict=True):
        assert row[3:5] == [number(gap.now[0], 3), number(gap.now[1], 3)]
        assert row[5].count(";") <= 3
    assert list(gaps_chapter(known(replaced(demo, readings=(), taken_over=()), engine=engine))) == [], "nothing was read"
