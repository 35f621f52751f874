"""Fuzz of project files and path edits: whatever comes, a project or one sentence; never a crash, never a hang.

`./check fuzz N` runs N times as many examples.
"""

from __future__ import annotations

import json
import os
import random
import time
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.stored import MAPS, REPORT, StoredPredictionError, named, pack, unpack
from ashen_bridge.changes.heights import rest_mm
from ashen_bridge.editing.fields import fields_of
from ashen_bridge.editing.targets import targets
from ashen_bridge.files.archive import open_project, parse_project, save_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.files.migrate import migrate
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.build import project_from
from ashen_bridge.logs.live import END, LineReader, header_line, reading_line
from ashen_bridge.logs.log import LogError
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.reading import parse_log
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.uncertainty.assumptions import assumptions
from devices import FOUR, Card, project
from here import DEMO_LOG

TIMES = int(os.environ.get("ASHEN_BRIDGE_FUZZ", "1"))
SLOWEST_S = 5.0  # of this process: a busy machine is no hang
SEEDS = [
    project(Card(FOUR)),
    open_anything("demo:correlator").project,
    project_from(Answers(around=(1, 0, 1, 0), rear=1, pad_wanted_mm=1.5)),
]
PLAIN = [seed.model_dump(mode="json") for seed in SEEDS]
PATHS = [path for path, _ in paths.list_paths(SEEDS[0])]
JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**9), 10**9),
    st.floats(allow_nan=True, allow_infinity=True),
    st.text(max_size=8),
    st.sampled_from(
        ["die", "board", "cooler", "plate", "part_0", "floating", "front", "rear", "pad_medium", "sprung", "measured"]
    ),
    st.lists(st.integers(-5, 5), max_size=3),
    st.dictionaries(st.sampled_from(["value", "id", "x_mm", "kind"]), st.integers(-3, 3), max_size=2),
)


def nodes(data: Any) -> list[tuple[Any, Any]]:
    """Return every place in plain data as (holder, key)."""
    found: list[tuple[Any, Any]] = []
    stack = [data]
    while stack:
        holder = stack.pop()
        keys = list(holder) if isinstance(holder, dict) else list(range(len(holder)))
        found += [(holder, key) for key in keys]
        stack += [holder[key] for key in keys if isinstance(holder[key], dict | list)]
    return found


def mutated(plain: Any, chance: random.Random, junk: list[Any]) -> Any:
    """Return plain data with a few places dropped, doubled, swapped or overwritten."""
    data = json.loads(json.dumps(plain))
    for value in junk:
        places = nodes(data)
        holder, key = chance.choice(places)
        how = chance.randrange(4)
        if how == 0:
            del holder[key]
        elif how == 1 and isinstance(holder, list):
            holder.append(json.loads(json.dumps(holder[key])))
        elif how == 2:
            other, there = chance.choice(places)
            # A copy: what holds itself would have no end.
            holder[key] = json.loads(json.dumps(other[there])) if isinstance(other, dict) and there in other else value
        else:
            holder[key] = value
    return data


def everything_that_reads(found: Project) -> None:
    """Run what the window runs on any project it shows, computable or not."""
    for build in found.builds:
        try:
            problem = next(assembly_problems(resolve(found, build.id)), None)
        except AshenError as error:
            assert str(error).strip()
        else:
            assert problem is None or "\n" not in str(problem)
        for target in targets(found, build.id):
            assert fields_of(found, target.path)
        for body in found.device.bodies:
            rest_mm(found, build, body.id)
        if found.points:
            assumptions(found, build.id, found.points[0].id)


def one_sentence(error: AshenError) -> None:
    text = str(error)
    assert text.strip()
    assert len(text) < 1000
    assert "\n" not in text


@settings(max_examples=60 * TIMES)
@given(st.sampled_from(range(len(PLAIN))), st.integers(0, 2**32), st.lists(JUNK, min_size=1, max_size=4))
def test_mutated_projects_are_read_or_refused_in_one_sentence(which: int, seed: int, junk: list[Any]) -> None:
    begin = time.process_time()
    try:
        data = mutated(PLAIN[which], random.Random(seed), junk)
        text = json.dumps(data)
    except (ValueError, RecursionError):
        return  # a swap made the data hold itself
    try:
        found, _ = parse_project(text.encode(), "fuzz.json")
    except AshenError as error:
        one_sentence(error)
    else:
        everything_that_reads(found)
    assert time.process_time() - begin < SLOWEST_S


@settings(max_examples=60 * TIMES)
@given(st.lists(st.tuples(st.sampled_from(PATHS), JUNK), min_size=1, max_size=4))
def test_any_path_edits_are_taken_or_refused_in_one_sentence(edits: list[tuple[str, Any]]) -> None:
    current = SEEDS[0]
    for path, value in edits:
        try:
            current = paths.set_values(current, {path: value})
        except AshenError as error:
            one_sentence(error)
    everything_that_reads(current)
    assert Project.parse(json.loads(current.model_dump_json())) == current


@settings(max_examples=40 * TIMES)
@given(st.data())
def test_damaged_archives_are_read_or_refused_in_one_sentence(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    path = tmp_path_factory.mktemp("fuzz") / "card.ashb"
    save_project(path, SEEDS[0], {"prediction/report.json": b"{}"})
    content = bytearray(path.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(content) - 1))
        how = data.draw(st.integers(0, 2))
        if how == 0:
            content[at] = data.draw(st.integers(0, 255))
        elif how == 1:
            del content[at:]
        else:
            content[at:at] = data.draw(st.binary(max_size=20))
        if not content:
            break
    path.write_bytes(bytes(content))
    try:
        open_project(path)
    except AshenError as error:
        one_sentence(error)


@settings(max_examples=30 * TIMES)
@given(st.lists(st.tuples(st.text(max_size=30), st.binary(max_size=60)), max_size=5))
def test_archives_of_anything(tmp_path_factory: pytest.TempPathFactory, members: list[tuple[str, bytes]]) -> None:
    path: Path = tmp_path_factory.mktemp("fuzz") / "card.ashb"
    with zipfile.ZipFile(path, "w") as archive:
        for name, content in dict(members).items():
            try:
                archive.writestr(name or "x", content)
            except (ValueError, UnicodeEncodeError, IndexError):
                continue
    with pytest.raises(AshenError) as caught:
        open_project(path)
    one_sentence(caught.value)


@given(st.recursive(JUNK, lambda inner: st.dictionaries(st.text(max_size=6), inner, max_size=3), max_leaves=6))
def test_any_plain_data_is_no_project(data: Any) -> None:
    with pytest.raises(AshenError) as caught:
        Project.parse(migrate(data))
    one_sentence(caught.value)


DIALECT = DEMO_LOG.read_bytes()[:12_000]


@settings(max_examples=60 * TIMES)
@given(
    st.lists(
        st.tuples(
            st.sampled_from(["cut", "flip", "insert", "repeat", "drop line", "swap delimiter"]),
            st.floats(0, 1),
            st.binary(min_size=1, max_size=8),
        ),
        min_size=1,
        max_size=6,
    )
)
def test_damaged_logs_are_read_or_refused_in_one_sentence(changes: list[tuple[str, float, bytes]]) -> None:
    data = DIALECT
    for how, where, junk in changes:
        at = int(where * max(len(data) - 1, 0))
        if how == "cut":
            data = data[:at]
        elif how == "flip":
            data = data[:at] + junk + data[at + len(junk) :]
        elif how == "insert":
            data = data[:at] + junk + data[at:]
        elif how == "repeat":
            data += data[at : at + 3000]
        elif how == "drop line":
            lines = data.split(b"\n")
            data = b"\n".join(lines[: at % len(lines)] + lines[at % len(lines) + 1 :])
        else:
            data = data.replace(b";", junk[:1])
    begin = time.process_time()
    try:
        log = parse_log(data, "damaged.csv")
    except LogError as error:
        assert str(error).endswith(".")
        assert "\n" not in str(error)
    else:
        assert (np.diff(log.time_s) >= 0).all()
        assert all(len(column.values) == len(log.time_s) for column in log.columns)
        proposed = propose(log, SEEDS[1].device)
        taken = [one.sensor for one in proposed if one.sensor]
        assert len(set(taken)) == len(taken), "no sensor is proposed for two columns"
    assert time.process_time() - begin < SLOWEST_S


LIVE = "\n".join(
    [header_line(["Die [°C]", "Power [W]"]), *(reading_line(n, {"Die": 40 + n / 10, "Power": 100.0}) for n in range(40)), END]
).encode()


@settings(max_examples=60 * TIMES)
@given(
    st.lists(st.tuples(st.floats(0, 1), st.binary(max_size=12)), max_size=6),
    st.lists(st.integers(1, 400), min_size=1, max_size=30),
)
def test_any_live_feed_is_taken_or_refused_in_one_sentence(junk: list[tuple[float, bytes]], sizes: list[int]) -> None:
    """Whatever comes in, in whatever pieces: readings, lines that are counted as wrong, or one sentence."""
    data = LIVE
    for where, noise in junk:
        at = int(where * len(data))
        data = data[:at] + noise + data[at:]
    reader, at = LineReader(), 0
    try:
        for size in sizes:
            reader.feed(data[at : at + size])
            at += size
        reader.feed(data[at:] + b"\n")
        log = reader.log()
    except LogError as error:
        one_sentence(error)
    else:
        assert (np.diff(log.time_s) >= 0).all()
        assert all(len(one.values) == len(log.time_s) for one in log.columns)
        assert len(log.time_s) == reader.count


STORED = pack(assess(SEEDS[0], fidelity="coarse"))


@settings(max_examples=60 * TIMES, deadline=None)
@given(st.randoms(use_true_random=False), st.lists(JUNK, min_size=1, max_size=4), st.binary(min_size=1, max_size=6))
def test_any_stored_prediction_is_sound_or_refused(chance: random.Random, junk: list[Any], noise: bytes) -> None:
    """What a file stores is a cache that anyone may have written: it is sound, or one sentence says it is not."""
    text, pictures = mutated(json.loads(STORED[REPORT]), chance, junk), bytearray(STORED[MAPS])
    if chance.random() < 0.5:
        at = chance.randrange(len(pictures))
        pictures[at : at + len(noise)] = noise
    for files in ({REPORT: json.dumps(text).encode(), MAPS: STORED[MAPS]}, {REPORT: STORED[REPORT], MAPS: bytes(pictures)}):
        try:
            found = unpack(files)
        except StoredPredictionError as error:
            assert str(error).endswith(".")
            continue
        assert all(isinstance(name, str) for name in named(found))
        shapes = {picture.shape for picture in found.prediction.maps.storeys.values()}
        assert len(shapes) <= 1
