"""Everything as tables: what is in the file is in the tables, read back by another library, and no text is a formula."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from click.testing import CliRunner

from ashen_bridge.cli.main import cli
from ashen_bridge.files.archive import open_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.files.everything import export_everything
from ashen_bridge.model.sharing import replaced


def read(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as lines:
        return list(csv.DictReader(lines))


def test_every_kind_of_thing_has_a_table_that_says_what_the_file_says(tmp_path: Path) -> None:
    project = open_anything("demo:correlator").project
    written = export_everything(project, tmp_path)
    assert open_project(tmp_path / "project.json").project == project
    pieces = read(tmp_path / "pieces.csv")
    said = [(b.id, j.id, p.material) for b in project.builds for j in b.joints for p in j.pieces]
    assert [(one["build"], one["joint"], one["material"]) for one in pieces] == said
    first = next(p for b in project.builds for j in b.joints for p in j.pieces if p.thickness_mm is not None)
    row = next(one for one in pieces if one["thickness_mm.value"])
    assert first.thickness_mm is not None
    assert float(row["thickness_mm.value"]) == pytest.approx(first.thickness_mm.value)
    assert len(read(tmp_path / "readings.csv")) == len(project.readings)
    assert len(read(tmp_path / "runs.csv")) == len(project.runs)
    assert len(read(tmp_path / "steps.csv")) == sum(len(one.steps) for one in project.procedures)
    assert len(read(tmp_path / "device-bodies.csv")) == len(project.device.bodies)
    assert len(written) == len(list(tmp_path.iterdir()))


def test_text_is_no_formula_and_what_cannot_be_written_is_said(tmp_path: Path) -> None:
    plain = open_anything("demo:buoy").project
    points = (replaced(plain.points[0], name="=HYPERLINK(1)"), *plain.points[1:])
    export_everything(replaced(plain, points=points), tmp_path / "out")
    assert not read(tmp_path / "out/points.csv")[0]["name"].startswith("=")
    (tmp_path / "file").write_text("there already")
    done = CliRunner().invoke(cli, ["export", "demo:buoy", "-o", str(tmp_path / "file/in")])
    assert "Nothing can be written" in str(done.exception)
