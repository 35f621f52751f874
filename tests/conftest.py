"""Fixtures shared by all tests. Windows run offscreen; user folders are temporary."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from hypothesis import HealthCheck, settings

import here  # noqa: F401, for the paths it adds

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication
    from pytestqt.qtbot import QtBot

    from ashen_bridge.desktop.shell.window import MainWindow
    from ashen_bridge.desktop.shell.workbench import Workbench
    from ashen_bridge.files.archive import Opened

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
settings.register_profile("steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("steady")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Let the warm worker start while other tests run, if windows are to be tested."""
    if any("bench" in getattr(item, "fixturenames", ()) for item in items):
        import nursery

        nursery.begin()


def pytest_sessionfinish() -> None:
    """Let it go again."""
    import nursery

    nursery.end()


@pytest.fixture(autouse=True)
def own_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Keep every test out of the user's folders."""
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    return home


@pytest.fixture
def forked(monkeypatch: pytest.MonkeyPatch) -> None:
    """Windows get workers that are forked from a warm one: see `nursery`."""
    import nursery
    from ashen_bridge.desktop.state.runner import Runner

    monkeypatch.setattr(Runner, "launch", staticmethod(nursery.launch))


@pytest.fixture
def real_worker(forked: None, monkeypatch: pytest.MonkeyPatch) -> None:
    """Windows get workers as the program starts them, which load the solvers first."""
    from ashen_bridge.desktop.state import runner

    monkeypatch.setattr(runner.Runner, "launch", staticmethod(runner.launch))


@pytest.fixture
def bench(qapp: QApplication, tmp_path: Path, forked: None) -> Iterator[Workbench]:
    """The program without windows, its settings in a folder of its own."""
    from PyQt6.QtCore import QEvent
    from PyQt6.QtWidgets import QApplication

    from ashen_bridge.desktop.look.preferences import Preferences
    from ashen_bridge.desktop.look.theme import load_fonts
    from ashen_bridge.desktop.shell.workbench import Workbench

    load_fonts()
    made = Workbench(Preferences(tmp_path / "settings.ini"))
    made.set_look("light")
    yield made
    for window in list(made.windows):
        window.asker.choose = lambda *_: "Do not save"  # type: ignore[method-assign]
        window.close()
    # Closed windows would be dressed anew with every later theme.
    for left in QApplication.topLevelWidgets():
        left.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def opened(qtbot: QtBot, bench: Workbench) -> Callable[..., MainWindow]:
    """Open a file, a demo or a content in a real window of its own."""
    from PyQt6.QtCore import Qt

    from ashen_bridge.files.demos import open_anything

    def open_window(where: str = "demo:correlator", content: Opened | None = None) -> MainWindow:
        window = bench.open(where, content or open_anything(where))
        window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
        window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow, timeout=30_000)
        return window

    return open_window
