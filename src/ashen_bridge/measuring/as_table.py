"""Readings as a plain table, out and in: one row each, a column for every field that any form has."""

from __future__ import annotations

import csv
import io
from typing import Any, get_args

from pydantic import TypeAdapter, ValidationError

from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import Reading
from ashen_bridge.model.refusals import wrong_in

_READING: TypeAdapter[Reading] = TypeAdapter(Reading)
_LISTS = ("values_mm", "values")
_MOST = 5000


class TableError(AshenError, ValueError):
    """A table that holds no readings."""


def columns() -> tuple[str, ...]:
    """Return the columns, what all readings have first."""
    forms = get_args(get_args(Reading)[0])
    named = dict.fromkeys(name for form in forms for name in form.model_fields)
    first = ("form", "id", *_LISTS, "instrument", "sitting", "taken")
    return (*first, *(name for name in named if name not in first))


def to_csv(project: Project) -> str:
    """Return all readings as CSV; repeats stand in one cell, spaces between."""
    out = io.StringIO()
    writer = csv.DictWriter(out, columns(), lineterminator="\n")
    writer.writeheader()
    for one in project.readings:
        plain = one.model_dump(mode="json", exclude_defaults=True) | {"form": one.form}
        writer.writerow({name: " ".join(f"{v:g}" for v in value) if name in _LISTS else value for name, value in plain.items()})
    return out.getvalue()


def from_csv(text: str) -> tuple[Reading, ...]:
    """Return the readings of a table. Raises `TableError` in a sentence that says in which row what is wrong."""
    rows = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"))))
    if not rows or "form" not in rows[0]:
        raise TableError("This table holds no readings: its first row must name the columns, 'form' among them.")
    if len(rows) > _MOST:
        raise TableError(f"This table has {len(rows)} rows; at most {_MOST} readings are taken.")
    return tuple(_read(n, row) for n, row in enumerate(rows, start=2))


def _read(n: int, row: dict[str | None, Any]) -> Reading:
    if None in row:
        raise TableError(f"Row {n} has more cells than there are columns.")
    plain: dict[str, Any] = {str(name).strip(): value.strip() for name, value in row.items() if value and value.strip()}
    for name in _LISTS:
        if name in plain:
            try:
                plain[name] = [float(part.replace(",", ".")) for part in plain[name].split()]
            except ValueError as error:
                raise TableError(f"Row {n}: '{plain[name]}' under '{name}' is no list of numbers with spaces between.") from error
    try:
        return _READING.validate_python(plain)
    except ValidationError as error:
        place, what = wrong_in(error, plain)
        raise TableError(f"Row {n}: {f'{place}: ' if place else ''}{what}.") from error
