"""Files: what is saved comes back, what is foreign or hostile is refused in a sentence, a crash loses nothing."""

from __future__ import annotations

import errno
import hashlib
import io
import json
import os
import zipfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.stored import MAPS, REPORT, StoredPredictionError, pack, unpack
from ashen_bridge.files import archive as archive_module
from ashen_bridge.files.archive import open_project, save_project, to_json
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import demo_names, open_anything
from ashen_bridge.files.errors import FileError
from ashen_bridge.files.migrate import Migration, migrate
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import FORMAT_VERSION, Project
from ashen_bridge.model.records import Image, Run
from ashen_bridge.predict.report import PHYSICS_VERSION
from devices import FOUR, Card, project, without_runs
from here import DATA, ROOT


def zipped(members: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in members.items():
            made.writestr(name, content)
    return buffer.getvalue()


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "blobs")


@pytest.mark.parametrize("suffix", [".ashb", ".json"])
def test_saved_project_comes_back_equal(tmp_path: Path, store: BlobStore, suffix: str) -> None:
    made = project(Card(FOUR))
    path = tmp_path / f"card{suffix}"
    save_project(path, made, store=store)
    assert open_project(path, store).project == made
    first = path.read_bytes()
    save_project(path, made, store=store)
    assert path.read_bytes() == first, "equal projects are equal files"


def test_runs_and_images_travel_by_hash(tmp_path: Path, store: BlobStore) -> None:
    log, photo = b"t,c\n0,25\n", b"\x89PNG not really"
    made = project(Card(FOUR))
    made = Project.parse(
        {
            **dict(made),
            "runs": (Run(id="r1", build="now", point="load", log_sha256=store.put(log)),),
            "images": (Image(id="i1", sha256=store.put(photo), suffix="png"),),
        }
    )
    path = tmp_path / "card.ashb"
    save_project(path, made, store=store)
    elsewhere = BlobStore(tmp_path / "other")
    opened = open_project(path, elsewhere).project
    assert elsewhere.get(opened.runs[0].log_sha256) == log
    assert elsewhere.get(opened.images[0].sha256) == photo


def test_a_missing_log_does_not_keep_the_rest_from_being_saved(tmp_path: Path, store: BlobStore) -> None:
    made = Project.parse({**dict(project(Card(FOUR))), "runs": (Run(id="r1", build="now", point="load", log_sha256="0" * 64),)})
    path = tmp_path / "again.ashb"
    assert save_project(path, made, store=store) == ("a log of run “r1”",)
    assert open_project(path, store).project == made


def test_damaged_blob_is_noticed(store: BlobStore) -> None:
    digest = store.put(b"content")
    (store.folder / digest[:2] / digest).write_bytes(b"other")
    with pytest.raises(FileError, match="damaged"):
        store.get(digest)


HOSTILE = {
    "traversal": ({"project.json": b"{}", "../../evil.txt": b"x"}, "does not belong in a project"),
    "absolute": ({"project.json": b"{}", "/etc/evil": b"x"}, "does not belong in a project"),
    "foreign": ({"word/document.xml": b"<x/>"}, "holds no project.json"),
    "wrong hash": (
        {"project.json": archive_module.to_json(project(Card(FOUR))), f"runs/{'0' * 64}.csv.gz": b"x"},
        "does not match its name",
    ),
    "not json": ({"project.json": b"{oops"}, "line 1"),
    "not ours": ({"project.json": b'{"format": "other"}'}, "not an Ashen Bridge project"),
}


@pytest.mark.parametrize("name", list(HOSTILE))
def test_hostile_archives_are_refused_and_write_nothing(tmp_path: Path, store: BlobStore, name: str) -> None:
    members, words = HOSTILE[name]
    path = tmp_path / "in" / "bad.ashb"
    path.parent.mkdir()
    path.write_bytes(zipped(members))
    with pytest.raises(AshenError, match=words) as caught:
        open_project(path, store)
    assert "\n" not in str(caught.value)
    assert not store.folder.exists() or not any(store.folder.rglob("*"))
    assert [p.name for p in tmp_path.rglob("evil*")] == []


def test_zip_bomb_is_refused_without_unpacking_it(tmp_path: Path, store: BlobStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(archive_module, "MAX_PROJECT_BYTES", 100_000)
    path = tmp_path / "bomb.ashb"
    path.write_bytes(zipped({"project.json": b" " * 5_000_000}))
    assert path.stat().st_size < 10_000
    with pytest.raises(FileError, match="more than a project may hold"):
        open_project(path, store)


def test_truncated_archives_at_every_length_are_refused(tmp_path: Path, store: BlobStore) -> None:
    whole = tmp_path / "card.ashb"
    save_project(whole, project(Card(FOUR)), store=store)
    content = whole.read_bytes()
    for length in [0, 1, 3, 10, *range(50, len(content) - 1, 211)]:
        cut = tmp_path / "cut.ashb"
        cut.write_bytes(content[:length])
        with pytest.raises(AshenError):
            open_project(cut, store)


@given(st.binary(max_size=300))
def test_any_bytes_are_refused_in_one_sentence(content: bytes) -> None:
    with pytest.raises(AshenError) as caught:
        archive_module.parse_project(content, "x.json")
    assert str(caught.value).strip()


def test_missing_file_deep_nesting_and_nan(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="Cannot open 'nowhere.ashb'"):
        open_project(tmp_path / "nowhere.ashb")
    with pytest.raises(FileError, match="nested too deeply"):
        archive_module.parse_project(b"[" * 50_000 + b"]" * 50_000, "deep.json")
    with pytest.raises(FileError, match="not a number"):
        archive_module.parse_project(b'{"format": "ashen-bridge", "version": 1, "x": NaN}', "nan.json")


def test_small_files_may_not_cost_much(tmp_path: Path, store: BlobStore) -> None:
    """Items are counted before they are read; what unpacks a hundredfold is not unpacked."""
    many = b'{"format": "ashen-bridge", "version": 7, "device": {"bodies": [' + b"{}," * 70_000 + b"{}]}}"
    with pytest.raises(FileError, match=r"about 140,00\d items; a project holds at most 60,000"):
        archive_module.parse_project(many, "many.json")
    zeros = bytes(64 << 20)
    path = tmp_path / "zeros.ashb"
    path.write_bytes(zipped({"project.json": b"{}", f"runs/{hashlib.sha256(zeros).hexdigest()}.csv.gz": zeros}))
    assert path.stat().st_size < 100_000
    path2 = tmp_path / "zeros2.ashb"
    path2.write_bytes(zipped({"project.json": archive_module.to_json(project(Card(FOUR))), f"runs/{'1' * 64}.csv.gz": zeros}))
    with pytest.raises(FileError, match="more than a project may hold"):
        open_project(path2, store)


def test_links_are_followed_on_saving(tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    real, link = tmp_path / "there" / "card.json", tmp_path / "card.json"
    link.symlink_to(real)
    save_project(link, project(Card(FOUR)))
    assert link.is_symlink()
    assert real.is_file()
    loop = tmp_path / "loop.json"
    loop.symlink_to(loop)
    with pytest.raises(FileError, match=r"loop\.json"):
        save_project(loop, project(Card(FOUR)))


@pytest.mark.parametrize("letter", ["n", "ä"])
def test_names_as_long_as_names_can_be(tmp_path: Path, letter: str) -> None:
    made = project(Card(FOUR))
    path = tmp_path / (letter * (240 // len(letter.encode())) + ".ashb")
    save_project(path, made)
    assert open_project(path).project == made
    with pytest.raises(FileError, match="File name too long"):
        save_project(tmp_path / (letter * 300 + ".ashb"), made)


def test_failed_save_leaves_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "card.json"
    made = project(Card(FOUR))
    save_project(path, made)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="No space left on device. The file on disk is unchanged"):
        save_project(path, Project.parse({**dict(made), "name": "changed"}))
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["card.json"], "no leftovers"


def test_unwritable_folder_is_said(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="Cannot write into"):
        write_atomically(tmp_path / "missing" / "x.json", b"x")


def test_migration_runs_step_by_step() -> None:
    steps = {
        1: Migration(lambda d: {**d, "a": 1}, lambda d: iter(["one"])),
        2: Migration(lambda d: {**d, "b": d["a"] + 1}),
    }
    assert migrate({"format": "ashen-bridge", "version": 1}, steps, target=3) == (
        {"format": "ashen-bridge", "version": 3, "a": 1, "b": 2},
        ("one",),
    )
    with pytest.raises(FileError, match=f"knows versions up to {FORMAT_VERSION}"):
        migrate({"format": "ashen-bridge", "version": FORMAT_VERSION + 1})
    with pytest.raises(FileError, match="does not say"):
        migrate({"format": "ashen-bridge"})
    with pytest.raises(FileError, match="no longer"):
        migrate({"format": "ashen-bridge", "version": 1}, {}, target=2)


@pytest.mark.parametrize("name", ["correlator", "beamformer", "buoy"])
def test_files_of_version_1_open_and_say_what_changed(tmp_path: Path, store: BlobStore, name: str) -> None:
    """Frozen as they were written: they come with all their content, save as they are now, and predict what they are about."""
    found = open_project(DATA / f"version_1/{name}.ashb", store)
    assert found.project.version == FORMAT_VERSION
    assert found.project.runs
    pieces = [piece for build in found.project.builds for joint in build.joints for piece in joint.pieces]
    assert all(piece.state == "burned in" for piece in pieces)
    if name == "beamformer":
        assert {piece.age_days for joint in found.project.build("as_found").joints for piece in joint.pieces} == {1100.0}
        assert found.news == (
            "Age is kept for each piece now: every pad and paste of “As found” got the age that the build had.",
        )
    else:
        assert not found.news
        assert not any(piece.age_days for piece in pieces)
    save_project(tmp_path / "again.ashb", found.project, store=store)
    again = open_project(tmp_path / "again.ashb", store)
    assert again.project == found.project
    assert not again.news, "what changed is said once"


@pytest.mark.parametrize(
    "name",
    [
        f"version_{n}/{name}"
        for n in (2, 3, 4, 5, 6, 7, 8, 9, 10)
        for name in ("beamformer", "buoy")
        if (DATA / f"version_{n}/{name}.ashb").exists()
    ],
)
def test_files_of_versions_2_to_10_open_without_a_word(store: BlobStore, name: str) -> None:
    """Frozen as they were written. Only choices were added since, so nothing means anything else."""
    found = open_project(DATA / f"{name}.ashb", store)
    assert found.project.version == FORMAT_VERSION
    assert not found.news
    assert len(found.project.runs) == 3
    assert unpack(found.extras).report.build == found.project.build().id


def test_a_hostile_file_of_version_1_is_refused_in_one_sentence() -> None:
    for builds in (
        3,
        [3],
        [{"joints": 3}],
        [{"joints": [3]}],
        [{"joints": [{"pieces": [3]}]}],
        [{"age_days": "old"}],
        [{"age_days": {}}],
    ):
        content = json.dumps({"format": "ashen-bridge", "version": 1, "builds": builds}).encode()
        with pytest.raises(AshenError) as said:
            archive_module.parse_project(content, "x.json")
        assert "\n" not in str(said.value)


def test_stored_prediction_comes_back_and_damage_is_said() -> None:
    assessment = assess(project(Card(FOUR)), fidelity="coarse")
    files = pack(assessment)
    back = unpack(files)
    assert back.report == assessment.report
    assert back.findings == assessment.findings
    assert back.prediction.poses == assessment.prediction.poses
    assert set(back.prediction.maps.storeys) == set(assessment.prediction.maps.storeys)
    for damaged in ({REPORT: files[REPORT], MAPS: b"x"}, {REPORT: b"{}", MAPS: files[MAPS]}, {REPORT: files[REPORT]}):
        with pytest.raises(StoredPredictionError):
            unpack(damaged)


def changed(files: dict[str, bytes], **arrays: np.ndarray) -> dict[str, bytes]:
    with np.load(io.BytesIO(files[MAPS])) as old:
        kept = {name: old[name] for name in old.files} | arrays
    buffer = io.BytesIO()
    np.savez_compressed(buffer, **kept)  # type: ignore[arg-type]
    return {REPORT: files[REPORT], MAPS: buffer.getvalue()}


def test_a_stored_prediction_is_bounded_finite_and_of_one_shape() -> None:
    files = pack(assess(project(Card(FOUR)), fidelity="coarse"))
    text = json.loads(files[REPORT])
    hot = json.dumps(text | {"report": text["report"] | {"power_w": float("inf")}}).encode()
    pose = json.dumps(text | {"poses": [one | {"z": "high"} for one in text["poses"]]}).encode()
    deep = b"[" * 100_000
    for forged in (
        {REPORT: hot, MAPS: files[MAPS]},
        {REPORT: pose, MAPS: files[MAPS]},
        {REPORT: deep, MAPS: files[MAPS]},
        {REPORT: b" " * 17_000_000, MAPS: files[MAPS]},
        changed(files, storey_front=np.zeros((3, 3), np.float32)),
        changed(files, x_mm=np.array([1.0, 0.0])),
        changed(files, storey_front=np.zeros((6000, 6000), np.float32)),
        changed(files, bond_0=np.zeros(4, np.float32)),
    ):
        with pytest.raises(StoredPredictionError, match="cannot be read"):
            unpack(forged)


def test_demo_ships_with_a_prediction_that_is_current() -> None:
    """The committed demo must be what its script makes, with numbers of the present physics."""
    import sys

    sys.path.insert(0, str(ROOT / "scripts"))
    from ashen_bridge.predict.fingerprint import input_hash
    from correlator import correlator

    opened = open_anything("demo:correlator")
    assert without_runs(opened.project) == correlator()
    stored = unpack(opened.extras).report
    assert stored.input_hash == input_hash(opened.project, stored.build, stored.point), (
        f"run make_demos.py (physics {PHYSICS_VERSION})"
    )
    again = assess(opened.project).report
    for a, b in zip(stored.sensors, again.sensors, strict=True):
        assert a.value_c == pytest.approx(b.value_c, abs=0.01)


def test_demo_readings_are_what_their_script_makes() -> None:
    import sys

    sys.path.insert(0, str(ROOT / "scripts"))
    from demo_readings import SLIPS, with_readings

    shipped = open_anything("demo:buoy").project
    bare = shipped.model_dump(mode="json") | {"readings": (), "instruments": ()}
    made = with_readings(Project.parse(bare), "buoy")
    assert made.readings == shipped.readings
    assert made.instruments == shipped.instruments
    assert SLIPS["buoy"].keys() <= {one.id for one in made.readings}


def test_unknown_demo_names_the_known_ones() -> None:
    assert "correlator" in demo_names()
    with pytest.raises(FileError, match="there is: .*correlator"):
        open_anything("demo:nothing")


def test_json_without_unset_fields_is_enough(tmp_path: Path) -> None:
    made = project(Card(FOUR))
    plain = json.loads(to_json(made))
    assert "coil_bind_mm" in plain["device"]["fasteners"][0]
    assert "preload_n" not in plain["device"]["fasteners"][0]
    plain["device"]["bodies"][1]["colour"] = "red"
    with pytest.raises(ProjectError, match="device.bodies.die"):
        archive_module.parse_project(json.dumps(plain).encode(), "x")


def test_measurements_of_version_6_are_readings_now() -> None:
    old = {
        **{"format": "ashen-bridge", "version": 6, "materials": []},
        "measurements": [
            {"id": "m", "about": "device.bodies.die.height_mm", "value": {"value": 2.1, "uncertainty": 0.02}, "unit": "mm"},
            {"id": "m", "about": "a gap", "value": 3, "unit": "mm", "method": "feeler", "taken": "on a Tuesday"},
        ],
    }
    project = archive_module.parse_project(json.dumps(old).encode(), "old.json")[0]
    first, second = project.readings
    assert (first.id, first.form, first.path, first.values, first.uncertainty) == (
        *("m", "number", "device.bodies.die.height_mm"),
        *((2.1,), 0.02),
    )
    assert (second.id, second.path, second.values, second.note) == ("m_", "a gap", (3.0,), "feeler; on a Tuesday")
    damaged = archive_module.parse_project
    for wrong in ({"id": 5}, 7, None):
        with pytest.raises(AshenError):
            damaged(json.dumps({**old, "measurements": [wrong]}).encode(), "old.json")


def test_checklists_of_version_7_are_procedures_now() -> None:
    old = {
        **{"format": "ashen-bridge", "version": 7, "materials": []},
        "checklists": [
            {"id": "c", "name": "Close", "steps": [{"text": "Seat it", "caution": "Gently", "done": True}, {"text": "Screw"}]}
        ],
    }
    project = archive_module.parse_project(json.dumps(old).encode(), "old.json")[0]
    (procedure,) = project.procedures
    assert (procedure.id, procedure.name) == ("c", "Close")
    assert [(one.id, one.text, one.caution, one.done, one.done_at) for one in procedure.steps] == [
        ("step_1", "Seat it", "Gently", True, ""),
        ("step_2", "Screw", "", False, ""),
    ]
    for wrong in ({"id": 5}, 7, None, {"id": "c", "steps": [3]}):
        with pytest.raises(AshenError):
            archive_module.parse_project(json.dumps({**old, "checklists": [wrong]}).encode(), "old.json")
