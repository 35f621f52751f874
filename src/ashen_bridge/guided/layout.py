"""Where things stand on a board that was only described: the die in the middle, parts around it, a plate over all."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.changes.boxes import Box, hull, shifted
from ashen_bridge.editing.arrange import around
from ashen_bridge.guided.answers import Answers, DeviceKind

PART = (12.0, 14.0)  # width and height of a memory package as it stands beside the die [mm]
_RIM = 9.0  # of the substrate around the die
_GAP, _BETWEEN = 7.0, 3.0
_SIDES = {"left": "L", "top": "T", "right": "R", "bottom": "B"}


@dataclass(frozen=True)
class Layout:
    """Boxes in board coordinates [mm]; `parts` by short name, with the side of the die they stand on."""

    board: Box
    substrate: Box
    die: Box
    parts: dict[str, tuple[str, Box]]
    rear: dict[str, Box]
    plate: Box
    back: Box
    screws: tuple[tuple[float, float], ...]

    def landing(self, side: str) -> Box:
        """Return the landing over the parts on one side of the die."""
        x0, y0, x1, y1 = hull([box for where, box in self.parts.values() if where == side])
        return x0 - 1.5, y0 - 1.5, x1 + 1.5, y1 + 1.5


def lay_out(answers: Answers) -> Layout:
    """Return where everything stands."""
    w, h = answers.die_w_mm, answers.die_h_mm
    die = (-w / 2, -h / 2, w / 2, h / 2)
    substrate = (die[0] - _RIM, die[1] - _RIM, die[2] + _RIM, die[3] + _RIM)
    counted: dict[str, int] = {}
    parts: dict[str, tuple[str, Box]] = {}
    for side, box in _around(substrate, answers.around):
        counted[side] = counted.get(side, 0) + 1
        parts[f"{_SIDES[side]}{counted[side]}"] = side, box
    inner = hull([substrate, *(box for _, box in parts.values())])
    rear = {f"rear {n + 1}": box for n, box in enumerate(_rear_row(answers.rear, inner))}
    edge = 10.0 if answers.kind is not DeviceKind.LIDDED else 22.0
    plate = (inner[0] - edge, inner[1] - edge, inner[2] + edge, inner[3] + edge)
    board_edge = 16.0
    back = hull([plate, *((x0 - 8, y0 - 8, x1 + 8, y1 + 8) for x0, y0, x1, y1 in rear.values())])
    whole = hull([plate, back])
    board = (whole[0] - board_edge, whole[1] - board_edge, whole[2] + board_edge, whole[3] + board_edge)
    placed = Layout(board, substrate, die, parts, rear, plate, back, _screws(answers.screws, substrate, parts, plate))
    return _moved(placed, -board[0], -board[1])


def _around(substrate: Box, counts: tuple[int, int, int, int]) -> list[tuple[str, Box]]:
    """Return the places around the substrate; rows too wide to pass between the columns stand clear of their ends."""
    left, top, right, bottom = counts
    columns = around(substrate, PART, (left, 0, right, 0), _GAP, _BETWEEN)
    places = list(columns)
    for row in ((0, top, 0, 0), (0, 0, 0, bottom)):
        length = sum(row) * (PART[1] + _BETWEEN) - _BETWEEN
        passes = length / 2 + _BETWEEN <= (substrate[2] - substrate[0]) / 2 + _GAP
        inner = substrate if passes or not columns else hull([substrate, *(box for _, box in columns)])
        places += around((substrate[0], inner[1], substrate[2], inner[3]), PART, row, _GAP, _BETWEEN)
    return places


def _rear_row(count: int, inner: Box) -> list[Box]:
    """Rear parts stand in a row above the middle, clear of the screws."""
    w, h = PART
    step = w + _BETWEEN
    y = (inner[1] + inner[3]) / 2
    return [
        (x - w / 2, y - h / 2, x + w / 2, y + h / 2)
        for x in ((inner[0] + inner[2]) / 2 + (n - (count - 1) / 2) * step for n in range(count))
    ]


def _screws(count: int, substrate: Box, parts: dict[str, tuple[str, Box]], plate: Box) -> tuple[tuple[float, float], ...]:
    """Screws stand evenly round the die, the first four at the substrate's corners; further ones at the plate's rim."""
    del parts
    out = 4.0
    x0, y0, x1, y1 = substrate[0] - out, substrate[1] - out, substrate[2] + out, substrate[3] + out
    corners = [(x0, y0), (x1, y1), (x1, y0), (x0, y1)]
    px0, py0, px1, py1 = plate[0] + out, plate[1] + out, plate[2] - out, plate[3] - out
    rim = [(px0, py0), (px1, py1), (px1, py0), (px0, py1), (px0, 0.0), (px1, 0.0), (0.0, py0), (0.0, py1)]
    if count == 3:
        return ((0.0, y1), (x0, y0), (x1, y0))
    if count == 2:
        return ((x0, 0.0), (x1, 0.0))
    return tuple((corners + rim)[:count])


def _moved(layout: Layout, dx: float, dy: float) -> Layout:
    def by(box: Box) -> Box:
        x0, y0, x1, y1 = shifted(box, dx, dy)
        return round(x0, 3), round(y0, 3), round(x1, 3), round(y1, 3)

    return Layout(
        by(layout.board),
        by(layout.substrate),
        by(layout.die),
        {name: (side, by(box)) for name, (side, box) in layout.parts.items()},
        {name: by(box) for name, box in layout.rear.items()},
        by(layout.plate),
        by(layout.back),
        tuple((round(x + dx, 3), round(y + dy, 3)) for x, y in layout.screws),
    )
