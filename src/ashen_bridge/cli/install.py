"""Make the application known to the user's desktop (menu entry, file type, icons), and take all of that away again."""

from __future__ import annotations

import os
import shutil
import subprocess
from importlib import resources
from pathlib import Path

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.errors import FileError

ID = "ashen-bridge"
MIME = "application/x-ashen-bridge"
_ENTRY = """[Desktop Entry]
Type=Application
Name=Ashen Bridge
GenericName=Heat path workbench
Comment=Model the heat path from die to air: gaps, pads, pressure, temperatures
Exec={launcher} open %F
Icon=ashen-bridge
Terminal=false
Categories=Science;Engineering;Electronics;
MimeType={mime};
StartupWMClass=ashen-bridge
Keywords=thermal;cooling;heatsink;pad;
"""


def data_home() -> Path:
    """Return the user's data folder by the XDG base directory specification."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def targets(root: Path) -> dict[str, Path]:
    """Return where each installed file goes, by what it is."""
    icons = root / "icons" / "hicolor" / "scalable"
    return {
        "entry": root / "applications" / f"{ID}.desktop",
        "mime": root / "mime" / "packages" / f"{ID}.xml",
        "icon": icons / "apps" / f"{ID}.svg",
        "mime icon": icons / "mimetypes" / "application-x-ashen-bridge.svg",
    }


def install(launcher: Path, root: Path | None = None) -> list[Path]:
    """Install for this user and return the files written. Raises `FileError`."""
    root = root or data_home()
    shipped = resources.files("ashen_bridge.desktop.integration")
    icon = shipped.joinpath(f"{ID}.svg").read_bytes()
    entry = _ENTRY.format(launcher=_quoted(launcher.absolute()), mime=MIME)
    contents = {
        "entry": entry.encode(),
        "mime": shipped.joinpath(f"{ID}.xml").read_bytes(),
        "icon": icon,
        "mime icon": icon,
    }
    written = []
    for what, path in targets(root).items():
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(f"Cannot make the folder '{path.parent}': {error.strerror}.") from error
        write_atomically(path, contents[what])
        written.append(path)
    _refresh(root)
    return written


def uninstall(root: Path | None = None) -> list[Path]:
    """Remove what `install` wrote and return the files removed; projects and settings stay. Raises `FileError`."""
    root = root or data_home()
    removed = []
    for path in targets(root).values():
        try:
            path.unlink()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise FileError(f"Cannot remove '{path}': {error.strerror}.") from error
        removed.append(path)
    _refresh(root)
    return removed


def _quoted(path: Path) -> str:
    """Quote a path for the Exec key, as the desktop entry specification says."""
    text = str(path).replace("\\", "\\\\").replace('"', '\\"').replace("`", "\\`").replace("$", "\\$").replace("%", "%%")
    return f'"{text}"'


def _refresh(root: Path) -> None:
    """Let the desktop take notice, where its tools are there; without them it does so by itself, later."""
    for command in (
        ["update-mime-database", str(root / "mime")],
        ["update-desktop-database", str(root / "applications")],
        ["gtk-update-icon-cache", "-q", "-t", str(root / "icons" / "hicolor")],
    ):
        if shutil.which(command[0]) and Path(command[-1]).is_dir():
            subprocess.run(command, check=False, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=30)
