"""Boards, dies, packages, regulators and pads of invented devices, as plain data."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ashen_bridge.simulated.draw import Draw, assumed, measured, outline, rect

Data = dict[str, Any]
Box = tuple[float, float, float, float]
"""Left and lower edge, width and depth [mm]."""
PADS = ("pad_soft", "pad_medium", "pad_firm")
STOCK_MM = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0)


@dataclass
class Parts:
    """What has been put on a device so far, and what chance draws the rest by."""

    draw: Draw
    bodies: list[Data] = field(default_factory=list)
    joints: list[Data] = field(default_factory=list)
    fasteners: list[Data] = field(default_factory=list)
    landings: list[Data] = field(default_factory=list)
    powers: Data = field(default_factory=dict)
    sensors: list[Data] = field(default_factory=list)

    def sense(self, body: str, reads: str, group: str) -> None:
        """Give a body a sensor."""
        self.sensors.append({"id": f"s_{body}_{reads}", "body": body, "reads": reads, "group": group})


def box_of(parts: Parts, body: str) -> Box:
    """Return where a body lies."""
    (found,) = (one["footprint"]["rects"][0] for one in parts.bodies if one["id"] == body)
    return found["x_mm"], found["y_mm"], found["w_mm"], found["h_mm"]


def board(parts: Parts, width: float, depth: float, *, bends: bool) -> None:
    """Add the board."""
    parts.bodies.append(
        {
            "kind": "board",
            "id": "board",
            "footprint": outline(0, 0, width, depth),
            "thickness_mm": measured(1.6, 0.05),
            "material": "board_fr4_6",
            "bends": bends,
        }
    )


def die_on_substrate(parts: Parts, centre: tuple[float, float], watts: float) -> tuple[float, float]:
    """Add a die of 8 to 26 mm on its substrate; returns its width and depth [mm]."""
    draw = parts.draw
    w, h = draw.between(8, 26, 1), draw.between(8, 26, 1)
    (cx, cy), thick = centre, draw.between(0.4, 0.9)
    side_w, side_h = w + draw.between(6, 18, 1), h + draw.between(6, 18, 1)
    parts.bodies.append(
        {
            "kind": "substrate",
            "id": "substrate",
            "on": "board",
            "footprint": outline(cx - side_w / 2, cy - side_h / 2, side_w, side_h),
            "thickness_mm": measured(draw.between(0.9, 1.6), 0.04),
            "material": "substrate_organic",
            "attach": {"resistance_mm2k_w": assumed(draw.between(40, 120, 0), 20.0)},
        }
    )
    parts.bodies.append(
        {
            "kind": "component",
            "role": "die",
            "id": "die",
            "on": "substrate",
            "footprint": outline(cx - w / 2, cy - h / 2, w, h),
            "height_mm": measured(thick, 0.02),
            "make_up": {"type": "die", "material": "silicon", "power_map": power_map(draw, w, h)},
            "attach": {"resistance_mm2k_w": assumed(draw.between(8, 16, 0), 4.0)},
        }
    )
    parts.powers["die"] = measured(watts, 0.03 * watts)
    parts.sense("die", "max", "Die")
    parts.sense("die", "mean", "Die")
    return w, h


def power_map(draw: Draw, w: float, h: float) -> list[Data]:
    """Return no blocks, or 2 to 8 that share 40 to 85 % of the power, on a grid of cells of the die."""
    if draw.chance(0.35):
        return []
    count, across = draw.whole(2, 8), 4 if w >= h else 2
    up = 8 // across
    cells = [(i, j) for j in range(up) for i in range(across)]
    share = draw.between(0.4, 0.85) / count
    blocks = []
    for n in range(count):
        i, j = cells.pop(draw.whole(0, len(cells) - 1))
        cell_w, cell_h = w / across, h / up
        bw, bh = cell_w * draw.between(0.5, 0.9), cell_h * draw.between(0.5, 0.9)
        area = rect(i * cell_w + (cell_w - bw) / 2, j * cell_h + (cell_h - bh) / 2, bw, bh)
        blocks.append({"id": f"block_{n}", "area": area, "share": round(share, 4)})
    return blocks


def memory(parts: Parts, name: str, box: Box, side: str = "front", watts: tuple[float, float] = (2.0, 4.0)) -> float:
    """Add a memory package; returns its height [mm]."""
    x, y, w, h = box
    draw = parts.draw
    height = draw.between(0.9, 1.3)
    parts.bodies.append(
        {
            "kind": "component",
            "role": "memory",
            "id": name,
            "on": "board",
            "side": side,
            "footprint": outline(x, y, w, h),
            "height_mm": measured(height, 0.02),
            "make_up": {
                "type": "package",
                "active_material": "silicon",
                "active_w_mm": round(w * draw.between(0.6, 0.8), 2),
                "active_h_mm": round(h * draw.between(0.6, 0.8), 2),
                "active_thickness_mm": assumed(draw.between(0.15, 0.25), 0.04),
                "ball_thickness_mm": assumed(0.3, 0.04),
                "junction_to_case_k_w": measured(draw.between(2.0, 4.5, 1), 0.4),
                "junction_to_board_k_w": measured(draw.between(8, 12, 1), 1.5),
            },
            "attach": {"resistance_mm2k_w": assumed(draw.between(4, 8, 1), 2.0)},
        }
    )
    parts.powers[name] = assumed(draw.between(*watts), 0.15 * watts[1])
    parts.sense(name, "max", "Memory")
    return height


def regulator(parts: Parts, name: str, box: Box, side: str = "front", watts: tuple[float, float] = (0.5, 1.8)) -> float:
    """Add a small regulator stage, rarely with a sensor; returns its height [mm]."""
    draw = parts.draw
    height = draw.between(0.7, 1.2)
    parts.bodies.append(
        {
            "kind": "component",
            "role": "regulator",
            "id": name,
            "on": "board",
            "side": side,
            "footprint": outline(*box),
            "height_mm": measured(height, 0.02),
            "make_up": {"type": "solid", "material": "power_stage"},
            "attach": {"resistance_mm2k_w": assumed(draw.between(10, 20, 0), 5.0)},
        }
    )
    parts.powers[name] = assumed(draw.between(*watts), 0.15 * watts[1])
    if draw.chance(0.3):
        parts.sense(name, "max", "Regulators")
    return height


def pad(parts: Parts, over: str, upper: str, thickness: float, cover: float = 0.0) -> None:
    """Add a pad over one part that covers 30 to 100 % of it, from one side or a corner; `cover` settles how much."""
    draw, (x, y, w, h) = parts.draw, box_of(parts, over)
    share = cover or (1.0 if draw.chance(0.5) else draw.between(0.3, 0.95))
    piece: Data = {"id": "pad", "material": draw.one_of(*PADS), "thickness_mm": measured(thickness, 0.05 * thickness)}
    if share < 1:
        along = draw.one_of("x", "y")
        pw, ph = (w * share, h) if along == "x" else (w, h * share)
        piece["footprint"] = outline(x + draw.one_of(0.0, w - pw), y + draw.one_of(0.0, h - ph), pw, ph)
    parts.joints.append({"id": f"pad_{over}", "upper": upper, "lower": [over], "pieces": [piece]})


def paste(joint: str, upper: str, lower: str, volume: float, material: str = "paste_filled") -> Data:
    """Return a paste joint."""
    piece = {"id": "paste", "material": material, "volume_mm3": measured(round(volume, 1), round(0.2 * volume, 1))}
    return {"id": joint, "upper": upper, "lower": [lower], "pieces": [piece]}
