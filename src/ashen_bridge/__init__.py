# SPDX-License-Identifier: GPL-3.0-or-later
"""Ashen Bridge: the heat path from die to air as one coupled model."""

__version__ = "0.1.0"
