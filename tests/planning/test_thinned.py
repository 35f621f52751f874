"""Pads thinned by hand: only where it is worth a hand, volume kept when stretched, what is bought is the thicker sheet."""

from __future__ import annotations

from dataclasses import replace

import pytest

from ashen_bridge.library import materials
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.quantity import q
from ashen_bridge.planning.choosing.bill import needs, sheet_mm
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.thinned import kept_thinner, stretched, wanted_mm
from devices import Card
from devices import project as card_project

PLACE = Place("pads", "Pads", "memory", ("a",), ("m",), False, 0.85, 144.0, True)
SOFT = materials()["pad_soft"]


@pytest.mark.parametrize(
    ("gap", "free", "target"),
    [(0.85, 1.25, 1.0), (0.85, 1.0, None), (0.85, 2.0, None), (1.05, 1.5, 1.25), (0.1, 0.5, None)],
)
def test_a_fifth_over_the_gap_and_no_thinner_than_a_pad_bears(gap: float, free: float, target: float | None) -> None:
    found = wanted_mm(replace(PLACE, gap_mm=gap), free)
    assert found == (None if target is None else pytest.approx(target, abs=0.03))


def test_a_stretched_pad_takes_less_sheet_than_it_covers() -> None:
    piece = stretched(PLACE, SOFT, 1.25)
    assert piece is not None
    assert piece.thickness_mm is not None
    (need,) = needs([(piece, 144.0)], materials())
    assert need.thickness_mm == sheet_mm(piece) == 1.25
    assert need.area_mm2 * 1.25 == pytest.approx(144.0 * piece.thickness_mm.value), "its volume is kept"


def test_a_shaved_pad_keeps_its_outline_and_its_age() -> None:
    card = card_project(Card())
    there = Piece(id="old", material="pad_medium", thickness_mm=q(1.25, 0.05), age_days=800)
    thinner = kept_thinner(card, PLACE, (there,))
    assert thinner is not None
    assert thinner.worked is not None
    assert (thinner.age_days, thinner.worked.how) == (800, "shaved")
    assert kept_thinner(card, PLACE, (there, there)) is None, "a stack is not shaved"
    assert kept_thinner(card, PLACE, (thinner,)) is None, "nor twice"
