"""The Stack workspace: plan, elevation, descent, joint panel with thickness strip."""
