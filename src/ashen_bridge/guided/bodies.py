"""Board, carrier, chip and packages of a described device."""

from __future__ import annotations

from ashen_bridge.changes.boxes import Box
from ashen_bridge.guided.facts import Facts, Plain, assumed, outline, seated
from ashen_bridge.guided.plates import plates
from ashen_bridge.library.typical import copper_layers
from ashen_bridge.model.quantity import q

CORE_SHARE = 0.35
"""Share of a chip's power that its middle makes, a quarter of its area, unless two readings tell; common practice, no source."""


def bodies(facts: Facts) -> list[Plain]:
    """Return all bodies."""
    layout, (chip, carrier) = facts.layout, facts.chip_keys
    made: list[Plain] = [
        {
            "kind": "board",
            "id": "board",
            "name": "Board",
            "footprint": outline(layout.board),
            "thickness_mm": assumed("thin_board_thickness_mm" if facts.box else "board_thickness_mm"),
            "material": "laminate_glass",
            "copper": copper_layers(4 if facts.box else 6),
            # A frame or a case braces it.
            "bends": not (facts.box or facts.lidded),
        },
        {
            "kind": "substrate",
            "id": "substrate",
            "name": "Carrier",
            "on": "board",
            "footprint": outline(layout.substrate),
            "thickness_mm": seated(carrier),
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
            "height_mm": seated(chip),
            "make_up": {"type": "die", "material": "silicon", "power_map": [_core(layout.die)]},
            "attach": {"resistance_mm2k_w": assumed("die_attach_mm2k_w")},
        },
    ]
    made += [_memory(facts, name, f"Memory {label}", box, "front") for name, (label, _, box) in facts.memory.items()]
    made += [_memory(facts, name, f"Memory {label}", box, "rear") for name, (label, box) in facts.rear.items()]
    made += [_regulator(name, f"Regulator {label}", box) for name, (label, box) in facts.regulators.items()]
    return made + plates(facts)


def _core(die: Box) -> Plain:
    w, h = die[2] - die[0], die[3] - die[1]
    area = {"x_mm": round(w / 4, 3), "y_mm": round(h / 4, 3), "w_mm": round(w / 2, 3), "h_mm": round(h / 2, 3)}
    return {"id": "core", "area": area, "share": CORE_SHARE}


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
        "height_mm": seated(facts.memory_height),
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


def _regulator(name: str, label: str, box: Box) -> Plain:
    return {
        "kind": "component",
        "role": "regulator",
        "id": name,
        "name": label,
        "on": "board",
        "footprint": outline(box),
        "height_mm": seated("regulator_height_mm"),
        "make_up": {"type": "solid", "material": "power_stage"},
        "attach": {"resistance_mm2k_w": assumed("part_attach_mm2k_w")},
    }
