"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ashen_bridge.evidence.result import FilmFound, Seen
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.maps import JointMap


def seen(engine: Engine, project: Project, build: str) -> Iterator[tuple[float, Seen | None]]:
    """Hold everything that was seen against the model, and weigh it."""
    from ashen_bridge.evidence.seeing import seeing

    yield from seeing(engine, project, build)


Corners = Sequence[tuple[float, float]]


def film(
    engine: Engine,
    content: bytes,
    corners: Corners,
    w_mm: float,
    h_mm: float,
    there: JointMap | None,
    strip: tuple[Corners, Sequence[float]] | None = None,
) -> Iterator[tuple[float, FilmFound | None]]:
    """Read a picture of contact over a rectangle, by a `strip` of known pressures if any, and hold it against the model."""
    import numpy as np

    from ashen_bridge.evidence.film import difference, learnt_scale, read_film
    from ashen_bridge.evidence.picture import opened

    del engine
    image = opened(content)
    yield 0.5, None
    scale = learnt_scale(image, *strip, corners, w_mm, h_mm) if strip is not None else None
    reading = read_film(image, corners, w_mm, h_mm, scale)
    apart = None
    if there is not None:
        rows, columns = there.pressure_kpa.shape
        x, y = (((np.arange(n) + 0.5) / n - 0.5) * side for n, side in ((columns, w_mm), (rows, h_mm)))
        apart = difference(reading, there.pressure_kpa.astype(float), x, y)
    yield 1.0, FilmFound(reading, apart)
