"""Diode networks by themselves (6.1, 6.3): each with its circuit, drawn and probed."""
