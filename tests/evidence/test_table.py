"""What was seen as a table: out and in again, by hand and by the command line, and what is wrong said by its row."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

from ashen_bridge.changes import evidence as changes
from ashen_bridge.evidence.as_table import columns, from_csv, to_csv
from ashen_bridge.files.archive import open_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.as_table import TableError
from ashen_bridge.model.evidence import Sign
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "cli"))
from test_cli import run


@pytest.mark.parametrize("demo", ["correlator", "beamformer", "buoy"])
def test_what_goes_out_comes_in_again(demo: str) -> None:
    project = open_anything(f"demo:{demo}").project
    assert from_csv(to_csv(project)) == (project.evidence, project.signs)


def test_every_field_has_a_column_but_the_photo() -> None:
    assert {"closing", "joint", "lower", "says", "toward_deg", "misread", "body", "aside"} <= set(columns())
    assert "image" not in columns()


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "nothing that was seen"),
        ("a,b\n1,2\n", "nothing that was seen"),
        ("id,closing,joint,lower,says\ne,c,j,die,soggy\n", "Row 2"),
        ("id,closing,joint,lower,says\ne,c,j,die,even\nf,c,j,die\n", "Row 3"),
        ("id,says\ne,rattles,more\n", "more cells"),
        ("id,says,toward_deg\ne,rattles,30\n", "toward_deg"),
    ],
)
def test_what_is_wrong_is_said_by_its_row(text: str, why: str) -> None:
    with pytest.raises(TableError, match=why) as caught:
        from_csv(text)
    assert str(caught.value).count("\n") == 0


def test_the_command_line_writes_and_takes_tables(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    table, kept = tmp_path / "seen.csv", tmp_path / "kept.ashb"
    _, _, code = run(capsys, "evidence", "demo:correlator", "-o", str(table))
    assert code == 0
    out, _, code = run(capsys, "evidence", "demo:correlator", "--add", str(table), "-o", str(kept))
    assert code == 0
    assert "taken in" in out
    project = open_anything("demo:correlator").project
    assert {one.id for one in open_project(kept).project.evidence} == {one.id for one in project.evidence}
    _, err, code = run(capsys, "evidence", "demo:correlator", "--add", str(table))
    assert code == 2
    assert "-o" in err
    _, err, code = run(capsys, "evidence", "demo:correlator", "--add", str(tmp_path / "none.csv"), "-o", str(kept))
    assert code == 2
    assert "cannot be read" in err


def bare(project: Project) -> Project:
    return replaced(project, evidence=(), signs=(), pictures=())


def test_statements_come_and_go_by_their_ids() -> None:
    """Said again by the same id it takes the place of what was; taken back it is gone; a photo goes with its last use."""
    project = open_anything("demo:correlator").project
    first = project.evidence[0]
    assert changes.say(project, replaced(first, says="deep")).evidence[-1].says == "deep"
    assert len(changes.unsay(project, first.id).evidence) == len(project.evidence) - 1
    aside = changes.set_aside(project, project.pictures[0].id)
    assert aside.pictures[0].aside
    assert not changes.set_aside(aside, project.pictures[0].id, aside=False).pictures[0].aside
    without = changes.drop_picture(project, project.pictures[0].id)
    assert len(without.images) == len(project.images) - 1
    sign = Sign(id="s", says="bulges")
    noticed = changes.notice(changes.notice(bare(project), sign), replaced(sign, says="rattles"))
    assert [one.says for one in noticed.signs] == ["rattles"]
    assert not changes.unnotice(noticed, "s").signs
