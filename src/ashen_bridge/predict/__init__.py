"""Predictions: the one door to the physics."""
