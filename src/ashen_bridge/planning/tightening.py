"""How far a screw is turned: from its spring's travel and its pitch, or up to its seat; in stages, with the rule to stop by."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.fasteners import Fastener, FastenerSetting, travel_of
from ashen_bridge.words.numbers import number, short

STAGES = 3
"""Stages in which screws round a plate are tightened; common practice, no source."""


@dataclass(frozen=True)
class Tightening:
    """One screw: its turns from where it first pushes, if they are known, what each turn adds [N], and when to stop.

    A sprung screw of pitch p adds rate·p with every turn; one against a seat stiffness·p from first contact on.
    """

    turns: float | None
    newtons_per_turn: float | None
    stop: str

    def stage(self, n: int) -> str:
        """Return how far it goes in one stage, in words."""
        if self.turns is None:
            return ("until it just touches", "a quarter turn", "to its stop")[n]
        each = max(round(4 * self.turns / STAGES) / 4, 0.25)
        turns = each if n < STAGES - 1 else max(round(4 * (self.turns - each * (STAGES - 1))) / 4, 0.25)
        force = ""
        if self.newtons_per_turn is not None:
            force = f" (+ {number(turns * self.newtons_per_turn, 0)} N)"
        return f"{_turned(turns)}{force}"


def tightening(one: Fastener, setting: FastenerSetting) -> Tightening:
    """Return how a screw is tightened in a build."""
    pitch = one.pitch_mm.value if one.pitch_mm is not None else None
    if one.kind == "sprung":
        stop = "at the shoulder" if setting.turns is None else f"at {short(setting.turns.value)} turns"
        if pitch is None:
            return Tightening(None, None, stop)
        # Washers squeeze the spring without a turn more: the screw goes as deep as without them.
        travel = travel_of(one, setting) - setting.washers_mm.value
        return Tightening(travel / pitch, one.rate * pitch, stop)
    if setting.torque_nm is not None:
        return Tightening(None, None, f"at {short(setting.torque_nm.value)} N·m")
    if setting.turns is not None:
        per_turn = None if pitch is None else one.stiffness_n_mm.value * pitch
        return Tightening(None, per_turn, f"{short(setting.turns.value)} turns after first contact")
    return Tightening(None, None, "when it is hand-tight against its seat")


def _turned(turns: float) -> str:
    if turns == 1:
        return "one turn"
    whole, part = divmod(turns, 1)
    quarters = {0.25: "a quarter", 0.5: "half", 0.75: "three quarters"}.get(round(part, 2), "")
    if not whole:
        return f"{quarters} of a turn" if quarters != "half" else "half a turn"
    return f"{short(turns)} turns"
