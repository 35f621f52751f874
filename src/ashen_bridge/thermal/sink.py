"""Sink models: from what a heatsink is rated for to a film coefficient over its footprint."""

from __future__ import annotations

from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.sinks import RatedSink
from ashen_bridge.thermal.spreading import spreading_lee

SLOWEST = 0.05  # of rated speed: below it the speed law does not hold


def rated_resistance(sink: RatedSink, speed: float) -> float:
    """Return the resistance [K/W] between the sink's reference base and inlet air at `speed` (1 = rated).

    R = R_fixed + R_conv·(n/n₀)^−x. A rating against mean air gains half the air's own rise, which goes as 1/flow.
    """
    if speed < SLOWEST:
        raise AssemblyError(
            f"Fan speed {speed:.0%} of rated is below {SLOWEST:.0%}: the rated point says nothing about a standing fan."
        )
    resistance = sink.fixed_k_w.value + sink.convective_k_w.value * float(speed**-sink.exponent.value)
    if sink.air_reference == "mean":
        resistance += sink.air_rise_k_w.value / speed / 2
    return resistance


def film_of_sink(sink: RatedSink, speed: float, footprint_area: float, base_thickness: float, conductivity: float) -> float:
    """Return the film coefficient [W/m²·K] over the sink's footprint that reproduces its rating.

    A rating from a source spot contains the base's conduction and spreading from that spot; both are taken out again, since
    the column grid computes them. footprint_area [m²], base_thickness [m], conductivity [W/m·K] of the base.

    Raises
    ------
    AssemblyError
        If the rating is smaller than the spreading it must contain.
    """
    total = rated_resistance(sink, speed)
    if sink.base_reference == "mean_base":
        return 1 / (total * footprint_area)
    spot = (sink.spot_w_mm or 0.0) * (sink.spot_h_mm or 0.0) * 1e-6
    through = base_thickness / (conductivity * footprint_area)
    film = 1 / (total * footprint_area)
    for _ in range(60):
        rest = total - through - spreading_lee(spot, footprint_area, base_thickness, conductivity, film)
        if rest <= 0:
            raise AssemblyError(
                f"The sink's rating of {total:.3g} K/W from a {sink.spot_w_mm:g} × {sink.spot_h_mm:g} mm spot is less than its "
                "own base already takes; check spot size, base thickness and conductivity."
            )
        updated = 1 / (rest * footprint_area)
        if abs(updated - film) < 1e-9 * film:
            return updated
        film = updated
    return film
