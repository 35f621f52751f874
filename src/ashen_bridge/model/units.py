"""Types of numbers by their physical meaning, with the range in which they are believed at all."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ashen_bridge.model.quantity import Bounds, Quantity

Thickness = Annotated[Quantity, Bounds(0.0, 200.0, open_low=True)]  # mm
Height = Annotated[Quantity, Bounds(0.0, 100.0, open_low=True)]  # mm
Step = Annotated[Quantity, Bounds(-50.0, 50.0)]  # mm
FormUm = Annotated[Quantity, Bounds(-2000.0, 2000.0)]  # µm
Travel = Annotated[Quantity, Bounds(0.0, 50.0)]  # mm
Force = Annotated[Quantity, Bounds(0.0, 5000.0)]  # N
Rate = Annotated[Quantity, Bounds(0.0, 1e6, open_low=True)]  # N/mm
Pressure = Annotated[Quantity, Bounds(0.0, 1e6)]  # kPa
Conductivity = Annotated[Quantity, Bounds(0.0, 1e5, open_low=True)]  # W/m·K, vapour chambers and heat pipes included
AreaResistance = Annotated[Quantity, Bounds(0.0, 1e5)]  # mm²·K/W
Resistance = Annotated[Quantity, Bounds(0.0, 1e4, open_low=True)]  # K/W
Power = Annotated[Quantity, Bounds(0.0, 5000.0)]  # W
Offset = Annotated[Quantity, Bounds(-50.0, 50.0)]  # K, of a sensor: one that is further off reads something else
Celsius = Annotated[Quantity, Bounds(-100.0, 400.0)]  # °C
Film = Annotated[Quantity, Bounds(0.0, 1e5)]  # W/m²·K
Percent = Annotated[Quantity, Bounds(0.0, 300.0)]  # %
Turns = Annotated[Quantity, Bounds(0.0, 100.0)]  # from first contact
Volume = Annotated[Quantity, Bounds(0.0, 1e5)]  # mm³
Decibel = Annotated[Quantity, Bounds(-20.0, 140.0)]  # dB(A)
Fraction = Annotated[Quantity, Bounds(0.0, 1.0)]
Positive = Annotated[Quantity, Bounds(0.0, 1e9, open_low=True)]
NonNegative = Annotated[Quantity, Bounds(0.0, 1e9)]
Coordinate = Annotated[float, Field(ge=-2000.0, le=2000.0)]  # mm
Length = Annotated[float, Field(gt=0.0, le=2000.0)]  # mm
