"""`open-up`: the procedure as text, JSON, page and PDF; recipes out and in; one sentence for what goes wrong."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from test_cli import DEMO, run


def test_the_procedure_is_told_printed_and_kept_as_a_recipe(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    recipe, page, paper = tmp_path / "card.recipe.json", tmp_path / "sheet.html", tmp_path / "sheet.pdf"
    out, _, code = run(capsys, "open-up", DEMO, "--save-recipe", str(recipe), "-o", str(page), "--json")
    assert code == 0
    told = json.loads(out)
    assert told["procedure"]["steps"][0]["hold"]
    assert len(told["tray"]) == 10
    assert page.read_text().startswith("<!DOCTYPE html>")
    out, _, code = run(capsys, "open-up", "demo:buoy", "--recipe", str(recipe))
    assert code == 0
    assert "HOLD" in out
    _, _, code = run(capsys, "open-up", DEMO, "-o", str(paper), "--size", "Letter")
    assert code == 0
    assert paper.read_bytes()[:5] == b"%PDF-"


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--procedure", "nothing"), "no procedure 'nothing'"),
        (("-o", "sheet.doc"), "written as .pdf or .html"),
        (("--recipe", "not/there.json"), "cannot be read"),
        (("--build", "nothing"), "nothing"),
    ],
)
def test_what_goes_wrong_is_one_sentence(capsys: pytest.CaptureFixture[str], arguments: tuple[str, ...], says: str) -> None:
    _, err, code = run(capsys, "open-up", DEMO, *arguments)
    assert code == 2
    assert says in err
    assert err.strip().count("\n") == 0


def corners(truth: Path) -> str:
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in json.loads(truth.read_text())["corners"])


@pytest.mark.long
def test_a_film_is_scanned_read_and_taken_in_as_evidence(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    image, kept = tmp_path / "film.png", tmp_path / "kept.ashb"
    _, _, code = run(capsys, "simulate-film", DEMO, "--build", "as_found", "--joint", "pad_r1", "--seed", "5", "-o", str(image))
    assert code == 0
    truth = json.loads((tmp_path / "film.json").read_text())
    model = ("--project", DEMO, "--build", "as_found", "--joint", "pad_r1")
    out, _, code = run(capsys, "film", str(image), "--corners", corners(tmp_path / "film.json"), *model, "--json")
    assert code == 0
    told = json.loads(out)
    assert told["covered"] == pytest.approx(truth["covered"], abs=0.05)
    assert told["difference"] < 0.25
    into = ("--closing", "closed_pads", "-o", str(kept))
    out, _, code = run(capsys, "film", str(image), "--corners", corners(tmp_path / "film.json"), *model, *into)
    assert code == 0
    assert "covered" in out
    out, _, code = run(capsys, "evidence", str(kept), "--build", "as_found", "--json")
    assert code == 0
    told = json.loads(out)
    assert "picture" in {one["says"] for one in told["statements"]}
    assert {"statements", "contradictions", "gaps", "expected", "refused"} <= told.keys()


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("film", "not/there.png", "--corners", "0,0 9,0 9,9 0,9", "--size", "9x9"), "cannot be read"),
        (("film", "README.md", "--corners", "0,0 9,0 9,9 0,9", "--size", "9x9"), "only PNG and JPEG"),
        (("film", "README.md", "--corners", "0,0 9,0 9,9", "--size", "9x9"), "four corners"),
        (("film", "docs/screenshots/measure.png", "--corners", "0,0 90,0 90,90 0,90"), "how large"),
        (("film", "docs/screenshots/measure.png", "--corners", "0,0 90,0 90,90 0,90", "--size", "9by9"), "no size"),
        (("film", "docs/screenshots/measure.png", "--corners", "0,0 90,90 90,0 0,90", "--size", "9x9"), "cross"),
        (("simulate-film", DEMO, "-o", "film.gif"), "written as .png or .jpg"),
    ],
)
def test_films_that_cannot_be_read_are_one_sentence(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, arguments: tuple[str, ...], says: str
) -> None:
    monkeypatch.chdir(Path(__file__).resolve().parents[2])
    _, err, code = run(capsys, *arguments)
    assert code == 2
    assert says in err
