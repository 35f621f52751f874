"""Whether an assembly can exist: everything inside its carrier, nothing in the same place, every joint somewhere."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from ashen_bridge.geometry.region import Region, region_of, region_of_rect
from ashen_bridge.geometry.stacking import stacking_problems
from ashen_bridge.model.bodies import Board, Component, DieMakeUp, Plate, Substrate
from ashen_bridge.model.errors import AssemblyError, UnsupportedError
from ashen_bridge.model.fasteners import Fastener, FastenerSetting, preload_of, travel_of
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.material import DISPENSED, EITHER, MaterialKind
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.words.numbers import number, percent, short

MOST_PRELOAD_N = 5000.0  # the tensile limit of an M4 steel screw or so; more is a slip of the pen
THINNEST_MM, NARROWEST_MM = 0.02, 0.2  # of a body; less is a slip of the pen, or a layer of a joint
THINNEST_PIECE_MM = 0.005  # a gold foil is about that
THINNEST_BOND_LINE_UM = 0.5  # polished faces; a paste's grains alone are thicker
_POINT = 0.01  # [mm] half width of the spot that stands for a point


def check_assembly(resolved: ResolvedBuild) -> None:
    """Raise the first `AssemblyError` there is; return if the assembly can be computed."""
    problem = next(assembly_problems(resolved), None)
    if problem is not None:
        try:
            raise problem
        finally:
            del problem  # else frame and error keep each other alive, and every caller's variables with them


def assembly_problems(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    """Yield what keeps a build from being computed, one sentence each."""
    yield from _board(resolved)
    yield from _sizes(resolved)
    yield from _unsupported(resolved)
    yield from _power_maps(resolved)
    yield from _places(resolved)
    yield from _overlaps(resolved)
    yield from _joints(resolved)
    yield from _held(resolved)
    yield from stacking_problems(resolved)
    yield from _sensors(resolved)


def _board(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    boards = [body for body in resolved.bodies if isinstance(body, Board)]
    if not boards:
        yield AssemblyError("The device has no board yet: everything else stands on it.")
    if len(boards) > 1:
        yield UnsupportedError(f"Two boards ('{boards[0].id}' and '{boards[1].id}') cannot be computed in one device yet.")


def _sizes(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    for body in resolved.bodies:
        thick = body.height_mm.value if isinstance(body, Component) else body.thickness_mm.value
        x0, y0, x1, y1 = body.footprint.bounds
        for what, size, least in (("thick", thick, THINNEST_MM), ("wide", min(x1 - x0, y1 - y0), NARROWEST_MM)):
            if size < least:
                yield AssemblyError(
                    f"Body '{body.id}' is {short(size, 3)} mm {what}; nothing below {short(least)} mm can be computed as a body.",
                    (body.id,),
                )
    for joint in resolved.joints:
        for piece in joint.pieces:
            if piece.bond_line_um is not None and piece.bond_line_um < THINNEST_BOND_LINE_UM:
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' has a bond line of {short(piece.bond_line_um)} µm; "
                    f"none is below {short(THINNEST_BOND_LINE_UM)} µm.",
                    (joint.id,),
                )
            if piece.thickness_mm is not None and piece.thickness_mm.value < THINNEST_PIECE_MM:
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' is {short(piece.thickness_mm.value, 3)} mm thick; "
                    f"no layer is below {short(THINNEST_PIECE_MM)} mm.",
                    (joint.id,),
                )


def _unsupported(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    for joint in resolved.joints:
        for piece in joint.pieces:
            material = resolved.materials[piece.material]
            if material.kind is MaterialKind.SOLID and piece in (joint.pieces[0], joint.pieces[-1]):
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' is {material.kind.value} ('{material.id}'): as a piece a shim "
                    "lies between two layers that wet it; else it is a plate between two joints.",
                    (joint.id,),
                )
            elif material.kind not in EITHER and (material.kind in DISPENSED) != piece.flows:
                amount = "a dispensed volume" if material.kind in DISPENSED else "a thickness"
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' is {material.kind.value}, so it needs {amount}.",
                    (joint.id,),
                )
            elif piece.bond_line_um is not None and material.kind is MaterialKind.GAS:
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' is a gas: it takes what gap it is left and keeps no bond line.",
                    (joint.id,),
                )
    for fastener, setting in resolved.fasteners:
        yield from _settings(fastener, setting)
    plates = {body.id for body in resolved.bodies if isinstance(body, Plate)}
    for limit in resolved.device.limits:
        if limit.place == "skin" and limit.body is not None and limit.body not in plates:
            yield AssemblyError(
                f"Limit '{limit.id}' is a skin temperature of '{limit.body}', but only plates have a skin to touch.", (limit.id,)
            )


def _power_maps(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    for body in resolved.bodies:
        make_up = body.make_up if isinstance(body, Component) else None
        if not isinstance(make_up, DieMakeUp) or make_up.rest != "beside the blocks":
            continue
        rest = 1 - sum(block.share for block in make_up.power_map)
        left = region_of(body.footprint)
        x0, y0, _, _ = body.footprint.bounds
        for block in make_up.power_map:
            area = block.area
            left = left - region_of_rect(area.model_copy(update={"x_mm": area.x_mm + x0, "y_mm": area.y_mm + y0}))
        if rest > 1e-9 and left.area < 1e-12:
            yield AssemblyError(
                f"The blocks of '{body.id}' leave {percent(rest)} of its power to what is beside them, but they cover all of it.",
                (body.id,),
            )


def _settings(fastener: Fastener, setting: FastenerSetting) -> Iterator[AssemblyError]:
    sprung = fastener.kind in ("sprung", "spring arm")
    if setting.washers_mm.value and not sprung:
        yield AssemblyError(
            f"Fastener '{fastener.id}' is {fastener.kind}: washers change the force of sprung fasteners only.", (fastener.id,)
        )
    if fastener.kind == "glued" and (setting.turns or setting.torque_nm):
        yield AssemblyError(f"Fastener '{fastener.id}' is glued: it has no turns and no torque.", (fastener.id,))
    if sprung and setting.torque_nm is not None:
        yield AssemblyError(f"Fastener '{fastener.id}' is sprung: its force comes from travel, not from torque.", (fastener.id,))
        return
    try:
        force = fastener.rate * travel_of(fastener, setting) if sprung else preload_of(fastener, setting)
    except ValueError as error:
        yield AssemblyError(f"{str(error)[0].upper()}{str(error)[1:]}.", (fastener.id,))
        return
    if force > MOST_PRELOAD_N:
        yield AssemblyError(
            f"Fastener '{fastener.id}' would pull with {number(force)} N as it is set; no screw of such a device bears "
            f"{number(MOST_PRELOAD_N)} N.",
            (fastener.id,),
        )


def _places(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    present = {body.id: body for body in resolved.bodies}
    for body in resolved.bodies:
        if not isinstance(body, Substrate | Component):
            continue
        carrier = present.get(body.on)
        if carrier is None:
            reason = "the case" if body.on in ("case", "ground") else f"'{body.on}', which this build removes"
            yield AssemblyError(
                f"Body '{body.id}' is carried by {reason}; it must stand on the board or on a body that is there.",
                (body.id,),
            )
            continue
        if isinstance(carrier, Plate):
            yield AssemblyError(
                f"Body '{body.id}' is carried by plate '{carrier.id}'; only board and substrates carry bodies.",
                (body.id,),
            )
        outside = region_of(body.footprint) - region_of(carrier.footprint)
        if outside.area > 1e-9:
            yield AssemblyError(
                f"Body '{body.id}' stands {_reach(outside, region_of(carrier.footprint))} outside '{carrier.id}'.",
                (body.id,),
            )
        if isinstance(carrier, Substrate | Component) and carrier.side != body.side:
            yield AssemblyError(
                f"Body '{body.id}' is on the {body.side} but its carrier '{carrier.id}' is on the other side.",
                (body.id,),
            )


def _reach(outside: Region, carrier: Region) -> str:
    ox0, oy0, ox1, oy1 = outside.bounds
    cx0, cy0, cx1, cy1 = carrier.bounds
    reach = max(cx0 - ox0, cy0 - oy0, ox1 - cx1, oy1 - cy1)
    return f"{short(reach * 1e3, 3)} mm" if reach > 0 else "partly"


def _overlaps(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    carried = [(body, region_of(body.footprint)) for body in resolved.bodies if isinstance(body, Substrate | Component)]
    boxed = [(body, region, region.bounds) for body, region in carried]
    for (one, region, a), (other, beside, b) in combinations(boxed, 2):
        apart = a[0] >= b[2] or b[0] >= a[2] or a[1] >= b[3] or b[1] >= a[3]
        if apart or (one.on, one.side) != (other.on, other.side):
            continue
        shared = region & beside
        if shared.area > 1e-9:
            yield AssemblyError(
                f"Bodies '{one.id}' and '{other.id}' overlap by {short(shared.area * 1e6, 3)} mm² on '{one.on}' ({one.side}).",
                (one.id, other.id),
            )


def _joints(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    present = {body.id: body for body in resolved.bodies}
    for joint in resolved.joints:
        upper = present[joint.upper]
        if not isinstance(upper, Plate):
            yield AssemblyError(f"The upper face of joint '{joint.id}' is '{joint.upper}', which is not a plate.", (joint.id,))
            continue
        for low in joint.lower:
            lower = present[low]
            if not isinstance(lower, Board) and lower.side != upper.side:
                yield AssemblyError(
                    f"Joint '{joint.id}' joins '{low}' ({lower.side}) and '{upper.id}' ({upper.side}): different sides.",
                    (joint.id,),
                )
            elif not region_of(lower.footprint) & region_of(upper.footprint):
                yield AssemblyError(f"Joint '{joint.id}': '{low}' and '{upper.id}' do not face each other anywhere.", (joint.id,))
        covered = [region_of(present[low].footprint) & region_of(upper.footprint) for low in joint.lower]
        for piece in joint.pieces:
            if piece.footprint and not any(region_of(piece.footprint) & face for face in covered):
                yield AssemblyError(
                    f"Piece '{piece.id}' of joint '{joint.id}' lies beside the faces it should join.", (joint.id,)
                )


def _held(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    present = {body.id for body in resolved.bodies}
    for plate in resolved.bodies:
        if not isinstance(plate, Plate) or plate.on != "floating":
            continue
        fastened = any(plate.id in fastener.joins for fastener, _ in resolved.fasteners)
        below = any(joint.upper == plate.id for joint in resolved.joints)
        above = any(plate.id in joint.lower and joint.upper in present for joint in resolved.joints)
        if not fastened and not (below and above):
            yield AssemblyError(
                f"Nothing holds '{plate.id}': no fastener joins it and it is not clamped between two joints.",
                (plate.id,),
            )


def _sensors(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    """A spot or point must lie on the body it reads; sensors of bodies that are not there say nothing."""
    present = {body.id: body for body in resolved.bodies}
    for sensor in resolved.device.sensors:
        body = present.get(sensor.body)
        place: Region | None = None
        if sensor.reads in ("spot", "spot max") and sensor.spot is not None:
            place = region_of_rect(sensor.spot)
        elif sensor.reads == "point" and sensor.x_mm is not None and sensor.y_mm is not None:
            place = region_of_rect(Rect(x_mm=sensor.x_mm - _POINT, y_mm=sensor.y_mm - _POINT, w_mm=2 * _POINT, h_mm=2 * _POINT))
        if body is not None and place is not None and not place & region_of(body.footprint):
            yield AssemblyError(f"Sensor '{sensor.id}' reads a place beside '{sensor.body}'.", (sensor.body,))
