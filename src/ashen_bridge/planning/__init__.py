"""Procedures as they follow from a device and a build: what to do in which order, with what, and where every screw lies."""
