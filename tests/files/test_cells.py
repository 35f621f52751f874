"""What leaves the program: columns that keep their names, cells no spreadsheet runs, lines no terminal obeys."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.cli.said import say
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.packing import as_csv, pack_log, unpack_log
from ashen_bridge.logs.reading import parse_log
from ashen_bridge.model.cells import defused, printable, restored

TIME = np.arange(30.0)


def log(*columns: tuple[str, str]) -> Log:
    return Log(TIME, tuple(Column(name, unit, TIME + 40 + n) for n, (name, unit) in enumerate(columns)))


@pytest.mark.parametrize(
    "columns",
    [
        [("time", "s"), ("T", "°C")],
        [("T", "°C"), ("T", "°C"), ("T (2)", "°C")],
        [("time [s]", ""), ("a [b]", "W"), ('say "so", twice', "")],
        [("two\nlines", "°C"), ("", ""), ("T.1", ""), ("T", ""), ("T", "")],
    ],
)
def test_a_packed_log_keeps_every_column(columns: list[tuple[str, str]]) -> None:
    made = log(*columns)
    found = unpack_log(pack_log(made))
    assert [(one.name, one.unit) for one in found.columns] == columns
    for one, other in zip(made.columns, found.columns, strict=True):
        assert np.array_equal(one.values, other.values)
    assert pack_log(found) == pack_log(made)


def test_gaps_in_a_packed_log_stay_gaps() -> None:
    values = np.where(TIME < 3, np.nan, TIME)
    found = unpack_log(pack_log(Log(TIME, (Column("T", "°C", values),))))
    assert np.array_equal(found.columns[0].values, values, equal_nan=True)


@given(st.text(max_size=30))
def test_a_text_cell_is_no_formula_and_comes_back(text: str) -> None:
    cell = defused(text)
    assert not cell.startswith(("=", "+", "-", "@", "\t", "\r"))
    assert restored(cell) == text


def test_an_exported_log_runs_nothing_and_reads_back() -> None:
    made = log(("=HYPERLINK(1)", "°C"), ("-12 V rail", "V"), ("Core", "°C"))
    text = as_csv(made)
    heading = text.splitlines()[0]
    assert "'=HYPERLINK(1) [°C]" in heading
    assert "'-12 V rail [V]" in heading
    assert "'" not in text.split("\n", 1)[1], "numbers stay numbers"
    found = parse_log(text.encode(), "x.csv")
    assert [one.name for one in found.columns] == ["=HYPERLINK(1)", "-12 V rail", "Core"]


@given(st.text(max_size=40))
def test_no_control_sign_reaches_the_terminal(text: str) -> None:
    shown = printable(text)
    assert not any((ord(sign) < 32 and sign not in "\n\t") or 127 <= ord(sign) < 160 for sign in shown)
    assert "\u202e" not in printable("\u202e" + text)
    assert printable("Ω ° ± ℃ – 中") == "Ω ° ± ℃ – 中"


def test_what_is_printed_goes_through_that(capsys: pytest.CaptureFixture[str]) -> None:
    say("die\x1b[31m\x07 hot")
    assert capsys.readouterr().out == "die[31m hot\n"


def test_no_command_prints_past_that_door() -> None:
    from pathlib import Path

    import ashen_bridge.cli as package

    for path in Path(package.__path__[0]).glob("*.py"):
        if path.name != "said.py":
            assert "echo(" not in path.read_text(), path.name
