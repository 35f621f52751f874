"""The Tern Valley correlator card: an invented radio-observatory signal card with a memory temperature problem."""

from __future__ import annotations

from ashen_bridge.library import materials
from ashen_bridge.model.bodies import (
    Attach,
    Board,
    Component,
    DieMakeUp,
    Landing,
    PackageMakeUp,
    Plate,
    PowerBlock,
    SolidMakeUp,
    Substrate,
)
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device, Limit, Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Finish, Form, Rect, rectangle
from ashen_bridge.model.joints import Group, Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.records import Aims, Goal
from ashen_bridge.model.sinks import RatedSink

DIE = (98.0, 42.0, 22.0, 20.0)
MEMORY = {  # lower-left corner, width, height [mm]: three left, two above, three right of the die
    "mem_l1": (69.0, 28.0, 12.0, 14.0),
    "mem_l2": (69.0, 45.0, 12.0, 14.0),
    "mem_l3": (69.0, 62.0, 12.0, 14.0),
    "mem_t1": (92.0, 81.0, 14.0, 12.0),
    "mem_t2": (112.0, 81.0, 14.0, 12.0),
    "mem_r1": (137.0, 28.0, 12.0, 14.0),
    "mem_r2": (137.0, 45.0, 12.0, 14.0),
    "mem_r3": (137.0, 62.0, 12.0, 14.0),
}
REAR = {"mem_b1": (88.0, 81.0, 14.0, 12.0), "mem_b2": (116.0, 81.0, 14.0, 12.0)}
STAGES = {f"reg_{n + 1}": (166.0, 15.0 + 9.5 * n, 6.0, 5.0) for n in range(8)}
COILS = {f"coil_{n + 1}": (178.0, 14.0 + 19.0 * n, 10.0, 10.0) for n in range(4)}
LEFT, TOP, RIGHT = ("mem_l1", "mem_l2", "mem_l3"), ("mem_t1", "mem_t2"), ("mem_r1", "mem_r2", "mem_r3")


def m(value: float, u: float, note: str = "") -> Quantity:
    return q(value, u, "measured", note)


def sheet(value: float, u: float, note: str = "") -> Quantity:
    return q(value, u, "data sheet", note)


def memory(name: str, box: tuple[float, float, float, float], side: str) -> Component:
    x, y, w, h = box
    return Component(
        id=name,
        name=f"Memory {name[-2:].upper()}",
        role="memory",
        on="board",
        side=side,
        footprint=rectangle(x, y, w, h),
        height_mm=m(1.10, 0.02),
        make_up=PackageMakeUp(
            active_material="silicon",
            active_w_mm=round(w * 0.72, 2),
            active_h_mm=round(h * 0.72, 2),
            active_thickness_mm=q(0.2, 0.05),
            ball_thickness_mm=q(0.3, 0.05),
            junction_to_case_k_w=sheet(2.6, 0.4),
            junction_to_board_k_w=sheet(9.0, 1.5),
        ),
        attach=Attach(resistance_mm2k_w=q(5.0, 3.0)),
    )


def bodies() -> tuple[object, ...]:
    x, y, w, h = DIE
    board = Board(
        id="board",
        name="Board",
        footprint=rectangle(0, 0, 230, 105),
        thickness_mm=m(1.6, 0.05),
        material="board_fr4_6",
        bends=False,  # braced under the die
    )
    substrate = Substrate(
        id="substrate",
        name="Substrate",
        on="board",
        footprint=rectangle(88, 31, 42, 42),
        thickness_mm=m(1.55, 0.04),
        material="substrate_organic",
        attach=Attach(resistance_mm2k_w=q(60.0, 20.0, "assumed", "balls with underfill")),
    )
    die = Component(
        id="die",
        name="Correlator die",
        role="die",
        on="substrate",
        footprint=rectangle(x, y, w, h),
        height_mm=m(0.85, 0.02),
        make_up=DieMakeUp(
            material="silicon",
            power_map=(
                PowerBlock(id="lanes_west", area=Rect(x_mm=2, y_mm=3, w_mm=7, h_mm=14), share=0.38),
                PowerBlock(id="lanes_east", area=Rect(x_mm=13, y_mm=3, w_mm=7, h_mm=14), share=0.34),
            ),
        ),
        attach=Attach(resistance_mm2k_w=q(12.0, 4.0, "assumed", "bumps with underfill")),
        pressure_min_kpa=sheet(140.0, 0.0),
        pressure_max_kpa=sheet(600.0, 0.0),
    )
    stages = tuple(
        Component(
            id=name,
            name=f"Regulator {name[-1]}",
            role="regulator",
            on="board",
            footprint=rectangle(*box),
            height_mm=m(0.95, 0.02),
            make_up=SolidMakeUp(material="power_stage"),
            attach=Attach(resistance_mm2k_w=q(15.0, 5.0)),
        )
        for name, box in STAGES.items()
    )
    coils = tuple(
        Component(
            id=name,
            name=f"Inductor {name[-1]}",
            role="inductor",
            on="board",
            footprint=rectangle(*box),
            height_mm=m(4.0, 0.05),
            make_up=SolidMakeUp(material="ferrite_coil"),
            attach=Attach(resistance_mm2k_w=q(20.0, 8.0)),
        )
        for name, box in COILS.items()
    )
    pocket = Rect(x_mm=175, y_mm=10, w_mm=16, h_mm=75)
    cooler = Plate(
        id="cooler",
        name="Blower cooler base",
        role="cooler",
        footprint=rectangle(60, 8, 132, 89),
        thickness_mm=m(6.0, 0.1),
        material="copper",
        form=Form(crown_um=q(0.0, 8.0)),
        finish=Finish(emissivity=q(0.1, 0.05, "handbook", "bright metal")),
        landings=(
            Landing(
                id="memory_left",
                name="Memory landing, left",
                area=Rect(x_mm=67, y_mm=26, w_mm=16, h_mm=52),
                step_mm=m(-0.46, 0.03),
            ),
            Landing(
                id="memory_top",
                name="Memory landing, top",
                area=Rect(x_mm=90, y_mm=79, w_mm=38, h_mm=16),
                step_mm=m(-0.46, 0.03),
            ),
            Landing(
                id="memory_right",
                name="Memory landing, right",
                area=Rect(x_mm=135, y_mm=26, w_mm=16, h_mm=52),
                step_mm=m(-0.46, 0.03),
            ),
            Landing(
                id="regulators",
                name="Regulator landing",
                area=Rect(x_mm=164, y_mm=13, w_mm=10, h_mm=77),
                step_mm=m(-0.25, 0.03),
            ),
            Landing(id="pocket", name="Inductor pocket", area=pocket, step_mm=m(2.60, 0.1)),
        ),
        sink=RatedSink(
            base_reference="mean_base",
            fixed_k_w=sheet(0.020, 0.005),
            convective_k_w=sheet(0.105, 0.015),
            exponent=sheet(0.75, 0.08),
            air_reference="inlet",
            air_rise_k_w=sheet(0.05, 0.01),
            heat_capacity_j_k=q(420.0, 60.0),
        ),
    )
    back = Plate(
        id="backplate",
        name="Aluminium backplate",
        role="backplate",
        side="rear",
        footprint=rectangle(64, 14, 92, 84),
        thickness_mm=m(1.5, 0.05),
        material="aluminium_alloy",
        finish=Finish(emissivity=q(0.8, 0.1, "handbook", "anodised")),
    )
    memories = tuple(memory(n, b, "front") for n, b in MEMORY.items()) + tuple(memory(n, b, "rear") for n, b in REAR.items())
    return (board, substrate, die, *memories, *stages, *coils, cooler, back)


def fasteners() -> tuple[Fastener, ...]:
    corners = {"sw": (84.0, 24.0), "se": (134.0, 24.0), "nw": (84.0, 84.0), "ne": (134.0, 84.0)}
    sprung = tuple(
        Fastener(
            id=f"spring_{name}",
            name=f"Spring screw {name.upper()}",
            kind="sprung",
            joins=("cooler", "board"),
            x_mm=x,
            y_mm=y,
            rate_n_mm=m(14.0, 1.5),
            travel_mm=m(3.2, 0.15),
            reference_mm=m(2.44, 0.05),
            coil_bind_mm=q(5.0, 0.3),
        )
        for name, (x, y) in corners.items()
    )
    places = {"w": (67.0, 20.0), "e": (153.0, 20.0), "wn": (67.0, 92.0), "en": (153.0, 92.0)}
    fixed = tuple(
        Fastener(
            id=f"rear_{name}",
            name=f"Rear screw {name.upper()}",
            kind="fixed",
            joins=("backplate", "board"),
            x_mm=x,
            y_mm=y,
            preload_n=q(60.0, 25.0, "assumed", "small screw, hand tight"),
            seat_mm=m(1.90, 0.05),
        )
        for name, (x, y) in places.items()
    )
    return sprung + fixed


def joints(left: float, top: float, right: float, material: str = "pad_medium") -> tuple[Joint, ...]:
    thickness = {**dict.fromkeys(LEFT, left), **dict.fromkeys(TOP, top), **dict.fromkeys(RIGHT, right)}

    def pad(t: float) -> tuple[Piece, ...]:
        return (Piece(id="pad", material=material, thickness_mm=sheet(t, 0.05 * t, "stock pads are ±10 %")),)

    die = Joint(
        id="die_joint",
        name="Die joint",
        upper="cooler",
        lower=("die",),
        pieces=(Piece(id="paste", material="paste_filled", volume_mm3=m(30.0, 6.0)),),
        compliance_um_n=q(0.04, 0.02),
    )
    front = tuple(
        Joint(id=f"pad_{name[4:]}", name=f"Pad {name[-2:].upper()}", upper="cooler", lower=(name,), pieces=pad(t))
        for name, t in thickness.items()
    )
    rear = tuple(
        Joint(id=f"pad_{n[4:]}", name=f"Pad {n[-2:].upper()}", upper="backplate", lower=(n,), pieces=pad(1.0)) for n in REAR
    )
    stages = tuple(
        Joint(
            id=f"pad_{n}",
            name=f"Pad regulator {n[-1]}",
            upper="cooler",
            lower=(n,),
            pieces=(Piece(id="pad", material="pad_soft", thickness_mm=sheet(1.5, 0.07)),),
        )
        for n in STAGES
    )
    return (die, *front, *rear, *stages)


def correlator() -> Project:
    """Return the demo project."""
    known = materials()
    wanted = [
        "copper",
        "aluminium_alloy",
        "silicon",
        "board_fr4_6",
        "substrate_organic",
        "power_stage",
        "ferrite_coil",
        "pad_soft",
        "pad_medium",
        "pad_firm",
        "paste_general",
        "paste_filled",
    ]
    sensors = [
        Sensor(id="die_hot", name="Die hot spot", body="die", reads="max", group="Die", offset_k=q(0.0, 1.0, "data sheet")),
        Sensor(id="die_mean", name="Die average", body="die", reads="mean", group="Die", offset_k=q(0.0, 1.0, "data sheet")),
        *(Sensor(id=f"s_{n}", name=f"Memory {n[-2:].upper()}", body=n, reads="max", group="Memory front") for n in MEMORY),
        *(Sensor(id=f"s_{n}", name=f"Memory {n[-2:].upper()}", body=n, reads="max", group="Memory rear") for n in REAR),
        *(Sensor(id=f"s_{n}", name=f"Regulator {n[-1]}", body=n, reads="max", group="Regulators") for n in list(STAGES)[::4]),
    ]
    limits = [
        Limit(id="l_die", name="Die hot spot limit", sensor="die_hot", max_c=sheet(100.0, 0.0), source="card manual"),
        *(
            Limit(id=f"l_{n}", name="Memory limit", sensor=f"s_{n}", max_c=sheet(95.0, 0.0), source="card manual")
            for n in (*MEMORY, *REAR)
        ),
        *(Limit(id=f"l_{n}", name="Regulator limit", body=n, max_c=sheet(115.0, 0.0), source="card manual") for n in STAGES),
    ]
    powers = {
        "die": m(180.0, 5.0),
        **{n: q(3.5, 0.5) for n in MEMORY},
        **{n: q(3.0, 0.5) for n in REAR},
        **{n: q(1.6, 0.3) for n in STAGES},
        **{n: q(0.8, 0.2) for n in COILS},
    }
    air = {
        "ambient_c": m(24.0, 0.5),
        "inlet_c": m(32.0, 1.0, "rack air"),
        "front_air_c": q(40.0, 4.0),
        "rear_air_c": q(36.0, 3.0),
    }
    return Project(
        name="Tern Valley correlator card",
        notes="Signal card of a radio observatory. The die runs too hot since a pad change. The board is braced under the die.",
        device=Device(
            name="Correlator card", bodies=bodies(), fasteners=fasteners(), sensors=tuple(sensors), limits=tuple(limits)
        ),
        materials=tuple(known[name] for name in wanted),
        builds=(
            Build(
                id="as_found",
                name="As found",
                notes="Right-hand memory pads are 1.75 mm, all others 1.0 mm.",
                joints=joints(1.0, 1.0, 1.75),
            ),
            Build(id="plan_a", name="Plan A", notes="1.0 mm on all memory in front.", joints=joints(1.0, 1.0, 1.0)),
            Build(
                id="stock",
                name="Stock",
                notes="As delivered: 1.0 mm of soft pad on all memory in front.",
                joints=joints(1.0, 1.0, 1.0, "pad_soft"),
            ),
        ),
        main_build="plan_a",
        aims=Aims(
            complaint="The die and the regulators run hot since somebody changed pads. The fan must not get louder.",
            opening="if it pays",
            warranty="Out of warranty; the observatory's workshop may open it.",
        ),
        goals=(
            Goal(id="g_die", sensor="die_hot", at_most_c=q(96.0)),
            *(Goal(id=f"g_{n}", sensor=f"s_{n}", at_most_c=q(88.0)) for n in MEMORY),
            *(Goal(id=f"g_{n}", sensor=f"s_{n}", at_most_c=q(90.0)) for n in REAR),
        ),
        points=(
            OperatingPoint(
                id="correlate", name="Full correlation", powers_w=powers, fans_percent={"cooler": m(100.0, 2.0)}, **air
            ),
            OperatingPoint(
                id="standby",
                name="Standby",
                powers_w={k: q(v.value * 0.15, v.uncertainty * 0.15) for k, v in powers.items()},
                fans_percent={"cooler": m(40.0, 2.0)},
                **air,
            ),
        ),
        groups=(
            Group(id="memory", name="Memory, front", joints=tuple(f"pad_{n[4:]}" for n in MEMORY)),
            Group(id="memory_rear", name="Memory, rear", joints=tuple(f"pad_{n[4:]}" for n in REAR)),
            Group(id="regulators", name="Regulators", joints=tuple(f"pad_{n}" for n in STAGES)),
        ),
    )
