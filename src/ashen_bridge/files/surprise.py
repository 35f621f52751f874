"""What nobody foresaw: kept as a report the user may send on or throw away, said in one sentence."""

from __future__ import annotations

import os
import platform
import time
import traceback
from pathlib import Path

import platformdirs

from ashen_bridge import __version__

_KEPT = 20  # reports; older ones are thrown away


def reports_folder() -> Path:
    """Return the folder of the user's reports."""
    return Path(platformdirs.user_state_dir("ashen-bridge")) / "reports"


def keep_report(error: BaseException, folder: Path | None = None) -> Path | None:
    """Write down where in the program an error came from, nothing of the project; returns the file, None if it cannot be kept."""
    place = folder or reports_folder()
    told = "".join(traceback.format_exception(type(error), error, error.__traceback__))
    text = f"Ashen Bridge {__version__}\nPython {platform.python_version()}, {platform.platform()}\n{time.ctime()}\n\n{told}"
    try:
        place.mkdir(parents=True, exist_ok=True)
        path = place / f"{time.strftime('%Y%m%d-%H%M%S')}-{os.getpid()}.txt"
        path.write_text(text, errors="replace")
        for old in sorted(place.glob("*.txt"))[:-_KEPT]:
            old.unlink(missing_ok=True)
    except OSError:
        return None
    return path


def sentence(error: BaseException, report: Path | None) -> str:
    """Return what to tell the user."""
    where = f" A report is in {report}." if report is not None else ""
    return f"Something went wrong that was not foreseen ({type(error).__name__}); the work is kept.{where}"
