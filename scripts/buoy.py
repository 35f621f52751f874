"""The drift buoy logger: an invented sealed box without a fan, whose spreader should lead heat to the case wall and does not."""

from __future__ import annotations

from ashen_bridge.library import materials
from ashen_bridge.model.bodies import Attach, Board, Component, DieMakeUp, PackageMakeUp, Plate, PowerBlock, SolidMakeUp
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device, Limit, Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Finish, Footprint, Rect, rectangle
from ashen_bridge.model.joints import Group, Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.sinks import Connector

WANTED = (
    *("copper", "aluminium_alloy", "plastic", "silicon", "board_fr4_6", "power_stage", "ferrite_coil"),
    *("pad_soft", "pad_medium", "putty_soft", "paste_general", "graphite_sheet"),
)
SPREADER = (22.0, 16.0, 62.0, 46.0)
POSTS = {"nw": (26.0, 56.0), "ne": (80.0, 56.0), "sw": (26.0, 20.0), "se": (80.0, 20.0)}


def m(value: float, u: float, note: str = "") -> Quantity:
    return q(value, u, "measured", note)


def sheet(value: float, u: float = 0.0) -> Quantity:
    return q(value, u, "data sheet")


def package(name: str, label: str, box: tuple[float, float, float, float], role: str, height: float, to_case: float) -> Component:
    x, y, w, h = box
    return Component(
        id=name,
        name=label,
        role=role,
        on="board",
        footprint=rectangle(x, y, w, h),
        height_mm=m(height, 0.02),
        make_up=PackageMakeUp(
            active_material="silicon",
            active_w_mm=round(w * 0.7, 2),
            active_h_mm=round(h * 0.7, 2),
            active_thickness_mm=q(0.2, 0.04),
            ball_thickness_mm=q(0.3, 0.04),
            junction_to_case_k_w=sheet(to_case, to_case * 0.15),
            junction_to_board_k_w=sheet(12.0, 2.0),
        ),
        attach=Attach(resistance_mm2k_w=q(6.0, 3.0)),
    )


def bodies() -> tuple[object, ...]:
    board = Board(
        id="board",
        name="Board",
        footprint=rectangle(0, 0, 110, 80),
        thickness_mm=m(1.6, 0.05),
        material="board_fr4_6",
        bends=False,  # screwed down all round
        connectors=(
            Connector(
                id="mast",
                name="Mast cable",
                area=Rect(x_mm=100, y_mm=30, w_mm=8, h_mm=20),
                conductance_w_k=q(0.006, 0.003, "assumed", "cable leading out"),
            ),
        ),
    )
    processor = Component(
        id="processor",
        name="Logger processor",
        role="die",
        on="board",
        footprint=rectangle(44, 32, 14, 14),
        height_mm=m(1.40, 0.03),
        make_up=DieMakeUp(
            material="silicon", power_map=(PowerBlock(id="core", area=Rect(x_mm=3, y_mm=3, w_mm=6, h_mm=6), share=0.55),)
        ),
        attach=Attach(resistance_mm2k_w=q(30.0, 10.0, "assumed", "balls with underfill")),
    )
    wall = Plate(
        id="wall",
        name="Case wall",
        role="case wall",
        on="case",
        footprint=rectangle(-8, -6, 126, 92),
        thickness_mm=m(2.5, 0.05),
        height_mm=m(6.40, 0.10),
        material="aluminium_alloy",
        finish=Finish(emissivity=q(0.85, 0.05, "handbook", "painted")),
        give_um_n=q(4.0, 2.0, "assumed", "thin wall between its screws"),
        closing_force_n=q(120.0, 40.0, "assumed", "six small screws"),
    )
    back = Plate(
        id="back",
        name="Case back",
        role="case wall",
        on="case",
        side="rear",
        footprint=rectangle(-8, -6, 126, 92),
        thickness_mm=m(2.5, 0.05),
        height_mm=m(5.0, 0.2),
        material="aluminium_alloy",
        finish=Finish(emissivity=q(0.85, 0.05, "handbook", "painted")),
    )
    spreader = Plate(
        id="spreader",
        name="Spreader",
        role="spreader",
        footprint=rectangle(*SPREADER),
        thickness_mm=m(2.0, 0.05),
        material="aluminium_alloy",
        finish=Finish(emissivity=q(0.1, 0.05, "handbook", "bare metal")),
    )
    coil = Component(
        id="coil",
        name="Inductor",
        role="inductor",
        on="board",
        footprint=rectangle(90, 60, 8, 8),
        height_mm=m(3.0, 0.05),
        make_up=SolidMakeUp(material="ferrite_coil"),
        attach=Attach(resistance_mm2k_w=q(20.0, 8.0)),
    )
    return (
        board,
        processor,
        package("memory", "Memory", (64, 32, 12, 14), "memory", 1.10, 4.0),
        package("radio", "Radio", (28, 34, 10, 10), "other", 1.20, 6.0),
        coil,
        spreader,
        wall,
        back,
    )


def fasteners() -> tuple[Fastener, ...]:
    return tuple(
        Fastener(
            id=f"post_{name}",
            name=f"Spring post {name.upper()}",
            kind="sprung",
            joins=("spreader", "board"),
            x_mm=x,
            y_mm=y,
            rate_n_mm=m(3.0, 0.4),
            travel_mm=m(2.5, 0.15),
            reference_mm=m(1.9, 0.05),
            coil_bind_mm=q(6.0, 0.3),
        )
        for name, (x, y) in POSTS.items()
    )


def sheet_of(material: str, thickness: float, footprint: Footprint | None = None) -> tuple[Piece, ...]:
    return (Piece(id="pad", material=material, thickness_mm=sheet(thickness, 0.05 * thickness), footprint=footprint),)


def inner(memory: float = 1.0) -> tuple[Joint, ...]:
    return (
        Joint(id="cpu_pad", name="Processor pad", upper="spreader", lower=("processor",), pieces=sheet_of("pad_medium", 0.5)),
        Joint(id="mem_pad", name="Memory pad", upper="spreader", lower=("memory",), pieces=sheet_of("pad_soft", memory)),
        Joint(id="radio_pad", name="Radio pad", upper="spreader", lower=("radio",), pieces=sheet_of("pad_soft", 0.75)),
    )


def outer(material: str, thickness: float) -> Joint:
    return Joint(
        id="wall_pad", name="Wall pad", upper="wall", lower=("spreader",),
        pieces=sheet_of(material, thickness, rectangle(38, 26, 32, 28)), compliance_um_n=q(0.05, 0.03),
    )  # fmt: skip


def putty() -> Joint:
    pieces = (Piece(id="putty", material="putty_soft", volume_mm3=m(2600.0, 200.0), footprint=rectangle(38, 26, 32, 28)),)
    return Joint(id="wall_pad", name="Wall putty", upper="wall", lower=("spreader",), pieces=pieces)


def buoy() -> Project:
    """Return the demo project."""
    known = materials()
    powers = {"processor": m(2.3, 0.1), "memory": q(0.4, 0.1), "radio": q(0.6, 0.15), "coil": q(0.15, 0.05)}
    sensors = (
        Sensor(id="cpu", name="Processor", body="processor", reads="max", group="Processor", offset_k=q(0.0, 1.0, "data sheet")),
        Sensor(id="mem", name="Memory", body="memory", reads="max", group="Memory"),
        Sensor(id="box", name="Board edge", body="board", reads="point", x_mm=8.0, y_mm=8.0, group="Board"),
    )
    limits = (
        Limit(id="l_cpu", name="Processor limit", sensor="cpu", max_c=sheet(65.0), source="logger manual"),
        Limit(id="l_mem", name="Memory limit", sensor="mem", max_c=sheet(70.0), source="logger manual"),
        Limit(id="l_skin", name="Skin, held in the hand", body="wall", place="skin", max_c=sheet(48.0), source="touch table"),
    )
    air = {"convection": "natural", "inside": "sealed", "orientation": "upright"}
    return Project(
        name="Drift buoy logger",
        notes="Sealed box without a fan. The pad to the case wall never touched it. Soaks for hours.",
        device=Device(name="Buoy logger", bodies=bodies(), fasteners=fasteners(), sensors=sensors, limits=limits),
        materials=tuple(known[name] for name in WANTED),
        builds=(
            Build(
                id="as_found",
                name="As found",
                notes="1.5 mm of pad in a gap of 2.6 mm.",
                joints=(*inner(), outer("pad_soft", 1.5)),
            ),
            Build(id="no_pad", name="Spreader only", joints=inner()),
            Build(
                id="thick_memory",
                name="Thick memory pad",
                notes="2.0 mm on the memory: the spreader is held off the processor.",
                joints=(*inner(2.0), outer("pad_soft", 1.5)),
            ),
            Build(id="pad_to_case", name="Pad to case", joints=(*inner(), outer("pad_soft", 3.0))),
            Build(id="putty_to_case", name="Putty to case", joints=(*inner(), putty())),
        ),
        main_build="as_found",
        points=(
            OperatingPoint(id="summer", name="Calm summer day", powers_w=powers, ambient_c=m(30.0, 1.0), **air),
            OperatingPoint(id="bench", name="On the bench", powers_w=powers, ambient_c=m(22.0, 0.5), **air),
        ),
        groups=(Group(id="inner_pads", name="Pads under the spreader", joints=("cpu_pad", "mem_pad", "radio_pad")),),
    )
