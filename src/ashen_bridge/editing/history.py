"""What was done, in words, by day: notes of edits for the file's history, and answers that are kept for the record."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime

from ashen_bridge.changes import history as changes
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.history import MOST_NOTES, Concluded, Conclusion, Note, NoteKind
from ashen_bridge.model.project import Project

_LONG, _TABLE, _ROWS = 200, 20, 500
Done = tuple[NoteKind, str, int]
"""What was done: its kind, in words, how often."""
_COUNTED: tuple[tuple[str, NoteKind, str], ...] = (
    ("readings", "reading", "Readings"),
    ("evidence", "evidence", "Marks on old pads and pastes"),
    ("signs", "evidence", "Signs before opening"),
    ("pictures", "evidence", "Pictures of contact"),
    ("images", "evidence", "Photographs"),
)
_NAMED: tuple[tuple[str, NoteKind, str], ...] = (
    ("builds", "build", "Build"),
    ("runs", "run", "Run"),
    ("calibrations", "fit", "Fit"),
    ("conclusions", "conclusion", "Kept"),
)


def done_between(before: Project, after: Project, name: str) -> tuple[Done, ...]:
    """Return what an edit did, by what is there now and was not; what only changed goes by the edit's own name."""
    if after is before:
        return ()
    return tuple(_came_and_went(before, after)) or (("edit", name[:_LONG] or "Changed", 1),)


def _came_and_went(before: Project, after: Project) -> Iterator[Done]:
    for field, kind, what in _NAMED:
        old, new = ({one.id: one.label for one in getattr(project, field)} for project in (before, after))
        yield from ((kind, f"{what}: {label}"[:_LONG], 1) for name, label in new.items() if name not in old)
        yield from ((kind, f"{what} taken out: {label}"[:_LONG], 1) for name, label in old.items() if name not in new)
    for field, kind, what in _COUNTED:
        old_ids, new_ids = ({one.id for one in getattr(project, field)} for project in (before, after))
        if new_ids - old_ids:
            yield kind, what, len(new_ids - old_ids)
        if old_ids - new_ids:
            yield kind, f"{what} taken out", len(old_ids - new_ids)
    ticked = {one.id: {step.id for step in one.steps if step.done} for one in before.procedures}
    for one in after.procedures:
        more = sum(step.done and step.id not in ticked.get(one.id, ()) for step in one.steps)
        if more:
            yield "step", f"{one.label}: steps done"[:_LONG], more


def noted(history: Sequence[Note], done: Sequence[Done], who: str, now: datetime) -> tuple[Note, ...]:
    """Return a history with what was done now; the same thing on the same day by the same person is one note.

    `now` is local time. Notes stay in the order in which they were made, whatever the clock says.
    """
    at, name = now.replace(tzinfo=None).isoformat(timespec="minutes"), who[:_LONG]
    start = len(history)
    while start and history[start - 1].day == at[:10]:
        start -= 1
    today = {(one.kind, one.what, one.who): one for one in history[start:]}
    for kind, what, times in done:
        old = today.pop((kind, what, name), None)  # what is done again comes last
        many = times + (old.times if old is not None else 0)
        today[kind, what, name] = Note(at=at, who=name, kind=kind, what=what, times=min(many, 1_000_000))
    kept = [*history[:start], *today.values()]
    return tuple(kept) if len(kept) <= MOST_NOTES else _folded(kept)


def _folded(kept: list[Note]) -> tuple[Note, ...]:
    """Make the older half of a long history one note for each day and person."""
    old, young = kept[: MOST_NOTES // 2], kept[MOST_NOTES // 2 :]
    days: dict[tuple[str, str], Note] = {}
    for one in old:
        before = days.get((one.day, one.who))
        times = one.times + (before.times if before is not None else 0)
        days[one.day, one.who] = Note(at=one.at, who=one.who, what="Changes in all", times=min(times, 1_000_000))
    return (*days.values(), *young)[-MOST_NOTES:]


def by_day(history: Sequence[Note]) -> list[tuple[str, list[Note]]]:
    """Return notes by day, the day that was noted last first, notes of a day as they were made.

    >>> notes = [Note(at="2031-03-14T08:30", what="A"), Note(at="2031-03-15T09:00", what="B")]
    >>> [(day, [one.what for one in some]) for day, some in by_day(notes)]
    [('2031-03-15', ['B']), ('2031-03-14', ['A'])]
    """
    days: dict[str, list[Note]] = {}
    for one in history:
        days.setdefault(one.day, []).append(one)
    return list(reversed(days.items()))


def conclude(
    project: Project,
    kind: Concluded,
    title: str,
    says: Sequence[str] = (),
    table: tuple[Sequence[str], Sequence[Sequence[str]]] = ((), ()),
    *,
    about: str = "",
    who: str = "",
    now: datetime,
) -> Edit:
    """Return the edit that keeps an answer as it is given now, with its table of (head, rows)."""
    head, rows = table
    made = Conclusion(
        id=fresh_id(slug(kind, kind), [one.id for one in project.conclusions]),
        kind=kind,
        title=title[:4000],
        at=now.replace(tzinfo=None).isoformat(timespec="minutes"),
        who=who[:_LONG],
        about=about[:_LONG],
        says=tuple(one[:4000] for one in says[:_LONG]),
        head=tuple(one[:_LONG] for one in head[:_TABLE]),
        rows=tuple(tuple(cell[:4000] for cell in row) for row in rows[:_ROWS]),
    )
    return edit("Keep for the record", changes.keep, made)


def drop_conclusion(conclusion: str) -> Edit:
    """Keep an answer no longer."""
    return edit("Keep no longer", changes.drop, conclusion)
