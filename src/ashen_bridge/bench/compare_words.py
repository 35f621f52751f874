"""A comparison of runs in a sentence or two."""

from __future__ import annotations

from ashen_bridge.bench.judgement import Comparison
from ashen_bridge.words.numbers import number


def verdict_words(found: Comparison) -> str:
    """Return a comparison in a sentence or two, what became worse first."""
    worse = [row for row in found.sensors if row.rise.verdict == "worse"]
    better = [row for row in found.sensors if row.rise.verdict == "better"]
    said = []
    if worse:
        most = max(worse, key=lambda row: row.rise.difference)
        which = f"{most.name} most, by {number(most.rise.difference, 1)} K"
        said.append(f"{len(worse)} of {len(found.sensors)} sensors became worse: {which}.")
    if better:
        best = min(better, key=lambda row: row.rise.difference)
        which = f"{best.name} most, by {number(-best.rise.difference, 1)} K"
        said.append(f"{len(better)} became better: {which}." if worse else f"{len(better)} sensors became better: {which}.")
    if not said:
        widest = max(row.rise.high - row.rise.low for row in found.sensors) / 2
        said.append(f"No sensor shows a difference; this test can show about {number(widest, 1)} K.")
    if found.hot_minus_mean is not None:
        was, now = found.hot_minus_mean
        said.append(f"Hot spot minus average went from {number(was, 1)} to {number(now, 1)} K.")
    if found.beside_words:
        said.append(found.beside_words)
    return " ".join(said)
