"""How the joints lead heat when their numbers are drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.joints import LEAST_MM2K_W
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.predict.joint_heat import JointNumbers, LayerHeat, joint_numbers
from ashen_bridge.uncertainty.assumptions import Assumption


class DrawnLayers:
    """The numbers of all joints of a build, and which of them are drawn."""

    def __init__(self, resolved: ResolvedBuild, numbers: Sequence[Assumption]) -> None:
        self._resolved = resolved
        self._stated = joint_numbers(resolved)
        self._at = {path: (n, one.uncertainty) for n, one in enumerate(numbers) for path in one.paths}

    def drawn(self, drawn: Floats) -> JointNumbers:
        """Return the joints' numbers in some samples (s, n_number): arrays (s, 1)."""
        joints = f"builds.{self._resolved.build.id}.joints"
        return JointNumbers(
            {name: self._layer(name, drawn) for name in self._stated.layers},
            {
                (joint.id, piece.id): self._moved(
                    f"{joints}.{joint.id}.pieces.{piece.id}.bare_share", piece.bare_share.value, drawn
                )
                for joint in self._resolved.joints
                for piece in joint.pieces
                if (joint.id, piece.id) in self._stated.bare
            },
            {
                name: np.maximum(self._moved(f"{joints}.{name}.stated_mm2k_w", value * 1e6, drawn), LEAST_MM2K_W) * 1e-6
                for name, value in self._stated.stated.items()
            },
        )

    def _moved(self, path: str, value: Floats | float, drawn: Floats) -> Floats | float:
        number = self._at.get(path)
        return value if number is None else value + number[1] * drawn[:, [number[0]]]

    def _layer(self, name: str, drawn: Floats) -> LayerHeat:
        material = self._resolved.materials[name]
        base = self._stated.layers[name]

        def moved(field: str, value: float) -> Floats | float:
            return self._moved(f"materials.{name}.{field}", value, drawn)

        stated = moved("conductivity_w_mk", material.conductivity_w_mk.value)
        counted = moved("claim_factor", material.claim_factor.value) if material.only_claimed else 1.0
        warmed = base.conductivity / material.effective_w_mk
        return replace(
            base,
            conductivity=np.maximum(stated * counted, 1e-3) * warmed,
            contact=np.maximum(moved("contact_mm2k_w", material.contact_mm2k_w.value) * 1e-6, 0.0),
            reference=moved("contact_reference_kpa", material.contact_reference_kpa.value) * 1e3,
            exponent=moved("contact_exponent", material.contact_exponent.value),
            growth=moved("ageing_per_year", material.ageing_per_year.value),
        )
