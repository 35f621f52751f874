"""Plates of a described device: cooler, lid, spreader, rear plate and the walls of a case, with their landings and sinks."""

from __future__ import annotations

from ashen_bridge.changes.boxes import Box, hull, rect_of
from ashen_bridge.guided.facts import Facts, Plain, assumed, guess, outline, seated
from ashen_bridge.guided.wants import heat_w, least_rise_k
from ashen_bridge.library.typical import typical

_METAL, _PLASTIC = "aluminium_alloy", "plastic"
_SINK_SHARE = 0.65
"""What of the way from a die to the air a sink usually is; the rest is joints and silicon. Common practice, no source."""


def plates(facts: Facts) -> list[Plain]:
    """Return all plates."""
    if facts.box:
        return [*([_spreader(facts)] if facts.spreader else []), *_walls(facts)]
    made = [_lid(facts)] if facts.lidded else []
    made.append(_cooler(facts))
    if facts.backplate:
        made.append(_backplate(facts))
    return made


def _cooler(facts: Facts) -> Plain:
    return {
        "kind": "plate",
        "role": "cooler",
        "id": "cooler",
        "name": "Cooler base",
        "footprint": outline(facts.layout.plate),
        "thickness_mm": assumed("cooler_thickness_mm"),
        "material": "copper",
        "base": facts.of("base").value,
        "landings": landings(facts),
        "sink": _sink(facts),
    }


def _lid(facts: Facts) -> Plain:
    return {
        "kind": "plate",
        "role": "lid",
        "id": "lid",
        "name": "Lid",
        "footprint": outline(facts.layout.lid),
        "thickness_mm": seated("lid_thickness_mm"),
        "material": "copper",
    }


def _spreader(facts: Facts) -> Plain:
    return {
        "kind": "plate",
        "role": "spreader",
        "id": "spreader",
        "name": "Spreader",
        "footprint": outline(facts.layout.plate),
        "thickness_mm": seated("thin_spreader_thickness_mm"),
        "material": _METAL,
        "landings": landings(facts),
        "finish": {"emissivity": guess(0.2, 0.1, "bare metal")},
    }


def _walls(facts: Facts) -> list[Plain]:
    """Return both walls of a thin device: the cover over the chip, and the one behind the board."""
    thick, cover = float(facts.of("device_t_mm")), float(facts.of("cover_mm"))
    behind = round(thick - 2 * cover - typical("thin_board_thickness_mm").value - facts.cover_height, 3)
    wall = {
        "kind": "plate",
        "role": "case wall",
        "on": "case",
        "footprint": outline(facts.layout.case),
        "thickness_mm": facts.known("cover_mm", 0.15, 0.3),
        "material": _METAL if facts.of("cover") == "metal" else _PLASTIC,
        "finish": {"emissivity": guess(0.85, 0.08, "painted, anodised or plastic")},
        "give_um_n": assumed("wall_give_um_n"),
    }
    spread = 0.25 if facts.of("reach") == "pad" else 0.5
    seat = guess(facts.cover_height, spread, "from the heights under the cover; measure it first")
    over = wall | {"id": "case_wall", "name": "Cover", "height_mm": seat, "landings": [] if facts.spreader else landings(facts)}
    back = wall | {
        "id": "case_back",
        "name": "Back",
        "side": "rear",
        "height_mm": guess(behind, 0.3, "what the thickness leaves"),
    }
    return [over, back]


def _backplate(facts: Facts) -> Plain:
    metal = facts.of("rear_plate") == "metal"
    return {
        "kind": "plate",
        "role": "backplate",
        "id": "backplate",
        "name": "Rear plate",
        "side": "rear",
        "footprint": outline(facts.layout.back),
        "thickness_mm": assumed("backplate_thickness_mm" if metal else "plastic_backplate_thickness_mm"),
        "material": _METAL if metal else _PLASTIC,
    }


def _sink(facts: Facts) -> Plain:
    """Return a rated sink that goes with the heat and with what was seen; what the fan does not change grows with the rest."""
    seen = least_rise_k(facts)
    whole = _SINK_SHARE * (seen if seen is not None else 50.0) / heat_w(facts)
    share = typical("sink_fixed_share")
    fan = float(facts.of("fan_percent")) / 100
    exponent = guess(0.65, 0.1, "fan speed; common practice, no source")
    conv = whole / (1 + share.value) * fan**0.65
    note = "as goes with the temperature that was seen" if seen is not None else "not rated: assumed"
    return {
        "base_reference": "mean_base",
        "fixed_k_w": guess(share.value * conv, 0.5 * share.value * conv, "base to fins; common practice, no source"),
        "convective_k_w": guess(conv, 0.4 * conv, note),
        "exponent": exponent,
    }


def landings(facts: Facts) -> list[Plain]:
    """Return one landing over the parts of each side; its step is what the pad that is there leaves."""
    said = facts.said("pad_now_mm")
    spread = round(0.1 * facts.pad_mm + 0.05, 3) if said else 0.3
    known = "from the pad that is there" if said else "no pad thickness known"
    made = []

    def over(name: str, words: str, area: Box, height: float) -> None:
        step = guess(round(height + facts.gap_mm - facts.rest, 3), spread, f"{known}; measure it first")
        made.append({"id": f"landing_{name}", "name": words, "area": rect_of(area).model_dump(), "step_mm": step})

    tall = typical(facts.memory_height).value
    for side in ("left", "top", "right", "bottom"):
        if facts.memory_padded and any(where == side for _, where, _ in facts.memory.values()):
            over(side, f"Memory landing, {side}", facts.layout.landing(side), tall)
    if facts.regulators:
        x0, y0, x1, y1 = hull([box for _, box in facts.regulators.values()])
        area = (x0 - 1.0, y0 - 1.0, x1 + 1.0, y1 + 1.0)
        over("regulators", "Regulator landing", area, typical("regulator_height_mm").value)
    return made
