"""What lies on the shelf of every invented bench, and what its price list says: made up, in made-up crowns."""

from __future__ import annotations

from ashen_bridge.changes.plans import set_shop, set_stock
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.wishes import Offer, StockItem


def _sheet(name: str, material: str, thick: float, w: float, h: float, count: int = 1, note: str = "") -> StockItem:
    return StockItem(id=name, material=material, thickness_mm=q(thick), w_mm=w, h_mm=h, count=count, note=note)


STOCK = {
    "correlator": (
        _sheet("medium_10", "pad_medium", 1.0, 80, 80, note="what is left of the last sheet"),
        _sheet("soft_15", "pad_soft", 1.5, 50, 40),
        StockItem(id="tube_filled", material="paste_filled", ml=2.0, opened="2031-01-11"),
    ),
    "beamformer": (StockItem(id="tube_general", material="paste_general", ml=3.5, opened="2030-11-02"),),
    "buoy": (
        _sheet("soft_05", "pad_soft", 0.5, 30, 30),
        StockItem(id="tub", material="putty_soft", ml=10.0, opened="2031-03-20"),
    ),
}
_PADS = (("pad_soft", 0.9), ("pad_medium", 1.2), ("pad_firm", 2.2))


def _offers() -> tuple[Offer, ...]:
    sheets = [
        Offer(
            id=f"{material}_{thick:g}".replace(".", "_"),
            material=material,
            thickness_mm=thick,
            w_mm=100,
            h_mm=100,
            price=round(8 + 12 * dear * thick, 1),
        )
        for material, dear in _PADS
        for thick in (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0)
    ]
    others = (
        Offer(id="melting", material="phase_change", thickness_mm=0.2, w_mm=40, h_mm=80, price=11.0),
        Offer(id="filled", material="paste_filled", ml=2.0, price=12.5),
        Offer(id="general", material="paste_general", ml=3.5, price=6.0),
        Offer(id="putty", material="putty_soft", ml=10.0, price=19.0),
        Offer(id="metal", material="liquid_metal", ml=1.0, price=17.0),
    )
    return (*sheets, *others)


def with_shelf(project: Project, name: str) -> Project:
    """Return a demo with its shelf and price list."""
    return set_shop(set_stock(project, STOCK[name]), _offers(), "crowns")
