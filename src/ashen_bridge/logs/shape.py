"""A table of a log brought into its usual shape: one line per moment, one column per channel, readings alone."""

from __future__ import annotations

import numpy as np
import pandas as pd

from ashen_bridge.logs.numbers import KNOWN_UNITS, as_numbers, split_unit
from ashen_bridge.logs.when import looks_like_time

_SUMMARY = {
    *("min", "max", "avg", "average", "mean", "minimum", "maximum", "median", "sum", "total", "std", "std dev"),
    *("mittel", "mittelwert", "durchschnitt", "summe", "moyenne", "media", "promedio", "mínimo", "máximo", "moy"),
}
_MOST_NAMES = 200


def without_repeats(table: pd.DataFrame, names: list[str], notes: list[str]) -> pd.DataFrame:
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
    return _without(table, again)


def without_summary(table: pd.DataFrame, notes: list[str]) -> pd.DataFrame:
    """Set aside lines that sum up others: least, greatest, average."""
    found = np.zeros(len(table), dtype=bool)
    for k in list(table.columns[:2]):
        if not pd.api.types.is_numeric_dtype(table[k]):
            found |= table[k].astype(str).str.strip(" :.").str.lower().isin(_SUMMARY).to_numpy()
    if not found.any() or found.mean() > 0.2:
        return table
    said = ", ".join(dict.fromkeys(str(cell).strip() for cell in table.loc[found, table.columns[0]]))
    notes.append(f"{int(found.sum())} line{'s' if found.sum() > 1 else ''} that sum up the others ({said[:60]}) left out.")
    return _without(table, found)


def _without(table: pd.DataFrame, lines: np.ndarray) -> pd.DataFrame:
    kept = table.loc[~lines].reset_index(drop=True)
    # What only those lines made text of is numbers again.
    return kept.apply(_if_all_numbers)


def _if_all_numbers(column: pd.Series) -> pd.Series:
    if pd.api.types.is_numeric_dtype(column):
        return column
    found = pd.to_numeric(column, errors="coerce")
    return found if found.notna().sum() == column.notna().sum() else column


def unit_row(table: pd.DataFrame) -> list[str] | None:
    """Return the units if the first line holds units instead of readings."""
    first = [str(cell).strip() if isinstance(cell, str) else "" for cell in table.iloc[0]] if len(table) else []
    units = [cell for cell in first if cell.strip("[]()") in KNOWN_UNITS]
    return first if len(units) >= 2 or (len(units) == 1 and len(first) <= 3) else None


def without_cut_line(table: pd.DataFrame, notes: list[str]) -> pd.DataFrame:
    """Leave out a last line that breaks off in the middle: it has fewer cells than all others."""
    filled = table.notna().sum(axis=1).to_numpy()
    usual = np.median(filled)
    if len(table) > 3 and filled[-1] < 0.6 * usual and filled[-1] < filled[-6:-1].min():
        notes.append("The last line breaks off in the middle and was left out.")
        return table.iloc[:-1]
    return table


def pivoted(table: pd.DataFrame, names: list[str], decimal: str, notes: list[str]) -> tuple[pd.DataFrame, list[str]]:
    """Return a log of (time, name, value) lines as one of a column per name; any other log as it is.

    Such a log has at most five columns, one of them a few names that come again and again, and moments that do as well.
    """
    if not 3 <= table.shape[1] <= 5 or len(table) < 6:
        return table, names
    texts = [k for k in table.columns if not pd.api.types.is_numeric_dtype(table[k])]
    named = [k for k in texts if not looks_like_time(table[k]) and not as_numbers(table[k], decimal)[1] and _again(table[k])]
    values = [k for k in table.columns if k not in named and pd.api.types.is_numeric_dtype(as_numbers(table[k], decimal)[0])]
    if not named or not values:
        return table, names
    label = max(named, key=lambda k: table[k].nunique())
    value = values[-1]
    moments = [k for k in table.columns if k not in (label, value) and k not in named]
    if not moments or table[label].nunique() < 2:
        return table, names
    keys = table[moments[0]].astype(str)
    for k in moments[1:]:
        keys = keys + "\x1f" + table[k].astype(str)
    if keys.nunique() > 0.7 * len(table):
        return table, names
    # A name that comes twice at one moment keeps its first reading there.
    wide = pd.DataFrame(
        {"key": keys, "name": table[label].astype(str).str.strip(), "value": as_numbers(table[value], decimal)[0]}
    )
    units = next((k for k in named if k != label), None)
    if units is not None and not any(split_unit(one)[1] for one in wide["name"].unique()):
        wide["name"] = wide["name"] + " [" + table[units].astype(str).str.strip() + "]"
    twice = int(wide.duplicated(["key", "name"]).sum())
    if twice:
        notes.append(f"{twice} readings come twice at one moment; the first of each was kept.")
    flat = wide.drop_duplicates(["key", "name"]).pivot(index="key", columns="name", values="value")
    flat = flat.reindex(index=keys.unique(), columns=wide["name"].unique())
    where = table.loc[~keys.duplicated(), moments].reset_index(drop=True)
    found = pd.concat([where, flat.reset_index(drop=True)], axis=1)
    heads = [names[k] for k in moments] + [str(one) for one in flat.columns]
    found.columns = pd.RangeIndex(found.shape[1])
    notes.append(f"Lines of name and value were put side by side as {flat.shape[1]} columns.")
    return found, heads


def _again(column: pd.Series) -> bool:
    kinds = column.nunique()
    return bool(1 <= kinds <= _MOST_NAMES and column.notna().sum() >= 3 * kinds)
