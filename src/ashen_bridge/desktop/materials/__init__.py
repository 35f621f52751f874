"""The materials of a project: choosing, adding, editing."""
