"""Types of numbers by their physical meaning, with the range in which they are believed at all."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from ashen_bridge.model.quantity import Quantity, bounded

if TYPE_CHECKING:
    Thickness = Height = Step = FormUm = Travel = Force = Rate = Pressure = Quantity
    Conductivity = AreaResistance = Resistance = Power = Celsius = Film = Percent = Volume = Fraction = Kelvin = Quantity
    Positive = NonNegative = Quantity
    Coordinate = Length = float
else:
    Thickness = bounded(0.0, 200.0, open_low=True)  # mm
    Height = bounded(0.0, 100.0, open_low=True)  # mm
    Step = bounded(-50.0, 50.0)  # mm
    FormUm = bounded(-2000.0, 2000.0)  # µm
    Travel = bounded(0.0, 50.0)  # mm
    Force = bounded(0.0, 5000.0)  # N
    Rate = bounded(0.0, 1e6, open_low=True)  # N/mm
    Pressure = bounded(0.0, 1e6)  # kPa
    Conductivity = bounded(0.0, 5000.0, open_low=True)  # W/m·K
    AreaResistance = bounded(0.0, 1e5)  # mm²·K/W
    Resistance = bounded(0.0, 1e4, open_low=True)  # K/W
    Power = bounded(0.0, 5000.0)  # W
    Celsius = bounded(-100.0, 400.0)  # °C
    Film = bounded(0.0, 1e5)  # W/m²·K
    Percent = bounded(0.0, 300.0)  # %
    Volume = bounded(0.0, 1e5)  # mm³
    Fraction = bounded(0.0, 1.0)
    Kelvin = bounded(-100.0, 100.0)  # K
    Positive = bounded(0.0, 1e9, open_low=True)
    NonNegative = bounded(0.0, 1e9)
    Coordinate = Annotated[float, Field(ge=-2000.0, le=2000.0)]  # mm
    Length = Annotated[float, Field(gt=0.0, le=2000.0)]  # mm
