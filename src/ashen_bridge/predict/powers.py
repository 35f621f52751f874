"""What every component makes: as the operating point says, for feeding others, and no more than it is allowed."""

from __future__ import annotations

from collections.abc import Mapping

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.quantity import q
from ashen_bridge.words.numbers import short


def powers_at(scene: Scene, point: OperatingPoint, factors: Mapping[str, float] | None = None) -> dict[str, float]:
    """Return the power of every body that makes any [W].

    `factors` scale what components are told to make (throttling). A component with a load loss makes that, unless the operating
    point says its power outright; limits come last. A cycle counts with its mean.
    """
    factors = factors or {}
    told = {name: power * factors.get(name, 1.0) * point.mean_share for name, power in _told(scene, point).items()}
    for name, limit in point.power_limits_w.items():
        if name in told:
            told[name] = min(told[name], limit.value)
    return told | _losses(scene, told)


def _losses(scene: Scene, told: Mapping[str, float]) -> dict[str, float]:
    """Return what components lose for feeding others [W], those left out that are told their power."""
    found = {}
    for name, body in scene.bodies.items():
        model = body.model
        if isinstance(model, Component) and model.loss is not None and name not in told:
            fed = sum(told.get(other, 0.0) for other in model.loss.of)
            found[name] = model.loss.fixed_w.value + model.loss.share.value * fed
    return found


def _told(scene: Scene, point: OperatingPoint) -> dict[str, float]:
    """Return what the operating point tells bodies to make [W], the board's power split up.

    What parts lose for feeding others is in the board's power too; it goes in proportion, so two trials say how much is left to
    split.
    """
    stated = {name: power.value for name, power in point.powers_w.items()}
    if point.board_w is None:
        return stated
    shares = {name: share.value for name, share in point.split.items() if name in scene.bodies}
    shares[scene.board.id] = shares.get(scene.board.id, 0.0) + max(0.0, 1 - sum(shares.values()))

    def whole(rest: float) -> tuple[dict[str, float], float]:
        told = dict(stated)
        for name, share in shares.items():
            told[name] = told.get(name, 0.0) + share * rest
        return told, sum(told.values()) + sum(_losses(scene, told).values())

    none, one = whole(0.0)[1], whole(1.0)[1]
    rest = (point.board_w.value - none) / (one - none)
    if rest < -1e-9:
        raise AssemblyError(
            f"Operating point '{point.id}': the parts that are told their power make {short(none, 4)} W, more than the board's "
            f"{short(point.board_w.value, 4)} W."
        )
    return whole(max(rest, 0.0))[0]


def with_powers(point: OperatingPoint, powers: Mapping[str, float]) -> OperatingPoint:
    """Return the operating point with its powers as they turned out, and nothing left to split or to average."""
    found = {name: q(value) for name, value in powers.items()}
    return point.model_copy(update={"powers_w": found, "board_w": None, "split": {}, "cycle": ()})
