"""The coarse heat model of a prediction as a linear system, ready to be changed and read."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.model.bodies import PlateRole
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.predict.joint_heat import joint_conductance
from ashen_bridge.predict.operating import come_about
from ashen_bridge.predict.powers import powers_at, with_powers
from ashen_bridge.predict.readings import SensorCells, sensor_cells
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.thermal.columns import ColumnGrid
from ashen_bridge.thermal.conductances import FieldState, FilmCells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.linearised import InsideNode, LinearSystem, linearised
from ashen_bridge.thermal.names import skin
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.resolution import COARSE, frame_like, frame_of
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver
from ashen_bridge.thermal.surfaces import KELVIN

_ACCURACY = Accuracy(residual=1e-9, settled=1e-4, energy=1e-6)


@dataclass(frozen=True)
class Reading:
    """One sensor or limited skin: its id, where it looks, and its offset [K]."""

    id: str
    cells: SensorCells
    offset: float


class CoarseModel:
    """The coarse field of a state at rest, with powers as told: throttling is left out, so that its chance can be seen."""

    def __init__(self, half: AtRest, point: OperatingPoint) -> None:
        self._half = half
        self._frame = frame_of(half.scene, COARSE)
        self._point = point.model_copy(update={"throttle_at_c": {}})
        conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
        solver = SteadySolver()
        last: list[OperatingPoint] = []

        def solve(actual: OperatingPoint, inside: float | None) -> HeatField:
            last.append(actual)
            return solver.solve(heat_model(half.scene, self._frame, actual, conductance, inside), _ACCURACY)

        found = come_about(half.scene, self._point, self._frame.slabs.active, solve, close_k=1e-3)
        self.field, self._inside = found.field, found.inside
        # Anew with the air that was found: what other devices' systems are compared with holds the very same films.
        self._model = heat_model(half.scene, self._frame, last[-1], conductance, self._inside)
        self._facings = self._model.contacts[-len(half.scene.plan.facings) :] if half.scene.plan.facings else ()
        self.reference = self._model.reference
        self._temperature = self.field.temperature
        if self._inside is not None:
            self._temperature = np.append(self._temperature, self._inside)
        self.system = self._linear(self._model, self._point)

    @property
    def rises(self) -> Floats:
        """Rises [K] of all unknowns in the present state."""
        return self._temperature - self.reference

    @property
    def sink_films(self) -> list[tuple[FilmCells, Floats]]:
        """The films of sinks whose air is given, and what their cells conduct [W/K]."""
        field = self.field
        state = FieldState(field.grid, field.edges, field.films)
        films = [film for film in field.films if film.film.kind == "sink" and not film.film.inside]
        at = field.temperature
        return [(film, state.film_conductance(film, at, at[film.cells])) for film in films]

    @cached_property
    def readings(self) -> tuple[Reading, ...]:
        """Every sensor of a present body, and every skin with a limit, as `sensor_rows` lists them; of a device without any, the
        hottest place of every component."""
        device, scene = self._half.resolved.device, self._half.scene
        grid = self.system.grid
        found = [
            Reading(sensor.id, sensor_cells(grid, sensor, self._frame.slabs.active), sensor.offset_k.value)
            for sensor in device.sensors
            if sensor.body in scene.bodies
        ]
        limited = {limit.body for limit in device.limits if limit.place == "skin" and limit.body}
        for name, body in scene.bodies.items():
            if name in limited and getattr(body.model, "role", None) in set(PlateRole):
                outer = grid.slabs[name].layer(-1)
                found.append(Reading(str(skin(name)), SensorCells(np.arange(outer.start, outer.stop), None), 0.0))
        return tuple(found or (Reading(name, self._active(name), 0.0) for name in self._frame.slabs.active))

    def hottest(self, rises: Floats) -> dict[str, float]:
        """Return how hot every component gets where it makes its heat [°C], for rises (n,) [K]."""
        return {name: float(rises[cells].max()) + self.celsius for name, cells in self.made_in().items()}

    @property
    def celsius(self) -> float:
        """What a rise of nothing is [°C]."""
        return self.reference - KELVIN

    def made_in(self) -> dict[str, Ints]:
        """Return the cells in which every component makes its heat."""
        return {name: self._active(name).cells for name in self._frame.slabs.active}

    def _active(self, name: str) -> SensorCells:
        """Return the cells in which a component makes its heat."""
        slab = self.system.grid.slabs[name]
        layers = [slab.layer(number) for number in self._frame.slabs.active[name]]
        return SensorCells(np.concatenate([np.arange(one.start, one.stop) for one in layers]), None)

    def at_point(self, point: OperatingPoint) -> LinearSystem:
        """Return the system at another operating point, joints and properties as they are."""
        told = point.model_copy(update={"throttle_at_c": {}})
        actual = with_powers(told, powers_at(self._half.scene, told))
        model = heat_model(self._half.scene, self._frame, actual, self._facings, self._inside)
        return self._linear(model, told, grid=self.system.grid, like=self.system)

    def of_device(self, resolved: ResolvedBuild, point: OperatingPoint | None = None) -> LinearSystem:
        """Return the system of a device with other numbers of the same shape, joints and place of everything as they are.

        At its own operating point if no other is given.
        """
        scene = make_scene(resolved)
        frame = frame_like(self._frame, self._half.scene, scene, COARSE)
        told = self._point if point is None else point.model_copy(update={"throttle_at_c": {}})
        actual = with_powers(told, powers_at(scene, told))
        model = heat_model(scene, frame, actual, self._facings, self._inside)
        return self._linear(model, told, like=self.system)

    def bodies(self) -> list[SensorCells]:
        """Return, for every slab of the grid, its cells with what they weigh in its mean."""
        slabs = self.system.grid.slabs.values()
        volumes = [slab.volume for slab in slabs]
        cells = [np.arange(slab.cells.start, slab.cells.stop) for slab in slabs]
        return [SensorCells(at, volume / volume.sum()) for at, volume in zip(cells, volumes, strict=True)]

    def warmer(self, by: float, cells: Ints) -> LinearSystem:
        """Return the system if some cells were warmer by some kelvins.

        That holds all that depends on temperature: conductivity, radiation, rising air, leakage.
        """
        temperature = self._temperature.copy()
        temperature[cells] += by
        return self._linear(self._model, self._point, temperature, self.system.grid, self.system)

    def _linear(
        self,
        model: HeatModel,
        point: OperatingPoint,
        temperature: Floats | None = None,
        grid: ColumnGrid | None = None,
        like: LinearSystem | None = None,
    ) -> LinearSystem:
        node = None
        if self._inside is not None:
            vent = 1 / point.vent_k_w.value if point.inside == "vented" and point.vent_k_w else 0.0
            node = InsideNode(point.ambient_c.value + KELVIN, vent)
        at = self._temperature if temperature is None else temperature
        return linearised(model, at, self.reference, node, grid, like)

    def read(self, basis: Floats, coefficients: Floats) -> Floats:
        """Return what every reading shows (s, n_reading) [°C] for fields given by coefficients (s, r) on a basis (n, r)."""
        columns = []
        for reading in self.readings:
            values = coefficients @ basis[reading.cells.cells].T
            seen = values.max(axis=1) if reading.cells.weights is None else values @ reading.cells.weights
            columns.append(seen + self.reference - KELVIN + reading.offset)
        return np.stack(columns, axis=1) if columns else np.zeros((len(coefficients), 0))
