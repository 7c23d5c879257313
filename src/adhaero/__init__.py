"""Adhaero: plan, make, break and compare glued wood joints."""

__version__ = "0.1.0"
