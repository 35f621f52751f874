"""A photo under the plan: two points that are known in it and on the board give its scale, turn and place."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.changes import records
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Image, Tracing
from ashen_bridge.model.refusals import validated

Point = tuple[float, float]


@dataclass(frozen=True)
class Similarity:
    """Pixels (y down) to board as it is looked at (y up): z = a·conj(p) + b, with a scale and a turn in a."""

    a: complex
    b: complex

    def place(self, pixel: Point) -> Point:
        """Return where a pixel is [mm]."""
        z = self.a * complex(pixel[0], -pixel[1]) + self.b
        return z.real, z.imag


def similarity(pixels: tuple[Point, Point], places: tuple[Point, Point]) -> Similarity:
    """Return the map that takes two pixels to two places [mm]. Raises `ProjectError` if two of them are the same."""
    p, q = (complex(x, -y) for x, y in pixels)
    u, v = (complex(x, y) for x, y in places)
    if p == q or u == v:
        raise ProjectError("The two points must be apart, in the photo and on the board.")
    a = (v - u) / (q - p)
    return Similarity(a, u - a * p)


def seen(point: Point, side: Side) -> Point:
    """Return a board place as it is looked at: the rear is turned over like the board in the hand."""
    return (-point[0], point[1]) if side is Side.REAR else point


def placed(tracing: Tracing) -> Similarity:
    """Return the map of a tracing, from its pixels to the board as it is looked at."""
    places = seen(tracing.board_a_mm, tracing.side), seen(tracing.board_b_mm, tracing.side)
    return similarity((tracing.pixel_a, tracing.pixel_b), places)


def add_tracing(
    project: Project, sha256: str, suffix: str, side: Side, size: Point, board: tuple[float, float, float, float]
) -> Edit:
    """Lay a photo under one side, stretched over the board's width until two points are told apart; replaces the one there."""
    image_id = fresh_id("photo_1", [image.id for image in project.images])
    width, height = size
    middle = (board[1] + board[3]) / 2
    left, right = (board[2], board[0]) if side is Side.REAR else (board[0], board[2])
    tracing = Tracing(
        id=fresh_id(f"tracing_{side.value}", [one.id for one in project.tracings if one.side is not side]),
        image=image_id,
        side=side,
        pixel_a=(0.0, height / 2),
        pixel_b=(width, height / 2),
        board_a_mm=(left, middle),
        board_b_mm=(right, middle),
    )
    image = validated(Image, "photo", id=image_id, name=f"Photo, {side.value}", sha256=sha256, suffix=suffix)
    return edit(f"Photo under the {side.value}", records.add_tracing, image, tracing)


def fit_tracing(tracing: Tracing, pixels: tuple[Point, Point], places: tuple[Point, Point]) -> Edit:
    """Place a photo by two known points; places are in board coordinates [mm]."""
    said = {"pixel_a": pixels[0], "pixel_b": pixels[1], "board_a_mm": places[0], "board_b_mm": places[1]}
    return edit("Place the photo", records.change_tracing, tracing.id, said)


def show_tracing(tracing: Tracing, shown: bool) -> Edit:
    """Show or hide a photo."""
    return edit("Show the photo" if shown else "Hide the photo", records.change_tracing, tracing.id, {"shown": shown})


def remove_tracing(tracing: Tracing) -> Edit:
    """Take a photo away."""
    return edit("Remove the photo", records.remove_tracing, tracing.id)
