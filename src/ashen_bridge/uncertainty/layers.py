"""How the materials of joints lead heat when their numbers are drawn."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.predict.joint_heat import LayerHeat, layer_heat
from ashen_bridge.uncertainty.assumptions import Assumption


class DrawnLayers:
    """The materials of all pieces of a build, and which numbers are about them."""

    def __init__(self, resolved: ResolvedBuild, numbers: Sequence[Assumption]) -> None:
        self._resolved = resolved
        self._used = {piece.material for joint in resolved.joints for piece in joint.pieces}
        self._at = {
            tuple(path.split(".")[1:]): (n, one.uncertainty)
            for n, one in enumerate(numbers)
            for path in one.paths
            if path.startswith("materials.") and path.split(".")[1] in self._used
        }

    def drawn(self, drawn: Floats) -> dict[str, LayerHeat]:
        """Return how every material leads heat in some samples (s, n_number): arrays (s, 1)."""
        return {name: self._one(name, drawn) for name in self._used}

    def _one(self, name: str, drawn: Floats) -> LayerHeat:
        material = self._resolved.materials[name]
        base = layer_heat(material, self._resolved.build.age_days)

        def moved(field: str, value: float) -> Floats | float:
            number = self._at.get((name, field))
            return value if number is None else value + number[1] * drawn[:, [number[0]]]

        stated = moved("conductivity_w_mk", material.conductivity_w_mk.value)
        counted = moved("claim_factor", material.claim_factor.value) if material.only_claimed else 1.0
        ageing = moved("ageing_per_year", material.ageing_per_year.value)
        return LayerHeat(
            np.maximum(stated * counted, 1e-3),
            np.maximum(moved("contact_mm2k_w", material.contact_mm2k_w.value) * 1e-6, 0.0),
            moved("contact_reference_kpa", material.contact_reference_kpa.value) * 1e3,
            moved("contact_exponent", base.exponent if isinstance(base.exponent, float) else 0.0),
            1 + np.maximum(ageing, 0.0) * self._resolved.build.age_days / 365.25,
        )
