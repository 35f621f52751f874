"""A caliper on a port: lines in pieces, rubbish, floods; and the simulated one over a pseudo-terminal into a project."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import open_project
from ashen_bridge.measuring.lines import CaliperLines, Said, read_line
from ashen_bridge.simulated.caliper import Caliper


@pytest.mark.parametrize(
    ("line", "said"),
    [
        (b"12.34 mm", Said("value", 12.34)),
        (b"  +0,25mm", Said("value", 0.25)),
        (b"0.4858 in", Said("value", 12.33932)),
        (b"HOLD -1.20 MM", Said("value", -1.2, True)),
        (b"zero", Said("zero")),
        (b"# battery low", None),
        (b"", None),
    ],
)
def test_lines_are_read(line: bytes, said: Said | None) -> None:
    assert read_line(line) == said


@pytest.mark.parametrize("line", [b"12.34", b"mm", b"12.3.4 mm", b"1e3 mm", b"9999 mm", b"\xff\xfe\x00", b"1 mm " * 40])
def test_rubbish_is_told(line: bytes) -> None:
    said = read_line(line)
    assert said is not None
    assert said.kind == "rubbish"
    assert len(said.text) <= 80


def test_pieces_of_any_size_make_the_same_lines() -> None:
    whole = b"1.20 mm\r\n# x\r\n1.21 mm\nzero\n1.2"
    at_once = CaliperLines().feed(whole)
    slowly = CaliperLines()
    assert [said for n in range(len(whole)) for said in slowly.feed(whole[n : n + 1])] == at_once
    assert [one.kind for one in at_once] == ["value", "value", "zero"], "what has no end yet waits"


def test_a_flood_without_an_end_is_let_go() -> None:
    lines = CaliperLines()
    found = [said for _ in range(100) for said in lines.feed(b"9" * 1000)]
    assert found
    assert all(one.kind == "rubbish" for one in found)
    assert lines.feed(b"\n1.2 mm\n")[-1] == Said("value", 1.2)


def test_the_simulated_caliper_errs_as_it_is_told_to() -> None:
    plain = [read_line(line.encode()) for line in Caliper(seed=5).lines([1.2] * 200)]
    values = [one.value_mm for one in plain if one is not None and one.kind == "value"]
    assert 0.008 < float(np.std(values)) < 0.017
    inches = [read_line(line.encode()) for line in Caliper(seed=5, unit="in").lines([1.2] * 5)]
    assert [one.value_mm for one in inches if one is not None][1:] == pytest.approx(values[:5], abs=0.006)
    assert any(line.startswith("hold") for line in Caliper(seed=5, held=0.5).lines([1.2] * 20))


def test_readings_come_from_a_port(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "measured.ashb"
    speaking = [sys.executable, "-m", "ashen_bridge.cli.main", "simulate-caliper", "1.1", "0.9", "--repeats", "2", "--pty"]
    with subprocess.Popen([*speaking, "--every", "0.6"], stdout=subprocess.PIPE, text=True) as caliper:
        assert caliper.stdout is not None
        port = caliper.stdout.readline().strip()
        of = ["--of", "height:memory", "--of", "height:radio"]
        main(["readings", "demo:buoy", "--from", port, *of, "--repeats", "2", "-o", str(out)])
        caliper.wait(20)
    assert "height:radio" in capsys.readouterr().out
    first, second = open_project(out).project.readings[-2:]
    assert (first.body, second.body) == ("memory", "radio")  # type: ignore[union-attr]
    assert first.values_mm == pytest.approx((1.1, 1.1), abs=0.06)  # type: ignore[union-attr]
    assert len(second.values_mm) == 2  # type: ignore[union-attr]


def test_a_port_that_is_not_there_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for arguments, why in (
        (["--from", "/dev/nothing", "--of", "height:memory", "-o", str(tmp_path / "x.ashb")], "cannot be opened"),
        (["--from", "/dev/nothing", "--of", "depth:memory", "-o", str(tmp_path / "x.ashb")], "says nothing to read"),
        (["--from", "/dev/nothing", "-o", str(tmp_path / "x.ashb")], "Say with --of"),
        (["--from", "/dev/nothing", "--of", "height:memory"], "Say with -o"),
    ):
        with pytest.raises(SystemExit) as ended:
            main(["readings", "demo:buoy", *arguments])
        assert ended.value.code == 2
        assert why in capsys.readouterr().err
