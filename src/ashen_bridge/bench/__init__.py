"""Runs: sensor logs read, settled, compared, and set against the model."""
