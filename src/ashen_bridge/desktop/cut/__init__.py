"""The Cut workspace."""
