"""Widgets that belong to the window rather than to one workspace."""
