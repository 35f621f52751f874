"""Steps of a procedure as they are written down, one after another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.procedures import ProcedureStep


class StepWriter:
    """Steps as they are written down, each with an id of its own."""

    def __init__(self) -> None:
        self.made: list[ProcedureStep] = []

    def add(self, kind: str, text: str, about: Sequence[str] = (), **says: Any) -> None:
        """Write down a step."""
        stem = slug(f"{says.get('hold') or kind} {about[0] if about else ''}", "step")
        name = fresh_id(stem, [one.id for one in self.made])
        said = {"id": name, "kind": kind, "text": text, "about": tuple(about), **says}
        self.made.append(ProcedureStep.model_validate(said))


def at_place(parts: Sequence[Any]) -> dict[str, Any]:
    """Return where on the board one thing is; several have no one place."""
    if len(parts) == 1:
        return {"x_mm": parts[0].x_mm, "y_mm": parts[0].y_mm, "side": parts[0].side}
    return {"side": parts[0].side} if parts else {}
