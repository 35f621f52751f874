"""The Saltmarsh beamformer: an invented lidded processor under a tower cooler, with paste that has dried, a lid and solder."""

from __future__ import annotations

from ashen_bridge.library import materials
from ashen_bridge.model.bodies import (
    Attach,
    Board,
    Component,
    DieMakeUp,
    Leakage,
    LoadLoss,
    PackageMakeUp,
    Plate,
    PowerBlock,
    SolidMakeUp,
    Substrate,
)
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device, Limit, Sensor
from ashen_bridge.model.fasteners import Fastener, FastenerSetting
from ashen_bridge.model.footprint import Finish, Form, Rect, rectangle
from ashen_bridge.model.joints import Group, Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.sinks import Fan, RatedSink

STAGES = {f"stage_{n + 1}": (14.0 + 13.0 * n, 118.0, 6.0, 5.0) for n in range(6)}
BANKS = {f"bank_{n + 1}": (112.0, 22.0 + 20.0 * n, 12.0, 14.0) for n in range(4)}
RIM = {"sw": (38.0, 38.0), "se": (78.0, 38.0), "nw": (38.0, 78.0), "ne": (78.0, 78.0)}
SCREWS = {"sw": (24.0, 24.0), "se": (92.0, 24.0), "nw": (24.0, 92.0), "ne": (92.0, 92.0)}
WANTED = (
    *("copper", "aluminium_alloy", "silicon", "board_fr4_6", "substrate_organic", "power_stage", "steel"),
    *("paste_general", "paste_filled", "liquid_metal", "solder_indium", "phase_change", "pad_soft", "pad_medium"),
)


def m(value: float, u: float, note: str = "") -> Quantity:
    return q(value, u, "measured", note)


def sheet(value: float, u: float = 0.0) -> Quantity:
    return q(value, u, "data sheet")


def bodies() -> tuple[object, ...]:
    board = Board(
        id="board",
        name="Board",
        footprint=rectangle(0, 0, 140, 130),
        thickness_mm=m(1.6, 0.05),
        material="board_fr4_6",
        bends=False,  # a steel plate braces it under the socket
    )
    substrate = Substrate(
        id="substrate",
        name="Substrate",
        on="board",
        footprint=rectangle(34, 34, 48, 48),
        thickness_mm=m(1.3, 0.05),
        material="substrate_organic",
        attach=Attach(resistance_mm2k_w=q(120.0, 40.0, "assumed", "socket contacts")),
    )
    die = Component(
        id="die",
        name="Beamformer die",
        role="die",
        on="substrate",
        footprint=rectangle(48, 50, 20, 16),
        height_mm=m(0.80, 0.02),
        make_up=DieMakeUp(
            material="silicon",
            power_map=(
                PowerBlock(id="cores", area=Rect(x_mm=2, y_mm=3, w_mm=8, h_mm=10), share=0.62),
                PowerBlock(id="links", area=Rect(x_mm=13, y_mm=2, w_mm=5, h_mm=12), share=0.18),
            ),
        ),
        attach=Attach(resistance_mm2k_w=q(12.0, 4.0, "assumed", "bumps with underfill")),
        pressure_max_kpa=sheet(700.0),
        leakage=Leakage(share=q(0.12, 0.02), at_c=q(60.0), per_k=q(45.0, 4.0)),
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
            loss=LoadLoss(of=("die",), share=q(0.007, 0.002), fixed_w=q(0.1, 0.03)),
        )
        for name, box in STAGES.items()
    )
    banks = tuple(
        Component(
            id=name,
            name=f"Memory {name[-1]}",
            role="memory",
            on="board",
            footprint=rectangle(*box),
            height_mm=m(1.10, 0.02),
            make_up=PackageMakeUp(
                active_material="silicon",
                active_w_mm=8.6,
                active_h_mm=10.0,
                active_thickness_mm=q(0.2, 0.04),
                ball_thickness_mm=q(0.3, 0.04),
                junction_to_case_k_w=sheet(3.0, 0.5),
                junction_to_board_k_w=sheet(10.0, 2.0),
            ),
            attach=Attach(resistance_mm2k_w=q(5.0, 2.0)),
        )
        for name, box in BANKS.items()
    )
    lid = Plate(
        id="lid",
        name="Lid",
        role="lid",
        footprint=rectangle(36, 36, 44, 44),
        thickness_mm=m(2.4, 0.05),
        material="copper",
        form=Form(crown_um=q(0.0, 6.0)),
        finish=Finish(emissivity=q(0.1, 0.05, "handbook", "bright nickel")),
    )
    cooler = Plate(
        id="cooler",
        name="Tower cooler base",
        role="cooler",
        footprint=rectangle(34, 34, 48, 48),
        thickness_mm=m(8.0, 0.1),
        material="copper",
        form=Form(crown_um=q(0.0, 6.0)),
        finish=Finish(emissivity=q(0.1, 0.05, "handbook", "bright metal")),
        sink=RatedSink(
            base_reference="mean_base",
            fixed_k_w=sheet(0.09, 0.01),
            convective_k_w=sheet(0.13, 0.02),
            exponent=sheet(0.6, 0.08),
            air_rise_k_w=sheet(0.02, 0.005),
            heat_capacity_j_k=q(520.0, 60.0),
            fans=(Fan(id="tower", name="Tower fan", noise_db=sheet(36.0, 1.5)),),
        ),
    )
    return (board, substrate, die, *banks, *stages, lid, cooler)


def fasteners() -> tuple[Fastener, ...]:
    rim = tuple(
        Fastener(
            id=f"rim_{name}",
            name=f"Lid glue {name.upper()}",
            kind="glued",
            joins=("lid", "board"),
            x_mm=x,
            y_mm=y,
            seat_mm=m(2.40, 0.01, "solder flowed to this"),
            stiffness_n_mm=q(8000.0, 3000.0, "assumed", "cured sealant at one corner"),
        )
        for name, (x, y) in RIM.items()
    )
    screws = tuple(
        Fastener(
            id=f"screw_{name}",
            name=f"Spring screw {name.upper()}",
            kind="sprung",
            joins=("cooler", "board"),
            x_mm=x,
            y_mm=y,
            rate_n_mm=m(11.0, 1.0),
            travel_mm=m(4.2, 0.15),
            reference_mm=m(4.84, 0.05),
            coil_bind_mm=q(8.0, 0.4),
        )
        for name, (x, y) in SCREWS.items()
    )
    return rim + screws


def piece(name: str, material: str, thickness: float | None = None, volume: float | None = None) -> Piece:
    return Piece(
        id=name,
        material=material,
        thickness_mm=sheet(thickness, 0.02) if thickness else None,
        volume_mm3=m(volume, volume * 0.2) if volume else None,
    )


def lidded(paste: str, volume: float) -> tuple[Joint, ...]:
    return (
        Joint(id="solder", name="Solder", upper="lid", lower=("die",), pieces=(piece("solder", "solder_indium", 0.30),)),
        Joint(
            id="lid_paste", name="Lid to cooler", upper="cooler", lower=("lid",), pieces=(piece("paste", paste, None, volume),)
        ),
    )


def aged(joint: Joint, days: float) -> Joint:
    return joint.model_copy(update={"pieces": tuple(piece.model_copy(update={"age_days": days}) for piece in joint.pieces)})


def bare(material: str, volume: float) -> tuple[Joint, ...]:
    return (
        Joint(
            id="bare_die", name="Die to cooler", upper="cooler", lower=("die",), pieces=(piece("fill", material, None, volume),)
        ),
    )


def beamformer() -> Project:
    """Return the demo project."""
    known = materials()
    washers = tuple(FastenerSetting(fastener=f"screw_{name}", washers_mm=m(2.5, 0.05)) for name in SCREWS)
    padded = Joint(id="lid_pad", name="Lid to cooler", upper="cooler", lower=("lid",), pieces=(piece("pad", "pad_medium", 0.5),))
    powers = {"die": m(140.0, 4.0), **{name: q(1.2, 0.3) for name in BANKS}}
    sensors = (
        Sensor(id="die_hot", name="Die hot spot", body="die", reads="max", group="Die", offset_k=q(0.0, 1.0, "data sheet")),
        Sensor(id="die_mean", name="Die average", body="die", reads="mean", group="Die"),
        *(Sensor(id=f"s_{name}", name=f"Memory {name[-1]}", body=name, reads="max", group="Memory") for name in BANKS),
        Sensor(id="s_stage", name="Regulator 3", body="stage_3", reads="max", group="Regulators"),
    )
    limits = (
        Limit(id="l_die", name="Die limit", sensor="die_hot", max_c=sheet(95.0), source="processor manual"),
        *(
            Limit(id=f"l_{name}", name="Memory limit", sensor=f"s_{name}", max_c=sheet(90.0), source="board manual")
            for name in BANKS
        ),
        Limit(id="l_stage", name="Regulator limit", sensor="s_stage", max_c=sheet(115.0), source="board manual"),
    )
    air = {
        "ambient_c": m(23.0, 0.5),
        "inlet_c": m(27.0, 1.0, "inside the case"),
        "front_air_c": q(33.0, 3.0),
        "film_front_w_m2k": q(35.0, 8.0, "assumed", "case fans"),
    }
    return Project(
        name="Saltmarsh beamformer",
        notes="Processor of an underwater array. Three years in service, it throttles. A steel plate braces the socket.",
        device=Device(name="Beamformer board", bodies=bodies(), fasteners=fasteners(), sensors=sensors, limits=limits),
        materials=tuple(known[name] for name in WANTED),
        builds=(
            Build(
                id="as_found",
                name="As found",
                notes="Three-year-old paste on the lid, a good part of it pumped out.",
                joints=tuple(aged(joint, 1100) for joint in lidded("paste_general", 58.0)),
            ),
            Build(id="new_paste", name="Lid on, new paste", joints=lidded("paste_filled", 220.0)),
            Build(
                id="pad_on_lid",
                name="Pad on the lid",
                notes="Somebody laid 0.5 mm of pad on the lid in place of paste.",
                joints=(lidded("paste_filled", 220.0)[0], padded),
            ),
            Build(
                id="lid_off",
                name="Lid off",
                notes="Solder removed; liquid metal on the bare die. Washers make up for the lid's thickness.",
                removed=("lid",),
                joints=bare("liquid_metal", 12.0),
                fastener_settings=washers,
            ),
            Build(
                id="lapped",
                name="Lid off, die lapped",
                notes="0.20 mm taken off the die. Only for those who accept to lose it.",
                removed=("lid",),
                joints=bare("liquid_metal", 12.0),
                fastener_settings=washers,
                overrides={"device.bodies.die.height_mm": 0.60},
            ),
        ),
        main_build="as_found",
        points=(
            OperatingPoint(
                id="listen", name="Full array", powers_w=powers, fans_percent={"cooler": m(80.0, 2.0)},
                throttle_at_c={"die": q(95.0)}, **air,
            ),
            OperatingPoint(
                id="idle", name="Idle", powers_w={name: q(p.value * 0.2, p.uncertainty) for name, p in powers.items()},
                fans_percent={"cooler": m(35.0, 2.0)}, **air,
            ),
        ),
        groups=(Group(id="lid_stack", name="Lid stack", joints=("solder", "lid_paste")),),
    )  # fmt: skip
