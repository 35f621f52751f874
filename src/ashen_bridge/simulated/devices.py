"""One invented device per seed: a card with a bare die, a lidded processor, or a sealed box without a fan."""

from __future__ import annotations

from typing import Any, Literal

from ashen_bridge.library import materials
from ashen_bridge.model.project import FORMAT_VERSION
from ashen_bridge.simulated.draw import Draw, assumed, measured, outline, rect
from ashen_bridge.simulated.parts import (
    PADS,
    STOCK_MM,
    Data,
    Parts,
    board,
    box_of,
    die_on_substrate,
    memory,
    pad,
    paste,
    regulator,
)

Kind = Literal["card", "lidded", "fanless"]
KINDS: tuple[Kind, ...] = ("card", "lidded", "fanless")
_BOND_MM = 0.05


def device(seed: int, kind: Kind | None = None) -> Data:
    """Return an invented device as the plain data of a project with one build and one operating point.

    The same seed gives the same device. `kind` is drawn from the seed where it is not given.
    """
    draw = Draw(seed)
    drawn = KINDS[draw.whole(0, 2)]
    kind = kind or drawn
    parts, point = Parts(draw), {"id": "load", "ambient_c": measured(draw.between(20, 32, 1), 0.5)}
    {"card": _card, "lidded": _lidded, "fanless": _fanless}[kind](parts, point)
    return {
        "format": "ashen-bridge",
        "version": FORMAT_VERSION,
        "name": f"Invented {kind} {seed}",
        "device": {"bodies": parts.bodies, "fasteners": parts.fasteners, "sensors": parts.sensors},
        "materials": [one.model_dump(mode="json") for one in materials().values()],
        "builds": [{"id": "now", "joints": parts.joints}],
        "points": [point | {"powers_w": parts.powers}],
    }


def _card(parts: Parts, point: Data) -> None:
    draw = parts.draw
    width, depth = draw.between(130, 180, 0), draw.between(90, 110, 0)
    centre = (round(width * 0.45, 1), round(depth * 0.5, 1))
    board(parts, width, depth, bends=draw.chance(0.4))
    w, h = die_on_substrate(parts, centre, draw.between(60, 220, 0))
    top = _top_of_die(parts)
    _around(parts, centre, "cooler", top)
    parts.joints.append(paste("die_joint", "cooler", "die", w * h * draw.between(0.08, 0.25)))
    parts.bodies.append(_cooler(parts, outline(centre[0] - 50, 2, min(width - centre[0], 78) + 48, depth - 4)))
    _held(parts, "cooler", _corners(centre, 26.0), top + _BOND_MM)
    if draw.chance(0.5):
        _rear(parts, centre)
    point["fans_percent"] = {"cooler": measured(draw.between(40, 100, 0), 2.0)}


def _lidded(parts: Parts, point: Data) -> None:
    draw = parts.draw
    width, depth = 120.0, 110.0
    centre = (round(draw.between(52, 64, 1), 1), 55.0)
    board(parts, width, depth, bends=False)
    w, h = die_on_substrate(parts, centre, draw.between(50, 180, 0))
    top, lid_mm = _top_of_die(parts), draw.between(1.5, 3.0)
    between = draw.one_of("solder_indium", "paste_general", "liquid_metal")
    if between == "solder_indium":
        under: Data = {"id": "solder", "material": between, "thickness_mm": measured(draw.between(0.2, 0.4), 0.02)}
        bond = under["thickness_mm"]["value"]
    else:
        under = {"id": "fill", "material": between, "volume_mm3": measured(round(w * h * 0.15, 1), 5.0)}
        bond = _BOND_MM
    parts.joints.append({"id": "under_lid", "upper": "lid", "lower": ["die"], "pieces": [under]})
    size = max(w, h) + draw.between(10, 20, 0)
    parts.bodies.append(
        {
            "kind": "plate",
            "role": "lid",
            "id": "lid",
            "footprint": outline(centre[0] - size / 2, centre[1] - size / 2, size, size),
            "thickness_mm": measured(lid_mm, 0.05),
            "material": "copper",
            "form": {"crown_um": measured(draw.between(-15, 15, 0), 6.0)},
            "finish": {"emissivity": assumed(0.1, 0.05)},
        }
    )
    parts.joints.append(paste("lid_joint", "cooler", "lid", size * size * 0.15, "paste_general"))
    foot = size + draw.between(0, 12, 0)
    parts.bodies.append(_cooler(parts, outline(centre[0] - foot / 2, centre[1] - foot / 2, foot, foot)))
    _held(parts, "cooler", _corners(centre, foot / 2 - 2), top + bond + lid_mm + _BOND_MM)
    for n in range(draw.whole(0, 6)):
        memory(parts, f"mem_{n}", (98.0, 4.0 + 17 * n, 11.0, 13.0), watts=(0.3, 1.2))
    for n in range(draw.whole(0, 6)):
        box = (4.0, 8.0 + 15 * n, draw.between(3.5, 7, 1), draw.between(3.5, 6, 1))
        regulator(parts, f"reg_{n}", box, watts=(0.2, 0.8))
    point["fans_percent"] = {"cooler": measured(draw.between(40, 100, 0), 2.0)}


def _fanless(parts: Parts, point: Data) -> None:
    draw = parts.draw
    width, depth = draw.between(90, 130, 0), draw.between(70, 90, 0)
    centre = (round(width * 0.42, 1), round(depth * 0.5, 1))
    board(parts, width, depth, bends=False)
    die_on_substrate(parts, centre, draw.between(2.0, 7.0, 1))
    top = _top_of_die(parts)
    thickness = draw.one_of(0.5, 0.75)
    spread = (centre[0] - 18, centre[1] - 16, draw.between(38, 52, 0), draw.between(32, 40, 0))
    for n in range(draw.whole(0, 2)):
        x, y = centre[0] + 23, centre[1] - 14 + 15 * n
        memory(parts, f"mem_{n}", (x, y, 10.0, 12.0), watts=(0.2, 0.8))
    for n in range(draw.whole(0, 4)):
        box = (5.0, 8.0 + 14 * n, draw.between(3, 6, 1), draw.between(3, 6, 1))
        regulator(parts, f"reg_{n}", box, watts=(0.1, 0.4))
    piece = {"id": "pad", "material": draw.one_of(*PADS), "thickness_mm": measured(thickness, 0.05)}
    parts.joints.append({"id": "die_pad", "upper": "spreader", "lower": ["die"], "pieces": [piece]})
    seat = top + 0.8 * thickness
    parts.bodies.append(
        {
            "kind": "plate",
            "role": "spreader",
            "id": "spreader",
            "footprint": outline(*spread),
            "thickness_mm": measured(draw.between(1.0, 2.5), 0.05),
            "material": draw.one_of("aluminium_alloy", "copper"),
        }
    )
    _held(parts, "spreader", _corners(centre, 14.0), seat, rate=3.0)
    spreader = parts.bodies[-1]
    gap = draw.between(0.8, 2.2)
    for name, side in (("wall", "front"), ("back", "rear")):
        height = seat + spreader["thickness_mm"]["value"] + gap if side == "front" else draw.between(3, 8, 1)
        parts.bodies.append(
            {
                "kind": "plate",
                "role": "case wall",
                "id": name,
                "on": "case",
                "side": side,
                "footprint": outline(-6, -6, width + 12, depth + 12),
                "thickness_mm": measured(draw.between(1.5, 3.0), 0.05),
                "height_mm": measured(round(height, 3), 0.1),
                "material": draw.one_of("aluminium_alloy", "plastic"),
                "finish": {"emissivity": assumed(0.85, 0.05)},
            }
        )
    if draw.chance(0.7):
        stock = next((t for t in (*STOCK_MM, 2.5, 3.0) if t > gap * 1.08), 3.0)
        outer = {"id": "pad", "material": "pad_soft", "thickness_mm": measured(stock, 0.05 * stock)}
        outer["footprint"] = outline(centre[0] - 12, centre[1] - 10, draw.between(12, 24, 0), draw.between(10, 20, 0))
        parts.joints.append({"id": "wall_pad", "upper": "wall", "lower": ["spreader"], "pieces": [outer]})
    point |= {"convection": "natural", "inside": draw.one_of("sealed", "given"), "orientation": draw.one_of("flat", "upright")}


def _top_of_die(parts: Parts) -> float:
    by_id = {body["id"]: body for body in parts.bodies}
    return float(by_id["substrate"]["thickness_mm"]["value"] + by_id["die"]["height_mm"]["value"])


def _around(parts: Parts, centre: tuple[float, float], plate: str, top: float) -> None:
    """Add memory around the die and regulators beside it, each under a landing and a pad of its own."""
    draw = parts.draw
    cx, cy = centre
    spots = [(cx - 42, cy - 26 + 17 * n, 11.0, 13.0) for n in range(4)]
    spots += [(cx + 31, cy - 26 + 17 * n, 11.0, 13.0) for n in range(4)]
    spots += [(cx - 30 + 15 * n, cy + 29, 13.0, 11.0) for n in range(4)]
    for n in range(draw.whole(0, 12)):
        box = spots[n]
        _under(parts, f"mem_{n}", plate, top, memory(parts, f"mem_{n}", box))
    for n in range(draw.whole(0, 12)):
        box = (cx + 47 + 11 * (n % 2), cy - 36 + 11 * (n // 2), draw.between(3.5, 7, 1), draw.between(3.5, 6, 1))
        height = regulator(parts, f"reg_{n}", box)
        if draw.chance(0.85):
            _under(parts, f"reg_{n}", plate, top, height)


def _under(parts: Parts, name: str, plate: str, top: float, height: float) -> None:
    """Put a pad and a landing over a part: compressed by about a fifth, sometimes out of reach, sometimes far too thick."""
    draw = parts.draw
    thickness = draw.one_of(*STOCK_MM)
    gap = thickness * draw.between(0.72, 1.02)
    x, y, w, h = box_of(parts, name)
    step = measured(round(height + gap - top - _BOND_MM, 3), 0.03)
    parts.landings.append({"id": f"over_{name}", "area": rect(x - 1, y - 1, w + 2, h + 2), "step_mm": step})
    pad(parts, name, plate, thickness)


def _cooler(parts: Parts, footprint: Data) -> Data:
    draw = parts.draw
    return {
        "kind": "plate",
        "role": "cooler",
        "id": "cooler",
        "footprint": footprint,
        "thickness_mm": measured(draw.between(3, 8, 1), 0.1),
        "material": draw.one_of("copper", "aluminium_alloy"),
        "form": {"crown_um": measured(draw.between(-20, 20, 0), 8.0)},
        "finish": {"emissivity": assumed(0.1, 0.05)},
        "landings": parts.landings,
        "sink": {
            "type": "rated",
            "base_reference": "mean_base",
            "fixed_k_w": measured(draw.between(0.01, 0.05, 3), 0.005),
            "convective_k_w": measured(draw.between(0.08, 0.25, 3), 0.015),
            "exponent": measured(draw.between(0.5, 0.8), 0.08),
        },
    }


def _corners(centre: tuple[float, float], span: float) -> list[tuple[float, float]]:
    return [(centre[0] + sx * span, centre[1] + sy * span) for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1))]


def _held(parts: Parts, plate: str, corners: list[tuple[float, float]], rest: float, rate: float = 12.0) -> None:
    """Hold a plate at its corners by screws of one kind, one side sometimes tighter than the other."""
    draw = parts.draw
    kind = draw.one_of("sprung", "spring arm", "shouldered", "fixed")
    travel, tilt = draw.between(2.0, 4.0), draw.one_of(1.0, 1.0, draw.between(0.6, 1.0))
    middle = sum(x for x, _ in corners) / len(corners)
    for n, (x, y) in enumerate(corners):
        place = {"id": f"screw_{n}", "joins": [plate, "board"], "x_mm": x, "y_mm": y}
        share = tilt if x > middle else 1.0
        how: Data
        if kind in ("sprung", "spring arm"):
            how = {"rate_n_mm": measured(rate, 0.1 * rate), "travel_mm": measured(round(travel * share, 3), 0.15)}
            how["reference_mm"] = measured(round(rest, 3), 0.05)
        else:
            how = {"preload_n": assumed(round(rate * travel * share, 1), 10.0), "seat_mm": measured(round(rest - 0.05, 3), 0.02)}
        parts.fasteners.append(place | {"kind": kind} | how)


def _rear(parts: Parts, centre: tuple[float, float]) -> None:
    """Add parts on the rear under a screwed plate of metal or plastic, touching by pads or over air."""
    draw = parts.draw
    cx, cy = centre
    boxes = [(cx - 24 + 15 * n, cy + 24, 13.0, 11.0) for n in range(draw.whole(0, 4))]
    pads, clear = draw.chance(0.6), draw.one_of(1.0, 1.5)
    tallest = 0.0
    for n, box in enumerate(boxes):
        height = memory(parts, f"rear_{n}", box, "rear")
        tallest = max(tallest, height)
        if pads:
            pad(parts, f"rear_{n}", "backplate", clear, 1.0)
    seat = round((tallest or 1.0) + clear * (0.8 if pads and boxes else 1.0), 3)
    parts.bodies.append(
        {
            "kind": "plate",
            "role": "backplate",
            "id": "backplate",
            "side": "rear",
            "footprint": outline(cx - 44, cy - 40, 84, 78),
            "thickness_mm": measured(draw.between(1.0, 2.0), 0.05),
            "material": draw.one_of("aluminium_alloy", "plastic"),
        }
    )
    for n, (sx, sy) in enumerate(((-1, -1), (1, -1), (1, 1), (-1, 1))):
        parts.fasteners.append(
            {
                "id": f"rear_{n}",
                "kind": "fixed",
                "joins": ["backplate", "board"],
                "x_mm": cx - 2 + sx * 38,
                "y_mm": cy - 1 + sy * 36,
                "preload_n": assumed(draw.between(30, 80, 0), 20.0),
                "seat_mm": measured(seat, 0.05),
            }
        )


def any_of(seed: int, count: int) -> list[dict[str, Any]]:
    """Return some devices, the kinds in turn."""
    return [device(seed + n, KINDS[n % len(KINDS)]) for n in range(count)]
