"""What was seen as a plain table, out and in: one row for each statement and each sign of before opening."""

from __future__ import annotations

import csv
import io
from typing import Any

from pydantic import ValidationError

from ashen_bridge.measuring.as_table import TableError
from ashen_bridge.model.evidence import Evidence, Sign
from ashen_bridge.model.project import Project
from ashen_bridge.model.refusals import wrong_in

_LEFT_OUT = ("image",)  # a photo is no text
_MOST = 5000


def columns() -> tuple[str, ...]:
    """Return the columns: fields of statements, then those of signs that statements have not."""
    named = dict.fromkeys((*Evidence.model_fields, *Sign.model_fields))
    return tuple(name for name in named if name not in _LEFT_OUT)


def to_csv(project: Project) -> str:
    """Return all that was said as CSV; a sign names no closing."""
    out = io.StringIO()
    writer = csv.DictWriter(out, columns(), lineterminator="\n")
    writer.writeheader()
    for one in (*project.evidence, *project.signs):
        writer.writerow(one.model_dump(mode="json", exclude_defaults=True, exclude=set(_LEFT_OUT)))
    return out.getvalue()


def from_csv(text: str) -> tuple[tuple[Evidence, ...], tuple[Sign, ...]]:
    """Return the statements and signs of a table. Raises `TableError` in a sentence that says in which row what is wrong."""
    rows = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff"))))
    if not rows or "says" not in rows[0]:
        raise TableError("This table holds nothing that was seen: its first row must name the columns, 'says' among them.")
    if len(rows) > _MOST:
        raise TableError(f"This table has {len(rows)} rows; at most {_MOST} are taken.")
    found = [_read(n, row) for n, row in enumerate(rows, start=2)]
    return tuple(one for one in found if isinstance(one, Evidence)), tuple(one for one in found if isinstance(one, Sign))


def _read(n: int, row: dict[str | None, Any]) -> Evidence | Sign:
    if None in row:
        raise TableError(f"Row {n} has more cells than there are columns.")
    plain = {str(name).strip(): value.strip() for name, value in row.items() if value and value.strip()}
    kind: type[Evidence | Sign] = Evidence if "joint" in plain or "closing" in plain else Sign
    try:
        return kind.model_validate(plain)
    except ValidationError as error:
        place, what = wrong_in(error, plain)
        raise TableError(f"Row {n}: {f'{place}: ' if place else ''}{what}.") from error
