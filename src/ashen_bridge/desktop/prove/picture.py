"""A proof as a picture: sensor by sensor, the least to spare first."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.bench.judgement import Proof, ProvedSensor
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.prove.proof_painter import ProofPainting, height_of, row_at
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.words.numbers import number


class ProofPicture(QWidget):
    """All sensors on one temperature axis, the least to spare first."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.proof: Proof | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Prediction against measurement, sensor by sensor")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_proof(self, proof: Proof | None) -> None:
        """Show a proof."""
        self.proof = proof
        rows = [
            f"{one.name}: predicted {number(one.predicted[0], 1)}, calibrated {number(one.calibrated[0], 1)}, "
            f"measured {number(one.measured[0], 1)} °C, {one.state}"
            for one in self.rows()
        ]
        self.setAccessibleDescription("; ".join(rows))
        self.updateGeometry()
        self.update()

    def rows(self) -> list[ProvedSensor]:
        """Return the sensors in the order they are drawn."""
        if self.proof is None:
            return []
        return sorted(self.proof.sensors, key=lambda one: (one.aim_c is None, (one.aim_c or 0.0) - one.measured[0]))

    def sizeHint(self) -> QSize:
        return QSize(720, round(height_of(len(self.rows()), self.theme)))

    def minimumSizeHint(self) -> QSize:
        return QSize(480, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        ProofPainting(painter, self.theme).paint(self.rows(), self.session.view.selected, self.width())
        painter.end()

    # ---- choosing

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        rows = self.rows()
        at = row_at(event.position().y(), self.theme) if event is not None else -1
        if 0 <= at < len(rows):
            self.session.select(rows[at].body)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        rows = self.rows()
        if event is None or not rows or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        bodies = [one.body for one in rows]
        now = bodies.index(self.session.view.selected) if self.session.view.selected in bodies else 0
        self.session.select(bodies[min(max(now + ways[Qt.Key(event.key())], 0), len(bodies) - 1)])
