"""Menu entry, file type and icons: written for this user, valid by the published specifications, and taken away again."""

from __future__ import annotations

import configparser
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from ashen_bridge.cli.install import MIME, install, targets, uninstall
from ashen_bridge.files.errors import FileError


def test_install_writes_and_uninstall_removes_exactly_that(tmp_path: Path) -> None:
    other = tmp_path / "applications" / "other.desktop"
    other.parent.mkdir()
    other.touch()
    launcher = tmp_path / "a folder with %s and $HOME" / "run"
    written = install(launcher, tmp_path)
    assert sorted(written) == sorted(targets(tmp_path).values())
    assert install(launcher, tmp_path) == written, "once more is no harm"
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str  # type: ignore[assignment,method-assign]
    entry.read(targets(tmp_path)["entry"], encoding="utf-8")
    # Desktop Entry Specification 1.5: reserved characters quoted, a literal percent sign doubled, %F takes files.
    command = entry["Desktop Entry"]["Exec"]
    assert command == f'"{tmp_path}/a folder with %%s and \\$HOME/run" open %F'
    assert entry["Desktop Entry"]["Type"] == "Application"
    assert entry["Desktop Entry"]["MimeType"] == f"{MIME};"
    mime = ET.parse(targets(tmp_path)["mime"]).getroot()
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    kind = mime.find(f"{space}mime-type")
    assert kind is not None
    assert kind.get("type") == MIME
    assert kind.find(f"{space}glob").get("pattern") == "*.ashb"  # type: ignore[union-attr]
    assert ET.parse(targets(tmp_path)["icon"]).getroot().tag.endswith("svg")
    assert sorted(uninstall(tmp_path)) == sorted(written)
    assert uninstall(tmp_path) == []
    assert other.exists()


def test_a_folder_that_cannot_be_written_is_said(tmp_path: Path) -> None:
    (tmp_path / "applications").write_text("in the way")
    with pytest.raises(FileError, match="Cannot make the folder"):
        install(tmp_path / "run", tmp_path)


def test_the_commands(tmp_path: Path) -> None:
    launcher = tmp_path / "run"
    launcher.touch()

    def run(*arguments: str) -> str:
        command = [sys.executable, "-m", "ashen_bridge", *arguments]
        environment = {"XDG_DATA_HOME": str(tmp_path / "data"), "PATH": "/usr/bin:/bin", "HOME": str(tmp_path)}
        return subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout

    assert run("install", "--launcher", str(launcher)).count("written") == 4
    assert run("uninstall").count("removed") == 4
    assert "Nothing was installed" in run("uninstall")
