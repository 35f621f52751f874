"""The page of Baseline: runs on the left, their curves and figures in the middle, what they mean on the right."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.baseline.aims_panel import AimsPanel
from ashen_bridge.desktop.baseline.channel_table import ChannelTable
from ashen_bridge.desktop.baseline.compare_panel import ComparePanel
from ashen_bridge.desktop.baseline.curves import beside_picture, run_picture
from ashen_bridge.desktop.baseline.desk import BaselineDesk, Page
from ashen_bridge.desktop.baseline.diagnosis_panel import DiagnosisPanel
from ashen_bridge.desktop.baseline.fit_panel import FitPanel
from ashen_bridge.desktop.baseline.import_page import ImportPage
from ashen_bridge.desktop.baseline.power_panel import PowerPanel
from ashen_bridge.desktop.baseline.recording.page import RecordPage
from ashen_bridge.desktop.baseline.run_list import RunList
from ashen_bridge.desktop.baseline.run_panel import RunPanel
from ashen_bridge.desktop.charts.trace_picture import TracePicture
from ashen_bridge.desktop.charts.trace_view import TraceView
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.pages import Leaf, Pages, card, check, checkable
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.editing import runs as edits

LEFT_WIDTH = 216
_PAGES: dict[Page, tuple[str, str]] = {
    "run": ("Run", "What this run says, and its conditions"),
    "compare": ("Compare", "This run against an earlier one: what became worse first"),
    "power": ("Power", "One curve through runs of this build at different powers"),
    "diagnose": ("Why", "Which fault explains this run best, if any does"),
    "fit": ("Fit", "The model fitted to this run, for predictions about this very device"),
    "aims": ("Aims", "What is wrong, and what is wanted"),
}


class BaselinePage(QWidget):
    """Everything about tests of the device."""

    def __init__(self, desk: BaselineDesk, room: Room) -> None:
        super().__init__()
        session, theme = desk.session, room.theme()
        self.desk, self.session, self.theme = desk, session, theme
        self._actions = room.commands
        self.list = RunList(desk, theme)
        self.curves = TraceView(theme)
        self.table = ChannelTable(desk)
        self.run = RunPanel(session, theme)
        self.compare = ComparePanel(desk, theme)
        self.diagnosis = DiagnosisPanel(desk, theme)
        self.fit = FitPanel(session, theme)
        self.aims = AimsPanel(session, theme)
        self.importing = ImportPage(session, theme)
        self.recording = RecordPage(session, theme, room.asker)
        self.power = PowerPanel(session, theme)
        self._panels = (self.run, self.compare, self.power, self.diagnosis, self.fit, self.aims)
        self._passes = QButtonGroup(self)
        self.pages = Pages(
            tuple(Leaf(key, *said, panel) for (key, said), panel in zip(_PAGES.items(), self._panels, strict=True)), widest=1.1
        )
        self.pages.chosen.connect(lambda page: self.desk.look(replace(self.desk.view, page=page)))
        self._whole = QStackedWidget()
        self.curves.window_moved.connect(self._set_window)
        self._lay_out()
        for signal in (session.project_changed, desk.changed, session.runs.changed):
            signal.connect(self.refresh)

    def _lay_out(self) -> None:
        looking = QWidget()
        row = QHBoxLayout(looking)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self._left_side())
        row.addWidget(self._middle(), 1)
        row.addWidget(self.pages)
        self._whole.addWidget(looking)
        self._whole.addWidget(self.importing)
        self._whole.addWidget(self.recording)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._whole)

    def _left_side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(LEFT_WIDTH)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for name in ("import_log", "record", "type_readings"):
            button = QPushButton(self._actions[name].text())
            button.setToolTip(self._actions[name].toolTip())
            button.clicked.connect(self._actions[name].trigger)
            column.addWidget(button)
        column.addWidget(self.list, 1)
        self._side = side
        return side

    def _middle(self) -> QWidget:
        self.heading = Words()
        self.heading.setObjectName("heading")
        self.pass_row = QHBoxLayout()
        self.pass_row.setSpacing(4)
        self.heading.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.more = QPushButton("Run")
        self.more.setToolTip("Another pass, what the columns are, export, remove")
        self.more.setProperty("popup", True)
        menu = QMenu(self.more)
        menu.addAction("What the columns are…", self.map_columns)
        for name in ("another_pass", "export_run", "remove_run"):
            menu.addAction(self._actions[name])
        self.more.setMenu(menu)
        bar = QHBoxLayout()
        bar.addWidget(self.heading, 1)
        bar.addLayout(self.pass_row)
        bar.addWidget(self.more)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(card(self.curves))
        split.addWidget(self.table)
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setChildrenCollapsible(False)
        self.split = split
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(bar)
        column.addWidget(split, 1)
        return middle

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.curves.theme = theme
        # The curves need what is left, so the sides grow less than the text.
        scale = min(max(theme.scale, 0.9), 1.1)
        self.pages.set_theme(theme)
        self._side.setFixedWidth(round(LEFT_WIDTH * min(scale, 1.0)))
        for part in (self.list, self.table, self.importing, self.recording, *self._panels):
            part.set_theme(theme)
        self.curves.update()

    # ---- what is shown

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        session = self.session
        if not self.desk.shown:
            return
        page = self.desk.view.page
        self.pages.show_page(page)
        self.list.refresh()
        self._panels[list(_PAGES).index(page)].refresh()
        self._show_run()
        self.more.setEnabled(session.run is not None)

    def _show_run(self) -> None:
        session, run = self.session, self.session.run
        device = session.project.device
        if run is None:
            self._show_passes(0)
            self.heading.setText("")
            words = "Drop a sensor log here: any CSV your logger writes. Nothing is kept until you say so."
            self.curves.show_picture(None, words)
            self.table.show_figures(None, 0)
            return
        found = session.runs.figures(run, device) or session.runs.latest(run)
        self._show_passes(len(run.passes))
        if not run.passes:
            self.curves.show_picture(None, "These readings were typed by hand: there is no curve.")
            self.table.show_figures(found, 0)
            return
        number = min(self.desk.view.run_pass, len(run.passes) - 1)
        log = session.runs.log(run.passes[number])
        if found is None or log is None:
            self.curves.show_picture(None, session.runs.problem(run, device) or "Reading the log…")
            self.table.show_figures(None, 0)
            return
        self.heading.setText(session.project.build(run.build).label + " at " + session.project.point(run.point).label)
        beside = self._beside() if self.desk.view.page == "compare" else None
        self.curves.show_picture(beside or run_picture(found, number, log, device, self.desk.view.columns))
        self.table.show_figures(found, number)

    def _beside(self) -> TracePicture | None:
        """Return the compared sensor's curves in both runs, from the start of their load on."""
        session = self.session
        before, after, sensor = session.against, session.run, self.compare.sensor()
        if before is None or after is None or before.id == after.id or not sensor:
            return None
        pairs = []
        for run in (before, after):
            if not run.passes:
                return None
            found, log = session.runs.figures(run, session.project.device), session.runs.log(run.passes[0])
            if found is None or log is None:
                return None
            pairs.append((found, log, found.passes[0].loaded_s))
        airs = all(found.passes[0].ambient_c is not None for found, _, _ in pairs)
        return beside_picture(pairs, sensor, session.project.device, airs)

    def _show_passes(self, count: int) -> None:
        if len(self._passes.buttons()) != count:
            for button in self._passes.buttons():
                self._passes.removeButton(button)
                button.hide()
                button.deleteLater()
            for n in range(count):
                one = checkable(f"Pass {n + 1}", f"Show pass {n + 1} of this run")
                one.clicked.connect(partial(self._choose_pass, n))
                self._passes.addButton(one, n)
                self.pass_row.addWidget(one)
        check(self._passes, min(self.desk.view.run_pass, max(count - 1, 0)))

    # ---- what is done

    def _choose_pass(self, number: int) -> None:
        self.desk.look(replace(self.desk.view, run_pass=number))

    def _set_window(self, start: float, end: float) -> None:
        run = self.session.run
        if run is not None and self.desk.view.page != "compare":
            self.session.apply(edits.set_window(run.id, (round(start, 1), round(end, 1))))

    def map_columns(self) -> None:
        """Say anew what the columns of the run are."""
        run = self.session.run
        log = self.session.runs.log(run.passes[0]) if run is not None and run.passes else None
        if run is not None and log is not None:
            self.importing.show_run(run.id, run.label, log, run.channels)
            self.show_importing(True)

    def show_importing(self, on: bool) -> None:
        """Show the mapping page, or what is looked at."""
        self._whole.setCurrentIndex(1 if on else 0)
        if on:
            self.importing.table.setFocus()

    def show_recording(self, on: bool) -> None:
        """Show the page that records, or what is looked at."""
        self._whole.setCurrentIndex(2 if on else 0)

    @property
    def is_importing(self) -> bool:
        """Whether the mapping page is shown."""
        return self._whole.currentIndex() == 1
