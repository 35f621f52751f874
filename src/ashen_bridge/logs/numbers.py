"""Numbers as loggers write them: decimal points or commas, thousands apart, units in cells, headings and suffixes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

import pandas as pd

_BRACKETED = re.compile(r"[\[(]\s*([^\[\]()]{1,12}?)\s*[\])]\s*$")
_SUFFIX = re.compile(r"^(.+)_(c|degc|w|mw|rpm|pct|percent|mhz|ghz|db|dba|s|ms|us|ns|min)$", re.IGNORECASE)
_GROUPED = {
    ".": re.compile(r"[+-]?\d{1,3}(?:,\d{3})+(?:\.\d*)?"),
    ",": re.compile(r"[+-]?\d{1,3}(?:\.\d{3})+(?:,\d*)?"),
}
_BLANK = re.compile(r"(?<=\d)[\s\u00a0\u202f'’](?=\d{3})")
_WITH_UNIT = r"^\s*([+-]?[\d.,'’\s\u00a0\u202f]*\d)\s*([^\d\s.,+-][^\d]{0,7})\s*$"
_NEARLY_ALL = 0.7
_TIDY = {
    "c": "°C", "degc": "°C", "deg c": "°C", "f": "°F", "degf": "°F", "dba": "dB", "db(a)": "dB", "pct": "%", "percent": "%",
    "w": "W", "mw": "mW", "rpm": "rpm", "u/min": "rpm", "1/min": "rpm", "tr/min": "rpm", "mhz": "MHz", "ghz": "GHz", "db": "dB",
}  # fmt: skip
KNOWN_UNITS = {
    *("°C", "C", "degC", "K", "°F", "F", "W", "mW", "V", "A", "MHz", "GHz", "%"),
    *("RPM", "rpm", "1/min", "U/min", "tr/min", "dB", "dB(A)", "dBA", "s"),
}


def number(text: str) -> float | None:
    """Return what a cell says as a plain number, with a point or a comma; None if it says none."""
    try:
        return float(text.replace(",", ".")) if text else None
    except ValueError:
        return None


def decimal_sign(cells: Sequence[str]) -> str:
    """Return the decimal sign of some cells: the last of two, or the one that does not set three digits apart.

    >>> decimal_sign(["1.234,5", "98,5"]), decimal_sign(["1,234", "98.5"]), decimal_sign(["12"])
    (',', '.', '.')
    """
    votes = Counter[str]()
    for cell in cells:
        signs = [sign for sign in cell if sign in ".,"]
        if not signs or not re.match(r"\s*[+-]?\d", cell) or cell.count(":"):
            continue
        last = signs[-1]
        after = re.search(r"\d*", cell[cell.rindex(last) + 1 :])
        if len(set(signs)) == 2 and cell.count(last) == 1:
            votes[last] += 2
        elif len(signs) == 1 and after is not None and len(after[0]) != 3:
            votes[last] += 1
    return "," if votes[","] > votes["."] else "."


def as_numbers(column: pd.Series, decimal: str = ".") -> tuple[pd.Series, str]:
    """Return a text column as numbers, and the unit its cells carry, where nearly all of it are numbers; else as it is."""
    if pd.api.types.is_numeric_dtype(column):
        return column, ""
    filled = int(column.notna().sum())
    if not filled:
        return column, ""
    text = column.astype("string").str.strip()
    unit = ""
    parts = text.str.extract(_WITH_UNIT)
    if parts[1].notna().sum() >= _NEARLY_ALL * filled:
        units = parts[1].str.strip().value_counts()
        if units.iloc[0] >= 0.95 * parts[1].notna().sum():
            unit = str(units.index[0])
            text = parts[0].where(parts[1].str.strip() == unit, text)
    found = pd.to_numeric(_plain(text, decimal), errors="coerce").astype("float64")
    return (found, unit) if found.notna().sum() >= _NEARLY_ALL * filled else (column, "")


def _plain(text: pd.Series, decimal: str) -> pd.Series:
    """Return numbers without what sets thousands apart, with a decimal point."""
    text = text.str.replace(_BLANK, "", regex=True)
    other = "," if decimal == "." else "."
    grouped = text.str.fullmatch(_GROUPED[decimal]).fillna(False)
    bare = text.str.replace(other, "", regex=False).str.replace(decimal, ".", regex=False)
    # What is not set apart by threes has the other sign for its decimals, in a file of both.
    return bare.where(grouped, text.str.replace(",", ".", regex=False))


def split_unit(heading: str) -> tuple[str, str]:
    """Return a heading as name and unit.

    >>> split_unit("GPU Hot Spot [°C]"), split_unit("Fan (rpm)"), split_unit("Load"), split_unit("vram_temp_c")
    (('GPU Hot Spot', '°C'), ('Fan', 'rpm'), ('Load', ''), ('vram_temp', 'c'))
    """
    found = _BRACKETED.search(heading)
    if found is not None:
        return heading[: found.start()].strip() or heading.strip(), found[1]
    ended = _SUFFIX.match(heading.strip())
    return (ended[1], ended[2]) if ended is not None else (heading.strip(), "")


def tidy_unit(unit: str) -> str:
    """Return a unit as this program writes it."""
    return _TIDY.get(unit.lower(), unit)
