"""Choosing materials and thicknesses for all joints together: candidates, constraints, search, the front of plans."""
