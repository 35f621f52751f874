"""Curves of logs: drawn, zoomed, read, and their settled window dragged."""
