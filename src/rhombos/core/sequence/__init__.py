"""Sequences: pure step functions that decide what is switched, and the circuits that they are tried on."""
