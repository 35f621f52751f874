"""Small invented devices for tests: a board, a die with paste, some packages with pads, a plate on springs."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ashen_bridge.library import materials
from ashen_bridge.model.bodies import Attach, Board, Component, DieMakeUp, Plate, PowerBlock, SolidMakeUp
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device, Limit, Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Footprint, Form, rectangle
from ashen_bridge.model.joints import Group, Joint, Piece
from ashen_bridge.model.material import Compression, CurvePoint, Material, Source
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sinks import RatedSink


def linear_pad(modulus_kpa: float = 1000.0, conductivity: float = 5.0, contact: float = 0.0) -> Material:
    """Return a pad whose pressure is `modulus_kpa` times its strain, whatever its shape."""
    points = (CurvePoint(strain=0, pressure_kpa=0), CurvePoint(strain=0.8, pressure_kpa=0.8 * modulus_kpa))
    return Material(
        id="linear_pad",
        name="Linear pad",
        kind="pad",
        conductivity_w_mk=q(conductivity),
        density_kg_m3=q(2000),
        specific_heat_j_kgk=q(1000),
        contact_mm2k_w=q(contact),
        compression=Compression(points=points, sample_thickness_mm=q(1), sample_area_mm2=q(645), shape_coefficient=q(0)),
        sources=(Source(text="made for tests"),),
    )


@dataclass(frozen=True)
class Part:
    """A package: lower-left corner, size and height [mm], pad thickness [mm] (None: no joint), material, own outline."""

    x: float
    y: float
    height: float
    pad: float | None = None
    size: tuple[float, float] = (12.0, 12.0)
    pad_material: str = "pad_medium"
    outline: Footprint | None = None
    power: float = 3.0


@dataclass(frozen=True)
class Card:
    """What to build; see `project`."""

    parts: tuple[Part, ...] = ()
    die: bool = True
    paste_mm3: float = 30.0
    rate: float = 12.0
    travel: float = 3.0
    springs: tuple[tuple[float, float], ...] = ((15.0, 15.0), (65.0, 15.0), (15.0, 65.0), (65.0, 65.0))
    extra_materials: tuple[Material, ...] = ()
    compliance: float = 0.02
    plate_crown_um: float = 0.0
    die_power: float = 100.0
    board_film: float = 10.0
    fan_percent: float = 100.0
    sensors: bool = True
    bends: bool = False
    die_map: tuple[PowerBlock, ...] = ()
    overrides: dict[str, float] = field(default_factory=dict)


def project(card: Card | None = None) -> Project:
    """Return a computable project of one build."""
    card = card or Card()
    library = materials()
    die = Component(
        id="die",
        name="Die",
        role="die",
        on="board",
        footprint=rectangle(30, 30, 20, 20),
        height_mm=q(2.0),
        make_up=DieMakeUp(material="silicon", power_map=card.die_map),
        attach=Attach(resistance_mm2k_w=q(100)),
        pressure_min_kpa=q(100),
        pressure_max_kpa=q(800),
    )
    components = tuple(
        Component(
            id=f"part_{n}",
            name=f"Part {n}",
            role="memory",
            on="board",
            footprint=rectangle(p.x, p.y, *p.size),
            height_mm=q(p.height),
            make_up=SolidMakeUp(material="power_stage"),
            attach=Attach(resistance_mm2k_w=q(20)),
        )
        for n, p in enumerate(card.parts)
    )
    plate = Plate(
        id="plate",
        name="Cooler",
        role="cooler",
        footprint=rectangle(5, 5, 70, 70),
        thickness_mm=q(5),
        material="copper",
        bends=False,
        form=Form(crown_um=q(card.plate_crown_um)),
        sink=RatedSink(base_reference="mean_base", fixed_k_w=q(0.02), convective_k_w=q(0.2), exponent=q(0.7)),
    )
    fasteners = tuple(
        Fastener(
            id=f"spring_{n}",
            kind="sprung",
            joins=("plate", "board"),
            x_mm=x,
            y_mm=y,
            rate_n_mm=q(card.rate),
            travel_mm=q(card.travel),
            reference_mm=q(2.04),
            coil_bind_mm=q(20),
        )
        for n, (x, y) in enumerate(card.springs)
    )
    joints = []
    if card.die:
        paste = Piece(id="paste", material="paste_filled", volume_mm3=q(card.paste_mm3))
        joints.append(Joint(id="die_joint", upper="plate", lower=("die",), pieces=(paste,), compliance_um_n=q(card.compliance)))
    for n, part in enumerate(card.parts):
        if part.pad is not None:
            pad = Piece(id="pad", material=part.pad_material, thickness_mm=q(part.pad), footprint=part.outline)
            joints.append(
                Joint(id=f"pad_{n}", upper="plate", lower=(f"part_{n}",), pieces=(pad,), compliance_um_n=q(card.compliance))
            )
    bodies = (
        Board(id="board", footprint=rectangle(0, 0, 80, 80), thickness_mm=q(1.6), material="board_fr4_6", bends=card.bends),
        *((die,) if card.die else ()),
        *components,
        plate,
    )
    hot = (*(("die",) if card.die else ()), *(c.id for c in components))
    padded = tuple(joint.id for joint in joints if joint.id != "die_joint")
    return Project(
        name="Test card",
        device=Device(
            bodies=bodies,
            fasteners=fasteners,
            sensors=tuple(Sensor(id=f"s_{n}", body=n, reads="max", group="all") for n in hot) if card.sensors else (),
            limits=tuple(Limit(id=f"l_{n}", sensor=f"s_{n}", max_c=q(95)) for n in hot) if card.sensors else (),
        ),
        materials=(*library.values(), *card.extra_materials),
        builds=(Build(id="now", joints=tuple(joints), overrides=card.overrides),),
        points=(
            OperatingPoint(
                id="load",
                ambient_c=q(25),
                film_front_w_m2k=q(card.board_film),
                film_rear_w_m2k=q(card.board_film),
                powers_w={
                    **({"die": q(card.die_power)} if card.die else {}),
                    **{f"part_{n}": q(p.power) for n, p in enumerate(card.parts)},
                },
                fans_percent={"plate": q(card.fan_percent)},
            ),
        ),
        groups=(Group(id="pads", name="Pads", joints=padded),) if padded else (),
    )


FOUR = (Part(8, 34, 1.2, 1.0), Part(60, 34, 1.2, 1.0), Part(34, 8, 1.2, 1.0), Part(34, 60, 1.2, 1.0))
"""Four packages, one on each side of the die, under 1.0 mm of medium pad in a gap of about 0.84 mm."""


def without_runs(project: Project) -> Project:
    """A demo without its logs and readings, and without what was done when."""
    bare: dict[str, object] = {"runs": (), "closings": (), "mappings": (), "calibrations": (), "calibration": None}
    bare |= {"readings": (), "instruments": (), "taken_over": ()}
    bare |= {"stock": (), "shop": (), "currency": "", "conclusions": (), "history": ()}
    bare |= {"signs": (), "evidence": (), "pictures": (), "images": (), "procedures": (), "tray": ()}
    plain = project.model_dump(mode="json") | bare
    for name in ("screws", "plugs", "hazards"):
        plain["device"].pop(name)
    for one in plain["device"]["fasteners"]:
        one.pop("hardware")
    return Project.parse(plain)


def certain(project: Project, but: tuple[str, ...]) -> Project:
    """The project with every number certain but those of some names."""

    def walk(node: Any, name: str) -> Any:
        if isinstance(node, dict):
            found = {key: walk(child, key) for key, child in node.items()}
            return found | {"uncertainty": 0.0} if "uncertainty" in found and name not in but else found
        return [walk(child, name) for child in node] if isinstance(node, list) else node

    return Project.parse(walk(project.model_dump(mode="json"), ""))
