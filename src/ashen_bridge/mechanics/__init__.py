"""Mechanics: laws of pads, pastes and fasteners, and the equilibrium of plates that float on them. SI units."""
