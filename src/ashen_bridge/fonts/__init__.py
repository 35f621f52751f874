"""Fonts that ship with the application."""
