"""Boards by their copper, spreading on the default mesh, laminates, sheets in joints: against series and finite elements."""

from __future__ import annotations

from functools import partial

import test_boards
import test_laminate
import test_sheets
from ashen_bridge.mechanics.laminate import Sheet, bonded
from ashen_bridge.model.inner import Vias
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.boards import via_conductivity
from published import Check
from test_boards import SIX, foil, heated_plate, hot_stage, series, source_mean

MUZYCHKA = "Muzychka, Culham & Yovanovich, J. Electron. Packag. 125, 2003"
ELEMENTS = "trilinear finite elements (scikit-fem)"
FILM = 1 / (0.5 * 60e-3 * 50e-3)
POOR = [foil(35, 0.2), foil(35, 0.9), foil(35, 0.9), foil(35, 0.2)]
PLATES = (
    ("plate of 2 mm, 200 W/m·K", {}, [(2e-3, 200.0)]),
    ("plate of 5 mm, 200 W/m·K", {"thickness_mm": {"value": 5.0}}, [(5e-3, 200.0)]),
    (
        "0.5 mm of 200 W/m·K under it, 2 mm of 20 W/m·K",
        {"material": "other", "foil": {"material": "metal", "thickness_mm": {"value": 0.5}, "face": "near"}},
        [(0.5e-3, 200.0), (2e-3, 20.0)],
    ),
    ("1 mm of 20 W/m·K on it", {"foil": {"material": "other", "thickness_mm": {"value": 1.0}}}, [(2e-3, 200.0), (1e-3, 20.0)]),
)


def strip(shear: float) -> float:
    lower, upper = test_laminate.plain_sheet(22e9, 1.65e-3), Sheet(160e9 * 0.8e-3**3 / 12, 160e9 * 0.8e-3, 0.45e-3, 0.85e-3)
    lower = Sheet(22e9 * 1.6e-3**3 / 12, 22e9 * 1.6e-3, 0.8e-3, lower.thickness)
    return bonded(lower, upper, shear, 0.02).rigidity


def foil_spread(area: tuple[float, float, float, float]) -> float:
    return Engine().predict(test_sheets.spread_by(None, area)).report.component("source").t_mean_c - 25.0


def checks() -> list[Check]:
    topic = "On the default mesh"
    return [
        *(
            Check(
                topic,
                f"source 12 × 10 mm off centre, {name}",
                MUZYCHKA,
                "K/W",
                partial(_mean, plate),
                series(layers, FILM),
                0.005,
            )
            for name, plate, layers in PLATES
        ),
        *(
            Check(topic, f"hot stage alone on a board, {name}", ELEMENTS, "K", partial(_rise, copper), elements, 0.03)
            # Worked out by `test_boards.finite_elements`, which takes some seconds each.
            for name, copper, elements in (("six copper layers", SIX, 54.50), ("little copper on its faces", POOR, 79.56))
        ),
        *(
            Check(topic, f"foil of 1500 W/m·K, {name}", ELEMENTS, "K", partial(foil_spread, area), elements, 0.04)
            for name, area, elements in (
                ("reaching beyond the part", test_sheets.WIDE, 11.06),
                ("as large as the part", test_sheets.JUST, 17.96),
            )
        ),
        Check(
            "Boards",
            "vias of 0.3 mm, 25 µm, at 1 mm",
            "areas of copper and laminate in parallel, by hand",
            "W/m·K",
            lambda: via_conductivity(Vias(), 0.35),
            0.0216 * 390 + (1 - 0.0707) * 0.35,
            2e-3,
        ),
        Check(
            "Laminates",
            "two sheets of 1 and 2 mm glued solid",
            "E·t³/12 of the whole",
            "N·m",
            lambda: bonded(test_laminate.plain_sheet(70e9, 1e-3), test_laminate.plain_sheet(70e9, 2e-3), 1e24, 0.05).rigidity,
            70e9 * (3e-3) ** 3 / 12,
            1e-4,
        ),
        *(
            Check(
                "Laminates",
                f"board and die, bond of {shear / 1e12:g} GPa/mm over 20 mm",
                "plane elasticity (scikit-fem)",
                "N·m",
                partial(strip, shear),
                test_laminate.elastic_strip(shear, 0.02),
                0.03,
            )
            for shear in (1e11, 1e12, 6e12)
        ),
    ]


def _mean(plate: dict[str, object]) -> float:
    return source_mean(heated_plate(**plate))


def _rise(copper: list[dict[str, object]]) -> float:
    return test_boards.rise(hot_stage(copper=copper))
