"""Asks whether a changed number is said of the device or of the build that is looked at; once for each part and build."""

from __future__ import annotations

from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.field_form import Scope
from ashen_bridge.desktop.state.session import Session

_CANCEL = "Leave it as it was"


class Where:
    """What was answered last, as long as the same part and build are worked on."""

    def __init__(self, session: Session, asker: Asker) -> None:
        self._session, self._asker = session, asker
        self._answered: tuple[str, str, Scope] = ("", "", "device")

    def known(self, path: str) -> Scope | None:
        """Return where a number holds as far as nobody need be asked, None where somebody must be."""
        session = self._session
        if not path.startswith("device.") or len(session.project.builds) < 2:
            return "device"
        if path in session.build.overrides:
            return "build"
        return self._answered[2] if self._answered[:2] == (_part(path), session.view.build) else None

    def ask(self, path: str) -> Scope:
        """Return where a changed number shall hold, asking if it is not known."""
        session = self._session
        found = self.known(path)
        if found is not None:
            return found
        only = f"Only “{session.build.label}”"
        every = f"The device: all {len(session.project.builds)} builds"
        text = f"“{session.build.label}” is looked at. Does the new value hold for the device, or in this build only?"
        chosen = self._asker.choose("Device or build", text, (every, only, _CANCEL), every, _CANCEL)
        if chosen == _CANCEL:
            return ""
        scope: Scope = "build" if chosen == only else "device"
        self._answered = _part(path), session.view.build, scope
        return scope

    def forget(self) -> None:
        """Ask again."""
        self._answered = ("", "", "device")


def _part(path: str) -> str:
    return ".".join(path.split(".")[:3])
