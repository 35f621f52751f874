"""Geometry shared by mechanics and heat: regions in plan, what faces what, sections. Lengths in metres."""
