"""Bodies: board, substrate, components and plates."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.footprint import Finish, Footprint, Form, Rect
from ashen_bridge.model.inner import SPREADS_W_MK, BaseKind, BoardRegion, CopperLayer, Foil, Recess
from ashen_bridge.model.plays import Beside, Both, Heat, Mechanics, Plays, Resists, When
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.sinks import Connector, HeatPipes, Sink
from ashen_bridge.model.units import (
    AreaResistance,
    Celsius,
    Conductivity,
    Force,
    Fraction,
    Height,
    Length,
    NonNegative,
    Positive,
    Power,
    Pressure,
    Resistance,
    Step,
    Thickness,
)

GROUND = "ground"
CASE = "case"


class Side(StrEnum):
    """Which side of the board a body is on."""

    FRONT = "front"
    REAR = "rear"


class ComponentRole(StrEnum):
    """What a component does."""

    DIE = "die"
    MEMORY = "memory"
    REGULATOR = "regulator"
    INDUCTOR = "inductor"
    OTHER = "other"


class PlateRole(StrEnum):
    """What a plate does."""

    COOLER = "cooler"
    LID = "lid"
    BACKPLATE = "backplate"
    SPREADER = "spreader"
    SHIM = "shim"
    STIFFENER = "stiffener"
    CASE_WALL = "case wall"


class PowerBlock(Frozen):
    """Part of a die that makes more heat: its place relative to the die's lower-left corner and its share of the power."""

    id: Id
    area: Rect
    share: float = Field(ge=0.0, le=1.0)


class SolidMakeUp(Frozen):
    """A component that conducts like one block; heat is made throughout."""

    type: Literal["solid"] = "solid"
    material: Id


class DieMakeUp(Frozen):
    """A bare die: heat is made in its active side, evenly or by a power map.

    What the blocks leave is spread evenly over the whole die, or only `beside the blocks`.
    """

    type: Literal["die"] = "die"
    material: Id
    active_side: Literal["bottom", "top"] = "bottom"
    power_map: tuple[PowerBlock, ...] = ()
    rest: Literal["whole die", "beside the blocks"] = "whole die"

    @model_validator(mode="after")
    def _shares_fit(self) -> DieMakeUp:
        total = sum(block.share for block in self.power_map)
        if total > 1 + 1e-9:
            raise ValueError(f"the power map's shares add up to {total:.3g}; they must not exceed 1")
        return self


class PackageMakeUp(Frozen):
    """A moulded package: active layer of its own size between mould cap and ball layer.

    Effective conductivities of cap and balls are fitted so that a fully covered package reproduces both resistances.
    """

    type: Literal["package"] = "package"
    active_material: Id
    active_w_mm: Length
    active_h_mm: Length
    active_thickness_mm: Heat[Thickness]
    ball_thickness_mm: Heat[Thickness]
    junction_to_case_k_w: Resists[Resistance]
    junction_to_board_k_w: Resists[Resistance]
    mould_density_kg_m3: Beside[NonNegative] = Field(default_factory=lambda: q(1900.0, 100.0, "handbook"))
    mould_specific_heat_j_kgk: Beside[NonNegative] = Field(default_factory=lambda: q(900.0, 100.0, "handbook"))


MakeUp = Annotated[SolidMakeUp | DieMakeUp | PackageMakeUp, Field(discriminator="type")]


class Attach(Frozen):
    """How a body is fixed to its carrier by bumps, balls, underfill, solder: for heat, and against sliding when both bend.

    `shear_gpa_mm` is the shear modulus over the thickness of what lies between, spread over the whole face.
    """

    resistance_mm2k_w: Resists[AreaResistance] = Field(default_factory=lambda: q(10.0, 5.0, "assumed"))
    shear_gpa_mm: Annotated[NonNegative, Plays(mechanics=True, when=When.BOARD_BENDS)] = Field(
        default_factory=lambda: q(6.0, 4.0, "assumed", "balls or bumps with underfill")
    )


class Leakage(Frozen):
    """The part of a component's power that grows with temperature.

    Exponential: P(T) = P·[1 − share + share·exp((T − at_c)/per_k)]. Straight: P(T) = P·[1 + share·(T − at_c)/per_k].
    """

    form: Literal["exponential", "straight"] = "exponential"
    share: Heat[Fraction]
    at_c: Heat[Celsius]
    per_k: Heat[Positive] = Field(default_factory=lambda: q(60.0, 15.0, "assumed"))


class LoadLoss(Frozen):
    """What a regulator or inductor loses for feeding others: fixed_w + share of the power of all components in `of`."""

    of: tuple[Id, ...] = Field(min_length=1, max_length=64)
    share: Heat[Fraction]
    fixed_w: Heat[Power] = Field(default_factory=lambda: q(0.0))


class _Body(Frozen):
    id: Id
    name: Name = ""
    footprint: Footprint
    form: Form = Form()
    finish: Finish = Finish()

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    @property
    def made_of(self) -> tuple[str, ...]:
        """Ids of the materials it is made of."""
        return ()

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for material in self.made_of:
            yield Reference("Body", self.id, "is made of", Kind.MATERIAL, material)


class Board(_Body):
    """The circuit board; its material has an in-plane and a through conductivity.

    Where its copper layers are stated (front to rear), the material is the laminate between them; else it stands for both.
    It `bends` unless it is braced well enough to be taken as rigid, if its material states a Young's modulus.
    """

    kind: Literal["board"] = "board"
    on: Id = GROUND
    thickness_mm: Both[Thickness]
    material: Id
    bends: bool = True
    copper: tuple[CopperLayer, ...] = Field(default=(), max_length=64)
    regions: tuple[BoardRegion, ...] = Field(default=(), max_length=200)
    connectors: tuple[Connector, ...] = Field(default=(), max_length=32)

    @property
    def made_of(self) -> tuple[str, ...]:
        """Its material."""
        return (self.material,)

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield from super().references()
        yield Reference("Body", self.id, "is carried by", Kind.CARRIER, self.on)


class Substrate(_Body):
    """A package substrate that carries a die (and perhaps memory) on balls."""

    kind: Literal["substrate"] = "substrate"
    on: Id
    side: Side = Side.FRONT
    thickness_mm: Both[Thickness]
    material: Id
    attach: Attach = Attach()

    @property
    def height_mm(self) -> Quantity:
        """Top of the substrate above its carrier [mm]."""
        return self.thickness_mm

    @property
    def made_of(self) -> tuple[str, ...]:
        """Its material."""
        return (self.material,)

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield from super().references()
        yield Reference("Body", self.id, "is carried by", Kind.CARRIER, self.on)


class Component(_Body):
    """A part that makes heat. `height_mm` is its top above the carrier, balls included."""

    kind: Literal["component"] = "component"
    role: ComponentRole
    on: Id
    side: Side = Side.FRONT
    height_mm: Both[Height]
    make_up: MakeUp
    attach: Attach = Attach()
    pressure_min_kpa: Beside[Pressure | None] = None
    pressure_max_kpa: Beside[Pressure | None] = None
    leakage: Leakage | None = None
    loss: LoadLoss | None = None

    @model_validator(mode="after")
    def _layers_fit(self) -> Component:
        inner = self.make_up
        if isinstance(inner, PackageMakeUp):
            used = inner.active_thickness_mm.value + inner.ball_thickness_mm.value
            if used >= self.height_mm.value:
                raise ValueError(
                    f"component '{self.id}': active layer and balls together ({used:g} mm) leave no mould cap "
                    f"in a height of {self.height_mm.value:g} mm"
                )
            x0, y0, x1, y1 = self.footprint.bounds
            if inner.active_w_mm > x1 - x0 or inner.active_h_mm > y1 - y0:
                raise ValueError(f"component '{self.id}': the active layer is larger than the package")
        low, high = self.pressure_min_kpa, self.pressure_max_kpa
        if low and high and low.value >= high.value:
            raise ValueError(f"component '{self.id}': the pressure window is empty ({low.value:g} to {high.value:g} kPa)")
        return self

    @property
    def made_of(self) -> tuple[str, ...]:
        """What its block, die or active layer is made of."""
        return (self.make_up.active_material if isinstance(self.make_up, PackageMakeUp) else self.make_up.material,)

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield from super().references()
        yield Reference("Body", self.id, "is carried by", Kind.CARRIER, self.on)
        for fed in self.loss.of if self.loss is not None else ():
            yield Reference("Body", self.id, "loses power for feeding", Kind.BODY, fed)

    @model_validator(mode="after")
    def _feeds_others(self) -> Component:
        if self.loss is not None and self.id in self.loss.of:
            raise ValueError(f"component '{self.id}' is said to lose power for feeding itself")
        return self


class Landing(Frozen):
    """The area of a plate's near face that faces something; `step_mm` > 0 is set back from the reference plane."""

    id: Id
    name: Name = ""
    area: Rect
    step_mm: Both[Step]
    form: Form = Form()


class Plate(_Body):
    """Cooler base, lid, backplate, spreader, shim, stiffener frame or case wall.

    One that floats bends if its material states a Young's modulus and it is thin enough. Heat pipes or a vapour chamber inside
    (`base`) let it conduct along itself as `spreads_w_mk` says, else as is usual of them.

    `on` is `floating` (its place is found by the equilibrium), or `case`/`ground` (it does not move; then `height_mm`
    says where its reference plane is above the board's surface on its side). One that does not move and closes over the stack
    bulges by `give_um_n` and is held shut with at most `closing_force_n`.
    """

    kind: Literal["plate"] = "plate"
    role: PlateRole
    on: Literal["floating", "case", "ground"] = "floating"
    side: Side = Side.FRONT
    thickness_mm: Both[Thickness]
    height_mm: Both[Height | None] = None
    material: Id
    bends: bool = True
    base: BaseKind = BaseKind.SOLID
    spreads_w_mk: Resists[Conductivity | None] = None
    foil: Foil | None = None
    recesses: tuple[Recess, ...] = Field(default=(), max_length=32)
    landings: tuple[Landing, ...] = ()
    sink: Sink | None = None
    heat_pipes: tuple[HeatPipes, ...] = Field(default=(), max_length=32)
    give_um_n: Mechanics[NonNegative] = Field(default_factory=lambda: q(0.0))
    closing_force_n: Beside[Force | None] = None

    @model_validator(mode="before")
    @classmethod
    def _spreads_as_its_kind_does(cls, data: Any) -> Any:
        if isinstance(data, dict) and data.get("spreads_w_mk") is None and data.get("base") in tuple(SPREADS_W_MK):
            return {**data, "spreads_w_mk": SPREADS_W_MK[BaseKind(data["base"])]}
        return data

    @model_validator(mode="after")
    def _recesses_leave_a_floor(self) -> Plate:
        for recess in self.recesses:
            if recess.depth_mm.value >= self.thickness_mm.value:
                raise ValueError(f"recess '{recess.id}' of plate '{self.id}' is deeper than the plate is thick")
        return self

    @model_validator(mode="after")
    def _fixed_plates_have_a_place(self) -> Plate:
        if self.on != "floating" and self.height_mm is None:
            raise ValueError(f"plate '{self.id}' does not move (on '{self.on}'), so it needs height_mm")
        if self.on == "floating" and self.height_mm is not None:
            raise ValueError(f"plate '{self.id}' floats: its height is computed, so leave height_mm out")
        return self

    @property
    def made_of(self) -> tuple[str, ...]:
        """Its material, and that of a foil on it."""
        return (self.material, self.foil.material) if self.foil is not None else (self.material,)


Body = Annotated[Board | Substrate | Component | Plate, Field(discriminator="kind")]
