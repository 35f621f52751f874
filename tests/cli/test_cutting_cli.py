"""Cutting by the command line: what programs read, and the drawings."""

from __future__ import annotations

import json
from pathlib import Path

from click.testing import CliRunner

from ashen_bridge.cli.main import cli


def test_the_cut_plan_has_the_keys_that_programs_read(tmp_path: Path) -> None:
    files = [f"--{kind}={tmp_path / f'cut.{kind}'}" for kind in ("pdf", "svg", "dxf")]
    done = CliRunner().invoke(cli, ["cut", "demo:correlator", "--build", "plan_a", "--json", *files])
    assert done.exit_code == 0, done.output
    found = json.loads(done.output)
    assert {"pieces", "sheets", "left", "dispensed", "orders", "wrong", "price"} <= found.keys()
    assert sorted(p["number"] for s in found["sheets"] for p in s["pieces"]) == [one["number"] for one in found["pieces"]]
    assert all((tmp_path / f"cut.{kind}").stat().st_size > 1000 for kind in ("pdf", "svg", "dxf"))
    text = CliRunner().invoke(cli, ["cut", "demo:correlator", "--build", "plan_a"]).output
    assert "Sheet 1" in text
    assert "pressed out" in text


def test_what_goes_wrong_is_one_sentence(tmp_path: Path) -> None:
    done = CliRunner().invoke(cli, ["cut", "demo:correlator", "--build", "none"])
    assert done.exit_code != 0
    done = CliRunner().invoke(cli, ["cut", "demo:correlator", "--svg", str(tmp_path / "no/where.svg")])
    assert done.exit_code != 0
