"""The way down: from a component's hottest point to ambient, one temperature step per layer, where most heat goes."""

from __future__ import annotations

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Component, Plate, Substrate
from ashen_bridge.predict.readings import ContactReading, film_face, per_area_mm2k_w, read_contact, slab_mean
from ashen_bridge.predict.report import Descent, Step
from ashen_bridge.thermal.conductances import ContactCells
from ashen_bridge.thermal.names import sink
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN


class DescentTracer:
    """Traces descents through one field."""

    def __init__(self, scene: Scene, field: HeatField, ambient_c: float, extremes: dict[str, tuple[float, float]]) -> None:
        self.scene, self.field, self.ambient, self.extremes = scene, field, ambient_c, extremes
        self.facings: dict[str, list[ContactCells]] = {}
        self.attachments: dict[str, ContactCells] = {}
        self.readings = {id(contact): read_contact(field, contact) for contact in field.contacts if len(contact.area)}
        for contact in field.contacts:
            kind = contact.contact.kind if id(contact) in self.readings else ""
            if kind == "facing":
                self.facings.setdefault(contact.contact.slabs[0], []).append(contact)
            elif kind == "attach":
                self.attachments[contact.contact.slabs[1]] = contact

    def trace(self, component: str) -> Descent:
        """Return the descent of one component."""
        model = self.scene.bodies[component].model
        hottest, mean = self.extremes[component]
        steps = [
            Step(
                label="hot spot above mean",
                about=component,
                kind="hot spot",
                t_from_c=hottest,
                t_to_c=mean,
                watts=self._power(component),
            )
        ]
        up, down = self._best_facing(component), self._attachment(component)
        if up and (down is None or up[1].watts >= -down[1].watts):
            self._outwards(component, mean, up, steps)
        elif down and isinstance(model, Component | Substrate):
            carrier = model.on
            steps.append(
                self._step("balls to " + self._label(carrier), component, "attach", mean, down[1].lower_c, -down[1].watts)
            )
            self._to_ambient("through the board and its surfaces to air", carrier, down[1].lower_c, -down[1].watts, steps)
        else:
            self._to_ambient("surface to air", component, mean, self._power(component), steps)
        return Descent(component=component, steps=tuple(steps))

    def _outwards(self, start: str, mean: float, up: tuple[ContactCells, ContactReading], steps: list[Step]) -> None:
        body, here = start, mean
        step: tuple[ContactCells, ContactReading] | None = up
        while step is not None:
            contact, reading = step
            plate = contact.contact.slabs[1]
            straight = self._straight(body, here - reading.lower_c, reading.watts) if body == start else None
            steps.append(self._step(f"through {self._label(body)}", body, "body", here, reading.lower_c, reading.watts, straight))
            joint = contact.contact.name.joint if contact.contact.name is not None else ""
            what = self.scene.joints[joint].label if joint else "air gap"
            across = per_area_mm2k_w(contact)
            steps.append(self._step(what, joint or body, "joint", reading.lower_c, reading.upper_c, reading.watts, across))
            body, here = plate, reading.upper_c
            step = self._best_facing(plate)
        self._plate_to_air(body, here, steps)

    def _plate_to_air(self, plate: str, here: float, steps: list[Step]) -> None:
        for number, film in enumerate(self.field.films):
            if film.film.name != sink(plate) or not film.area.sum():
                continue
            base = film_face(self.field, number) - KELVIN
            watts, inlet = float(self.field.film_power[number]), film.film.air - KELVIN
            steps.append(self._step(f"spreading in {self._label(plate)}", plate, "body", here, base, watts))
            steps.append(self._step("fins to inlet air", plate, "sink", base, inlet, watts))
            self._to_ambient("inlet air above ambient", plate, inlet, watts, steps, always=False)
            return
        mean = slab_mean(self.field, plate)
        steps.append(self._step(f"spreading in {self._label(plate)}", plate, "body", here, mean, 0.0))
        self._to_ambient("surface to air", plate, mean, 0.0, steps)

    def _to_ambient(self, label: str, about: str, here: float, watts: float, steps: list[Step], always: bool = True) -> None:
        ambient = self.ambient
        if always or abs(here - ambient) > 1e-9:
            steps.append(self._step(label, about, "air", here, ambient, watts))

    def _straight(self, body: str, drop: float, watts: float) -> float | None:
        """Return the resistance per area [mm²·K/W] of a part that heat passes straight through."""
        area = self.scene.bodies[body].region.area * 1e6
        return drop * area / watts if watts > 1e-6 and drop > 0 else None

    def _step(
        self, label: str, about: str, kind: str, start: float, end: float, watts: float, per_area: float | None = None
    ) -> Step:
        return Step(label=label, about=about, kind=kind, t_from_c=start, t_to_c=end, watts=watts, resistance_mm2k_w=per_area)

    def _best_facing(self, body: str) -> tuple[ContactCells, ContactReading] | None:
        found = [(contact, self.readings[id(contact)]) for contact in self.facings.get(body, ())]
        if isinstance(self.scene.bodies[body].model, Plate):
            found = [item for item in found if item[1].watts > 0]
        return max(found, key=lambda item: item[1].watts, default=None)

    def _attachment(self, body: str) -> tuple[ContactCells, ContactReading] | None:
        contact = self.attachments.get(body)
        return (contact, self.readings[id(contact)]) if contact else None

    def _power(self, component: str) -> float:
        return self.field.made.get(component, 0.0)

    def _label(self, body: str) -> str:
        return self.scene.bodies[body].model.label
