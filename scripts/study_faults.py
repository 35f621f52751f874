"""Whether planted faults are named first, and a healthy device is left alone."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator, Mapping
from functools import cache
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.predict.fingerprint import input_hash
from planted import BUILD, POINT, Planted, faults
from study import Case, Plain, Study

HEALTHY = 12


@cache
def _here() -> Planted:
    return Planted(Path(tempfile.mkdtemp(prefix="faults-")))


def _cases() -> Iterator[Case]:
    key = input_hash(_here().project, BUILD, POINT)
    for name, share, seed in faults():
        yield Case(f"{name} at {share:g}", key, lambda name=name, share=share, seed=seed: _planted(name, share, seed))  # type: ignore[misc]
    for seed in range(1, HEALTHY + 1):
        yield Case(f"healthy {seed}", key, lambda seed=seed: _healthy(seed))  # type: ignore[misc]


def _planted(name: str, share: float, seed: int) -> Plain:
    hit, found = _here().named_first(name, share, seed)
    first = found.suspects[0]
    return {"planted": name, "right": hit, "first": first.id, "belief": first.weight, "named": found.named}


def _healthy(seed: int) -> Plain:
    found = _here().diagnosed(_here().log(_here().project, seed))
    return {"planted": None, "right": found.named is None, "first": "none", "belief": found.healthy_weight, "named": found.named}


def _line(one: Plain) -> str:
    return f"{'right' if one['right'] else 'not named'}, first {one['first']}, believed {one['belief']:.0%}"


def _tell(done: Mapping[str, Plain]) -> str:
    told = []
    for words, some in (
        ("planted faults stand first, above none at all", [one for one in done.values() if one["planted"]]),
        ("healthy devices are left alone", [one for one in done.values() if not one["planted"]]),
    ):
        told.append(f"{sum(one['right'] for one in some)} of {len(some)} {words}")
    return f"{told[0]}; {told[1]}."


STUDY = Study(
    "faults",
    "Planted faults",
    "Faults planted in the second demo, twelve in all, and the same device without any, a minute of noisy readings each.",
    _cases,
    _line,
    _tell,
)
