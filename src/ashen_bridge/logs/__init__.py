"""Sensor logs: read in any dialect or live, mapped, packed, settled, put into figures."""
