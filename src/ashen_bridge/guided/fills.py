"""What holds a described device together and what lies between its faces: fasteners, joints, groups."""

from __future__ import annotations

from ashen_bridge.guided.answers import DeviceKind
from ashen_bridge.guided.facts import BOX_PAD_MM, SQUEEZE, Facts, Plain, assumed, outline, typed
from ashen_bridge.library.typical import typical
from ashen_bridge.model.quantity import q


def fasteners(facts: Facts) -> list[Plain]:
    """Return the screws: springs round a cooler, plain screws on a spreader or backplate."""
    answers = facts.answers
    made: list[Plain] = []
    for n, (x, y) in enumerate(facts.layout.screws, start=1):
        screw: Plain = {"id": f"screw_{n}", "joins": [facts.plate_id, "board"], "x_mm": x, "y_mm": y}
        rest = q(facts.rest, 0.1, "assumed", "from the heights under the plate").model_dump(mode="json")
        if facts.kind is DeviceKind.BOX:
            screw.update(kind="fixed", name=f"Screw {n}", preload_n=assumed(f"screw_{answers.screw_feel}_n"), seat_mm=rest)
            screw["stiffness_n_mm"] = assumed("screw_stiffness_n_mm")
        else:
            screw.update(kind="sprung", name=f"Spring screw {n}", rate_n_mm=assumed(f"spring_{answers.screw_feel}_n_mm"))
            screw.update(travel_mm=assumed("spring_travel_mm"), coil_bind_mm=assumed("spring_coil_bind_mm"), reference_mm=rest)
        made.append(screw)
    if facts.rear:
        x0, y0, x1, y1 = facts.layout.back
        seat = typical("memory_height_mm").value + SQUEEZE * facts.pad_mm
        for n, (x, y) in enumerate(((x0 + 3, y0 + 3), (x1 - 3, y1 - 3), (x1 - 3, y0 + 3), (x0 + 3, y1 - 3)), start=1):
            made.append(
                {
                    "id": f"rear_screw_{n}",
                    "name": f"Rear screw {n}",
                    "kind": "fixed",
                    "joins": ["backplate", "board"],
                    "x_mm": round(x, 3),
                    "y_mm": round(y, 3),
                    "preload_n": assumed("screw_normal_n"),
                    "seat_mm": assumed("seat_mm", value=round(seat, 2), note="from the pad that is there"),
                    "stiffness_n_mm": assumed("screw_stiffness_n_mm"),
                }
            )
    return made


def build(facts: Facts, build_id: str, name: str, pad_mm: float, known: bool) -> Plain:
    """Return a build with pads of one thickness [mm]; `known` says whether somebody measured it."""
    joints = []
    if facts.lid_mm:
        joints.append(_paste("die_joint", "Die to lid", "lid", "die"))
        joints.append(_paste("lid_joint", "Lid to cooler", facts.plate_id, "lid"))
    else:
        joints.append(_paste("die_joint", "Die joint", facts.plate_id, "die"))
    joints += [_pad(facts, n, f"Pad {label}", facts.plate_id, n, pad_mm, known) for n, (label, _, _) in facts.memory.items()]
    joints += [_pad(facts, n, f"Pad {label}", "backplate", n, pad_mm, known) for n, (label, _) in facts.rear.items()]
    if facts.kind is DeviceKind.BOX:
        joints.append(_pad(facts, "case", "Pad to the case", "case_wall", "spreader", BOX_PAD_MM, False))
    return {"id": build_id, "name": name, "joints": joints}


def _paste(joint_id: str, name: str, upper: str, lower: str) -> Plain:
    piece = {"id": "paste", "material": "paste_filled", "amount": {"type": "film"}}
    return {"id": joint_id, "name": name, "upper": upper, "lower": [lower], "pieces": [piece]}


def _pad(facts: Facts, name: str, label: str, upper: str, lower: str, pad_mm: float, known: bool) -> Plain:
    spread = round(typical("pad_relative").value * pad_mm, 3)
    thickness = typed(pad_mm, spread) if known else assumed("pad_relative", value=pad_mm, uncertainty=0.3, note="not known yet")
    piece = {"id": "pad", "material": f"pad_{facts.answers.pad_feel}", "thickness_mm": thickness}
    joint: Plain = {"id": f"pad_{name}", "name": label, "upper": upper, "lower": [lower], "pieces": [piece]}
    if lower == "spreader":
        # A pad between two plates lies over the die, not over the whole spreader.
        joint["pieces"][0]["footprint"] = outline(facts.layout.substrate)
    return joint


def groups(facts: Facts) -> list[Plain]:
    """Return the groups whose pads are edited together."""
    groups = [
        ("memory", "Memory, front", [f"pad_{n}" for n in facts.memory]),
        ("rear", "Memory, rear", [f"pad_{n}" for n in facts.rear]),
    ]
    return [{"id": group, "name": name, "joints": joints} for group, name, joints in groups if joints]
