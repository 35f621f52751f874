"""Tests of this folder run on a display with a window manager: `tests/desktop/test_display.py` starts one and runs them there."""

from __future__ import annotations

import os

import pytest


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Elsewhere they say nothing: without frames there is nothing to see."""
    if os.environ.get("QT_QPA_PLATFORM") != "xcb":
        for item in items:
            if "tests/display" in str(item.path):
                item.add_marker(pytest.mark.skip(reason="runs inside tests/desktop/test_display.py"))
