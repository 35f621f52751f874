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

DEVICES, READINGS, DRAWN = 40, 10, 6  # devices, readings of each, and real devices drawn of each
_ZERO, _HAND = 0.01, 0.015  # [mm] of the caliper, and of three repeats
_STOCK = np.array([0.25, 0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0])
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
    # Lengths alone: putty is a closing of its own.
    can = [one for one in candidates(project, gauged) if one.slopes.any() and one.form != "putty"]
    if not pads or not can:
        return {"route": [], "random": [], "old": [], "right": [], "asked": 0}
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
    way = list(on_the_way(gauged, pads, can, READINGS))
    off: dict[str, list[float]] = {"route": [], "random": [], "old": []}
    right: list[list[bool]] = []
    for _ in range(DRAWN):
        x = root @ chance.standard_normal(rows.n_number)
        real = fill.gaps(x[None, :-1])[0][pads]
        if np.isnan(real).any():
            continue
        slopes = np.array([_with_zero(one) for one in can])
        errors = np.array([_error(one) for one in can])
        y = np.array([one.value for one in can]) + slopes @ x + errors * chance.standard_normal(len(can))
        start = gauged.slopes.gaps[pads]
        says = {}
        for name, order in (("route", way), ("random", chance.permutation(len(can))[:READINGS].tolist())):
            found = _walked(gauged, can, y, order)
            says[name] = start + gauged.slopes.of_gaps[pads] @ found.mean[:-1]
        # As practised: what the old pad measures at its edge is bought again.
        says["old"] = (1 - _SQUEEZED) * old * (1 + _EDGE * chance.standard_normal(len(pads)))
        for name, gaps in says.items():
            off[name] += (gaps - real).tolist()
        wanted = _bought(real)
        right += np.stack([_bought(says[name]) == wanted for name in ("route", "random", "old")], axis=1).tolist()
    return {**off, "right": right, "asked": len(pads)}


def _bought(gaps: Floats) -> np.ndarray:
    """Return which stock thickness is nearest to what a gap asks for."""
    return np.abs(gaps[:, None] / (1 - _SQUEEZED) - _STOCK).argmin(axis=1)


def _cases() -> Iterator[Case]:
    for seed in range(1, DEVICES + 1):
        yield Case(f"device {seed}", input_hash(truth(seed).project, "now", "load"), partial(measured, seed))


def _rms(values: list[float]) -> float:
    return float(np.sqrt(np.mean(np.square(values)))) if values else 0.0


def _line(one: Plain) -> str:
    shares = np.mean(one["right"], axis=0) if one["right"] else np.zeros(3)
    return (
        f"{one['asked']} gaps; off by {_rms(one['route']):.3f} mm by the route, {_rms(one['random']):.3f} at random, "
        f"{_rms(one['old']):.3f} by the old pad; right stock {shares[0]:.0%}, {shares[1]:.0%}, {shares[2]:.0%}"
    )


def _tell(done: Mapping[str, Plain]) -> str:
    off = {name: [value for one in done.values() for value in one[name]] for name in ("route", "random", "old")}
    right = np.array([row for one in done.values() for row in one["right"]]).reshape(-1, 3)
    route, random, old = (_rms(off[name]) for name in ("route", "random", "old"))
    shares = right.mean(axis=0) if len(right) else np.zeros(3)
    said = f"{READINGS} readings by the route leave {route:.3f} mm (root mean square), {READINGS} at random {random:.3f} mm"
    bought = ", ".join(f"{share:.0%}" for share in shares)
    return (
        f"Over {len(done)} devices and {len(off['route'])} gaps: {said} ({route / max(random, 1e-9):.2f} of it), the old pad's "
        f"thickness as practised {old:.3f} mm. The right stock thickness is bought in {bought} of the joints."
    )


STUDY = Study(
    "gaps",
    "What a route of readings is worth",
    "Invented devices whose lengths were all drawn from their ±, measured with one caliper; each gap to fill against its truth.",
    _cases,
    _line,
    _tell,
)
