"""Saving what a command changed, with a note of it in the file's history; answers kept for the record."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import click

from ashen_bridge.changes.edit import Edit
from ashen_bridge.files.archive import Opened
from ashen_bridge.model.project import Project

KEEP = click.option(
    "--keep",
    type=click.Path(dir_okay=False, path_type=Path),
    metavar="FILE",
    help="Keep the answer for the record, in a project saved here.",
)


def save_changed(output: Path, before: Project, after: Project, extras: dict[str, bytes] | None = None, what: str = "") -> None:
    """Save `after` with what was done to `before`; `what` are the words for what only changed. Raises `FileError`."""
    from ashen_bridge.editing.history import done_between, noted
    from ashen_bridge.files.archive import save_project
    from ashen_bridge.files.who import who

    done = done_between(before, after, f"{what or 'Changed'}, by the command line")
    kept = after.model_copy(update={"history": noted(before.history, done, who(), datetime.now())})
    save_project(output, kept, extras or {})


def keep_answer(output: Path | None, content: Opened, keeping: Callable[..., Edit], *answer: Any) -> None:
    """Save the project with an answer that was given, where that is wanted."""
    if output is not None:
        from ashen_bridge.files.who import who

        made = keeping(content.project, *answer, who=who(), now=datetime.now())
        save_changed(output, content.project, made.applied(content.project), content.extras)
