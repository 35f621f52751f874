"""What holds a described device together and what lies between its faces: fasteners, joints, groups."""

from __future__ import annotations

from ashen_bridge.guided.facts import Facts, Plain, assumed, guess, outline, typed
from ashen_bridge.library.typical import typical

_CASE_PAD_MM = 1.25


def fasteners(facts: Facts) -> list[Plain]:
    """Return the screws: springs round a cooler or spreader, glue round a lid, plain screws on a rear plate."""
    made: list[Plain] = []
    if not facts.box or facts.spreader:
        feel = facts.of("screw_feel")
        rate = assumed("clip_n_mm") if facts.box else assumed(f"spring_{feel}_n_mm")
        travel = assumed("clip_travel_mm") if facts.box else assumed("spring_travel_mm")
        rest = guess(facts.rest, 0.1, "from the heights under the plate")
        for n, (x, y) in enumerate(facts.layout.screws, start=1):
            screw: Plain = {"id": f"screw_{n}", "name": f"Spring screw {n}", "kind": "sprung", "joins": [facts.plate_id, "board"]}
            screw |= {"x_mm": x, "y_mm": y, "rate_n_mm": rate, "travel_mm": travel, "reference_mm": rest}
            made.append(screw | {"coil_bind_mm": assumed("spring_coil_bind_mm")})
    if facts.lidded:
        seat = guess(facts.die_top + facts.under_mm, 0.02, "sealed where the lid came to lie")
        x0, y0, x1, y1 = facts.layout.lid
        for n, (x, y) in enumerate(((x0 + 2, y0 + 2), (x1 - 2, y1 - 2), (x1 - 2, y0 + 2), (x0 + 2, y1 - 2)), start=1):
            glue: Plain = {
                "id": f"glue_{n}",
                "name": f"Lid seal {n}",
                "kind": "glued",
                "joins": ["lid", "board"],
                "x_mm": x,
                "y_mm": y,
            }
            made.append(glue | {"seat_mm": seat, "stiffness_n_mm": assumed("lid_glue_stiffness_n_mm")})
    return made + (_rear_screws(facts) if facts.backplate else [])


def _rear_screws(facts: Facts) -> list[Plain]:
    x0, y0, x1, y1 = facts.layout.back
    tall = typical("memory_height_mm").value if facts.rear else 0.0
    seat = guess(tall + typical("rear_air_mm").value, typical("rear_air_mm").uncertainty, "clearance behind the board")
    if facts.of("rear_meets") == "pads":
        seat = guess(tall + facts.gap_mm, 0.1, "from the pad that is there")
    elif facts.of("rear_meets") == "touching":
        seat = guess(tall + 0.3, 0.1, "touches")
    return [
        {
            "id": f"rear_screw_{n}",
            "name": f"Rear screw {n}",
            "kind": "fixed",
            "joins": ["backplate", "board"],
            "x_mm": round(x, 3),
            "y_mm": round(y, 3),
            "preload_n": assumed("screw_normal_n"),
            "seat_mm": seat,
            "stiffness_n_mm": assumed("screw_stiffness_n_mm"),
        }
        for n, (x, y) in enumerate(((x0 + 3, y0 + 3), (x1 - 3, y1 - 3), (x1 - 3, y0 + 3), (x0 + 3, y1 - 3)), start=1)
    ]


def build(facts: Facts, build_id: str, name: str, pad_mm: float, known: bool) -> Plain:
    """Return a build with pads of one thickness [mm]; `known` says whether somebody measured it."""
    joints = _chip_joints(facts)
    if facts.pads:
        over = {n: label for n, (label, _, _) in facts.memory.items()} if facts.memory_padded else {}
        over |= {n: label for n, (label, _) in facts.regulators.items()}
        joints += [_pad(facts, n, f"Pad {label}", facts.plate_id, n, pad_mm, known) for n, label in over.items()]
    if facts.chip_pad:
        joints.append(_pad(facts, "die", "Die to spreader", "spreader", "die", pad_mm, known))
    meets = facts.of("rear_meets")
    if facts.backplate and meets == "pads":
        if facts.rear:
            joints += [_pad(facts, n, f"Pad {label}", "backplate", n, pad_mm, known) for n, (label, _) in facts.rear.items()]
        else:
            pad = _pad(facts, "behind", "Pad behind the chip", "backplate", "board", facts.pad_mm, facts.said("pad_now_mm"))
            pad["pieces"][0]["footprint"] = outline(facts.layout.substrate)
            joints.append(pad)
    elif facts.backplate and meets == "touching":
        lower = list(facts.rear) or ["board"]
        stated = assumed("rear_touch_mm2k_w")
        joints.append(
            {"id": "behind", "name": "Rear plate touches", "upper": "backplate", "lower": lower, "stated_mm2k_w": stated}
        )
    return {"id": build_id, "name": name, "joints": joints}


def _chip_joints(facts: Facts) -> list[Plain]:
    if facts.lidded:
        under = facts.of("under_lid")
        if under == "solder":
            piece: Plain = {"id": "solder", "material": "solder_indium", "thickness_mm": assumed("solder_thickness_mm")}
        else:
            piece = _film("paste_general" if under == "paste" else "liquid_metal", assumed("film_usual_mm"))
        return [
            {"id": "under_lid", "name": "Die to lid", "upper": "lid", "lower": ["die"], "pieces": [piece]},
            _pasted(facts, "lid_joint", "Lid to cooler", "cooler", "lid"),
        ]
    if not facts.box:
        return [_pasted(facts, "die_joint", "Die joint", "cooler", "die")]
    joints = [] if facts.chip_pad or not facts.spreader else [_pasted(facts, "die_joint", "Die to spreader", "spreader", "die")]
    if facts.of("reach") == "pad":
        lower, words = ("spreader", "Pad to the cover") if facts.spreader else ("die", "Pad from die to cover")
        thick = guess(_CASE_PAD_MM, 0.06, "stock thickness over the gap")
        joint: Plain = {"id": "case_pad", "name": words, "upper": "case_wall", "lower": [lower], "pieces": [_sheet(facts, thick)]}
        if facts.spreader:
            # A pad between two plates lies over the die, not over the whole plate.
            joint["pieces"][0]["footprint"] = outline(facts.layout.substrate)
        joints.append(joint)
    return joints


def _pasted(facts: Facts, joint_id: str, name: str, upper: str, lower: str) -> Plain:
    amount = facts.of("paste")
    film = assumed(f"film_{amount}_mm")
    if facts.said("paste"):
        film = typed(film["value"], film["uncertainty"], f"spread {amount}ly" if amount == "thin" else f"{amount} amount")
    piece = _film("paste_filled", film)
    if "paste" in facts.of("changed") and facts.of("worse") in ("the die", "both"):
        piece["bare_share"] = guess(0.15, 0.12, "new paste and a hotter die: perhaps not everywhere")
    return {"id": joint_id, "name": name, "upper": upper, "lower": [lower], "pieces": [piece]}


def _film(material: str, film: Plain) -> Plain:
    return {"id": "paste", "material": material, "amount": {"type": "film", "film_mm": film}}


def _sheet(facts: Facts, thickness: Plain) -> Plain:
    return {"id": "pad", "material": f"pad_{facts.of('pad_feel')}", "thickness_mm": thickness}


def _pad(facts: Facts, name: str, label: str, upper: str, lower: str, pad_mm: float, known: bool) -> Plain:
    spread = typical("pad_relative").value * pad_mm
    thick = typed(pad_mm, round(spread, 3)) if known else guess(pad_mm, 0.3 * pad_mm, "not known yet")
    piece = _sheet(facts, thick) | {"bare_share": assumed("pad_bare_share")}
    return {"id": f"pad_{name}", "name": label, "upper": upper, "lower": [lower], "pieces": [piece]}


def groups(facts: Facts) -> list[Plain]:
    """Return the groups whose pads are edited together."""
    rear = [f"pad_{n}" for n in facts.rear] if facts.backplate and facts.of("rear_meets") == "pads" else []
    found = [
        ("memory", "Memory, front", [f"pad_{n}" for n in facts.memory] if facts.memory_padded else []),
        ("rear", "Memory, rear", rear),
        ("regulators", "Regulators", [f"pad_{n}" for n in facts.regulators]),
    ]
    return [{"id": group, "name": name, "joints": joints} for group, name, joints in found if joints]
