"""Rhombos: from an inverter's brief to a proven box."""

__version__ = "0.1.0"
