"""Fins, rising air, fans and touch limits against published values."""

from __future__ import annotations

import math

import ht

from ashen_bridge.library.air import air_at
from ashen_bridge.library.touch import touch_limits
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sinks import Fan, FanPoint
from ashen_bridge.thermal.fins import (
    fan_flow,
    friction_muzychka,
    nusselt_plate_fins_teertstra,
    operating_point,
    pressure_drop,
    resistance_plate_fins,
)
from ashen_bridge.thermal.natural import FinArray, film_free_plate, fin_efficiency, nusselt_channel_bar_cohen, nusselt_free_plate
from ashen_bridge.thermal.sink_films import noise_at, together
from published import PRACTICE, Check
from published_heat import INCROPERA

AIR = air_at(300.0)
TEERTSTRA = "Teertstra, Yovanovich & Culham, J. Electronics Manufacturing 10(4), 2000"
SHAH = "Shah & London, Laminar Flow Forced Convection in Ducts, 1978 (from memory)"
TOUCH = "IEC 62368-1:2018, table 38 (from memory)"
FAN = Fan(id="fan", noise_db=q(38.0), curve=(FanPoint(flow_m3_h=0, pressure_pa=60), FanPoint(flow_m3_h=60, pressure_pa=0)))


def channels(spacing: float, length: float, height: float = 0.03, count: int = 20) -> FinArray:
    thickness = 1e-3
    return FinArray(count * thickness + (count - 1) * spacing, length, count, thickness, height, 200.0)


def nusselt(star: float) -> float:
    array = channels(2e-3, 0.1)
    velocity = star * AIR.viscosity * array.length / array.spacing**2
    return nusselt_plate_fins_teertstra(velocity, array, AIR)


def developed_friction(spacing: float, height: float) -> float:
    """f·Re on √A of a long channel: nothing is left of the entrance."""
    return friction_muzychka(0.01, channels(spacing, 50.0, height), AIR)


def saturated() -> float:
    """Resistance of fins so long that air leaves as warm as they are, times ṁc: must be 1."""
    array = channels(2e-3, 8.0)
    found = operating_point((FAN,), array, AIR, 0.3)
    return resistance_plate_fins(array, found, AIR) * AIR.density * found.flow * AIR.specific_heat


def meets() -> float:
    """Pressure of the fan over pressure of the fins where they meet."""
    array = channels(2e-3, 0.08)
    found = operating_point((FAN,), array, AIR, 0.7)
    return 60 * 0.7**2 * (1 - found.flow * 3600 / (60 * 0.7)) / pressure_drop(found.velocity, array, AIR)


def best_spacing() -> float:
    """Elenbaas number at which many channels on a given width carry most: Nu/S² over S at a given length."""
    numbers = [10 ** (n / 400) for n in range(400, 1200)]
    # El goes with S⁴, heat per width with Nu/S · 1/S = Nu/S².
    return max(numbers, key=lambda el: nusselt_channel_bar_cohen(el) / math.sqrt(el))


def checks() -> list[Check]:
    square = 14.227  # Shah & London: f·Re on the hydraulic diameter of a square duct, which is √A
    slot = 21.169 / (2 * math.sqrt(0.1) / 1.1)  # aspect 0.1: f·Re 21.169 on D_h, and D_h = 2√ε/(1 + ε)·√A
    topic = "Fins and fans"
    flows = (fan_flow((FAN,), 10.0, 1.0), fan_flow((FAN,), 2.5, 0.5))
    return [
        Check(
            topic,
            "fin efficiency at mL = 1",
            f"{INCROPERA}, section 3.6: tanh(1)/1",
            "1",
            lambda: fin_efficiency(100.0, FinArray(0.1, 0.1, 10, 1e-3, math.sqrt(200.0 * 1e-3 / 200.0), 200.0)),
            0.7616,
            1e-3,
        ),
        Check(topic, "plate fins, slow: Nu → Re*·Pr/2", TEERTSTRA, "1", lambda: nusselt(0.1), 0.1 * AIR.prandtl / 2, 0.01),
        Check(
            topic,
            "plate fins, fast: Nu → boundary layers on both walls",
            "laminar plate, 0.664·√Re·Pr^⅓, on both walls",
            "1",
            lambda: nusselt(3e4),
            0.664 * math.sqrt(3e4) * AIR.prandtl ** (1 / 3),
            0.02,
        ),
        Check(topic, "square channel, f·Re", SHAH, "1", lambda: developed_friction(0.01, 0.01), square, 0.015),
        Check(topic, "channel 1 : 10, f·Re", SHAH, "1", lambda: developed_friction(2e-3, 2e-2), slot, 0.03),
        Check(
            topic,
            "fins too long to give off more: R·ṁc",
            "energy balance: air leaves as warm as the fins",
            "1",
            saturated,
            1.0,
            0.01,
        ),
        Check(topic, "fan and fins meet: ratio of their pressures", "the fan's own curve", "1", meets, 1.0, 1e-4),
        Check(topic, "half the speed, a quarter of the pressure: flow", "fan laws", "1", lambda: flows[1] / flows[0], 0.5, 1e-9),
        Check(
            topic,
            "half the speed: noise",
            "50·log10 of the speed ratio, " + PRACTICE,
            "dB",
            lambda: noise_at(40.0, 0.5),
            40 - 15.05,
            1e-3,
        ),
        Check(topic, "two equal sources together", "energies add: +3.01 dB", "dB", lambda: together([30.0, 30.0]), 33.01, 1e-4),
        Check(
            "Rising air",
            "upright plate 0.71 m, 232 °C in air of 23 °C",
            f"{INCROPERA}, example 9.2: 7.0 W/m²K",
            "W/m²K",
            lambda: film_free_plate("vertical", 209.0, 0.71, 296.0),
            7.0,
            0.02,
        ),
        Check(
            "Rising air",
            "flat plate looking up, Ra 10⁶",
            "McAdams 0.54·Ra^¼ by hand",
            "1",
            lambda: nusselt_free_plate("up", 1e6 / 0.7, 0.7),
            0.54 * 1e6**0.25,
            1e-3,
        ),
        Check(
            "Rising air",
            "flat plate looking down, Ra 10⁶",
            "McAdams 0.27·Ra^¼ by hand",
            "1",
            lambda: nusselt_free_plate("down", 1e6 / 0.7, 0.7),
            0.27 * 1e6**0.25,
            1e-3,
        ),
        Check(
            "Rising air",
            "upright plate, Ra 10⁸",
            "Churchill & Chu 1975 by hand",
            "1",
            lambda: nusselt_free_plate("vertical", 1e8 / 0.7, 0.7),
            (0.825 + 0.387 * 1e8 ** (1 / 6) / (1 + (0.492 / 0.7) ** (9 / 16)) ** (8 / 27)) ** 2,
            1e-3,
        ),
        Check(
            "Rising air", "best channel width: Elenbaas number", "Bar-Cohen & Rohsenow 1984: 54.3", "1", best_spacing, 54.3, 0.01
        ),
        Check(
            "Rising air",
            "Nu at the best width",
            "Bar-Cohen & Rohsenow 1984: 1.31",
            "1",
            lambda: nusselt_channel_bar_cohen(54.3),
            1.31,
            0.01,
        ),
        Check(
            "Rising air",
            "library and program agree on a horizontal plate",
            "ht 1.2, Nu_horizontal_plate_McAdams",
            "1",
            lambda: nusselt_free_plate("up", 3e7, 0.71),
            float(ht.Nu_horizontal_plate_McAdams(0.71, 3e7, True)),
            1e-9,
        ),
        Check(
            "Skin",
            "bare metal held for longer than a minute",
            TOUCH,
            "°C",
            lambda: touch_limits("metal")["over_1_min"],
            48.0,
            0.0,
        ),
        Check("Skin", "plastic touched for 1 to 10 s", TOUCH, "°C", lambda: touch_limits("plastic")["1_s_to_10_s"], 77.0, 0.0),
        Check("Skin", "bare metal touched for 1 to 10 s", TOUCH, "°C", lambda: touch_limits("metal")["1_s_to_10_s"], 60.0, 0.0),
    ]
