"""Read any sensor log: the dataframe library does the reading, this finds out how the file wants to be read.

What varies between loggers: encoding, delimiter, decimal comma, lines before the header, headers repeated in the middle, units in
headers, cells or on a line of their own, lines that sum up, one line per reading, how time is written, cells like "N/A", a last
line cut off, times that jump back at midnight. What is not read is named; what cannot be read is said in one sentence.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pandas as pd

from ashen_bridge.logs.layout import BLANKS, SAMPLE, cells_of, delimiter_of, encoding_of, header_of, lines_of
from ashen_bridge.logs.log import Column, Log, LogError
from ashen_bridge.logs.numbers import as_numbers, decimal_sign, split_unit, tidy_unit
from ashen_bridge.logs.shape import pivoted, unit_row, without_cut_line, without_repeats, without_summary
from ashen_bridge.logs.when import looks_like_time, time_of
from ashen_bridge.model.cells import restored

MOST_BYTES = 1_500_000_000
MOST_COLUMNS = 2_000
_EMPTY = ("", "N/A", "n/a", "NA", "-", "--", "---", "nan", "NaN", "null", "None", "no", "Off", "off", "?")


def read_log(path: Path) -> Log:
    """Return the log in a file. Raises `LogError` with one sentence that says what is wrong with it."""
    try:
        if not path.is_file() and path.exists():
            raise LogError(f"“{path.name}” is a folder, a pipe or a device, not a file.")
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise LogError(f"“{path.name}” has {size / 1e9:.1f} GB; logs up to {MOST_BYTES / 1e9:.1f} GB can be read.")
        return parse_log(path.read_bytes(), path.name)
    except OSError as error:
        raise LogError(f"“{path.name}” cannot be read ({error.strerror or type(error).__name__}).") from error


def parse_log(data: bytes, name: str) -> Log:
    """Return the log in some bytes; `name` is what to call it."""
    if not data.strip():
        raise LogError(f"“{name}” is empty.")
    encoding = encoding_of(data, name)
    # Only a sample is looked at to find out how the file is written; the whole is decoded once, by the reader.
    sample = data[:SAMPLE].decode(encoding, errors="replace").lstrip("\ufeff")
    lines = [line for line in lines_of(sample) if line.strip()]
    delimiter = delimiter_of(lines, name)
    header = header_of(lines, delimiter, name)
    names = [restored(cell) for cell in cells_of(lines[header], delimiter)]
    below = cells_of(lines[header + 1], delimiter) if header + 1 < len(lines) else names
    if delimiter == BLANKS and len(below) == len(names) + 1:
        names = ["", *names]  # a first column without a name leaves nothing but blanks
    if len(names) > MOST_COLUMNS:
        raise LogError(f"“{name}” has {len(names)} columns; up to {MOST_COLUMNS} can be read.")
    notes: list[str] = []
    decimal = decimal_sign([cell for line in lines[header + 1 : header + 101] for cell in cells_of(line, delimiter)])
    written = _Written(encoding, delimiter, decimal, header, tuple(names))
    table = _table(data, written, name, notes)
    units = unit_row(table)
    if units is not None:
        table = table.iloc[1:].reset_index(drop=True)
    table = without_summary(without_repeats(table, names, notes), notes)
    if len(table) < 2:
        raise LogError(f"“{name}” holds {len(table)} line{'s' if len(table) != 1 else ''} of readings; a log needs at least two.")
    table = without_cut_line(table, notes)
    table, names = pivoted(table, names, decimal, notes)
    table, in_cells = _numeric(table, decimal)
    time, used, word = time_of(table, names, name, notes)
    columns = _columns(table, names, [*(units or []), *[""] * len(names)], in_cells, used, notes)
    if not any(np.isfinite(column.values).any() for column in columns):
        raise LogError(f"“{name}” holds no numbers besides the time.")
    notes.append(word)
    keep = np.isfinite(time)
    if not keep.any():
        raise LogError(f"“{name}”: no line of it has a readable time.")
    if not keep.all():
        notes.append(f"{int((~keep).sum())} lines without a readable time were left out.")
    order = np.argsort(time[keep], kind="stable")
    return Log(
        time[keep][order] - time[keep].min(),
        tuple(Column(one.name, one.unit, one.values[keep][order]) for one in columns),
        tuple(notes),
    )


@dataclass(frozen=True)
class _Written:
    """How a log is written: its encoding, what parts cells and decimals, the line of its header and the names there."""

    encoding: str
    delimiter: str
    decimal: str
    header: int
    names: tuple[str, ...]


def _table(data: bytes, written: _Written, name: str, notes: list[str]) -> pd.DataFrame:
    delimiter, header = written.delimiter, written.header
    wrapped = io.TextIOWrapper(io.BytesIO(data), encoding=written.encoding, errors="replace", newline="")
    skipped = -1
    while skipped < header:  # blank lines were not counted
        line = wrapped.readline()
        if not line:
            raise LogError(f"“{name}” ends before its readings begin.")
        if line.strip():
            skipped += 1
    source: io.TextIOBase = wrapped
    if delimiter == BLANKS:
        source = io.StringIO("\n".join("\t".join(cells_of(line, BLANKS)) for line in lines_of(wrapped.read()) if line.strip()))
        delimiter = "\t"
    try:
        with warnings.catch_warnings(record=True) as said:
            warnings.simplefilter("always", pd.errors.ParserWarning)
            table = pd.read_csv(
                source,
                sep=delimiter,
                decimal=written.decimal,
                header=None,
                names=list(range(len(written.names))),
                index_col=False,
                na_values=list(_EMPTY),
                skipinitialspace=True,
                on_bad_lines="warn",
                low_memory=False,
                engine="c",
            )
    except (pd.errors.ParserError, ValueError, MemoryError) as error:
        raise LogError(f"“{name}” cannot be read as a table ({str(error).splitlines()[0][:120]}).") from error
    wide = sum(str(one.message).count("Skipping line") for one in said)
    if wide:
        notes.append(f"{wide} line{'s' if wide > 1 else ''} with more cells than the header has names left out.")
    return table


def _numeric(table: pd.DataFrame, decimal: str) -> tuple[pd.DataFrame, list[str]]:
    """Return the table with its numbers as numbers, and the unit that the cells of each column carry."""
    units = [""] * table.shape[1]
    found = {}
    for k in table.columns:
        if pd.api.types.is_numeric_dtype(table[k]) or looks_like_time(table[k]):
            found[k] = table[k]
        else:
            found[k], units[k] = as_numbers(table[k], decimal)
    return pd.DataFrame(found), units


def _columns(
    table: pd.DataFrame, names: list[str], units: list[str], in_cells: list[str], used: set[int], notes: list[str]
) -> list[Column]:
    found: list[Column] = []
    taken: dict[str, int] = {}
    texts = []
    for k, raw in enumerate(names):
        if k in used or k >= table.shape[1]:
            continue
        if not pd.api.types.is_numeric_dtype(table[k]):
            if table[k].notna().any():
                texts.append(raw or f"column {k + 1}")
            continue
        name, unit = split_unit(raw or f"column {k + 1}")
        unit = units[k].strip("[]()") or unit or in_cells[k]
        taken[name] = taken.get(name, 0) + 1
        if taken[name] > 1:
            name = f"{name} ({taken[name]})"
        found.append(Column(name, tidy_unit(unit), table[k].to_numpy(dtype=float, na_value=np.nan)))
    if texts:
        shown = ", ".join(f"“{one}”" for one in texts[:6]) + (f" and {len(texts) - 6} more" if len(texts) > 6 else "")
        notes.append(f"Not read, since {'it holds' if len(texts) == 1 else 'they hold'} text: {shown}.")
    return found
