"""Switched linear circuits: state equations from elements, exact steps between edges, periodic steady state."""
