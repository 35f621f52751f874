"""Spreading resistance of a source on a finite plate in closed form."""

from __future__ import annotations

import math


def spreading_lee(source_area: float, plate_area: float, thickness: float, conductivity: float, film: float) -> float:
    """Return the maximum spreading resistance [K/W] of a centred source on a plate cooled on its far face.

    source_area, plate_area [m²], thickness [m], conductivity [W/m·K], film [W/m²·K] over the far face. The one-dimensional
    resistances t/(kA) and 1/(hA) are not included. Source: S. Lee, S. Song, V. Au, K. P. Moran, "Constriction/spreading
    resistance model for electronics packaging", ASME/JSME Thermal Engineering Conf. vol. 4, 1995 (areas turned into equal
    discs; within about 5 % of exact for compact shapes). Zero when the source covers the plate.
    """
    a, b = math.sqrt(source_area / math.pi), math.sqrt(plate_area / math.pi)
    eps, tau = a / b, thickness / b
    if eps >= 1:
        return 0.0
    biot = film * b / conductivity
    lam = math.pi + 1 / (math.sqrt(math.pi) * eps)
    tanh = math.tanh(lam * tau)
    phi = (tanh + lam / biot) / (1 + lam / biot * tanh)
    # Lee's ψ_max also holds ετ/√π, which is the plate's one-dimensional t/(kA) and is counted apart here.
    psi = (1 - eps) * phi / math.sqrt(math.pi)
    return psi / (math.sqrt(math.pi) * conductivity * a)
