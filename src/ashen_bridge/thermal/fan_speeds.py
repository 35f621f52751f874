"""At which share of their rated speed fans run: as stated in per cent or rpm, or as loud as is asked for."""

from __future__ import annotations

import math

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.sinks import Sink
from ashen_bridge.thermal.sink_films import fan_noise, together
from ashen_bridge.words.numbers import number, short

FASTEST = 3.0  # times rated: what a stated noise may ask of a fan at most


def stated_speed(point: OperatingPoint, plate: str, sink: Sink | None) -> float:
    """Return the share of rated speed that an operating point states; all of it where it says nothing.

    Raises `AssemblyError` for a speed in rpm of fans that do not say what they are rated at.
    """
    if plate in point.fans_rpm:
        rated = next((fan.rated_rpm.value for fan in (sink.fans if sink else ()) if fan.rated_rpm is not None), None)
        if rated is None:
            raise AssemblyError(
                f"The fan on '{plate}' is set to {number(point.fans_rpm[plate].value)} rpm, but does not say its rated rpm.",
                (plate,),
            )
        return point.fans_rpm[plate].value / rated
    return point.fans_percent[plate].value / 100 if plate in point.fans_percent else 1.0


def fan_speed(scene: Scene, point: OperatingPoint, plate: str) -> float:
    """Return the share of rated speed at which the fans of a plate's sink run.

    Where the operating point states a noise, all fans are turned up or down together until they are, with the room, as loud.
    """
    body = scene.bodies[plate].model
    stated = stated_speed(point, plate, body.sink if isinstance(body, Plate) else None)
    return stated if point.noise_db is None else stated * _turned(scene, point, point.noise_db.value)


def _turned(scene: Scene, point: OperatingPoint, wanted_db: float) -> float:
    """Return by how much all fans are turned up or down to be as loud as is wanted, by 50·log10 of their speed."""
    plates = [body.model for body in scene.bodies.values() if isinstance(body.model, Plate)]
    levels = [
        fan_noise(plate.sink.fans, stated_speed(point, plate.id, plate.sink))
        for plate in plates
        if plate.sink is not None and plate.sink.fans
    ]
    if not levels:
        raise AssemblyError(f"Operating point '{point.id}' asks for {short(wanted_db)} dB, but no fan says how loud it is.")
    room = point.room_noise_db.value
    if wanted_db <= room:
        raise AssemblyError(
            f"Operating point '{point.id}' asks for {short(wanted_db)} dB, but the room alone has {short(room)} dB."
        )
    fans = 10 * math.log10(10 ** (wanted_db / 10) - 10 ** (room / 10))
    turned = float(10 ** ((fans - together(levels)) / 50))
    if turned > FASTEST:
        raise AssemblyError(
            f"At {short(wanted_db)} dB fans would run at {number(turned, 1)} times their stated speed: they do not get so loud."
        )
    return turned
