"""The elevation: bodies and pieces in section along the cut line, heights compressed, true figures beside them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.height_hand import HeightHand
from ashen_bridge.desktop.stack.scale import HeightScale
from ashen_bridge.geometry.section import Cut, CutBody, CutFilling, Section, section
from ashen_bridge.predict.maps import JointMap
from ashen_bridge.words.numbers import length, number

_LEFT, _RIGHT, _TOP, _BOTTOM = 14.0, 14.0, 38.0, 20.0  # [px] around the picture, the last two at the usual text size
_GRAB = 6.0  # [px] from an edge
_FILL = {"board": "board", "substrate": "board_edge", "component": "part", "plate": "plate"}


@dataclass(frozen=True)
class Callout:
    """A true figure over a filling: place along the cut [m] and words."""

    at: float
    text: str
    alarm: bool


def cut_through(desk: StackDesk) -> Section | None:
    """Return the section along the session's cut line, with plates where the last prediction put them."""
    session = desk.session
    scene = session.scene()
    if scene is None or session.results.assessment is None:
        return None
    poses = {pose.plate: pose for pose in session.results.assessment.prediction.poses}
    if any(body.id not in poses for body in scene.floating):
        return None

    def height(plate: str, x: Floats, y: Floats) -> Floats:
        pose = poses[plate]
        return pose.z + pose.slope_x * (x - pose.x0) + pose.slope_y * (y - pose.y0)

    forces = {(row.id, row.lower): row.force_n for row in session.results.assessment.report.joints}

    def give(joint: str, lower: str) -> float:
        return (
            scene.joints[joint].compliance_um_n.value * 1e-6 * forces.get((joint, lower), 0.0) if joint in scene.joints else 0.0
        )

    return section(scene, height, give, desk.view.cut, session.results.assessment.prediction.maps.bow)


class ElevationView(QWidget):
    """Section of the build that is looked at."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self._shown: Section | None = None
        self._known = False
        self.hand = HeightHand(desk)
        self._frozen: tuple[HeightScale, tuple[float, float]] | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Elevation along the cut line")
        self.setMinimumHeight(150)
        for signal in (session.project_changed, desk.changed, session.results.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def refresh(self) -> None:
        """Take over what the session shows, when it is next needed."""
        self._known = False
        self.update()

    @property
    def section(self) -> Section | None:
        """The section that is shown now."""
        if not self._known:
            self._shown = cut_through(self.desk)
            self._known = True
        return self._shown

    def sizeHint(self) -> QSize:
        return QSize(780, 210)

    # ---- places

    def _extent(self, cut: Section) -> tuple[float, float]:
        return min(float(b.s.min()) for b in cut.bodies), max(float(b.s.max()) for b in cut.bodies)

    def _x(self, s: float, extent: tuple[float, float]) -> float:
        return _LEFT + (s - extent[0]) / (extent[1] - extent[0]) * (self.width() - _LEFT - _RIGHT)

    def _room(self) -> tuple[float, float]:
        """Return the lowest pixel row of the picture and its height [px]."""
        bottom = self.height() - self.theme.px(_BOTTOM)
        return bottom, bottom - self.theme.px(_TOP)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        cut = self.section
        painter = QPainter(self)
        self._paint(painter, cut)
        painter.end()  # an error on the way may keep this frame, and the painter with it, alive

    def _paint(self, painter: QPainter, cut: Section | None) -> None:
        painter.fillRect(self.rect(), self.theme.colour("surface"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if cut is None or not cut.bodies:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(self.theme.font(13))
            words = self.session.results.refusal or ("The cut line misses everything." if cut is not None else "Working…")
            painter.drawText(self.rect().adjusted(20, 0, -20, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        scale, extent = self._scales(cut)
        chosen = set(self.session.joints)
        for body in sorted(cut.bodies, key=lambda body: body.kind == "plate"):
            self._body(painter, body, scale, extent)
        for filling in cut.fillings:
            self._filling(painter, filling, scale, extent, filling.joint in chosen)
        self._callouts(painter, cut, scale, extent)
        self._axis(painter, cut, extent)
        if self.hand.words:
            self._say(painter, self.hand.words)

    def _say(self, painter: QPainter, words: str) -> None:
        """Show the figure that is being dragged."""
        painter.setFont(self.theme.font(13, bold=True))
        width = painter.fontMetrics().horizontalAdvance(words) + 16
        box = QRectF(self.width() - width - 8, self.height() - self.theme.px(44), width, self.theme.px(22))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("ink"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(self.theme.colour("surface"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _polygon(self, s: Floats, low: Floats, high: Floats, scale: HeightScale, extent: tuple[float, float]) -> QPolygonF:
        bottom, room = self._room()
        there = [QPointF(self._x(float(a), extent), bottom - room * scale.share(float(h))) for a, h in zip(s, high, strict=True)]
        back = [QPointF(self._x(float(a), extent), bottom - room * scale.share(float(h))) for a, h in zip(s, low, strict=True)]
        return QPolygonF([*there, *reversed(back)])

    def _body(self, painter: QPainter, body: CutBody, scale: HeightScale, extent: tuple[float, float]) -> None:
        shape = self._polygon(body.s, body.low, body.high, scale, extent)
        painter.setBrush(self._heat_of(body) or self.theme.colour(_FILL[body.kind]))
        painter.setPen(QPen(self.theme.colour("plate_edge" if body.kind == "plate" else "board_edge"), 0.8))
        painter.drawPolygon(shape)
        box = shape.boundingRect()
        if body.kind in ("component", "plate", "board") and box.width() > 70 and box.height() > 14:
            painter.setFont(self.theme.font(11))
            painter.setPen(self.theme.ink_on(painter.brush().color()))
            model = self.session.project.bodies_known(self.session.build).get(body.id)
            words = model.label if model else body.id
            if painter.fontMetrics().horizontalAdvance(words) > box.width() - 8:
                words = painter.fontMetrics().elidedText(words.split()[-1], Qt.TextElideMode.ElideRight, int(box.width() - 8))
            if body.kind != "plate" or box.width() > 0.3 * self.width() or self._is_widest(body):
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _is_widest(self, body: CutBody) -> bool:
        parts = [float(b.s[-1] - b.s[0]) for b in self.section.bodies if b.id == body.id] if self.section else []
        return bool(parts) and float(body.s[-1] - body.s[0]) >= max(parts) - 1e-12

    def _heat_of(self, body: CutBody) -> QColor | None:
        """Parts and plates are tinted by their mean temperature, on one scale from ambient to the hottest junction."""
        if self.session.results.assessment is None or self.desk.view.overlay != "temperature":
            return None
        report = self.session.results.assessment.report
        means = {row.id: row.t_mean_c for row in report.components} | {row.id: row.t_mean_c for row in report.plates}
        if body.id not in means:
            return None
        top = max((row.t_max_c for row in report.components), default=report.ambient_c + 1)
        return self.theme.heat((means[body.id] - report.ambient_c) / max(top - report.ambient_c, 1.0))

    def _filling(
        self, painter: QPainter, filling: CutFilling, scale: HeightScale, extent: tuple[float, float], chosen: bool
    ) -> None:
        shape = self._polygon(filling.s, filling.low, filling.high, scale, extent)
        if filling.what == "air":
            painter.setBrush(QBrush(self.theme.colour("steel"), Qt.BrushStyle.BDiagPattern))
            painter.setPen(QPen(self.theme.colour("steel"), 1.0, Qt.PenStyle.DotLine))
        else:
            painter.setBrush(self.theme.colour("paste" if filling.what == "paste" else "pad"))
            painter.setPen(QPen(self.theme.colour("ember"), 2.0) if chosen else QPen(self.theme.colour("ink", 0.5), 0.7))
        painter.drawPolygon(shape)

    def _callouts(self, painter: QPainter, cut: Section, scale: HeightScale, extent: tuple[float, float]) -> None:
        """Write true figures in two rows above the picture, each tied to its joint by a thin line."""
        maps = self.session.results.assessment.prediction.maps.joints if self.session.results.assessment else ()
        painter.setFont(self.theme.font(11))
        metrics = painter.fontMetrics()
        ends = [-1e9, -1e9]
        bottom, room = self._room()
        for callout, top in sorted(_callouts(cut, maps), key=lambda item: item[0].at):
            x = self._x(callout.at, extent)
            width = metrics.horizontalAdvance(callout.text) + 8
            left = min(max(x - width / 2, 2.0), self.width() - width - 2)
            row = 0 if ends[0] + 4 <= left else 1
            if row == 1 and ends[1] + 4 > left:
                continue  # no room: the figure is still in the joint panel and the tool tips
            ends[row] = left + width
            line = self.theme.px(16)
            y = 3 + line * row
            painter.setPen(QPen(self.theme.colour("bad" if callout.alarm else "quiet", 0.7), 0.8))
            painter.drawLine(QPointF(x, y + line - 1), QPointF(x, bottom - room * scale.share(top)))
            painter.setPen(
                self.theme.colour("stale")
                if self.session.results.state == "stale"
                else self.theme.colour("bad" if callout.alarm else "ink")
            )
            painter.drawText(QRectF(left, y, width, line - 1), Qt.AlignmentFlag.AlignCenter, callout.text)

    def _axis(self, painter: QPainter, cut: Section, extent: tuple[float, float]) -> None:
        painter.setFont(self.theme.font(11))
        painter.setPen(self.theme.colour("quiet"))
        across = "y" if cut.cut.along == "x" else "x"
        high = self.theme.px(15)
        foot = QRectF(_LEFT, self.height() - high - 2, self.width() - _LEFT - _RIGHT, high)
        words = f"cut along {cut.cut.along} at {across} = {number(cut.cut.at * 1e3, 1)} mm · heights compressed, figures true"
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, words)
        span = f"{number((extent[1] - extent[0]) * 1e3)} mm"
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, span)

    def _scales(self, cut: Section) -> tuple[HeightScale, tuple[float, float]]:
        """Return height scale and extent; while an edge is held, those of when it was taken hold of."""
        return self._frozen or (height_scale(cut), self._extent(cut))

    def _place(self, event: QMouseEvent, cut: Section) -> tuple[float, float]:
        """Return where along the cut [m] and at what height [m] the pointer is."""
        scale, extent = self._scales(cut)
        bottom, room = self._room()
        share = (event.position().x() - _LEFT) / max(self.width() - _LEFT - _RIGHT, 1)
        return extent[0] + share * (extent[1] - extent[0]), scale.height((bottom - event.position().y()) / room)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Select the joint or part that was clicked; while editing, take hold of an upper or lower edge."""
        if event is None or self.section is None or not self.section.bodies:
            return
        s, height = self._place(event, self.section)
        if self.desk.view.editing:
            self._frozen = self._scales(self.section)
            self.hand.press(self.section, s, height, self._near(event, self.section))
            self.update()
            return
        for filling in self.section.fillings:
            if filling.s[0] <= s <= filling.s[-1]:
                self.session.select(filling.lower)
                return
        for body in self.section.bodies:
            if body.kind == "component" and body.s[0] <= s <= body.s[-1]:
                self.session.select(body.id)
                return

    def _near(self, event: QMouseEvent, cut: Section) -> float:
        """Return how much height [m] a few pixels up or down from the pointer are."""
        scale, _ = self._scales(cut)
        bottom, room = self._room()
        y = event.position().y()
        here = scale.height((bottom - y) / room)
        around = [scale.height((bottom - y + d) / room) for d in (-_GRAB, _GRAB)]
        return max(abs(other - here) for other in around)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.section is None or not self.section.bodies:
            return
        if self.hand.holding and event.buttons() & Qt.MouseButton.LeftButton:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.hand.move(self._place(event, self.section)[1], fine)
            return
        if self.desk.view.editing:
            s, height = self._place(event, self.section)
            grip = self.hand.grip_at(self.section, s, height, self._near(event, self.section))
            self.setCursor(Qt.CursorShape.SizeVerCursor if grip else Qt.CursorShape.PointingHandCursor)
        else:
            self.unsetCursor()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.hand.release()
        self._frozen = None
        self.update()


def height_scale(cut: Section) -> HeightScale:
    """Return the height scale on which every level of a section is legible."""
    levels = [float(v) for b in cut.bodies for v in (b.low.min(), b.low.max(), b.high.min(), b.high.max())]
    levels += [float(v) for f in cut.fillings for v in (f.low.min(), f.high.max())]
    return HeightScale(levels)


def _callouts(cut: Section, maps: tuple[JointMap, ...]) -> list[tuple[Callout, float]]:
    """Return the figures of all joints in the cut, read from the prediction's maps, with the height their line ends at."""
    by_joint: dict[tuple[str, str], list[CutFilling]] = {}
    for filling in cut.fillings:
        by_joint.setdefault((filling.joint, filling.lower), []).append(filling)
    found: list[tuple[Callout, float]] = []
    for joint in maps:
        fillings = by_joint.get((joint.joint, joint.lower))
        profile = _profile(joint, cut.cut)
        if not fillings or not len(profile):
            continue
        text = length(float(profile.mean()) * 1e-3)
        low, high = sorted((float(profile[0]), float(profile[-1])))
        if fillings[0].what == "paste" and high - low > 5:
            text = f"{number(low)}…{number(high)} µm"
        air = max((f.mean_thickness for f in fillings if f.what == "air"), default=0.0)
        if air > 2e-6:
            text += f" + air {length(air * 1e3)}"
        middle = (min(float(f.s[0]) for f in fillings) + max(float(f.s[-1]) for f in fillings)) / 2
        found.append((Callout(middle, text, air > 2e-6), float(max(f.high.max() for f in fillings))))
    return found


def _profile(joint: JointMap, cut: Cut) -> Floats:
    """Return the bond line [µm] of a joint along the cut, where a piece lies."""
    x0, y0, x1, y1 = joint.box
    n = len(joint.bond_line_um)
    share = (cut.at * 1e3 - y0) / (y1 - y0) if cut.along == "x" else (cut.at * 1e3 - x0) / (x1 - x0)
    at = min(max(int(share * n), 0), n - 1)
    line = joint.bond_line_um[at, :] if cut.along == "x" else joint.bond_line_um[:, at]
    return np.asarray(line[np.isfinite(line)], dtype=float)
