"""Readers and writers: text to record and back, without file access."""
