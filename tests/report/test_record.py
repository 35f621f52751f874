"""The record: one page that needs nothing else, everything escaped, a template of one's own that can do no harm."""

from __future__ import annotations

import io
import re
from html.parser import HTMLParser
from pathlib import Path

import pytest
from pypdf import PdfReader

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.paper import PaperError, html
from ashen_bridge.report.record.card import card_html
from ashen_bridge.report.record.chapters import CHAPTERS, Known
from ashen_bridge.report.record.paper import chosen, known_of, record_html, record_pdf
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples
from ashen_bridge.words.numbers import number, percent
from devices import FOUR, Card
from devices import project as card_project

_VOID = {"meta", "img", "br", "link", "input", "path", "rect", "circle", "polygon"}


class Valid(HTMLParser):
    """Sees that tags are closed in order, and collects what a page points at."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.wrong: list[str] = []
        self.named: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.named += [value or "" for name, value in attrs if name in ("src", "href", "data")]
        if tag not in _VOID:
            self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.named += [value or "" for name, value in attrs if name in ("src", "href", "data")]

    def handle_endtag(self, tag: str) -> None:
        if tag in _VOID:
            return
        if not self.open or self.open.pop() != tag:
            self.wrong.append(tag)


@pytest.fixture(scope="module")
def demo() -> Known:
    return known_of(Engine(), open_anything("demo:correlator").project, "plan_a", None)


@pytest.fixture(scope="module")
def page(demo: Known) -> str:
    return record_html(demo)


def test_every_chapter_is_there_and_named_in_the_contents(page: str) -> None:
    titles = [title for title, _ in CHAPTERS.values()]
    for title in titles:
        if title not in ("Findings", "Burn-in"):  # the repaired demo has none of these
            assert page.count(f">{title}</h2>") == 1
            assert re.search(rf'<a href="#\w+">\d+  {re.escape(title)}</a>', page)


def test_the_page_is_valid_and_points_at_nothing_outside(page: str) -> None:
    seen = Valid()
    seen.feed(page)
    assert not seen.wrong
    assert not seen.open
    assert all(one.startswith(("#", "data:")) for one in seen.named if one)
    assert not re.search(r"url\((?!data:)", page)
    assert "http" not in re.sub(r"http://www\.w3\.org/2000/svg", "", page)


def test_what_is_predicted_stands_first_as_the_engine_says_it(demo: Known, page: str) -> None:
    worst = min((row for row in demo.assessment.report.sensors if row.margin_k is not None), key=lambda row: row.margin_k or 0.0)
    assert f"{worst.name}: {worst.value_c:.1f} °C predicted" in page
    assert page.index("What is predicted</h2>") < page.index("The device</h2>")


def test_every_prediction_has_its_uncertainty_as_other_draws_have_it(demo: Known, page: str) -> None:
    other = draw_samples(prepared(demo.engine, demo.project, demo.build.id, demo.point.id), 400, seed=7)
    for name, spread in zip(other.sensors, other.values_c.std(axis=0), strict=True):
        assert demo.spread.pm_k[name] == pytest.approx(spread, rel=0.2)
        assert number(demo.spread.pm_k[name], 1) in page
    assert demo.spread.holds is not None
    assert f"every limit holds in {percent(demo.spread.holds)}" in page


def test_parts_are_chosen_and_unknown_ones_refused(demo: Known) -> None:
    page = record_html(demo, ("sources", "verdict"))
    assert [one for one in ("verdict", "sources", "runs") if f'id="{one}"' in page] == ["verdict", "sources"]
    with pytest.raises(ProjectError, match="has no part 'weather'"):
        chosen(("weather",))


def test_the_pdf_has_pages_with_numbers_head_and_contents(demo: Known) -> None:
    reader = PdfReader(io.BytesIO(record_pdf(demo, ("verdict", "build", "assumptions", "sources"))))
    count = len(reader.pages)
    assert count >= 2
    texts = [one.extract_text() for one in reader.pages]
    for n, text in enumerate(texts, 1):
        assert f"{n} of {count}" in text
        assert "Tern Valley" in text
    assert "What it stands on" in texts[0]


def test_nothing_that_a_project_says_is_markup() -> None:
    card = card_project(Card(parts=FOUR))
    evil = "<img src=x onerror=alert(1)>"
    named = replaced(card, name=evil, notes=f"</p>{evil}", device=replaced(card.device, name=evil))
    known = known_of(Engine(), named, None, None)
    page = record_html(known)
    assert "<img src=x" not in page
    assert "&lt;img src=x" in page
    assert "<img src=x" not in card_html(Engine(), named, None, None)


def test_names_in_any_script_are_printed() -> None:
    card = replaced(card_project(Card(parts=FOUR)), name="Кулик 鷸 שרקרק")
    content = record_pdf(known_of(Engine(), card, None, None), ("verdict",))
    assert content.startswith(b"%PDF")


# ---- a template of one's own


def test_a_template_of_ones_own_takes_its_place(demo: Known) -> None:
    own = "<html><body>{{ title }}: {% for one in chapters %}{{ one.title }}; {% endfor %}</body></html>"
    assert "Tern Valley correlator card: What is predicted; " in record_html(demo, ("verdict",), template=own)


@pytest.mark.parametrize(
    ("own", "wrong"),
    [
        ("<p>\n{% if %}\n</p>", "error in line 2"),
        ("<p>\n\n{{ nothing_like_it }}</p>", "line 3"),
        ("{{ title.__class__.__mro__ }}", "cannot be filled in"),
        ("{% include '/etc/passwd' %}", "cannot be filled in"),
        ("{{ 1 / 0 }}", "cannot be filled in"),
    ],
)
def test_a_template_with_an_error_says_where_and_a_hostile_one_gets_nothing(demo: Known, own: str, wrong: str) -> None:
    with pytest.raises(PaperError, match=wrong):
        record_html(demo, ("verdict",), template=own)


def test_a_template_that_ships_is_not_reached_from_outside() -> None:
    with pytest.raises(PaperError):
        html("../paper.py", {})


# ---- the card


def test_the_card_is_one_page_with_screws_crosswise_and_a_date() -> None:
    from ashen_bridge.report.record.card import card_pdf

    demo = open_anything("demo:correlator").project
    content = card_pdf(Engine(), demo, "plan_a", None)
    reader = PdfReader(io.BytesIO(content))
    assert len(reader.pages) == 1
    text = reader.pages[0].extract_text()
    assert "Next service" in text
    assert "Blower cooler base: 4" in text


def test_a_photo_that_is_gone_is_said_and_a_huge_one_does_no_harm(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from PIL import Image as Pictures

    from ashen_bridge.files.blobs import BlobStore
    from ashen_bridge.model.records import Image
    from ashen_bridge.report.record import photos

    monkeypatch.setattr(photos, "default_folder", lambda: tmp_path)
    monkeypatch.setattr(photos, "_MOST_PX", 10_000)
    made = io.BytesIO()
    Pictures.new("RGB", (200, 120), "red").save(made, "PNG")
    huge = BlobStore(tmp_path).put(made.getvalue())
    made = io.BytesIO()
    Pictures.new("RGB", (60, 40), "red").save(made, "PNG")
    small = BlobStore(tmp_path).put(made.getvalue())
    card: Project = card_project(Card(parts=FOUR))
    images = (
        Image(id="huge", sha256=huge, suffix="png"),
        Image(id="small", sha256=small, suffix="png"),
        Image(id="gone", sha256="0" * 64, suffix="png"),
    )
    known = known_of(Engine(), replaced(card, images=images), None, None)
    page = record_html(known, ("photos",))
    assert page.count("data:image/jpeg") == 1
    assert page.count("is not on this machine") == 2
