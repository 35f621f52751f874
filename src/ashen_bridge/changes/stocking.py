"""What cutting does to the stock: sheets that were used go, what remains of them comes."""

from __future__ import annotations

from ashen_bridge.model.base import Id
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.wishes import StockItem


def cut_from_stock(project: Project, used: tuple[Id, ...], rests: tuple[StockItem, ...]) -> Project:
    """Take one off the count of every item that was used, as often as it is named, and put the rests beside what is left.

    Raises `ProjectError` for an item that is not there or used up.
    """
    counts = {item.id: item.count for item in project.stock}
    for name in used:
        if counts.get(name, 0) < 1:
            raise ProjectError(f"The stock has no '{name}' any more.")
        counts[name] -= 1
    kept = tuple(replaced(item, count=counts[item.id]) for item in project.stock if counts[item.id] > 0 or item.id not in used)
    return replaced(project, stock=(*kept, *rests))
