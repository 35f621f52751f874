"""Changes of what holds the device together: fasteners, and how a build sets them."""

from __future__ import annotations

from typing import Any, Literal

from ashen_bridge.library.typical import typical
from ashen_bridge.model import paths
from ashen_bridge.model.build import Build
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import find, replaced, with_each, with_more, with_part

Feel = Literal["soft", "normal", "hard"]
_NEEDED: dict[str, dict[str, str]] = {
    "sprung": {
        "rate_n_mm": "spring_normal_n_mm",
        "travel_mm": "spring_travel_mm",
        "reference_mm": "seat_mm",
        "coil_bind_mm": "spring_coil_bind_mm",
    },
    "fixed": {"preload_n": "screw_normal_n", "seat_mm": "seat_mm"},
    "shouldered": {"preload_n": "screw_normal_n", "seat_mm": "seat_mm"},
}


def add_fastener(project: Project, fastener: Fastener) -> Project:
    """Add a fastener to the device."""
    return with_part(project, "device", lambda device: with_more(device, "fasteners", fastener))


def set_feel(project: Project, fasteners: tuple[str, ...], feel: Feel) -> Project:
    """Say how springs or screws feel; their rate or preload becomes the typical one, marked assumed."""

    def change(fastener: Fastener) -> Fastener:
        if fastener.kind == "sprung":
            return replaced(fastener, rate_n_mm=typical(f"spring_{feel}_n_mm"), spring=None)
        if fastener.kind in ("fixed", "shouldered"):
            return replaced(fastener, preload_n=typical(f"screw_{feel}_n"))
        return fastener

    return with_part(project, "device", lambda device: with_each(device, "fasteners", change, fasteners))


def set_kind(project: Project, path: str, kind: str) -> Project:
    """Make the fastener at a path one of another kind, with typical numbers where it says nothing yet."""

    def change(fastener: Fastener) -> Fastener:
        said: dict[str, Any] = {"kind": kind}
        for name, key in _NEEDED.get(kind, {}).items():
            if getattr(fastener, name) is None and not (name == "rate_n_mm" and fastener.spring is not None):
                said[name] = typical(key)
        # Where the plate comes to rest is known from either kind.
        if kind != "sprung" and fastener.reference_mm is not None:
            said["seat_mm"] = fastener.reference_mm
        return replaced(fastener, **said)

    return paths.changed_at(project, path, change)


def set_washers(project: Project, build: str, fasteners: tuple[str, ...], washers_mm: float) -> Project:
    """Put washers of a total thickness [mm] under some fasteners of a build."""
    return _settings(project, build, fasteners, washers_mm=q(washers_mm, 0.02))


def leave_out(project: Project, build: str, fasteners: tuple[str, ...]) -> Project:
    """Leave some fasteners out of a build."""
    return _settings(project, build, fasteners, fitted=False)


def _settings(project: Project, build: str, fasteners: tuple[str, ...], **said: Any) -> Project:
    for name in fasteners:
        find(project.device.fasteners, name, "fastener")

    def change(one: Build) -> Build:
        made = {setting.fastener: setting for setting in one.fastener_settings}
        made |= {name: replaced(one.setting_of(name), **said) for name in fasteners}
        return replaced(one, fastener_settings=tuple(made.values()))

    return with_each(project, "builds", change, (build,))
