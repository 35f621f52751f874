"""Read any sensor log: the dataframe library does the reading, this finds out how the file wants to be read.

What varies between loggers: encoding and byte-order mark, delimiter, decimal comma, lines before the header, headers repeated in
the middle, units in headers or on a line of their own, how time is written, cells like "N/A" or "-", a last line cut off, times
that jump back at midnight. What cannot be read is said in one sentence.
"""

from __future__ import annotations

import codecs
import io
import re
from pathlib import Path

import numpy as np
import pandas as pd

from ashen_bridge.bench.logs.log import Column, Floats, Log, LogError
from ashen_bridge.model.cells import restored

MOST_BYTES = 1_500_000_000
MOST_COLUMNS = 2_000
_SAMPLE = 65_536
_DELIMITERS = (",", ";", "\t", "|")
_EMPTY = ("", "N/A", "n/a", "NA", "-", "--", "---", "nan", "NaN", "null", "None", "no", "Off", "off", "?")
_DAY = 86_400.0
_UNIT = re.compile(r"[\[(]\s*([^\[\]()]{1,12}?)\s*[\])]\s*$")


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


def _lines(text: str) -> list[str]:
    """Return lines as the table reader cuts them: form feeds and separators that other splitters know stay where they are."""
    return text.replace("\r\n", "\n").replace("\r", "\n").split("\n")


def parse_log(data: bytes, name: str) -> Log:
    """Return the log in some bytes; `name` is what to call it."""
    if not data.strip():
        raise LogError(f"“{name}” is empty.")
    encoding = _encoding(data, name)
    # Only a sample is looked at to find out how the file is written; the whole is decoded once, by the reader.
    sample = data[:_SAMPLE].decode(encoding, errors="replace").lstrip("\ufeff")
    lines = [line for line in _lines(sample) if line.strip()]
    delimiter = _delimiter(lines, name)
    header = _header(lines, delimiter, name)
    names = [restored(cell) for cell in _cells(lines[header], delimiter)]
    if len(names) > MOST_COLUMNS:
        raise LogError(f"“{name}” has {len(names)} columns; up to {MOST_COLUMNS} can be read.")
    notes: list[str] = []
    decimal = _decimal(lines[header + 1 :], delimiter)
    table = _table(data, encoding, delimiter, decimal, header, names, name)
    units = _unit_row(table)
    if units is not None:
        table = table.iloc[1:].reset_index(drop=True)
    table = _without_repeats(table, names, notes)
    if len(table) < 2:
        raise LogError(f"“{name}” holds {len(table)} line{'s' if len(table) != 1 else ''} of readings; a log needs at least two.")
    table = _without_cut_line(table, notes)
    time, used, word = _time(table, names, name, notes)
    columns = _columns(table, names, units, used)
    if not any(np.isfinite(column.values).any() for column in columns):
        raise LogError(f"“{name}” holds no numbers besides the time.")
    notes.append(word)
    keep = np.isfinite(time)
    if not keep.all():
        notes.append(f"{int((~keep).sum())} lines without a readable time were left out.")
    order = np.argsort(time[keep], kind="stable")
    return Log(
        time[keep][order] - time[keep].min(),
        tuple(Column(one.name, one.unit, one.values[keep][order]) for one in columns),
        tuple(notes),
    )


# ---- how it is written


def _encoding(data: bytes, name: str) -> str:
    for mark, encoding in ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16")):
        if data.startswith(mark):
            return encoding
    head = data[:_SAMPLE]
    if b"\x00" in head:
        even, odd = head[0::2].count(0), head[1::2].count(0)
        if max(even, odd) > len(head) // 5 and min(even, odd) < len(head) // 50:
            return "utf-16-le" if odd > even else "utf-16-be"
        raise LogError(f"“{name}” is not a text file.")
    strange = sum(byte < 9 or 13 < byte < 32 for byte in head)
    if strange > len(head) // 50:
        raise LogError(f"“{name}” is not a text file.")
    try:
        head[: len(head) - 4].decode("utf-8") if len(data) > len(head) else head.decode("utf-8")
        return "utf-8"
    except UnicodeDecodeError:
        return "cp1252"


def _delimiter(lines: list[str], name: str) -> str:
    """The sign that cuts most lines into the same number of cells."""
    looked_at = lines[:200]
    best, score = "", 0.0
    for sign in _DELIMITERS:
        counts = [len(_cells(line, sign)) for line in looked_at]
        usual = max(set(counts), key=counts.count)
        even = counts.count(usual) / len(counts)
        if usual > 1 and even * min(usual, 50) > score:
            best, score = sign, even * min(usual, 50)
    if not best:
        raise LogError(f"“{name}” is not a table: no comma, semicolon, tab or bar cuts its lines into columns.")
    return best


def _cells(line: str, delimiter: str) -> list[str]:
    if '"' not in line:
        return [cell.strip() for cell in line.split(delimiter)]
    import csv

    return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter))]


def _header(lines: list[str], delimiter: str, name: str) -> int:
    """The first line of the usual width whose cells are mostly words and under which numbers follow."""
    widths = [len(_cells(line, delimiter)) for line in lines[:200]]
    usual = max(set(widths), key=widths.count)
    for n, line in enumerate(lines[:60]):
        cells = _cells(line, delimiter)
        if len(cells) < usual - 1 or len(cells) < 2:
            continue
        words = sum(bool(cell) and _number(cell) is None for cell in cells)
        if words >= max(1, len(cells) // 2):
            return n
    raise LogError(f"“{name}” has no line of column names above its numbers.")


def _number(text: str) -> float | None:
    try:
        return float(text.replace(",", ".")) if text else None
    except ValueError:
        return None


def _decimal(lines: list[str], delimiter: str) -> str:
    if delimiter == ",":
        return "."
    commas = sum(bool(re.search(r"\d,\d", line)) for line in lines[:100])
    points = sum(bool(re.search(r"(?<![\d.:])\d+\.\d+(?![\d.:])", line)) for line in lines[:100])
    return "," if commas > points else "."


def _table(data: bytes, encoding: str, delimiter: str, decimal: str, header: int, names: list[str], name: str) -> pd.DataFrame:
    text = io.BytesIO(data)
    wrapped = io.TextIOWrapper(text, encoding=encoding, errors="replace", newline="")
    skipped = -1
    while skipped < header:  # blank lines were not counted
        line = wrapped.readline()
        if not line:
            raise LogError(f"“{name}” ends before its readings begin.")
        if line.strip():
            skipped += 1
    try:
        return pd.read_csv(
            wrapped,
            sep=delimiter,
            decimal=decimal,
            header=None,
            names=list(range(len(names))),
            index_col=False,
            na_values=list(_EMPTY),
            skipinitialspace=True,
            on_bad_lines="skip",
            low_memory=False,
            engine="c",
        )
    except (pd.errors.ParserError, ValueError, MemoryError) as error:
        raise LogError(f"“{name}” cannot be read as a table ({str(error).splitlines()[0][:120]}).") from error


# ---- what is in it


def _without_repeats(table: pd.DataFrame, names: list[str], notes: list[str]) -> pd.DataFrame:
    """Leave out header lines that come again in the middle of a log."""
    texts = [k for k in table.columns if not pd.api.types.is_numeric_dtype(table[k]) and names[k]]
    if not texts:
        return table
    again = np.ones(len(table), dtype=bool)
    for k in texts[:4]:
        again &= (table[k].astype(str).str.strip() == names[k]).to_numpy()
    if not again.any():
        return table
    notes.append(f"{int(again.sum())} repeated header line{'s' if again.sum() > 1 else ''} left out.")
    kept = table.loc[~again].reset_index(drop=True)
    return kept.apply(lambda column: _as_numbers(column))


def _as_numbers(column: pd.Series) -> pd.Series:
    """Return a text column as numbers where nearly all of it are; else as it is."""
    if pd.api.types.is_numeric_dtype(column):
        return column
    numbers = pd.to_numeric(column.astype(str).str.replace(",", ".", regex=False), errors="coerce")
    filled = column.notna().sum()
    return numbers if filled and numbers.notna().sum() >= 0.7 * filled else column


def _unit_row(table: pd.DataFrame) -> list[str] | None:
    """Return the units if the first line holds units instead of readings."""
    first = [str(cell).strip() if isinstance(cell, str) else "" for cell in table.iloc[0]] if len(table) else []
    units = [cell for cell in first if cell.strip("[]()") in _KNOWN_UNITS]
    return first if len(units) >= 2 or (len(units) == 1 and len(first) <= 3) else None


_KNOWN_UNITS = {
    *("°C", "C", "degC", "K", "°F", "F", "W", "mW", "V", "A", "MHz", "GHz", "%"),
    *("RPM", "rpm", "1/min", "dB", "dB(A)", "dBA", "s"),
}


def _without_cut_line(table: pd.DataFrame, notes: list[str]) -> pd.DataFrame:
    """Leave out a last line that breaks off in the middle: it has fewer cells than all others."""
    filled = table.notna().sum(axis=1).to_numpy()
    usual = np.median(filled)
    if len(table) > 3 and filled[-1] < 0.6 * usual and filled[-1] < filled[-6:-1].min():
        notes.append("The last line breaks off in the middle and was left out.")
        return table.iloc[:-1]
    return table


def _columns(table: pd.DataFrame, names: list[str], units: list[str] | None, used: set[int]) -> list[Column]:
    found: list[Column] = []
    taken: dict[str, int] = {}
    for k, raw in enumerate(names):
        if k in used or k >= table.shape[1]:
            continue
        column = _as_numbers(table[k])
        if not pd.api.types.is_numeric_dtype(column):
            continue
        name, unit = split_unit(raw or f"column {k + 1}")
        if units is not None and k < len(units) and units[k]:
            unit = units[k].strip("[]()")
        taken[name] = taken.get(name, 0) + 1
        if taken[name] > 1:
            name = f"{name} ({taken[name]})"
        found.append(Column(name, _tidy_unit(unit), column.to_numpy(dtype=float, na_value=np.nan)))
    return found


def split_unit(heading: str) -> tuple[str, str]:
    """Return a heading as name and unit.

    >>> split_unit("GPU Hot Spot [°C]"), split_unit("Fan (rpm)"), split_unit("Load")
    (('GPU Hot Spot', '°C'), ('Fan', 'rpm'), ('Load', ''))
    """
    found = _UNIT.search(heading)
    if found is None:
        return heading.strip(), ""
    return heading[: found.start()].strip() or heading.strip(), found[1]


def _tidy_unit(unit: str) -> str:
    return {"C": "°C", "degC": "°C", "F": "°F", "RPM": "rpm", "dBA": "dB", "dB(A)": "dB"}.get(unit, unit)


# ---- when


def _time(table: pd.DataFrame, names: list[str], name: str, notes: list[str]) -> tuple[Floats, set[int], str]:
    """Return seconds of every line, the columns that say so, and how it was found."""
    lowered = [one.lower() for one in names]
    for k, word in enumerate(lowered[:8]):
        if re.search(r"elapsed|seconds|^time[_ ]?s$|^t \[?s|laufzeit|^time\s*[\[(]\s*(s|ms|sec)", word) and _is_number(table[k]):
            scale = 1e-3 if re.search(r"ms\b", word) else 1.0
            seconds = pd.to_numeric(table[k], errors="coerce").to_numpy(dtype=float) * scale
            return (
                _unwrapped(seconds, 0.0, notes),
                {k},
                f"Time is the column “{names[k]}”, in {'milli' if scale < 1 else ''}seconds.",
            )
    stamps = [k for k in range(min(8, table.shape[1])) if not _is_number(table[k]) and _looks_like_time(table[k])]
    if len(stamps) >= 2 and re.search(r"date|datum", lowered[stamps[0]] + lowered[stamps[1]]):
        joined = table[stamps[0]].astype(str) + " " + table[stamps[1]].astype(str)
        return _parsed(joined, name, notes), set(stamps[:2]), f"Time is “{names[stamps[0]]}” and “{names[stamps[1]]}”."
    for k in stamps:
        return _parsed(table[k].astype(str), name, notes), {k}, f"Time is the column “{names[k]}”."
    for k, word in enumerate(lowered[:8]):
        if ("time" in word or "zeit" in word or word in ("t", "s")) and _is_number(table[k]):
            seconds = pd.to_numeric(table[k], errors="coerce").to_numpy(dtype=float)
            if np.nanmedian(seconds) > 1e9:
                seconds = seconds / (1e3 if np.nanmedian(seconds) > 1e11 else 1.0)  # a clock that counts from 1970
            return _unwrapped(seconds, 0.0, notes), {k}, f"Time is the column “{names[k]}”, taken as seconds."
    return np.arange(len(table), dtype=float), set(), "No column says the time: one line a second is assumed."


def _is_number(column: pd.Series) -> bool:
    return bool(pd.api.types.is_numeric_dtype(column))


def _looks_like_time(column: pd.Series) -> bool:
    some = column.dropna().astype(str).head(20)
    return bool(len(some)) and bool(some.str.contains(r"\d{1,2}:\d{2}|\d{1,4}[./-]\d{1,2}[./-]\d{1,4}").mean() > 0.7)


def _parsed(text: pd.Series, name: str, notes: list[str]) -> Floats:
    text = text.str.strip().str.replace(",", ".", regex=False)
    only_clock = text.head(20).str.fullmatch(r"\d{1,2}:\d{2}(:\d{2}([.]\d+)?)?").mean() > 0.7
    if only_clock:
        parts = text.str.extract(r"^(\d{1,2}):(\d{2})(?::(\d{2}(?:\.\d+)?))?$").astype(float).fillna({2: 0.0})
        seconds = (parts[0] * 3600 + parts[1] * 60 + parts[2]).to_numpy(dtype=float)
        return _unwrapped(seconds, _DAY, notes)
    first = str(text.iloc[0])
    day_first = bool(re.match(r"\d{1,2}[.]\d{1,2}[.]\d{2,4}", first)) or _day_first(text)
    stamps = pd.to_datetime(text, errors="coerce", dayfirst=day_first, format="mixed")
    if stamps.notna().sum() < 2:
        raise LogError(f"“{name}”: its times cannot be read, the first is “{first[:30]}”.")
    seconds = (stamps - stamps.dropna().iloc[0]).dt.total_seconds().to_numpy(dtype=float)
    return _unwrapped(seconds, 0.0, notes)


def _day_first(text: pd.Series) -> bool:
    """A first number above 12 anywhere means that days come first."""
    parts = text.str.extract(r"^(\d{1,2})[/-](\d{1,2})[/-]\d{2,4}")
    return bool((pd.to_numeric(parts[0], errors="coerce") > 12).any())


def _unwrapped(seconds: Floats, day: float, notes: list[str]) -> Floats:
    """Let time go on where a clock starts again: at midnight, or where a logger was started anew."""
    steps = np.diff(seconds)
    usual = float(np.nanmedian(steps[steps > 0])) if (steps > 0).any() else 1.0
    back = np.flatnonzero(steps < -max(2 * usual, 1.0))
    if not len(back):
        return seconds
    found = seconds.copy()
    for at in back:
        jump = day if day and seconds[at] - seconds[at + 1] > day / 2 else seconds[at] - seconds[at + 1] + usual
        found[at + 1 :] += jump
    notes.append(f"Time goes backwards {len(back)} time{'s' if len(back) > 1 else ''}; it was let go on from there.")
    return found
