"""Turn validation errors into one clear sentence that names the place."""

from __future__ import annotations

import difflib
from collections.abc import Callable
from typing import Any, TypeVar

from pydantic import ValidationError

from ashen_bridge.model.base import ID_PATTERN
from ashen_bridge.model.errors import RefusedError
from ashen_bridge.model.signs import unit_of

T = TypeVar("T")
_TAGS = {"board", "substrate", "component", "plate", "solid", "die", "package", "rated", "fins", "natural", "liquid"}


def validated(kind: Callable[..., T], what: str, **fields: Any) -> T:
    """Return a model object of these fields. Raises `ProjectError` in one sentence that begins with what it is."""
    try:
        return kind(**fields)
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, fields)).within(what) from error


def wrong_in(error: ValidationError, data: Any) -> tuple[str, str]:
    """Return the place of the most telling of the errors, as a path by ids, and what is wrong there."""
    # An unknown field is often the misspelt twin of a missing one: it says more, so it goes first.
    ranked = sorted(error.errors(), key=lambda item: (item["type"] != "extra_forbidden", -len(item["loc"])))
    first = ranked[0]
    kind = first["type"]
    place = one_line(place_of(first["loc"][:-1] if kind in ("extra_forbidden", "missing") else first["loc"], data))
    if kind == "extra_forbidden":
        text = f"unknown field '{first['loc'][-1]}'{_suggestion(str(first['loc'][-1]), ranked)}"
    elif kind == "missing":
        text = f"'{first['loc'][-1]}' is missing"
    elif kind == "value_error":
        text = str(first["msg"]).removeprefix("Value error, ")
    elif kind == "union_tag_invalid":
        text = f"'{first['ctx']['tag']}' is not a known {str(first['ctx']['discriminator']).strip(chr(39))}"
    elif kind == "union_tag_not_found":
        text = f"its {str(first['ctx']['discriminator']).strip(chr(39))} is missing"
    elif kind in ("bool_parsing", "bool_type"):
        text = f"must be true or false, not '{first['input']}'"
    elif kind == "string_pattern_mismatch" and first["ctx"]["pattern"] == ID_PATTERN:
        text = (
            f"'{first['input']}' is no id: it must begin with a small letter from a to z, then small letters, digits, _ or -, "
            "48 in all; the name beside it may be anything"
        )
        place = place.removesuffix(".[key]")
    elif kind == "literal_error":
        text = f"must be {first['ctx']['expected']}, not '{first['input']}'"
    else:
        text = str(first["msg"])[0].lower() + str(first["msg"])[1:]
    return place, one_line(text)


def one_line(text: str) -> str:
    """Return text fit for one line: names in a file may hold anything."""
    plain = "".join(c if c.isprintable() else "?" for c in text)
    return plain if len(plain) <= 300 else plain[:297] + "…"


def _suggestion(field: str, errors: list[Any]) -> str:
    missing = [str(item["loc"][-1]) for item in errors if item["type"] == "missing"]
    with_unit = [name for name in missing if name.startswith(field + "_")]
    if with_unit:
        return f"; numbers carry their unit in the name, did you mean '{with_unit[0]}'?"
    close = difflib.get_close_matches(field, missing, n=1)
    if close:
        return f", did you mean '{close[0]}'?"
    if not unit_of(field) and field in {
        "thickness",
        "height",
        "step",
        "power",
        "ambient",
        "rate",
        "travel",
        "preload",
    }:
        return "; numbers carry their unit in the name, for example 'thickness_mm'"
    return ""


def place_of(loc: tuple[int | str, ...], data: Any) -> str:
    """Return a location of the validator as a path by ids, for example `device.bodies.die.height_mm`."""
    parts: list[str] = []
    current: Any = data
    for step in loc:
        if isinstance(step, int):
            item = current[step] if isinstance(current, list | tuple) and step < len(current) else None
            name = item.get("id") if isinstance(item, dict) else getattr(item, "id", None)
            parts.append(str(name) if isinstance(name, str) else str(step))
            current = item
        elif step in _TAGS and not (isinstance(current, dict) and step in current):
            continue
        else:
            parts.append(str(step))
            current = current.get(step) if isinstance(current, dict) else getattr(current, str(step), None)
    return ".".join(parts)
