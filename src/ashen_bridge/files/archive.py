"""Project files: `.ashb` (a ZIP of project.json, runs, images and the last prediction) and plain JSON."""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.files.errors import FileError
from ashen_bridge.files.migrate import migrate
from ashen_bridge.files.sweep import remember_outside
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.refusals import one_line

PROJECT = "project.json"
MAX_PROJECT_BYTES = 16 << 20
MAX_TOTAL_BYTES = 1 << 30
MAX_BLOB_BYTES = 200 << 20
MAX_RATIO, _SMALL = 100, 4 << 20
MAX_MEMBERS = 5000
MAX_ITEMS = 60_000  # ten times what the largest demo has
_BLOB = re.compile(r"(runs/(?P<run>[0-9a-f]{64})\.csv\.gz|images/(?P<image>[0-9a-f]{64})\.(png|jpg))")
_EXTRA = re.compile(r"prediction/[a-z0-9_]{1,40}\.(json|npz)")


@dataclass(frozen=True)
class Opened:
    """What a file holds: the project, and files of the last prediction by name (they may be out of date).

    news : what means something else than in the older format that the file was in, in words.
    """

    project: Project
    extras: dict[str, bytes] = field(default_factory=dict)
    news: tuple[str, ...] = ()


def open_project(path: Path, store: BlobStore | None = None) -> Opened:
    """Return the content of a project file; its runs and images go to the blob store.

    Raises
    ------
    FileError, ProjectError
        One sentence that names the place. Nothing outside the blob store is written, whatever the file says.
    """
    try:
        if not path.is_file() and path.exists():
            raise FileError(f"'{path.name}' is a folder, a pipe or a device, not a file.")
        with path.open("rb") as file:
            magic = file.read(4)
    except OSError as error:
        raise FileError(f"Cannot open '{path.name}': {error.strerror}.") from error
    if magic[:2] == b"PK":
        return _open_archive(path, store or BlobStore(default_folder()))
    if path.stat().st_size > MAX_PROJECT_BYTES:
        raise FileError(f"'{path.name}' is larger than a project can be ({MAX_PROJECT_BYTES >> 20} MB).")
    project, news = parse_project(path.read_bytes(), path.name)
    if project.images or any(run.passes for run in project.runs):
        remember_outside(store or BlobStore(default_folder()), path)
    return Opened(project, news=news)


def parse_project(content: bytes, name: str) -> tuple[Project, tuple[str, ...]]:
    """Return the project in JSON text `content`, and what its format's age changed; `name` is what the file is called."""
    if not content.strip():
        raise FileError(f"'{name}' is empty.")
    # Counted before anything is read: small text may hold many things, and each costs a thousand times its size.
    items = content.count(b",") + content.count(b"[") + content.count(b"{")
    if items > MAX_ITEMS:
        raise FileError(f"'{name}' holds about {items:,} items; a project holds at most {MAX_ITEMS:,}.")
    try:
        data = json.loads(content.decode("utf-8-sig"), parse_constant=_refuse_constant)
    except UnicodeDecodeError as error:
        raise FileError(f"'{name}' is not a project: it is not text.") from error
    except json.JSONDecodeError as error:
        raise FileError(f"'{name}' is not valid JSON: {error.msg} in line {error.lineno}, column {error.colno}.") from error
    except RecursionError as error:
        raise FileError(f"'{name}' is nested too deeply to be a project.") from error
    except ValueError as error:
        raise FileError(f"'{name}': {error}.") from error
    current, news = migrate(data)
    return Project.parse(current), news


def _refuse_constant(text: str) -> Any:
    raise ValueError(f"'{text}' is not a number that a project can hold")


def _open_archive(path: Path, store: BlobStore) -> Opened:
    try:
        with zipfile.ZipFile(path) as archive:
            return _read_members(archive, path.name, store)
    except AshenError:
        raise
    except Exception as error:
        # Opening files is one of the three places that may catch everything: damaged archives fail in many ways.
        if isinstance(error, OSError) and error.strerror:
            raise FileError(f"Cannot read '{path.name}': {error.strerror}.") from error
        reason = _short(one_line(str(error)).rstrip(".")) or "not a complete archive"
        raise FileError(f"'{path.name}' is damaged or cut off: {reason}.") from error


def _read_members(archive: zipfile.ZipFile, name: str, store: BlobStore) -> Opened:
    members = [info for info in archive.infolist() if not info.is_dir()]
    names = [info.filename for info in members]
    if PROJECT not in names:
        raise FileError(f"'{name}' is a ZIP archive but not a project: it holds no {PROJECT}.")
    if len(set(names)) != len(names) or len(names) > MAX_MEMBERS:
        raise FileError(f"'{name}' holds the same name twice or too many files.")
    budget = MAX_TOTAL_BYTES
    extras: dict[str, bytes] = {}
    blobs: list[tuple[zipfile.ZipInfo, str]] = []
    text = b""
    for info in members:
        blob = _BLOB.fullmatch(info.filename)
        if info.filename != PROJECT and not blob and not _EXTRA.fullmatch(info.filename):
            raise FileError(f"'{name}' holds '{_short(info.filename)}', which does not belong in a project.")
        if blob:
            blobs.append((info, blob["run"] or blob["image"]))
            continue
        content = _unpacked(archive, info, name, min(budget, MAX_PROJECT_BYTES))
        budget -= len(content)
        if info.filename == PROJECT:
            text = content
        else:
            extras[info.filename] = content
    project, news = parse_project(text, f"{name}/{PROJECT}")
    # All are checked, one at a time, before any is kept: a file that is refused leaves nothing behind.
    for keep in (False, True):
        left = budget
        for info, digest in blobs:
            content = _unpacked(archive, info, name, min(left, MAX_BLOB_BYTES))
            left -= len(content)
            if keep:
                store.put(content)
            elif hashlib.sha256(content).hexdigest() != digest:
                raise FileError(f"'{name}': the content of '{_short(info.filename)}' does not match its name.")
    return Opened(project, extras, news)


def _unpacked(archive: zipfile.ZipFile, info: zipfile.ZipInfo, name: str, limit: int) -> bytes:
    """Return a member's content. Raises `FileError` for one that is larger than `limit` or packed as only zeros can be."""
    # Logs and pictures are compressed already; text shrinks twentyfold. What the archive states is only a first look.
    if info.file_size > limit or info.file_size > MAX_RATIO * max(info.compress_size, 1) + _SMALL:
        raise FileError(f"'{name}': '{_short(info.filename)}' unpacks to more than a project may hold.")
    with archive.open(info) as member:
        content = member.read(limit + 1)
    if len(content) > limit:
        raise FileError(f"'{name}': '{_short(info.filename)}' unpacks to more than a project may hold.")
    return content


def _short(text: str) -> str:
    return text if len(text) <= 60 else text[:57] + "…"


def to_json(project: Project) -> bytes:
    """Return a project as JSON text, without the fields that are not set."""
    return (project.model_dump_json(indent=1, exclude_none=True) + "\n").encode()


def save_project(
    path: Path, project: Project, extras: dict[str, bytes] | None = None, store: BlobStore | None = None
) -> tuple[str, ...]:
    """Save a project atomically: as plain JSON if `path` ends in .json, else as an archive.

    Returns the logs and pictures that are missing in the store, in words: the rest is saved all the same. Raises `FileError`;
    the file on disk is then what it was before.
    """
    missing: list[str] = []
    if path.suffix == ".json":
        write_atomically(path, to_json(project))
        if project.images or any(run.passes for run in project.runs):
            remember_outside(store or BlobStore(default_folder()), path)
        return ()
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        _add(archive, PROJECT, to_json(project))
        for name, content in sorted((extras or {}).items()):
            _add(archive, name, content)
        blobs = {f"runs/{digest}.csv.gz": digest for run in project.runs for digest in run.passes}
        blobs |= {f"images/{image.sha256}.{image.suffix}": image.sha256 for image in project.images}
        if blobs:
            source = store or BlobStore(default_folder())
            for name, digest in sorted(blobs.items()):
                try:
                    _add(archive, name, source.get(digest))
                except FileError:
                    missing.append(_owner(project, digest))
    write_atomically(path, buffer.getvalue())
    return tuple(dict.fromkeys(missing))


def _owner(project: Project, digest: str) -> str:
    """Return whose log or picture a blob is, in words."""
    run = next((run for run in project.runs if digest in run.passes), None)
    return f"a log of run “{run.label}”" if run is not None else "a picture"


def _add(archive: zipfile.ZipFile, name: str, content: bytes) -> None:
    # A fixed date makes equal projects equal files.
    info = zipfile.ZipInfo(name, date_time=(2000, 1, 1, 0, 0, 0))
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o644 << 16
    archive.writestr(info, content)
