"""Invented devices as plain data, drawn from a seed: for studies whose truth is computed elsewhere. Knows no solver."""
