"""Ids and names that are not taken yet."""

from __future__ import annotations

import re
from collections.abc import Iterable


def slug(name: str, fallback: str) -> str:
    """Return an id made of a name: ASCII letters and digits, starting with a letter.

    >>> slug("Memory R2", "part"), slug("2.0 mm", "plan"), slug("–", "plan")
    ('memory_r2', 'plan_2_0_mm', 'plan')
    """
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:40].rstrip("_")
    if not stem:
        return fallback
    return stem if stem[0].isalpha() else f"{fallback}_{stem}"[:40].rstrip("_")


def fresh_id(stem: str, used: Iterable[str]) -> str:
    """Return `stem`, or `stem_2`, `stem_3`… if that is taken. A number at the stem's end counts on.

    >>> fresh_id("mem_3", ["mem_3"]), fresh_id("die", []), fresh_id("die", ["die"])
    ('mem_4', 'die', 'die_2')
    """
    taken = set(used)
    if stem not in taken:
        return stem
    found = re.fullmatch(r"(.*?)_?(\d+)", stem)
    base, start = (found[1], int(found[2]) + 1) if found and found[1] else (stem, 2)
    n = start
    while f"{base[:42]}_{n}" in taken:
        n += 1
    return f"{base[:42]}_{n}"


def fresh_name(name: str, used: Iterable[str]) -> str:
    """Return a name for people that is not taken yet: a number at its end counts on.

    >>> fresh_name("Memory 3", ["Memory 3", "Memory 4"]), fresh_name("Die", ["Die"])
    ('Memory 5', 'Die 2')
    """
    taken = set(used)
    if name not in taken:
        return name
    found = re.fullmatch(r"(.*?)\s*(\d+)", name)
    base, n = (found[1], int(found[2]) + 1) if found and found[1] else (name, 2)
    while f"{base} {n}" in taken:
        n += 1
    return f"{base} {n}"[:200]
