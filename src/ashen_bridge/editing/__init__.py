"""Changing a project: edits with names, typed numbers, snapping, arranging, new parts, copy and paste. No Qt in here."""
