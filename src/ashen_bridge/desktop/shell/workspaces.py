"""The workspaces, in the order of the work. A new one is a package and a line here."""

from __future__ import annotations

from ashen_bridge.desktop.baseline.workspace import Baseline
from ashen_bridge.desktop.choose.workspace import Choose
from ashen_bridge.desktop.closeup.workspace import CloseUp
from ashen_bridge.desktop.cut.workspace import CutWorkspace
from ashen_bridge.desktop.measure.workspace import Measure
from ashen_bridge.desktop.openup.workspace import OpenUp
from ashen_bridge.desktop.parts.workspace import Workspace
from ashen_bridge.desktop.prove.workspace import Prove
from ashen_bridge.desktop.stack.workspace import Stack

WORKSPACES: tuple[type[Workspace], ...] = (Baseline, OpenUp, Measure, Stack, Choose, CutWorkspace, CloseUp, Prove)
