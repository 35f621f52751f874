"""From a plate's sink, whatever its model, to the film that stands for it; and what its fans do."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from ashen_bridge.geometry.region import Box, Region
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.sinks import Fan, FinSink, LiquidSink, NaturalSink, RatedSink
from ashen_bridge.thermal.fins import FanPointFound, air_of, check_array, operating_point, resistance_plate_fins
from ashen_bridge.thermal.natural import FilmLaw, FinArray, Lie
from ashen_bridge.thermal.sink import SLOWEST, Base, film_from_base, rated_resistance
from ashen_bridge.words.numbers import percent, short

_MM = 1e-3


@dataclass(frozen=True)
class SinkPlace:
    """Where a sink stands: plate's name, region under it, base, conductivity of its metal [W/m·K], emissivity, how it lies."""

    plate: str
    region: Region
    base: Base
    conductivity: float
    emissivity: float
    lie: Lie


@dataclass(frozen=True)
class SinkFilm:
    """What stands for a sink: a coefficient [W/m²·K] or a law of the mean base temperature, and an emissivity beside it."""

    coefficient: float = 0.0
    law: Callable[[float], float] | None = None
    emissivity: float = 0.0


def sink_film(sink: RatedSink | FinSink | NaturalSink | LiquidSink, place: SinkPlace, speed: float, inlet: float) -> SinkFilm:
    """Return the film of a sink at a share of its fans' rated speed and an inlet temperature [K]. Raises `AssemblyError`.

    Air that is lost is missing from the flow, which goes with the speed; of plate fins it never comes to the channels.
    """
    kept = 1 - sink.air_lost.value
    if isinstance(sink, RatedSink):
        return SinkFilm(_rated_film(sink, rated_resistance(sink, kept * speed), place))
    if isinstance(sink, FinSink):
        array = fin_array(sink, place)
        found = operating_point(ducted_fans(sink), array, air_of(inlet), _moving(speed, place.plate))
        return SinkFilm(1 / (resistance_plate_fins(array, found, air_of(inlet)) * place.region.area))
    if isinstance(sink, LiquidSink):
        return SinkFilm(_rated_film(sink, loop_resistance(sink, _moving(kept * speed, place.plate)), place))
    return _natural(sink, place, inlet)


def _rated_film(sink: RatedSink | LiquidSink, resistance: float, place: SinkPlace) -> float:
    spot = (sink.spot_w_mm or 0.0) * (sink.spot_h_mm or 0.0) * 1e-6
    base = replace(place.base, spot=spot or place.base.spot)
    return film_from_base(resistance, base, sink.base_reference == "source_spot")


def _moving(speed: float, plate: str) -> float:
    if speed < SLOWEST:
        raise AssemblyError(
            f"The fan on '{plate}' stands at {percent(speed)} of its speed: nothing is known of it then.", (plate,)
        )
    return speed


def fin_array(sink: FinSink | NaturalSink, place: SinkPlace) -> FinArray:
    """Return the fins of a sink on their region. Raises `AssemblyError` if they leave no room for air."""
    x0, y0, x1, y1 = place.region.bounds
    across, along = (y1 - y0, x1 - x0) if sink.runs == "x" else (x1 - x0, y1 - y0)
    thickness, height = sink.fin_thickness_mm.value * _MM, sink.fin_height_mm.value * _MM
    return check_array(FinArray(across, along, sink.count, thickness, height, place.conductivity), place.plate)


def loop_resistance(sink: LiquidSink, speed: float) -> float:
    """Return the resistance [K/W] of a liquid loop from base to air.

    Block, rated against the coolant that comes in, and radiator, rated from the coolant that comes in there; between the two
    lies the coolant's own rise 1/C, which the radiator takes out again: R = R_block + R_radiator − 1/C.
    """
    block = sink.block_k_w.value * float((sink.flow_l_min.value / sink.rated_flow_l_min.value) ** -sink.block_exponent.value)
    radiator = sink.radiator_k_w.value * float(speed**-sink.radiator_exponent.value)
    rise = 60 / (sink.coolant_j_l_k.value * sink.flow_l_min.value)
    if radiator < rise:
        raise AssemblyError(
            f"The radiator is said to resist {short(radiator, 3)} K/W, less than the coolant's own rise of {short(rise, 3)} K/W: "
            "give it more flow, or check the rating."
        )
    return block + radiator - rise


def _natural(sink: NaturalSink, place: SinkPlace, air: float) -> SinkFilm:
    rises = place.lie == "vertical" and sink.runs == "y"
    if sink.count >= 2 and rises:
        array = fin_array(sink, place)
        return SinkFilm(law=FilmLaw(place.lie, array.length, air, array, place.emissivity))
    return SinkFilm(law=FilmLaw(place.lie, plate_length(place.region.bounds, place.lie), air), emissivity=place.emissivity)


def plate_length(bounds: Box, lie: Lie) -> float:
    """Return the length that counts for rising air [m]: height of an upright face, area over perimeter of a flat one."""
    x0, y0, x1, y1 = bounds
    w, h = x1 - x0, y1 - y0
    return max(h if lie == "vertical" else w * h / (2 * (w + h)), 1e-4)


def noise_at(rated_db: float, speed: float) -> float:
    """Return the noise of a fan [dB] at a share of its rated speed: 50·log10 of the ratio.

    Sound power goes with the fifth power of speed (fan laws; common practice for the exponent).

    >>> round(noise_at(40.0, 0.5), 1)
    24.9
    """
    return rated_db + 50 * math.log10(speed) if speed > 0 else -math.inf


def together(levels_db: Iterable[float]) -> float:
    """Return the level [dB] of incoherent sources together: energies add.

    >>> round(together([30.0, 30.0]), 1)
    33.0
    """
    energy = sum(10 ** (level / 10) for level in levels_db)
    return 10 * math.log10(energy) if energy > 0 else -math.inf


def fan_noise(fans: Iterable[Fan], speed: float) -> float:
    """Return the noise [dB] of all fans of a sink at a share of their rated speed."""
    return together(noise_at(fan.noise_db.value, speed) + 10 * math.log10(fan.count) for fan in fans)


def fan_found(sink: FinSink, place: SinkPlace, speed: float, inlet: float) -> FanPointFound:
    """Return where the fans of a fin sink work."""
    return operating_point(ducted_fans(sink), fin_array(sink, place), air_of(inlet), speed)


def ducted_fans(sink: FinSink) -> tuple[Fan, ...]:
    """Return a fin sink's fans with what is lost of their air taken off what is ducted to the fins."""
    kept = 1 - sink.air_lost.value
    ducted = [fan.ducted.model_copy(update={"value": fan.ducted.value * kept}) for fan in sink.fans]
    return tuple(fan.model_copy(update={"ducted": share}) for fan, share in zip(sink.fans, ducted, strict=True))
