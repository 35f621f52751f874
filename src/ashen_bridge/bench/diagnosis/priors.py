"""How often each kind of fault is met in practice, before any reading is looked at: data with reasons."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources

from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class Prior:
    """Odds of a kind of fault against nothing being wrong, one fault of the kind each; `opened` where its joint just was.

    `always`: the share of it that held in all runs, not only since the one that is looked at.
    """

    odds: float
    opened: float
    always: float
    why: str
    name: str = ""

    def of(self, opened: bool) -> float:
        """Return the odds of one fault of the kind."""
        return self.opened if opened else self.odds


@cache
def usual_priors() -> Mapping[str, Prior]:
    """Return the priors that ship with the program, by kind of fault."""
    text = resources.files("ashen_bridge.bench.diagnosis").joinpath("priors.json").read_text(encoding="utf-8")
    return read_priors(json.loads(text))


def read_priors(data: Mapping[str, object]) -> Mapping[str, Prior]:
    """Return priors from plain data."""
    found = {}
    for kind, one in data.items():
        if isinstance(one, dict):
            odds = float(one["odds"])
            words = str(one.get("why", "")), str(one.get("name", kind))
            found[kind] = Prior(odds, float(one.get("opened", odds)), float(one.get("always", 0.0)), *words)
    return found


def priors_of(project: Project) -> Mapping[str, Prior]:
    """Return the priors with the odds that a project says otherwise; those of just opened joints go along."""
    found = dict(usual_priors())
    for kind, odds in project.priors.items():
        usual = found.get(kind)
        if usual is not None:
            found[kind] = replace(usual, odds=odds, opened=usual.opened * odds / usual.odds)
    return found
