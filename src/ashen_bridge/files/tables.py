"""Tables written for other programs: CSV and Parquet, no text of theirs taken for a formula."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from ashen_bridge.files.errors import FileError
from ashen_bridge.model.cells import defused

SUFFIXES = (".parquet", ".csv")


def defused_table(table: Any) -> Any:
    """Return a table in which no text is taken for a formula."""
    return table.map(lambda cell: defused(cell) if isinstance(cell, str) else cell)


def writer(path: Path) -> Callable[[Any], None]:
    """Return what writes a table to a file of that name. Raises `FileError` for a name that is neither Parquet nor CSV."""
    if path.suffix == ".parquet":
        return lambda table: table.to_parquet(path, index=False)
    if path.suffix == ".csv":
        return lambda table: defused_table(table).to_csv(path, index=False, float_format="%.4f")
    raise FileError(f"“{path.name}” must end in {' or '.join(SUFFIXES)}.")
