"""Choosing by the command line: advice, builds, tolerances, parts, materials; one sentence for what goes wrong."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from devices import FOUR, Card
from devices import project as card_project
from test_cli import run


@pytest.fixture(scope="module")
def card(tmp_path_factory: pytest.TempPathFactory) -> str:
    plain = card_project(Card(parts=FOUR, die_power=150.0))
    device = replaced(plain.device, limits=tuple(replaced(one, max_c=q(110.0)) for one in plain.device.limits))
    path = tmp_path_factory.mktemp("cards") / "card.ashb"
    save_project(path, replaced(plain, device=device))
    return str(path)


def opened(path: Path) -> object:
    return open_project(path, BlobStore(path.parent / "blobs")).project


def test_advice_has_the_keys_that_programs_read(capsys: pytest.CaptureFixture[str], card: str, tmp_path: Path) -> None:
    out = tmp_path / "planned.ashb"
    text, _, code = run(capsys, "advise", card, "--json", "--apply", "1", "-o", str(out))
    assert code == 0
    told = json.loads(text)
    assert {"plans", "refusals", "undecided", "says", "closed", "present"} <= told.keys()
    plan = told["plans"][0]
    assert {"edits", "outlooks", "chance", "cost", "pieces", "minutes", "risks", "years", "broken"} <= plan.keys()
    assert all({"joints", "pieces"} <= one.keys() for one in plan["edits"])
    for group in told["refusals"]:
        assert sum(row["chosen"] for row in group["candidates"]) == 1
    made = open_project(out, BlobStore(tmp_path / "blobs")).project
    assert len(made.builds) == 2


def test_advice_as_text_marks_what_was_chosen(capsys: pytest.CaptureFixture[str], card: str) -> None:
    text, _, code = run(capsys, "advise", card, "--chance", "0.6")
    assert code == 0
    assert text.count("→") >= 2
    assert "gap" in text


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--apply", "1"), "both --apply and -o"),
        (("--build", "nothing"), "nothing"),
        (("--point", "nowhere"), "nowhere"),
        (("--stock-only", "--chance", "0.3"), "0.3"),
    ],
)
def test_what_goes_wrong_with_advice_is_said(
    capsys: pytest.CaptureFixture[str], card: str, arguments: tuple[str, ...], says: str
) -> None:
    _, err, code = run(capsys, "advise", card, *arguments)
    assert code == 2
    assert says in err


def test_builds_beside_each_other_as_table_csv_and_json(capsys: pytest.CaptureFixture[str]) -> None:
    text, _, code = run(capsys, "compare-builds", "demo:buoy", "as_found", "no_pad", "--csv")
    assert code == 0
    lines = text.strip().splitlines()
    assert len(lines) == 3
    assert lines[0].startswith("build,point,")
    text, _, _ = run(capsys, "compare-builds", "demo:buoy", "as_found", "no_pad", "--json")
    rows = json.loads(text)["builds"]
    assert rows[1]["differs"] == ["Wall pad"]
    _, err, code = run(capsys, "compare-builds", "demo:buoy", "nothing")
    assert code == 2
    assert "nothing" in err


@pytest.mark.long
def test_tolerances_are_told_and_weights_are_checked(capsys: pytest.CaptureFixture[str]) -> None:
    text, _, code = run(capsys, "tolerances", "demo:buoy", "--chance", "0.8", "--json")
    assert code == 0
    told = json.loads(text)
    assert {"chance", "rows", "drawn", "says"} <= told.keys()
    assert all({"path", "now", "statistical", "worst_case", "advice"} <= row.keys() for row in told["rows"])
    for wrong in ("height", "=2", "device.x=-1", "device.x=a"):
        _, err, code = run(capsys, "tolerances", "demo:buoy", "--weight", wrong)
        assert code == 2
        assert "PATH=W" in err


def test_parts_go_out_and_come_in(capsys: pytest.CaptureFixture[str], card: str, tmp_path: Path) -> None:
    text, _, code = run(capsys, "import-parts", card)
    assert code == 0
    assert text.splitlines()[0] == "reference,x,y,turn,side,size,height,watts,role"
    table, out = tmp_path / "parts.csv", tmp_path / "more.ashb"
    table.write_text("reference,x,y,turn,side,size,height,watts\nU9,70,70,0,front,4x4,1,0.5\n")
    _, err, code = run(capsys, "import-parts", card, str(table))
    assert code == 2
    assert "-o" in err
    text, _, code = run(capsys, "import-parts", card, str(table), "-o", str(out))
    assert code == 0
    assert "1 part" in text
    assert "U9" in [one.name for one in open_project(out, BlobStore(tmp_path / "blobs")).project.device.bodies]
    table.write_text("reference,x,y,size,height\nU9,70,70,4,1\n")
    _, err, code = run(capsys, "import-parts", card, str(table), "-o", str(out))
    assert code == 2
    assert "line 2" in err


def test_materials_by_what_people_decide_by_and_from_tests(capsys: pytest.CaptureFixture[str], card: str, tmp_path: Path) -> None:
    text, _, code = run(capsys, "materials", "--pressure", "200", "--json")
    assert code == 0
    listed = {one["id"]: one for one in json.loads(text)["materials"]}
    assert (
        min(listed["liquid_metal"]["resistance"])
        < min(listed["paste_filled"]["resistance"])
        < min(listed["pad_soft"]["resistance"])
    )
    series, squeeze, out = tmp_path / "series.csv", tmp_path / "squeeze.csv", tmp_path / "fitted.ashb"
    series.write_text("thickness_mm,resistance_mm2k_w\n0.5,136\n1,236\n2,436\n3,636\n")
    text, _, code = run(capsys, "fit-material", str(series), "--into", card, "--material", "pad_soft", "-o", str(out))
    assert code == 0
    assert text.startswith("5.00 ±")
    fitted = open_project(out, BlobStore(tmp_path / "blobs")).project.material("pad_soft")
    assert fitted.conductivity_w_mk.value == pytest.approx(5.0)
    assert fitted.conductivity_w_mk.origin == "measured"
    squeeze.write_text("force_n,thickness_mm\n0,2\n10,1.8\n30,1.6\n70,1.4\n")
    _, err, code = run(capsys, "fit-material", str(squeeze))
    assert code == 2
    assert "--area" in err
    text, _, code = run(capsys, "fit-material", str(squeeze), "--area", "400", "--json")
    assert code == 0
    assert json.loads(text)["free_mm"] == 2.0
    squeeze.write_text("a,b\n1,2\n3,4\n5,6\n")
    _, err, code = run(capsys, "fit-material", str(squeeze))
    assert code == 2
    assert "needs the columns" in err
