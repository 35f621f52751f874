"""Sheets on paper: what a project says is text and never markup, and the paper has its size."""

from __future__ import annotations

import re
import zlib

import pytest

from ashen_bridge.changes import procedures as changes
from ashen_bridge.changes.procedures import tick
from ashen_bridge.editing import procedures as edits
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.hardware import Hazards
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.opening import opening
from ashen_bridge.report.paper import PaperError, html, pdf
from ashen_bridge.report.sheet import sheet_html, sheet_pdf

HOSTILE = "<b>bold</b><script>alert(1)</script>{{ 7*7 }}"


@pytest.fixture(scope="module")
def card() -> Project:
    return open_anything("demo:correlator").project


def pages(content: bytes) -> tuple[int, tuple[float, float]]:
    """Return how many pages a PDF has, and the size of the first [pt]; read off its objects, packed or not."""
    text = content
    for packed in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", content, re.DOTALL):
        try:
            text += zlib.decompress(packed)
        except zlib.error:
            continue
    box = re.search(rb"/MediaBox\s*\[\s*0 0 ([\d.]+) ([\d.]+)\s*\]", text)
    assert box is not None
    return len(re.findall(rb"/Type\s*/Page\b(?!s)", text)), (float(box[1]), float(box[2]))


@pytest.mark.parametrize(("size", "points"), [("A4", (595.28, 841.89)), ("Letter", (612.0, 792.0))])
def test_the_sheet_is_printed_on_both_papers(card: Project, size: str, points: tuple[float, float]) -> None:
    made = sheet_pdf(card, opening(card), size)  # type: ignore[arg-type]
    count, found = pages(made)
    assert made[:5] == b"%PDF-"
    assert 2 <= count <= 4
    assert found == pytest.approx(points, abs=0.5)


def test_names_are_text_and_templates_are_not_run(card: Project) -> None:
    plain = card.model_dump(mode="json")
    plain["device"]["name"] = HOSTILE
    plain["device"]["fasteners"][0]["name"] = HOSTILE
    hostile = Project.parse(plain)
    page = sheet_html(hostile, replaced(opening(hostile), name=HOSTILE))
    assert "<script>" not in page
    assert "<b>bold" not in page
    assert "{{ 7*7 }}" in page, "what a project says is never run"
    assert page.count("&lt;script&gt;") >= 3


def test_ticks_notes_cells_and_cautions_are_on_it(card: Project) -> None:
    made = edits.add_procedure(opening(card)).applied(card)
    name = made.procedures[-1].id
    made = tick(made, name, "licensed", "2031-03-14T19:00")
    made = edits.note(name, "power", "the blue cable").applied(made)
    page = sheet_html(made, made.procedures[-1])
    assert page.count("✓") == 1
    assert "the blue cable" in page
    assert "Twist, do not lever" in page
    assert page.count("<circle") == 10, "every screw is numbered on the drawing"
    assert "http://www.w3.org/2000/svg" in page
    assert not re.search(r"(src|href)=", page), "it holds all it needs"


def test_what_is_shut_prints_its_one_step(card: Project) -> None:
    shut = changes.set_hazards(card, Hazards(mains="yes"))
    page = sheet_html(shut, opening(shut))
    assert "licensed people" in page
    assert "You need" not in page
    assert pages(pdf(page))[0] == 1


def test_a_template_that_asks_for_nothing_known_is_said_in_one_sentence() -> None:
    with pytest.raises(PaperError, match=r"procedure\.html.*undefined"):
        html("procedure.html", {})
