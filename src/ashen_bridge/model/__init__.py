"""The data model: frozen objects, their validation and the paths that address their values."""

from ashen_bridge.model.project import Project

__all__ = ["Project"]
