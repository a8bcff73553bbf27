"""The same solve without the tape: every formula is called on arrays, every candidate judged by NumPy."""

import pytest


def without_tape(patch: pytest.MonkeyPatch) -> None:
    """From here on layouts are made with nothing on the tape."""
    patch.setattr("rhombos.core.graph.engine.layout.template", lambda fn, count: None)
