"""Numbers as readings left them, to be taken over in one edit: from what to what, and what they have in common since."""

from __future__ import annotations

import numpy as np

from ashen_bridge.changes.readings import READ
from ashen_bridge.measuring.gauging import Gauging
from ashen_bridge.measuring.numbers import ALIKE
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Origin, Quantity
from ashen_bridge.model.readings import TakenOver
from ashen_bridge.model.ties import Tie

_TOLD = 0.02  # share of a standard uncertainty by which a number must have shrunk, or moved, to be worth an edit
_COMMON = 0.05  # share of a variance from which a common error counts
_MOST = 0.95  # of a variance that ties may take together


def taken_over(project: Project, gauging: Gauging) -> tuple[tuple[TakenOver, ...], tuple[Tie, ...]]:
    """Return the numbers that readings moved or narrowed, and ties for the errors they share; of the project before them."""
    found = gauging.found
    count = len(gauging.numbers)
    sd = found.sd[:count]
    moved = [n for n in range(count) if sd[n] < 1 - _TOLD or abs(found.mean[n]) > _TOLD]
    numbers = []
    for n in moved:
        one = gauging.numbers[n]
        was = paths.node_at(project, one.paths[0])
        assert isinstance(was, Quantity)  # what carries an uncertainty is one
        value = one.value + float(found.mean[n]) * one.uncertainty
        told = float(sd[n]) * one.uncertainty
        note = f"from {len(gauging.read.readings)} readings; before {one.value:.6g} ± {one.uncertainty:.2g}"
        now = Quantity(value=round(value, 6), uncertainty=round(told, 6), origin=Origin.MEASURED, note=note)
        numbers.append(TakenOver(path=one.paths[0], was=was, now=now))
    return tuple(numbers), tuple(_ties(gauging, moved))


def _ties(gauging: Gauging, moved: list[int]) -> list[Tie]:
    """Return one tie for each common error, of the numbers that it moves the same way."""
    root, count = gauging.found.root, len(gauging.numbers)
    left = {n: _MOST - sum(share for cause, share in gauging.numbers[n].shares if not cause.startswith(ALIKE)) for n in moved}
    made: list[Tie] = []
    for k, common in enumerate(gauging.read.common):
        if common.free:
            continue
        loads = {}
        for n in moved:
            own, other = root[n], root[count + k]
            spread = float(np.linalg.norm(own) * np.linalg.norm(other))
            loads[n] = float(own @ other) / spread if spread > 0 else 0.0
        sign = 1.0 if sum(loads.values()) >= 0 else -1.0
        members = [n for n in moved if sign * loads[n] > 0 and loads[n] ** 2 > _COMMON and left[n] > _COMMON]
        if len(members) < 2:
            continue
        share = min(float(np.mean([loads[n] ** 2 for n in members])), *(left[n] for n in members))
        for n in members:
            left[n] -= share
        paths_ = tuple(gauging.numbers[n].paths[0] for n in members)
        made.append(Tie(id=f"{READ}{k}", name=common.label, paths=paths_, share=round(share, 4)))
    return made
