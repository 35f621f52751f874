"""The operating points of a project."""
