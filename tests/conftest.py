"""Fixtures shared by all tests. Windows run offscreen; user folders are temporary."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
settings.register_profile("steady", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("steady")


@pytest.fixture(autouse=True)
def own_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Keep every test out of the user's folders."""
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    return home
