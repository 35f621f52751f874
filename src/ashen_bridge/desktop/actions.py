"""Everything the window can be told to do, as one table: menus, palette, shortcuts and the overview of keys are read from it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

GROUPS = ("File", "Change", "Device", "Runs", "Arrange", "Look", "Help")


@dataclass(frozen=True)
class Spec:
    """One action: its name in code, its words, its keys, the group it is listed in."""

    name: str
    words: str
    keys: str
    group: str


SPECS = (
    Spec("new_guided", "New device from questions…", "Ctrl+N", "File"),
    Spec("new_empty", "New empty project", "Ctrl+Shift+N", "File"),
    Spec("open", "Open…", "Ctrl+O", "File"),
    Spec("open_window", "Open in a new window…", "Ctrl+Shift+O", "File"),
    Spec("open_demo", "Open the correlator demo in a new window", "", "File"),
    Spec("open_beamformer", "Open the beamformer demo in a new window", "", "File"),
    Spec("open_buoy", "Open the buoy demo in a new window", "", "File"),
    Spec("save", "Save", "Ctrl+S", "File"),
    Spec("save_as", "Save as…", "Ctrl+Shift+S", "File"),
    Spec("reload", "Load the file again from disk", "", "File"),
    Spec("close", "Close the window", "Ctrl+W", "File"),
    Spec("quit", "Quit", "Ctrl+Q", "File"),
    Spec("undo", "Undo", "Ctrl+Z", "Change"),
    Spec("redo", "Redo", "Ctrl+Shift+Z", "Change"),
    Spec("undo_list", "List of what was done", "Ctrl+Alt+Z", "Change"),
    Spec("cut", "Cut", "Ctrl+X", "Change"),
    Spec("copy", "Copy", "Ctrl+C", "Change"),
    Spec("paste", "Paste", "Ctrl+V", "Change"),
    Spec("duplicate", "Duplicate", "Ctrl+D", "Change"),
    Spec("remove", "Remove", "Del", "Change"),
    Spec("choose_all", "Choose everything on this side", "Ctrl+A", "Change"),
    Spec("edit_mode", "Edit the device", "E", "Device"),
    Spec("materials", "Materials…", "Ctrl+M", "Device"),
    Spec("points", "Operating points…", "Ctrl+L", "Device"),
    Spec("assumptions", "Assumptions", "Ctrl+I", "Device"),
    Spec("chance", "Chance of every limit", "Ctrl+J", "Device"),
    Spec("thicker", "One stock step thicker", "+", "Device"),
    Spec("thinner", "One stock step thinner", "-", "Device"),
    Spec("group", "Whole group or one joint", "G", "Device"),
    Spec("photo", "Lay a photo under the plan…", "", "Device"),
    Spec("cancel", "Call off the running work", "Ctrl+.", "Device"),
    Spec("triage", "What does a log say?…", "", "Runs"),
    Spec("import_log", "Bring in a log…", "Ctrl+B", "Runs"),
    Spec("another_pass", "Bring in another pass of this run…", "", "Runs"),
    Spec("record", "Record…", "Ctrl+R", "Runs"),
    Spec("type_readings", "Type readings…", "", "Runs"),
    Spec("export_run", "Export this run…", "", "Runs"),
    Spec("remove_run", "Remove this run", "", "Runs"),
    Spec("align_left", "Align left edges", "", "Arrange"),
    Spec("align_centre", "Align on an upright line", "", "Arrange"),
    Spec("align_right", "Align right edges", "", "Arrange"),
    Spec("align_top", "Align upper edges", "", "Arrange"),
    Spec("align_middle", "Align on a level line", "", "Arrange"),
    Spec("align_bottom", "Align lower edges", "", "Arrange"),
    Spec("distribute_x", "Equal gaps from left to right", "", "Arrange"),
    Spec("distribute_y", "Equal gaps from bottom to top", "", "Arrange"),
    Spec("mirror_x", "Mirror left to right about the die", "M", "Arrange"),
    Spec("mirror_y", "Mirror bottom to top about the die", "Shift+M", "Arrange"),
    Spec("row", "Row of copies…", "", "Arrange"),
    Spec("ring", "Ring of copies around the die…", "", "Arrange"),
    Spec("one_pad", "One pad over all chosen parts", "", "Arrange"),
    Spec("go_baseline", "Baseline: runs and what they say", "F5", "Look"),
    Spec("go_stack", "Stack: what lies between the faces", "F6", "Look"),
    Spec("go_prove", "Prove: predicted against measured", "F7", "Look"),
    Spec("show_margins", "Show margins in the plan", "1", "Look"),
    Spec("show_bond_line", "Show bond lines in the plan", "2", "Look"),
    Spec("show_pressure", "Show pressure in the plan", "3", "Look"),
    Spec("show_temperature", "Show temperature in the plan", "4", "Look"),
    Spec("show_bow", "Show how the board bends", "5", "Look"),
    Spec("show_flux", "Show where heat passes into the plates", "6", "Look"),
    Spec("time", "Temperatures over time, or the cut", "T", "Look"),
    Spec("flip", "Turn the board over", "F", "Look"),
    Spec("turn_cut", "Turn the cut line", "X", "Look"),
    Spec("fit", "Show the whole board", "Home", "Look"),
    Spec("theme", "Light or dark", "Ctrl+T", "Look"),
    Spec("look_light", "Always light", "", "Look"),
    Spec("look_dark", "Always dark", "", "Look"),
    Spec("look_system", "Light or dark as the system has it", "", "Look"),
    Spec("text_bigger", "Bigger text", "Ctrl++", "Look"),
    Spec("text_smaller", "Smaller text", "Ctrl+-", "Look"),
    Spec("text_usual", "Usual text size", "Ctrl+0", "Look"),
    Spec("palette", "Find a command, part or file…", "Ctrl+K", "Help"),
    Spec("guide", "Guide to this page", "F1", "Help"),
    Spec("keys", "Overview of keys", "F2", "Help"),
)

STACK_ONLY = (
    *("edit_mode", "thicker", "thinner", "group", "time", "flip", "turn_cut", "fit"),
    *("show_margins", "show_bond_line", "show_pressure", "show_temperature", "show_bow", "show_flux"),
)


def make_actions(owner: QWidget, handlers: Mapping[str, Callable[[], object]]) -> dict[str, QAction]:
    """Return one action per spec, in order, each doing what its handler does. `KeyError` for one without a handler."""
    made: dict[str, QAction] = {}
    for spec in SPECS:
        action = QAction(spec.words, owner)
        if spec.keys:
            action.setShortcut(QKeySequence(spec.keys))
        keys = f" ({shown_keys(action)})" if spec.keys else ""
        action.setToolTip(f"{spec.words.rstrip('…')}{keys}")
        handler = handlers[spec.name]
        action.triggered.connect(lambda _, handler=handler: handler())
        owner.addAction(action)
        made[spec.name] = action
    return made


def shown_keys(action: QAction) -> str:
    """Return an action's keys as people read them."""
    return action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
