"""Where things lie, for tests in any folder; those of one folder may use what is made in another."""

from __future__ import annotations

import sys
from pathlib import Path

TESTS = Path(__file__).parent
ROOT = TESTS.parent
DATA = TESTS / "data"
DEMO_LOG = ROOT / "src/ashen_bridge/files/demos/logs/correlator-repaired-3.csv"

sys.path.extend(str(one) for one in sorted(TESTS.iterdir()) if one.is_dir() and str(one) not in sys.path)
