"""What a prediction says: frozen rows with units in their names, the same in memory, in files and on the command line."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen

PHYSICS_VERSION = 9
"""Goes up whenever the same input may give other numbers, so that stored predictions are known to be old."""


class Spread(Frozen):
    """Minimum, mean and maximum over an area."""

    min: float
    mean: float
    max: float


class BondLine(Spread):
    """Thickness of what fills a joint [µm]; the harmonic mean is 1/mean(1/t)."""

    harmonic: float


class ComponentRow(Frozen):
    """Temperatures of the layer of a component in which its heat is made."""

    id: str
    kind: str
    t_max_c: float
    t_mean_c: float
    power_w: float
    hot_minus_mean_k: float = 0.0
    """Hot spot minus average: what people read as a sign of the mount."""
    sensed: bool = False
    """Whether a sensor reads it."""
    covered: float | None = None
    """Share of the top face that a piece of a joint covers; None where no joint reaches the component."""


class SensorRow(Frozen):
    """What a sensor should show, against the lowest limit on it."""

    id: str
    name: str
    reads: str
    group: str
    body: str
    value_c: float
    limit_c: float | None
    margin_k: float | None
    place_k: float = 0.0
    """Standard uncertainty that comes of not knowing where it is."""


class LayerRow(Frozen):
    """One piece of a joint over one lower body: its mean thickness, and its mean resistance with both of its faces."""

    id: str
    material: str
    thickness_um: float
    resistance_mm2k_w: float


class JointRow(Frozen):
    """One joint over one lower body; its resistance is that of all between the two faces, per area."""

    id: str
    name: str
    lower: str
    upper: str
    gap_mm: float
    bond_line_um: BondLine
    compression: float | None
    pressure_kpa: Spread
    force_n: float
    contact_fraction: float
    drop_k: float
    heat_w: float
    air_um: float
    paste_coverage: float | None = None
    paste_outside_law: bool = False
    resistance_mm2k_w: float | None = None
    layers: tuple[LayerRow, ...] = ()


class PlateRow(Frozen):
    """Pose and mean temperature of a plate. Height counts outwards from the board's surface; tilts are slopes along x and y."""

    id: str
    z_mm: float
    tilt_x_mrad: float
    tilt_y_mrad: float
    t_mean_c: float
    floats: bool


class FastenerRow(Frozen):
    """Tension of a fastener."""

    id: str
    force_n: float


class Step(Frozen):
    """One step of the way from a junction to air."""

    label: str
    about: str
    kind: str
    t_from_c: float
    t_to_c: float
    watts: float
    resistance_mm2k_w: float | None = None
    """Of a joint, or of a body that heat passes straight through: per area."""


class Descent(Frozen):
    """The way of most of a component's heat, from its hottest junction point to ambient."""

    component: str
    steps: tuple[Step, ...]


class WayRow(Frozen):
    """Heat that leaves by one film."""

    id: str
    watts: float


class LedgerRow(Frozen):
    """Heat that leaves a component by one way [W]; `to` is a body or air."""

    component: str
    to: str
    way: str
    watts: float


class SkinRow(Frozen):
    """The outer face of a plate that can be touched, against touch limits by contact time, and a stated limit if there is one."""

    id: str
    name: str
    t_max_c: float
    surface: str
    touch_limits_c: dict[str, float]
    longest_contact: str | None
    limit_c: float | None


class FanRow(Frozen):
    """The fans of one sink: speed against rated, noise of all of them, and where they work if that was computed."""

    id: str
    name: str
    speed_percent: float
    rpm: float | None = None
    noise_db: float | None
    flow_m3_h: float | None
    pressure_pa: float | None


class PipeRow(Frozen):
    """Heat pipes of a plate: what they carry through their busiest section, and their limit at their tilt."""

    id: str
    plate: str
    name: str
    carried_w: float
    limit_w: float


class HeldBackRow(Frozen):
    """A component that makes less than it was told to, by a power limit or because it throttles."""

    component: str
    wanted_w: float
    power_w: float
    reason: Literal["throttled", "limited"]


class ClosingRow(Frozen):
    """A plate that closes over the stack: force it takes and can take, bulge, least clearance and over what."""

    id: str
    name: str
    force_n: float
    most_n: float | None
    closes: bool
    bulge_mm: float
    clearance_mm: float
    tightest: str
    hardest: str


class BowRow(Frozen):
    """How far the board bends [µm]: from its lowest to its highest point between its screws, and under one die."""

    board_um: float
    under_um: dict[str, float]


class Balance(Frozen):
    """How well energy and forces close, relative to their totals."""

    energy_rel: float
    force_rel: float


class Mesh(Frozen):
    """Cells of the field, and by how much refinement would still move the hottest point of any component, and which (estimate).

    None where no second field was at hand to compare with.
    """

    cells: int
    refinement_k: float | None
    refinement_at: str | None = None


class Report(Frozen):
    """A whole prediction in numbers and words, without its maps."""

    build: str
    point: str
    fidelity: str
    input_hash: str
    components: tuple[ComponentRow, ...]
    sensors: tuple[SensorRow, ...]
    joints: tuple[JointRow, ...]
    plates: tuple[PlateRow, ...]
    fasteners: tuple[FastenerRow, ...]
    descents: tuple[Descent, ...]
    ways: tuple[WayRow, ...]
    ledger: tuple[LedgerRow, ...] = ()
    skin: tuple[SkinRow, ...] = ()
    fans: tuple[FanRow, ...] = ()
    noise_db: float | None = None
    pipes: tuple[PipeRow, ...] = ()
    closing: tuple[ClosingRow, ...] = ()
    held_back: tuple[HeldBackRow, ...] = ()
    inside_air_c: float | None = None
    leakage_gain: float | None = None
    """Of a watt more leakage, how much comes back as still more: at 1 heat runs away. None where nothing leaks."""
    bow: BowRow | None = None
    balance: Balance
    mesh: Mesh
    ambient_c: float
    power_w: float
    stored_s: float | None = None
    """Heat stored over heat made [s]: about the slowest time constant, since the slow parts hold most of it."""
    seconds: float = Field(ge=0)

    def component(self, component_id: str) -> ComponentRow:
        """Return a component's row; `KeyError` if it has none."""
        return _row(self.components, component_id)

    def joint_rows(self, joint_id: str) -> tuple[JointRow, ...]:
        """Return the rows of a joint, one per lower body."""
        return tuple(row for row in self.joints if row.id == joint_id)

    def joint_over(self, lower: str) -> JointRow | None:
        """Return the row of the joint over a body, if there is one."""
        return next((row for row in self.joints if row.lower == lower), None)


def _row(rows: tuple[ComponentRow, ...], wanted: str) -> ComponentRow:
    for row in rows:
        if row.id == wanted:
            return row
    raise KeyError(wanted)
