"""The Close up workspace."""
