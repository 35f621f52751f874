"""Where things stand on a board that was only described: the die in the middle, parts around it, a plate over all."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ashen_bridge.changes.boxes import Box, contains, hull, shifted
from ashen_bridge.editing.arrange import around
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.questions import has_spreader, rear_parts
from ashen_bridge.guided.usual import value_of
from ashen_bridge.library.typical import typical

PART = (12.0, 14.0)  # width and height of a memory package as it stands beside the die [mm]
SMALL_PART = (10.0, 12.0)  # in a thin device
REGULATOR = (5.0, 6.0)
RIM = 9.0  # of the carrier around the die
_THIN_RIM, _LID_RIM = 3.0, 4.0
_GAP, _BETWEEN = 7.0, 3.0
_SIDES = {"left": "L", "top": "T", "right": "R", "bottom": "B"}
_BOARD_EDGE, _PLATE_EDGE, _COOLER_EDGE = 16.0, 10.0, 14.0
_CASE_EDGE = 5.0  # of the board inside a case
PAD_GAP_MM, AIR_GAP_MM = 1.0, 1.0  # under the cover; common practice, no source
FILM_MM = 0.04


@dataclass(frozen=True)
class Layout:
    """Boxes in board coordinates [mm]; `parts` by short name, with the side of the die they stand on.

    `plate` is the cooler's base, or the spreader of a thin device; `case` its outline. `holds_parts`: whether all of it fits.
    """

    board: Box
    substrate: Box
    die: Box
    lid: Box
    parts: dict[str, tuple[str, Box]]
    regulators: dict[str, Box]
    rear: dict[str, Box]
    plate: Box
    back: Box
    case: Box
    screws: tuple[tuple[float, float], ...]
    holds_parts: bool = True

    def landing(self, side: str) -> Box:
        """Return the landing over the parts on one side of the die."""
        return _grown(hull([box for where, box in self.parts.values() if where == side]), 1.5)


def lay_out(answers: Answers) -> Layout:
    """Return where everything stands."""
    w, h = value_of(answers, "die_w_mm"), value_of(answers, "die_h_mm")
    die = (-w / 2, -h / 2, w / 2, h / 2)
    lid = _grown(die, 2.0)
    match answers.kind:
        case DeviceKind.BOX:
            return _device(answers, die)
        case DeviceKind.LIDDED:
            x, y = value_of(answers, "lid_w_mm") / 2, value_of(answers, "lid_h_mm") / 2
            lid = (-x, -y, x, y)
            substrate, counts = _grown(lid, _LID_RIM), (0, 0, 0, 0)
        case _:
            substrate, counts = _grown(die, RIM), value_of(answers, "around")
    parts = _named(_around(substrate, counts, PART))
    inner = hull([substrate, *(box for _, box in parts.values())])
    regulators = _regulators(value_of(answers, "regulators") if answers.kind is not DeviceKind.LIDDED else 0, inner)
    rear = {f"rear {n + 1}": box for n, box in enumerate(_rear_row(rear_parts(answers), inner))}
    edge = _COOLER_EDGE if answers.kind is DeviceKind.LIDDED else _PLATE_EDGE
    plate = _grown(hull([inner, *regulators.values()]), edge)
    back = hull([plate, *(_grown(box, 8.0) for box in rear.values())])
    board = _grown(hull([plate, back]), _BOARD_EDGE)
    screws = _screws(value_of(answers, "screws"), substrate, plate)
    return _moved(Layout(board, substrate, die, lid, parts, regulators, rear, plate, back, board, screws))


def device_box(answers: Answers) -> Layout:
    """Return the layout of a thin device: its outline is given, and what stands inside may not fit."""
    return lay_out(answers)


def _device(answers: Answers, die: Box) -> Layout:
    x, y = value_of(answers, "device_w_mm") / 2, value_of(answers, "device_h_mm") / 2
    case, board = (-x, -y, x, y), _grown((-x, -y, x, y), -_CASE_EDGE)
    substrate = _grown(die, _THIN_RIM)
    parts = _named(_around(substrate, value_of(answers, "around"), SMALL_PART))
    px, py = value_of(answers, "spreader_w_mm") / 2, value_of(answers, "spreader_h_mm") / 2
    plate = (-px, -py, px, py) if has_spreader(answers) else substrate
    inner = hull([substrate, *(box for _, box in parts.values())])
    made = Layout(board, substrate, die, die, parts, {}, {}, plate, board, case, _corners(plate, -2.5))
    return _moved(replace(made, holds_parts=contains(board, inner)))


def stack_mm(answers: Answers) -> tuple[float, float]:
    """Return how high a thin device's stack reaches above its board, and how high the cover's inner face lies [mm]."""
    top = typical("thin_chip_height_mm").value + typical("thin_substrate_thickness_mm").value
    if has_spreader(answers):
        on_chip = 0.8 * value_of(answers, "pad_now_mm") if value_of(answers, "on_chip") == "pad" else FILM_MM
        top += on_chip + typical("thin_spreader_thickness_mm").value
    return top, top + (PAD_GAP_MM if value_of(answers, "reach") == "pad" else AIR_GAP_MM)


def least_device(answers: Answers) -> float:
    """Return how thick a thin device with such covers must be at least [mm]."""
    inside = stack_mm(answers)[1] + typical("thin_board_thickness_mm").value
    return round(2 * float(value_of(answers, "cover_mm")) + inside + 0.3, 3)


def _named(places: list[tuple[str, Box]]) -> dict[str, tuple[str, Box]]:
    counted: dict[str, int] = {}
    named = {}
    for side, box in places:
        counted[side] = counted.get(side, 0) + 1
        named[f"{_SIDES[side]}{counted[side]}"] = side, box
    return named


def _around(substrate: Box, counts: tuple[int, int, int, int], size: tuple[float, float]) -> list[tuple[str, Box]]:
    """Return the places around the substrate; rows too wide to pass between the columns stand clear of their ends."""
    left, top, right, bottom = counts
    columns = around(substrate, size, (left, 0, right, 0), _GAP, _BETWEEN)
    places = list(columns)
    for row in ((0, top, 0, 0), (0, 0, 0, bottom)):
        length = sum(row) * (size[1] + _BETWEEN) - _BETWEEN
        passes = length / 2 + _BETWEEN <= (substrate[2] - substrate[0]) / 2 + _GAP
        inner = substrate if passes or not columns else hull([substrate, *(box for _, box in columns)])
        places += around((substrate[0], inner[1], substrate[2], inner[3]), size, row, _GAP, _BETWEEN)
    return places


def _regulators(count: int, inner: Box) -> dict[str, Box]:
    """Regulators stand in columns at the right of everything else."""
    w, h = REGULATOR
    rows = max(1, int((inner[3] - inner[1] + _BETWEEN) // (h + _BETWEEN)))
    made = {}
    for n in range(count):
        x = inner[2] + _GAP + (n // rows) * (w + _BETWEEN)
        y = inner[1] + (n % rows) * (h + _BETWEEN)
        made[f"V{n + 1}"] = (x, y, x + w, y + h)
    return made


def _rear_row(count: int, inner: Box) -> list[Box]:
    """Rear parts stand in a row behind the middle, clear of the screws."""
    w, h = PART
    step = w + _BETWEEN
    y = (inner[1] + inner[3]) / 2
    return [
        (x - w / 2, y - h / 2, x + w / 2, y + h / 2)
        for x in ((inner[0] + inner[2]) / 2 + (n - (count - 1) / 2) * step for n in range(count))
    ]


def _screws(count: int, substrate: Box, plate: Box) -> tuple[tuple[float, float], ...]:
    """Screws stand evenly round the die, the first four at the substrate's corners; further ones at the plate's rim."""
    out = 4.0
    x0, y0, x1, y1 = _grown(substrate, out)
    px0, py0, px1, py1 = _grown(plate, -out)
    rim = [(px0, py0), (px1, py1), (px1, py0), (px0, py1), (px0, 0.0), (px1, 0.0), (0.0, py0), (0.0, py1)]
    if count == 3:
        return ((0.0, y1), (x0, y0), (x1, y0))
    if count == 2:
        return ((x0, 0.0), (x1, 0.0))
    return tuple([*_corners(substrate, out), *rim][:count])


def _corners(box: Box, out: float) -> tuple[tuple[float, float], ...]:
    x0, y0, x1, y1 = _grown(box, out)
    return ((x0, y0), (x1, y1), (x1, y0), (x0, y1))


def _grown(box: Box, by: float) -> Box:
    x0, y0, x1, y1 = box
    return x0 - by, y0 - by, x1 + by, y1 + by


def _moved(layout: Layout) -> Layout:
    """Return the layout with the board's lower left corner at the origin."""
    dx, dy = -layout.board[0], -layout.board[1]

    def by(box: Box) -> Box:
        x0, y0, x1, y1 = shifted(box, dx, dy)
        return round(x0, 3), round(y0, 3), round(x1, 3), round(y1, 3)

    return replace(
        layout,
        board=by(layout.board),
        substrate=by(layout.substrate),
        die=by(layout.die),
        lid=by(layout.lid),
        parts={name: (side, by(box)) for name, (side, box) in layout.parts.items()},
        regulators={name: by(box) for name, box in layout.regulators.items()},
        rear={name: by(box) for name, box in layout.rear.items()},
        plate=by(layout.plate),
        back=by(layout.back),
        case=by(layout.case),
        screws=tuple((round(x + dx, 3), round(y + dy, 3)) for x, y in layout.screws),
    )
