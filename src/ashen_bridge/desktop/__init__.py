"""The desktop application."""
