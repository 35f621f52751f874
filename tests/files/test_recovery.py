"""Nothing is lost: recovery copies, kills, full disks, files that others change."""

from __future__ import annotations

import errno
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ashen_bridge.files import atomic, recent
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.errors import FileError
from ashen_bridge.files.recovery import RecoveryCopy, leftovers
from ashen_bridge.files.stamp import Stamp, is_read_only
from ashen_bridge.files.sweep import sweep
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run
from devices import FOUR, Card, project
from here import TESTS

BASE = project(Card(FOUR))
KILLS = 100

CHILD = """
import os, sys
sys.path.insert(0, {tests!r})
from pathlib import Path
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.recovery import RecoveryCopy
from devices import FOUR, Card, project
base = project(Card(FOUR))
mode, folder = sys.argv[1], Path(sys.argv[2])
print("ready", flush=True)
for order in sys.stdin:
    start = int(order)
    child = os.fork()
    if child:
        os.waitpid(child, 0)
        print("gone", flush=True)
        continue
    os.write(1, b"%d\\n" % os.getpid())
    copy = RecoveryCopy(folder)
    current = base
    n = start
    while True:
        n += 1
        edit = set_values("Height", {{"device.bodies.part_0.height_mm": 1.0 + n * 1e-6}})
        current = edit.applied(current)
        os.write(1, b"edit %d\\n" % n)
        if mode == "save":
            save_project(folder / "card.ashb", current)
        else:
            copy.write(current, "Card", None)
        os.write(1, b"done %d\\n" % n)
"""


def _kills(mode: str, folder: Path) -> list[tuple[int, int]]:
    """Kill a working child many times at random moments; return for each kill the last edit made and the one found."""
    code = CHILD.format(tests=str(TESTS))
    worker = subprocess.Popen(
        [sys.executable, "-c", code, mode, str(folder)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1
    )
    assert worker.stdin is not None
    assert worker.stdout is not None
    chance = random.Random(7)
    found: list[tuple[int, int]] = []
    at = 0
    try:
        assert worker.stdout.readline() == "ready\n"
        for _ in range(KILLS):
            worker.stdin.write(f"{at}\n")
            child = int(worker.stdout.readline())
            first = worker.stdout.readline()  # it has begun
            assert first.startswith("edit"), first
            time.sleep(chance.uniform(0.0, 0.03))
            os.kill(child, signal.SIGKILL)
            made = at
            done = found[-1][0] if found and mode == "save" else 0
            for line in iter(worker.stdout.readline, "gone\n"):
                word, _, number = line.partition(" ")
                made, done = (int(number), done) if word == "edit" else (made, int(number))
            made = max(made, int(first.split()[1]))
            found.append((done, _kept(mode, folder)))
            at = made
    finally:
        worker.kill()
        worker.wait()
        for pipe in (worker.stdin, worker.stdout):
            pipe.close()
    return found


def _kept(mode: str, folder: Path) -> int:
    if mode == "save":
        path = folder / "card.ashb"
        kept = open_project(path).project if path.exists() else BASE
    else:
        listed = leftovers(folder)
        kept = listed[0].project() if listed else BASE
        for one in listed:
            one.discard()
    height = next(body for body in kept.device.bodies if body.id == "part_0").height_mm.value  # type: ignore[union-attr]
    return round((height - 1.0) * 1e6) if kept != BASE else 0


@pytest.mark.parametrize("mode", ["save", "edit"])
def test_a_hundred_kills_lose_nothing_but_the_last_edit(mode: str, tmp_path: Path) -> None:
    """SIGKILL at random moments while saving, and while editing with recovery copies; whatever was done is found again."""
    for done, kept in _kills(mode, tmp_path):
        assert kept >= done, "everything that was finished is there, and the file can be read"
    assert len(list(tmp_path.glob(".ashen-*.part"))) <= KILLS


def test_leftovers_of_killed_saves_are_cleared_by_a_later_one(tmp_path: Path) -> None:
    path = tmp_path / "card.ashb"
    old, young = (tmp_path / f"{atomic._begin(path)}{end}.part" for end in ("abc", "def"))
    other = tmp_path / f"{atomic._begin(tmp_path / 'other.ashb')}abc.part"
    for part in (old, young, other):
        part.write_bytes(b"half")
    os.utime(old, (time.time() - 3600, time.time() - 3600))
    save_project(path, BASE)
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted([young.name, other.name, "card.ashb"])


def test_a_recovery_copy_is_found_only_when_its_program_is_gone(tmp_path: Path) -> None:
    copy = RecoveryCopy(tmp_path)
    copy.write(BASE, "Card", Path("/somewhere/card.ashb"))
    assert leftovers(tmp_path) == [], "its program lives"
    code = (
        "import sys; sys.path.insert(0, sys.argv[2])\n"
        "from pathlib import Path\n"
        "from ashen_bridge.files.recovery import leftovers\n"
        "print(len(leftovers(Path(sys.argv[1]))))"
    )
    seen = subprocess.run([sys.executable, "-c", code, str(tmp_path), ""], capture_output=True, text=True, check=True)
    assert seen.stdout == "0\n", "another program does not take it either"
    os.close(copy._lock)  # type: ignore[arg-type]  # as when the process ends
    found = leftovers(tmp_path)
    assert (found[0].title, found[0].path) == ("Card", Path("/somewhere/card.ashb"))
    assert found[0].project() == BASE
    found[0].discard()
    assert leftovers(tmp_path) == []


def test_spoilt_recovery_copies_are_said_not_dropped(tmp_path: Path) -> None:
    place = tmp_path / "abc"
    place.mkdir()
    (place / "project.json").write_bytes(b"{half")
    found = leftovers(tmp_path)
    assert found[0].title == "Unnamed project"
    with pytest.raises(FileError, match="not valid JSON"):
        found[0].project()
    empty = tmp_path / "def"
    empty.mkdir()
    assert len(leftovers(tmp_path)) == 1
    assert empty.exists(), "it may belong to a program that is just starting"
    os.utime(empty, (0, 0))
    leftovers(tmp_path)
    assert not empty.exists()


def test_a_full_disk_leaves_file_and_recovery_copy_as_they_were(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "card.ashb"
    save_project(path, BASE)
    before = path.read_bytes()
    copy = RecoveryCopy(tmp_path / "recovery")
    copy.write(BASE, "Card", path)

    def full(*_: object) -> int:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    other = Project.parse({**BASE.model_dump(mode="json"), "name": "Changed"})
    with monkeypatch.context() as patch:
        patch.setattr(atomic.os, "fsync", full)
        patch.setattr(Path, "write_bytes", full)
        with pytest.raises(FileError, match=r"No space left.*unchanged"):
            save_project(path, other)
        with pytest.raises(FileError, match="No recovery copy"):
            copy.write(other, "Card", path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.name.endswith(".part")] == []
    os.close(copy._lock)  # type: ignore[arg-type]
    assert leftovers(tmp_path / "recovery")[0].project() == BASE


def test_a_really_full_disk(tmp_path: Path) -> None:
    """On a tiny file system where one may be mounted; a limit on file size, which every system has, stands in elsewhere."""
    small = tmp_path / "small"
    small.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=384k", "tmpfs", str(small)], capture_output=True, check=False)
    code = (
        "import os, sys, resource, signal; from pathlib import Path\n"
        "from ashen_bridge.files.archive import save_project, open_project\n"
        "from ashen_bridge.files.demos import open_anything\n"
        "from ashen_bridge.files.errors import FileError\n"
        "path = Path(sys.argv[1]); opened = open_anything('demo:beamformer')\n"
        "save_project(path, opened.project)\n"
        "if sys.argv[2] == 'limit':\n"
        "    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
        "    resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))\n"
        "try:\n"
        "    save_project(path, opened.project, {'prediction/maps.npz': os.urandom(590000)})\n"
        "except FileError as error:\n"
        "    print(error)\n"
        "assert open_project(path).project == opened.project\n"
    )
    try:
        how = "mount" if mounted.returncode == 0 else "limit"
        done = subprocess.run(
            [sys.executable, "-c", code, str(small / "a.ashb"), how], capture_output=True, text=True, check=False
        )
    finally:
        if mounted.returncode == 0:
            subprocess.run(["umount", str(small)], check=True)
    assert done.returncode == 0, done.stderr
    assert "The file on disk is unchanged" in done.stdout


def test_stamps_tell_states_of_a_file_apart(tmp_path: Path) -> None:
    path = tmp_path / "card.json"
    assert not Stamp.of(path).exists
    save_project(path, BASE)
    first = Stamp.of(path)
    assert first == Stamp.of(path)
    save_project(path, BASE)
    assert Stamp.of(path) != first, "replaced by an equal file: still another file"
    assert not is_read_only(path)
    assert not is_read_only(tmp_path / "new.json")


def test_a_rewrite_with_an_old_time_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "card.json"
    save_project(path, BASE)
    stamp, found = Stamp.of(path), path.stat()
    assert stamp.holds(path)
    path.chmod(0o600)
    assert stamp.holds(path), "other rights are no other content"
    text = path.read_bytes()
    with path.open("r+b") as file:
        file.write(text.replace(b"1", b"2", 1))
    os.utime(path, ns=(found.st_atime_ns, found.st_mtime_ns))
    assert path.stat().st_mtime_ns == stamp.modified_ns
    assert path.stat().st_size == stamp.size
    assert not stamp.holds(path)
    path.unlink()
    assert not stamp.holds(path)


def test_a_read_only_folder_keeps_others_out(tmp_path: Path) -> None:
    """Tried as a user who is not root, to whom nothing is forbidden."""
    folder = tmp_path / "shared"
    folder.mkdir()
    path = folder / "card.json"
    save_project(path, BASE)
    for place in (tmp_path, *tmp_path.parents):
        if place.owner() == "root" and len(place.parts) > 2:
            place.chmod(0o755)
    folder.chmod(0o555)
    before, child = path.read_bytes(), os.fork()
    if child == 0:
        code = 1
        try:
            if os.getuid() == 0:
                os.setgid(65534)
                os.setuid(65534)
            assert is_read_only(path)
            try:
                save_project(path, BASE)
            except FileError as error:
                code = 0 if "Cannot write into" in str(error) and "Permission denied" in str(error) else 2
        finally:
            os._exit(code)
    assert os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0
    folder.chmod(0o755)
    assert path.read_bytes() == before


def test_recent_files_are_the_last_ones_that_exist(tmp_path: Path) -> None:
    files = [tmp_path / f"{n}.ashb" for n in range(15)]
    for path in files:
        path.touch()
        recent.remember(path)
    assert recent.recent_files()[:2] == [files[14], files[13]]
    assert len(recent.recent_files()) == recent.MOST
    recent.remember(files[10])
    files[14].unlink()
    assert recent.recent_files()[:2] == [files[10], files[13]]
    recent._list_path().write_text("[1, {", encoding="utf-8")
    assert recent.recent_files() == []


def test_blobs_nobody_refers_to_are_taken_away_after_half_a_year(tmp_path: Path) -> None:
    """What an archive carries is in it; a plain file and unsaved work keep theirs; a disk that is not there keeps all."""
    store, recovery = BlobStore(tmp_path / "blobs"), tmp_path / "recovery"
    stray, noted, unsaved = (store.put(name) for name in (b"stray", b"noted", b"unsaved"))

    def with_log(digest: str) -> Project:
        return BASE.model_copy(update={"runs": (Run(id="r", build="now", point="load", log_sha256=digest),)})

    away = tmp_path / "stick"
    away.mkdir()
    save_project(away / "card.json", with_log(noted), store=store)
    copy = RecoveryCopy(recovery)
    copy.write(with_log(unsaved), "card", None)
    later = time.time() + 200 * 86_400
    assert sweep(store, recovery) == 0, "all of them are young"
    away.rename(tmp_path / "elsewhere")
    assert sweep(store, recovery, later) == 0, "the stick may come back"
    (tmp_path / "elsewhere").rename(away)
    assert sweep(store, recovery, later) == 1
    assert store.get(noted) == b"noted"
    assert store.get(unsaved) == b"unsaved"
    with pytest.raises(FileError):
        store.get(stray)
    (away / "card.json").unlink()
    assert sweep(store, recovery, later) == 1, "the file is gone for good"
    copy.remove()
