"""What every component makes: as the operating point says, for feeding others, and no more than it is allowed."""

from __future__ import annotations

from collections.abc import Mapping

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.quantity import q


def powers_at(scene: Scene, point: OperatingPoint, factors: Mapping[str, float] | None = None) -> dict[str, float]:
    """Return the power of every component that makes any [W].

    `factors` scale what components are told to make (throttling). A component with a load loss makes that, unless the operating
    point says its power outright; limits come last.
    """
    factors = factors or {}
    told = {name: power.value * factors.get(name, 1.0) for name, power in point.powers_w.items()}
    for name, limit in point.power_limits_w.items():
        if name in told:
            told[name] = min(told[name], limit.value)
    for name, body in scene.bodies.items():
        model = body.model
        if isinstance(model, Component) and model.loss is not None and name not in told:
            fed = sum(told.get(other, 0.0) for other in model.loss.of)
            told[name] = model.loss.fixed_w.value + model.loss.share.value * fed
    return told


def with_powers(point: OperatingPoint, powers: Mapping[str, float]) -> OperatingPoint:
    """Return the operating point with its powers as they turned out."""
    return point.model_copy(update={"powers_w": {name: q(value) for name, value in powers.items()}})
