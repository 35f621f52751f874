"""Bodies of a described device: board, substrate, die, packages, plates with their landings."""

from __future__ import annotations

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.guided.answers import DeviceKind
from ashen_bridge.guided.facts import BOX_PAD_MM, SQUEEZE, Facts, Plain, assumed, outline
from ashen_bridge.library.typical import copper_layers, typical
from ashen_bridge.model.quantity import q


def bodies(facts: Facts) -> list[Plain]:
    """Return all bodies."""
    layout = facts.layout
    thin = facts.kind is DeviceKind.BOX
    bodies: list[Plain] = [
        {
            "kind": "board",
            "id": "board",
            "name": "Board",
            "footprint": outline(layout.board),
            "thickness_mm": assumed("thin_board_thickness_mm" if thin else "board_thickness_mm"),
            "material": "laminate_glass",
            "copper": copper_layers(4 if thin else 6),
        },
        {
            "kind": "substrate",
            "id": "substrate",
            "name": "Substrate",
            "on": "board",
            "footprint": outline(layout.substrate),
            "thickness_mm": assumed("substrate_thickness_mm"),
            "material": "substrate_organic",
            "attach": {"resistance_mm2k_w": assumed("substrate_attach_mm2k_w")},
        },
        {
            "kind": "component",
            "role": "die",
            "id": "die",
            "name": "Die",
            "on": "substrate",
            "footprint": outline(layout.die),
            "height_mm": assumed("die_height_mm"),
            "make_up": {"type": "die", "material": "silicon"},
            "attach": {"resistance_mm2k_w": assumed("die_attach_mm2k_w")},
        },
    ]
    bodies += [_memory(facts, name, f"Memory {label}", box, "front") for name, (label, _, box) in facts.memory.items()]
    bodies += [_memory(facts, name, f"Memory {label}", box, "rear") for name, (label, box) in facts.rear.items()]
    return bodies + _plates(facts)


def _memory(facts: Facts, name: str, label: str, box: Box, side: str) -> Plain:
    w, h = box[2] - box[0], box[3] - box[1]
    return {
        "kind": "component",
        "role": "memory",
        "id": name,
        "name": label,
        "on": "board",
        "side": side,
        "footprint": outline(box),
        "height_mm": assumed("memory_height_mm"),
        "make_up": {
            "type": "package",
            "active_material": "silicon",
            "active_w_mm": round(0.72 * w, 2),
            "active_h_mm": round(0.72 * h, 2),
            "active_thickness_mm": q(0.2, 0.05, "assumed", "silicon in the package").model_dump(mode="json"),
            "ball_thickness_mm": q(0.3, 0.05, "assumed", "ball layer").model_dump(mode="json"),
            "junction_to_case_k_w": assumed("memory_junction_to_case_k_w"),
            "junction_to_board_k_w": assumed("memory_junction_to_board_k_w"),
        },
        "attach": {"resistance_mm2k_w": assumed("package_attach_mm2k_w")},
    }


def _plates(facts: Facts) -> list[Plain]:
    box = facts.kind is DeviceKind.BOX
    plate: Plain = {
        "kind": "plate",
        "role": "spreader" if box else "cooler",
        "id": facts.plate_id,
        "name": "Spreader" if box else "Cooler base",
        "footprint": outline(facts.layout.plate),
        "thickness_mm": assumed("spreader_thickness_mm" if box else "cooler_thickness_mm"),
        "material": "aluminium_alloy" if box else "copper",
        "landings": _landings(facts),
    }
    if not box:
        plate["sink"] = _sink("sink_convective_k_w", 0.7)
        plate["base"] = facts.answers.base.value
    plates = [plate]
    if facts.lid_mm:
        x0, y0, x1, y1 = facts.layout.substrate
        lid = (x0 + 2, y0 + 2, x1 - 2, y1 - 2)
        note = "joined to the die by paste until solder can be computed"
        plates.insert(
            0,
            {
                "kind": "plate",
                "role": "lid",
                "id": "lid",
                "name": "Lid",
                "footprint": outline(lid),
                "thickness_mm": assumed("lid_thickness_mm", note=note),
                "material": "copper",
            },
        )
    if box:
        top = facts.rest + typical("spreader_thickness_mm").value
        plates.append(
            {
                "kind": "plate",
                "role": "case wall",
                "id": "case_wall",
                "name": "Case wall",
                "on": "case",
                "footprint": outline(facts.layout.board),
                "thickness_mm": assumed("case_wall_thickness_mm"),
                "height_mm": assumed(
                    "seat_mm", value=round(top + SQUEEZE * BOX_PAD_MM, 2), uncertainty=0.2, note="from the pad under it"
                ),
                "material": "aluminium_alloy",
                "sink": _sink("case_convective_k_w", 0.0),
            }
        )
    if facts.rear:
        plates.append(
            {
                "kind": "plate",
                "role": "backplate",
                "id": "backplate",
                "name": "Backplate",
                "side": "rear",
                "footprint": outline(facts.layout.back),
                "thickness_mm": assumed("backplate_thickness_mm"),
                "material": "aluminium_alloy",
            }
        )
    return plates


def _sink(key: str, exponent: float) -> Plain:
    """Return a rated sink. One under a fan has a share that does not depend on it, so that both grow together when fitted."""
    air = typical(key)
    share = typical("sink_fixed_share")
    fixed = q(round(share.value * air.value, 4), round(share.uncertainty * air.value, 4), "assumed", share.note)
    return {
        "base_reference": "source_spot" if exponent else "mean_base",
        "fixed_k_w": fixed.model_dump(mode="json") if exponent else assumed("sink_fixed_k_w"),
        "convective_k_w": assumed(key),
        "exponent": q(exponent, 0.1 if exponent else 0.0, "assumed", "fan speed").model_dump(mode="json"),
    }


def _landings(facts: Facts) -> list[Plain]:
    """Return one landing over the parts of each side; its step is what a pad that was right would have needed."""
    flush = facts.rest - typical("memory_height_mm").value
    step = round(SQUEEZE * facts.pad_mm - flush, 2)
    known = "from the pad that is there" if facts.answers.pad_now_mm is not None else "no pad thickness known"
    spread = round(0.1 * facts.pad_mm + 0.05, 3) if facts.answers.pad_now_mm is not None else 0.4
    landings = []
    for side in ("left", "top", "right", "bottom"):
        if any(where == side for _, where, _ in facts.memory.values()):
            quantity = q(step, spread, "assumed", f"{known}; measure it first").model_dump(mode="json")
            name = f"Memory landing, {side}"
            area = rect_of(facts.layout.landing(side)).model_dump()
            landings.append({"id": f"landing_{side}", "name": name, "area": area, "step_mm": quantity})
    return landings
