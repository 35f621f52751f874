"""Parts of a board as a plain table, in and out: reference, middle, turn, side, size, height, watts."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ashen_bridge.changes import bodies
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.editing.create import SOLID, carrier_of, make_up
from ashen_bridge.editing.typed import read_number
from ashen_bridge.library.typical import typical
from ashen_bridge.model.bodies import Attach, Component, ComponentRole, Side
from ashen_bridge.model.cells import defused
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q

COLUMNS = ("reference", "x", "y", "turn", "side", "size", "height", "watts", "role")
_NEEDED = COLUMNS[:7]
_SIDES = {"": Side.FRONT, "front": Side.FRONT, "top": Side.FRONT, "f": Side.FRONT, "t": Side.FRONT}
_SIDES |= {"rear": Side.REAR, "back": Side.REAR, "bottom": Side.REAR, "b": Side.REAR, "r": Side.REAR}
_BY_LETTER = {"L": "inductor", "Q": "regulator"}  # as references are usually given; common practice, no source
_MOST = 2000
_SHOWN = 6  # bad lines that are named one by one


@dataclass(frozen=True)
class PartLine:
    """One part as the table has it: outline on the board [mm], turned already."""

    reference: str
    box: tuple[float, float, float, float]
    side: Side
    height_mm: float
    watts: float | None
    role: str


def is_parts_table(path: Path) -> bool:
    """Return whether a file looks like a table of parts: a CSV with their columns in its first line."""
    if path.suffix.lower() != ".csv":
        return False
    try:
        with path.open(encoding="utf-8") as file:
            first = file.readline(2000).lower()
    except (OSError, UnicodeDecodeError):
        return False
    return all(name in first for name in ("reference", "size", "height"))


def read_parts(text: str) -> tuple[PartLine, ...]:
    """Return the parts of a table. x and y are the middle, turn is in degrees, by quarters; size is `w x h` [mm].

    Raises `ProjectError` that names every bad line and what is wrong with it.
    """
    rows = list(csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=_delimiter(text)))
    if not rows:
        raise ProjectError("The table of parts is empty.")
    heads = [re.split(r"[\s\[(]", one.strip().lower())[0] for one in rows[0]]
    missing = [name for name in _NEEDED if name not in heads and name not in ("turn", "side")]
    if missing:
        raise ProjectError(f"The table of parts lacks the column{'s' if len(missing) > 1 else ''} {', '.join(missing)}.")
    if len(rows) > _MOST + 1:
        raise ProjectError(f"The table of parts has {len(rows) - 1} lines; {_MOST} are the most that are read.")
    found, wrong, seen = [], [], dict[str, int]()
    for n, row in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            one = _part(dict(zip(heads, (cell.strip() for cell in row), strict=False)))
            if one.reference in seen:
                raise ProjectError(f"“{one.reference}” stands in line {seen[one.reference]} already")
            seen[one.reference] = n
            found.append(one)
        except AshenError as error:
            wrong.append(f"line {n}: {str(error).rstrip('.')}")
    if wrong:
        more = f"; and {len(wrong) - _SHOWN} more" if len(wrong) > _SHOWN else ""
        raise ProjectError(f"Parts cannot be taken: {'; '.join(wrong[:_SHOWN])}{more}.")
    if not found:
        raise ProjectError("The table of parts has a head but no parts.")
    return tuple(found)


def _delimiter(text: str) -> str:
    first = text.splitlines()[0] if text.strip() else ""
    return max(",;\t", key=first.count)


def _part(cells: dict[str, str]) -> PartLine:
    reference = cells.get("reference", "")
    if not reference:
        raise ProjectError("there is no reference")
    x, y, height = (_number(cells, name) for name in ("x", "y", "height"))
    sizes = re.split(r"\s*[x×*]\s*", cells.get("size", "").lower().removesuffix("mm").strip())
    if len(sizes) != 2:
        raise ProjectError(f"the size “{cells.get('size', '')}” is not like 12 x 14")
    w, h = (read_number(one, "mm") for one in sizes)
    if min(w, h) <= 0 or height <= 0:
        raise ProjectError("size and height must be above 0")
    turn = _number(cells, "turn") if cells.get("turn") else 0.0
    if turn % 90:
        raise ProjectError(f"it is turned by {turn:g}°; only quarters of a turn can be drawn")
    if turn % 180:
        w, h = h, w
    side = _SIDES.get(cells.get("side", "").lower())
    if side is None:
        raise ProjectError(f"the side “{cells['side']}” is neither front nor rear")
    watts = _number(cells, "watts") if cells.get("watts") else None
    if watts is not None and watts < 0:
        raise ProjectError("watts must not be negative")
    role = cells.get("role", "").lower() or _BY_LETTER.get(reference[0].upper(), "other")
    if role not in set(ComponentRole):
        raise ProjectError(f"the role “{role}” is none of {', '.join(ComponentRole)}")
    return PartLine(reference, (x - w / 2, y - h / 2, x + w / 2, y + h / 2), side, height, watts, role)


def _number(cells: dict[str, str], name: str) -> float:
    if not cells.get(name):
        raise ProjectError(f"{name} is missing")
    try:
        return read_number(cells[name], {"turn": "", "watts": "W"}.get(name, "mm"))
    except AshenError as error:
        raise ProjectError(f"{name}: {error}") from error


def add_parts(project: Project, build: str | None, parts: tuple[PartLine, ...]) -> Edit:
    """Put parts on the board, in one edit. Raises `ProjectError` where there is no board, or a name is taken."""
    made, powers, needed = [], dict[str, Quantity](), set[str]()
    used = [body.id for body in project.all_bodies]
    names = {body.name for body in project.all_bodies}
    for one in parts:
        if one.reference in names:
            raise ProjectError(f"The device has a part called “{one.reference}” already.")
        new = fresh_id(slug(one.reference, "part"), used)
        used.append(new)
        x0, y0, x1, y1 = one.box
        rect = Rect(x_mm=round(x0, 4), y_mm=round(y0, 4), w_mm=round(x1 - x0, 4), h_mm=round(y1 - y0, 4))
        key = {"die": "die_attach_mm2k_w", "memory": "package_attach_mm2k_w"}.get(one.role, "part_attach_mm2k_w")
        made.append(
            Component(
                id=new,
                name=one.reference,
                on=carrier_of(project, project.build(build) if project.builds else None, one.box, one.side),
                side=one.side,
                footprint=Footprint(rects=(rect,)),
                role=ComponentRole(one.role),
                height_mm=q(one.height_mm, 0.03, "data sheet", "from a table of parts"),
                make_up=make_up(one.role, rect.w_mm, rect.h_mm),
                attach=Attach(resistance_mm2k_w=typical(key)),
            )
        )
        needed.add("silicon" if one.role in ("die", "memory") else SOLID[one.role])
        if one.watts is not None:
            powers[new] = q(one.watts, 0.0, "data sheet", "from a table of parts")
    count = f"{len(made)} part{'s' if len(made) > 1 else ''}"
    return edit(f"{count} from a table", bodies.add_components, tuple(made), tuple(sorted(needed)), powers)


def to_csv(project: Project, point: str | None = None) -> str:
    """Return the parts of the device as such a table; the watts are those of an operating point."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows(_rows(project, point))
    return out.getvalue()


def _rows(project: Project, point: str | None) -> Iterator[list[Any]]:
    powers = project.point(point).powers_w if project.points else {}
    for body in project.device.bodies:
        if isinstance(body, Component):
            x0, y0, x1, y1 = body.footprint.bounds
            watts = f"{powers[body.id].value:g}" if body.id in powers else ""
            middle = f"{(x0 + x1) / 2:g}", f"{(y0 + y1) / 2:g}"
            size = f"{x1 - x0:g} x {y1 - y0:g}"
            yield [defused(body.label), *middle, "0", body.side.value, size, f"{body.height_mm.value:g}", watts, body.role.value]
