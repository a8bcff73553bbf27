"""Where things lie, and how the person who starts it is spoken to."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]


def home() -> Path:
    """Where this installation keeps its data: RHOMBOS_HOME, else `.rhombos` in the project."""
    return Path(os.environ.get("RHOMBOS_HOME", str(ROOT / ".rhombos")))


def say(text: str) -> None:
    """A line to the person who starts it."""
    print(text, flush=True)
