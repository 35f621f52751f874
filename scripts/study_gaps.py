"""What a route of readings is worth: gaps from ten readings by the route, ten at random, and from the old pad's thickness."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.materials import make_pads_limp
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.measuring.gauging import Gauging, gauging
from ashen_bridge.measuring.practice import practice
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.measuring.route import Candidate, candidates, on_the_way
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.together import correlation_of
from described import truth
from study import Case, Plain, Study

DEVICES, DRAWN = 40, 6  # devices, and real devices drawn of each
_COUNTS = (4, 10)  # readings of each
_ZERO, _HAND = 0.01, 0.015  # [mm] of the caliper, and of three repeats
_STOCK = np.array([0.25, 0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0])
_WAYS = (*(f"{way} {count}" for count in _COUNTS for way in ("route", "random")), "old")
_SQUEEZED = 0.2  # share by which a pad shall be compressed; common practice, no source
_EDGE = 0.03  # standard error of an old pad's thickness at its edge, as a share


def _rows(gauged: Gauging, done: list[Candidate], values: Floats) -> Rows:
    count = len(gauged.numbers)
    slopes = np.array([_with_zero(one) for one in done]).reshape(len(done), count + 1)
    prior = np.eye(count + 1)
    shared = correlation_of(gauged.numbers)
    if shared is not None:
        prior[:count, :count] = shared
    start = np.array([one.value for one in done])
    errors = np.array([_error(one) for one in done])
    return Rows(values, np.diag(errors**2), start, slopes, (), prior)


def _with_zero(one: Candidate) -> Floats:
    """Return what the numbers, and the caliper's zero, do to a reading (n_number + 1,)."""
    return np.append(one.slopes, _ZERO if one.form != "step" else 0.0)


def _error(one: Candidate) -> float:
    return float(np.hypot(_HAND, practice().forms[one.form].own_mm))


def _walked(gauged: Gauging, can: list[Candidate], y: Floats, order: Sequence[int]) -> Posterior:
    """Return what some readings come to."""
    return posterior(_rows(gauged, [can[n] for n in order], y[list(order)]))


def measured(seed: int) -> Plain:
    """Measure some real devices of one kind three ways."""
    engine, project = Engine(), truth(seed).project
    *_, (_, gauged) = gauging(engine, project, "now")
    assert gauged is not None
    build = project.build("now")
    pads = [n for n, one in enumerate(gauged.gaps) if build.joint(one.joint).sheet_at is not None]
    # Heights, steps, and putty squashed in a gap by a closing of its own; old pads say nothing of the gap to fill.
    can = [one for one in candidates(project, gauged) if one.slopes.any() and one.form != "edge"]
    if not pads or not can:
        return {**{way: [] for way in _WAYS}, "right": [], "asked": 0}
    fill = Pushed(engine, make_pads_limp(project), "now", gauged.numbers)
    list(fill.prepare())
    rows = _rows(gauged, [], np.zeros(0))
    root = np.linalg.cholesky(rows.prior_covariance)
    chance = np.random.default_rng([seed, 15])
    old = np.array(
        [
            build.joint(gauged.gaps[n].joint).pieces[build.joint(gauged.gaps[n].joint).sheet_at or 0].thickness_mm.value
            for n in pads
        ]
    )  # type: ignore[union-attr]
    way = list(on_the_way(gauged, pads, can, max(_COUNTS), by_time=False))
    at = {(one.joint, one.lower): n for n, one in enumerate(gauged.gaps)}
    off: dict[str, list[float]] = {way: [] for way in _WAYS}
    right: list[list[bool]] = []
    for _ in range(DRAWN):
        x = root @ chance.standard_normal(rows.n_number)
        every = fill.gaps(x[None, :-1])[0]
        real = every[pads]
        if np.isnan(real).any():
            continue
        slopes = np.array([_with_zero(one) for one in can])
        errors = np.array([_error(one) for one in can])
        y = np.array([one.value for one in can]) + slopes @ x
        for n, one in enumerate(can):
            if one.form == "putty":
                y[n] = every[at[one.of["joint"], one.of["lower"]]] + _ZERO * x[-1]
        y += errors * chance.standard_normal(len(can))
        start = gauged.slopes.gaps[pads]
        says = {}
        any_order = chance.permutation(len(can)).tolist()
        for name in _WAYS[:-1]:
            kind, count = name.split()
            found = _walked(gauged, can, y, (way if kind == "route" else any_order)[: int(count)])
            says[name] = start + gauged.slopes.of_gaps[pads] @ found.mean[:-1]
        # As practised: what the old pad measures at its edge is bought again.
        says["old"] = (1 - _SQUEEZED) * old * (1 + _EDGE * chance.standard_normal(len(pads)))
        for name, gaps in says.items():
            off[name] += (gaps - real).tolist()
        wanted = _bought(real)
        right += np.stack([_bought(says[name]) == wanted for name in _WAYS], axis=1).tolist()
    return {**off, "right": right, "asked": len(pads)}


def _bought(gaps: Floats) -> np.ndarray:
    """Return which stock thickness is nearest to what a gap asks for."""
    return np.abs(gaps[:, None] / (1 - _SQUEEZED) - _STOCK).argmin(axis=1)


def _cases() -> Iterator[Case]:
    for seed in range(1, DEVICES + 1):
        yield Case(f"device {seed}", input_hash(truth(seed).project, "now", "load"), partial(measured, seed))


def _rms(values: list[float]) -> float:
    return float(np.sqrt(np.mean(np.square(values)))) if values else 0.0


def _shares(rows: list[list[bool]]) -> Floats:
    return np.mean(rows, axis=0) if rows else np.zeros(len(_WAYS))


def _line(one: Plain) -> str:
    parts = [f"{way} {_rms(one[way]):.3f} mm, {share:.0%}" for way, share in zip(_WAYS, _shares(one["right"]), strict=True)]
    return f"{one['asked']} gaps; off by, and right stock: {'; '.join(parts)}"


def _tell(done: Mapping[str, Plain]) -> str:
    right = _shares([row for one in done.values() for row in one["right"]])
    off = {way: [value for one in done.values() for value in one[way]] for way in _WAYS}
    lines = ["| what was read | off by, root mean square | right stock thickness |", "|---|---|---|"]
    words = {f"route {n}": f"{n} by the route" for n in _COUNTS} | {f"random {n}": f"{n} at random" for n in _COUNTS}
    for way, share in zip(_WAYS, right, strict=True):
        said = words.get(way, "the old pad's thickness, as practised")
        lines.append(f"| {said} | {_rms(off[way]):.3f} mm | {share:.0%} |")
    ratios = ", ".join(f"{_rms(off[f'route {n}']) / max(_rms(off[f'random {n}']), 1e-9):.2f} with {n}" for n in _COUNTS)
    head = f"{len(done)} devices, {len(off['old'])} gaps. By the route is left, of what is left at random: {ratios} readings."
    return "\n".join((head, "", *lines))


STUDY = Study(
    "gaps",
    "What a route of readings is worth",
    "Invented devices whose lengths were all drawn from their ±, measured with one caliper; each gap to fill against its truth.",
    _cases,
    _line,
    _tell,
)
