"""Circuits with switches and diodes: exact steps in the modes of each state, events by their exact time, repetition by Newton."""
