"""What refining the mesh would still change, told from a coarse and a fine field."""

from __future__ import annotations

Hottest = dict[str, float]
"""Hottest point [°C] by component."""

_OF_RISE, _OF_CHANGE = 0.008, 0.06
"""Shares of a component's rise and of its change from the coarse field. The grid is made so that it errs by about a share of the
rise; where the coarse field is far off, more of it may be left. Both were set on the demos and forty invented devices, whose
fields were refined once more and carried on by their order: see docs/validation.md."""


def mesh_error(fine: Hottest, coarse: Hottest, ambient_c: float, halvings: int = 0) -> tuple[float, str] | None:
    """Return by how much refinement may still move the hottest point of any component [K], and of which.

    None where there is no component to compare. `halvings` : how often the fine field was refined; each is taken to halve the
    error, which is on the safe side.
    """
    if not fine:
        return None
    left = {name: _OF_RISE * abs(value - ambient_c) + _OF_CHANGE * abs(value - coarse[name]) for name, value in fine.items()}
    at = max(sorted(left), key=lambda name: left[name])
    return left[at] / 2**halvings, at
