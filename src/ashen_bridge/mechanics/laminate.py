"""Sheets bonded on each other as one plate: how far they bend together follows from the bond's stiffness against sliding.

Bent alike, two sheets slide on each other; the bond resists, most at its ends (shear lag). Per width and for an even curvature
the force between them is N = N∞·(1 − cosh αx/cosh(αL/2)), α² = K·(1/A₁ + 1/A₂), with K the bond's shear stiffness per area,
A = E'·t and L the bonded length; its mean over the length is the share χ = 1 − tanh(αL/2)/(αL/2) of what it would be were
nothing sliding (N. M. Newmark, C. P. Siess, I. M. Viest, Proc. Soc. Exp. Stress Analysis 9, 1951; from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ashen_bridge.model.material import Material


@dataclass(frozen=True)
class Sheet:
    """A plate, or some as one: bending stiffness D [N·m], E'·t [N/m], the middle of that above the underside, thickness [m]."""

    rigidity: float
    axial: float
    centre: float
    thickness: float


def sheet(material: Material, thickness: float) -> Sheet | None:
    """Return one homogeneous sheet; None for a material that states no Young's modulus."""
    if material.youngs_modulus_gpa is None:
        return None
    poisson = material.poisson_ratio.value if material.poisson_ratio else 0.3
    modulus = material.youngs_modulus_gpa.value * 1e9 / (1 - poisson**2)
    return Sheet(modulus * thickness**3 / 12, modulus * thickness, thickness / 2, thickness)


def bonded_share(below: Sheet, above: Sheet, shear: float, length: float) -> float:
    """Return the share χ (0 to 1) in which two sheets act as one over a bonded `length` [m], bond stiffness `shear` [Pa/m].

    >>> one = Sheet(1.0, 2e7, 5e-4, 1e-3)
    >>> [round(bonded_share(one, one, shear, 0.02), 2) for shear in (1e7, 1e12, 1e15)]
    [0.0, 0.68, 0.99]
    """
    if shear <= 0:
        return 0.0
    half = math.sqrt(shear * (1 / below.axial + 1 / above.axial)) * length / 2
    return 1 - math.tanh(half) / half


def bonded(below: Sheet, above: Sheet, shear: float, length: float) -> Sheet:
    """Return two sheets with a bond between them as one: D = D₁ + D₂ + χ·r²·A₁A₂/(A₁ + A₂), r the distance of their middles.

    With χ = 1 this is the laminate of classical plate theory about its own neutral plane (parallel axes).
    """
    apart = below.thickness - below.centre + above.centre
    both = below.axial + above.axial
    share = bonded_share(below, above, shear, length)
    rigidity = below.rigidity + above.rigidity + share * apart**2 * below.axial * above.axial / both
    centre = (below.axial * below.centre + above.axial * (below.thickness + above.centre)) / both
    return Sheet(rigidity, both, centre, below.thickness + above.thickness)
