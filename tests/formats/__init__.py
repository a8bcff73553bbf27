"""Tests of formats."""
