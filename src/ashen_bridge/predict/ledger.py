"""The heat ledger: for every component, how many watts leave by which way; and the skin of what can be touched."""

from __future__ import annotations

import numpy as np

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.library.touch import longest_contact, surface_of, touch_limits
from ashen_bridge.model.bodies import Component, Plate, PlateRole
from ashen_bridge.predict.readings import contact_flows
from ashen_bridge.predict.report import LedgerRow, SkinRow
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN


def ledger(scene: Scene, field: HeatField) -> tuple[LedgerRow, ...]:
    """Return every way by which heat leaves a component [W], the largest first; what comes in counts negative.

    The rows of a component add up to its power.
    """
    rows: list[LedgerRow] = []
    for contact in field.contacts:
        lower, upper = contact.contact.slabs
        out, into = contact_flows(field, contact) if len(contact.area) else (np.zeros(1), np.zeros(1))
        for name, to, watts in ((lower, upper, out.sum()), (upper, lower, -into.sum())):
            if name in scene.bodies and isinstance(scene.bodies[name].model, Component):
                rows.append(LedgerRow(component=name, to=to, way=str(contact.contact.name), watts=float(watts)))
    for film, watts in zip(field.films, field.film_power, strict=True):
        if isinstance(scene.bodies[film.film.slab].model, Component):
            rows.append(LedgerRow(component=film.film.slab, to="air", way=str(film.film.name), watts=float(watts)))
    return tuple(sorted(rows, key=lambda row: (row.component, -row.watts)))


def skin(scene: Scene, field: HeatField) -> tuple[SkinRow, ...]:
    """Return the outer face of every plate that can be touched: case walls, and plates with a skin limit.

    Plates keep their outermost temperatures at their outer face, so the hottest of them is the skin's.
    """
    limited = _limited(scene)
    rows = []
    for name in touchable(scene):
        body = scene.bodies[name]
        assert isinstance(body.model, Plate)  # what can be touched
        cells = field.grid.slabs[name]
        hottest = float(field.temperature[cells.layer(-1)].max()) - KELVIN
        surface = surface_of(scene.resolved.materials[body.model.material])
        rows.append(
            SkinRow(
                id=name,
                name=body.model.label,
                t_max_c=hottest,
                surface=surface,
                touch_limits_c=touch_limits(surface),
                longest_contact=longest_contact(hottest, surface),
                limit_c=limited.get(name),
            )
        )
    return tuple(rows)


def _limited(scene: Scene) -> dict[str, float]:
    return {limit.body: limit.max_c.value for limit in scene.resolved.device.limits if limit.place == "skin" and limit.body}


def touchable(scene: Scene) -> list[str]:
    """Return the plates whose skin is shown."""
    limited = _limited(scene)
    plates = {name: body.model for name, body in scene.bodies.items() if isinstance(body.model, Plate)}
    return [name for name, plate in plates.items() if plate.role is PlateRole.CASE_WALL or name in limited]


def skin_names(scene: Scene) -> list[str]:
    """Return the names of the plates whose skin is shown, in the order of `skin`."""
    return [scene.bodies[name].model.label for name in touchable(scene)]
