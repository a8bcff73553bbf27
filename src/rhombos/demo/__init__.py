"""Demonstration projects, invented throughout."""
