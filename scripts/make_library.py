"""Write the material library. Handbook values carry their source; representative ones say that they are that."""

from __future__ import annotations

import json
from pathlib import Path

from ashen_bridge.model.material import Material

TARGET = Path(__file__).parents[1] / "src/ashen_bridge/library/materials.json"
INCROPERA = "Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, table A.1, 300 K (from memory)"
TYPICAL = "representative of its class, common practice, no source"


def quantity(value: float, relative: float, origin: str) -> dict[str, object]:
    return {"value": value, "uncertainty": round(value * relative, 6), "origin": origin}


def solid(id_: str, name: str, k: float, rho: float, cp: float, source: str = INCROPERA, **more: object) -> dict[str, object]:
    origin = "handbook" if source == INCROPERA else "assumed"
    spread = 0.03 if source == INCROPERA else 0.2
    return {
        "id": id_,
        "name": name,
        "kind": "solid",
        "conductivity_w_mk": quantity(k, spread, origin),
        "density_kg_m3": quantity(rho, 0.01, origin),
        "specific_heat_j_kgk": quantity(cp, 0.03, origin),
        "sources": [{"text": source}],
        **more,
    }


def pad(id_: str, name: str, k: float, curve: list[tuple[float, float]], thicknesses: list[float]) -> dict[str, object]:
    return {
        "id": id_,
        "name": name,
        "kind": "pad",
        "conductivity_w_mk": quantity(k, 0.15, "assumed"),
        "density_kg_m3": quantity(3000.0, 0.1, "assumed"),
        "specific_heat_j_kgk": quantity(1000.0, 0.1, "assumed"),
        "contact_mm2k_w": quantity(20.0, 0.5, "assumed"),
        "contact_exponent": quantity(0.3, 0.5, "assumed"),
        "compression": {
            "points": [{"strain": s, "pressure_kpa": p} for s, p in curve],
            "sample_thickness_mm": quantity(2.0, 0.02, "assumed"),
            "sample_area_mm2": quantity(645.0, 0.02, "assumed"),
            "relaxed_share": quantity(0.7, 0.15, "assumed"),
        },
        "stock_thicknesses_mm": thicknesses,
        "max_temperature_c": quantity(150.0, 0.0, "assumed"),
        "sources": [{"text": TYPICAL, "method": "steady heat flow between plates"}],
    }


def paste(id_: str, name: str, k: float, yield_kpa: float, filler_um: float) -> dict[str, object]:
    return {
        "id": id_,
        "name": name,
        "kind": "paste",
        "conductivity_w_mk": quantity(k, 0.2, "assumed"),
        "density_kg_m3": quantity(2600.0, 0.1, "assumed"),
        "specific_heat_j_kgk": quantity(900.0, 0.1, "assumed"),
        "contact_mm2k_w": quantity(1.5, 0.5, "assumed"),
        "flow": {
            "yield_stress_kpa": quantity(yield_kpa, 0.3, "assumed"),
            "filler_um": quantity(filler_um, 0.2, "assumed"),
        },
        "sources": [{"text": TYPICAL}],
    }


def elastic(modulus_gpa: float, poisson: float, spread: float = 0.08) -> dict[str, object]:
    return {
        "youngs_modulus_gpa": quantity(modulus_gpa, spread, "handbook" if spread < 0.1 else "assumed"),
        "poisson_ratio": quantity(poisson, 0.1, "assumed"),
    }


def hard(gpa: float) -> dict[str, object]:
    """Microhardness as the asperities feel it; representative values from memory."""
    return {"microhardness_gpa": quantity(gpa, 0.25, "assumed")}


def layer(id_: str, name: str, kind: str, k: float, contact: float, **more: object) -> dict[str, object]:
    return {
        "id": id_,
        "name": name,
        "kind": kind,
        "conductivity_w_mk": quantity(k, 0.2, "assumed"),
        "density_kg_m3": quantity(2500.0, 0.2, "assumed"),
        "specific_heat_j_kgk": quantity(900.0, 0.2, "assumed"),
        "contact_mm2k_w": quantity(contact, 0.5, "assumed"),
        "sources": [{"text": TYPICAL}],
        **more,
    }


def flow(yield_kpa: float, filler_um: float, **more: object) -> dict[str, object]:
    return {"yield_stress_kpa": quantity(yield_kpa, 0.3, "assumed"), "filler_um": quantity(filler_um, 0.2, "assumed"), **more}


STEPS = [0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0]
SOFT = [(0, 0), (0.1, 15), (0.2, 38), (0.3, 72), (0.4, 125), (0.5, 215), (0.6, 380)]
MEDIUM = [(0, 0), (0.1, 32), (0.2, 76), (0.3, 140), (0.4, 240), (0.5, 410), (0.6, 740)]
FIRM = [(0, 0), (0.1, 120), (0.2, 290), (0.3, 540), (0.4, 930), (0.5, 1600)]

MATERIALS = [
    solid("copper", "Copper", 401, 8933, 385, electrically_conductive=True, **elastic(117.0, 0.34), **hard(1.1)),
    solid("aluminium", "Aluminium, pure", 237, 2702, 903, electrically_conductive=True, attacked_by_gallium=True, **hard(0.5)),
    solid(
        "aluminium_alloy",
        "Aluminium alloy, heat treated",
        177,
        2770,
        875,
        electrically_conductive=True,
        attacked_by_gallium=True,
        **elastic(70.0, 0.33),
        **hard(1.3),
    ),
    {**solid("silicon", "Silicon", 148, 2330, 712, **elastic(160.0, 0.22), **hard(9.0)), "temperature_exponent": -1.3},
    solid("steel", "Stainless steel", 14.9, 7900, 477, electrically_conductive=True, **elastic(193.0, 0.3), **hard(3.0)),
    solid("plastic", "Case plastic, filled", 0.25, 1200, 1400, TYPICAL),
    solid(
        "vapour_chamber",
        "Vapour chamber, as a plate",
        150.0,
        5000,
        400,
        TYPICAL,
        electrically_conductive=True,
        in_plane_conductivity_w_mk=quantity(8000.0, 0.4, "assumed"),
    ),
    solid(
        "board_fr4_6",
        "Circuit board, 6 copper layers",
        0.45,
        1950,
        1100,
        TYPICAL,
        **elastic(22.0, 0.15, 0.15),
        in_plane_conductivity_w_mk=quantity(28.0, 0.3, "assumed"),
    ),
    solid(
        "laminate_glass",
        "Glass laminate, between copper layers",
        0.35,
        1900,
        1100,
        TYPICAL,
        **elastic(22.0, 0.15, 0.15),
        in_plane_conductivity_w_mk=quantity(0.8, 0.25, "assumed"),
    ),
    solid(
        "substrate_organic",
        "Organic package substrate",
        0.9,
        1900,
        1000,
        TYPICAL,
        **elastic(25.0, 0.2, 0.2),
        in_plane_conductivity_w_mk=quantity(25.0, 0.3, "assumed"),
    ),
    solid("power_stage", "Power stage, moulded on lead frame", 4.0, 2400, 800, TYPICAL),
    solid("ferrite_coil", "Ferrite choke with winding", 5.0, 4800, 700, TYPICAL),
    pad("pad_plain", "Plain gap pad, very soft", 3.0, [(x, 0.7 * y) for x, y in SOFT], STEPS),
    pad("pad_soft", "Soft gap pad", 4.5, SOFT, STEPS),
    pad("pad_medium", "Medium gap pad", 6.0, MEDIUM, STEPS),
    pad("pad_firm", "Firm gap pad, highly filled", 10.0, FIRM, STEPS),
    pad("pad_firmest", "Firmest gap pad, filled to the most", 12.0, [(x, 1.25 * y) for x, y in FIRM], STEPS),
    paste("paste_thin", "Paste, thin", 3.0, 0.03, 8.0),
    paste("paste_general", "Paste, general purpose", 4.0, 0.08, 15.0),
    paste("paste_filled", "Paste, highly filled", 7.0, 0.16, 20.0),
    layer(
        "putty_soft",
        "Putty",
        "putty",
        6.0,
        8.0,
        flow=flow(6.0, 80.0, bridges_mm=quantity(3.0, 0.1, "assumed")),
    ),
    layer(
        "phase_change",
        "Phase-change sheet",
        "phase change",
        5.0,
        1.0,
        flow=flow(0.05, 12.0),
        stock_thicknesses_mm=[0.2, 0.25],
        max_temperature_c=quantity(125.0, 0.0, "assumed"),
    ),
    layer(
        "liquid_metal",
        "Liquid metal, gallium alloy",
        "liquid metal",
        25.0,
        0.5,
        electrically_conductive=True,
        contains_gallium=True,
    ),
    layer(
        "graphite_sheet",
        "Graphite sheet",
        "graphite",
        12.0,
        6.0,
        in_plane_conductivity_w_mk=quantity(400.0, 0.25, "assumed"),
        compression={
            "points": [{"strain": s, "pressure_kpa": p} for s, p in [(0, 0), (0.1, 150), (0.2, 400), (0.3, 900), (0.4, 2000)]],
            "sample_thickness_mm": quantity(0.2, 0.05, "assumed"),
            "sample_area_mm2": quantity(645.0, 0.02, "assumed"),
            "shape_coefficient": quantity(0.0, 0.0, "assumed"),
        },
        stock_thicknesses_mm=[0.1, 0.2, 0.3],
        electrically_conductive=True,
    ),
    {
        **solid("solder_indium", "Indium solder", 81.8, 7310, 233),
        "kind": "solder",
        "contact_mm2k_w": quantity(0.5, 0.5, "assumed"),
        "least_thickness_mm": quantity(0.2, 0.1, "assumed"),
        "stock_thicknesses_mm": [0.2, 0.3, 0.4, 0.5],
        "electrically_conductive": True,
    },
    layer("adhesive_filled", "Thermal adhesive, cured", "adhesive", 1.5, 3.0, stock_thicknesses_mm=[0.05, 0.1, 0.2]),
    {
        **layer("air_still", "Air, still", "gas", 0.0263, 0.0),
        "conductivity_w_mk": quantity(0.0263, 0.03, "handbook"),
        "temperature_exponent": 0.86,
        "density_kg_m3": quantity(1.16, 0.02, "handbook"),
        "specific_heat_j_kgk": quantity(1007.0, 0.01, "handbook"),
        "contact_mm2k_w": quantity(0.0, 0.0, "handbook"),
        "sources": [{"text": INCROPERA.replace("A.1", "A.4")}],
    },
    layer("label_paper", "Paper label with its glue", "film", 0.15, 20.0, stock_thicknesses_mm=[0.1, 0.15]),
    layer(
        "film_polyester", "Polyester film, left on or for insulation", "film", 0.2, 30.0, stock_thicknesses_mm=[0.025, 0.05, 0.1]
    ),
]


PADS = {
    "how": "films on until it is placed; tweezers, no stretching",
    "bleeds": "a little",
    "reusable": True,
    "sheet_sizes_mm": [[100, 100], [120, 20], [85, 45]],
    "thickness_tolerance": 0.1,
    "lasts_years": 4,
}
PASTES = {"how": "spread or a drop; wipes off with alcohol", "bleeds": "a little", "reusable": False, "lasts_years": 2.5}
HANDLING = {
    "pad_plain": PADS | {"price_level": 1, "bleeds": "much"},
    "pad_soft": PADS | {"price_level": 2},
    "pad_medium": PADS | {"price_level": 2},
    "pad_firm": PADS | {"price_level": 3},
    "pad_firmest": PADS | {"price_level": 4},
    "paste_thin": PASTES | {"price_level": 1, "bleeds": "much", "lasts_years": 2},
    "paste_general": PASTES | {"price_level": 1},
    "paste_filled": PASTES | {"price_level": 2, "how": "stiff: warm it, then spread it"},
    "putty_soft": {
        "how": "pressed on by hand; messy, screws through it are a nuisance",
        "bleeds": "a little",
        "reusable": False,
        "price_level": 3,
        "lasts_years": 4,
    },
    "phase_change": {
        "how": "cold from its film; cut a little over; needs hot and cold cycles",
        "bleeds": "nothing",
        "reusable": False,
        "price_level": 2,
        "sheet_sizes_mm": [[40, 80], [100, 100]],
        "lasts_years": 6,
    },
    "liquid_metal": {
        "how": "a thin coat on both faces; gloves, neighbours insulated, never on aluminium",
        "bleeds": "nothing",
        "reusable": False,
        "price_level": 3,
        "lasts_years": 4,
    },
    "graphite_sheet": {
        "how": "conducts electricity: must not reach bare parts; brittle at folds",
        "bleeds": "nothing",
        "reusable": True,
        "price_level": 3,
        "sheet_sizes_mm": [[40, 40], [100, 100]],
        "lasts_years": 10,
    },
    "solder_indium": {
        "how": "preform and flux, heated as a whole; for those with the means",
        "bleeds": "nothing",
        "reusable": False,
        "price_level": 4,
        "lasts_years": 10,
    },
    "adhesive_filled": {"how": "cannot be taken off again unharmed", "bleeds": "nothing", "reusable": False, "price_level": 2},
}
"""How the families are handled and sold; common practice, no source."""


def main() -> None:
    for item in MATERIALS:
        if item["id"] in HANDLING:
            item["handling"] = HANDLING[str(item["id"])]
    checked = [Material.model_validate(item).model_dump(mode="json", exclude_none=True) for item in MATERIALS]
    TARGET.write_text(json.dumps(checked, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
