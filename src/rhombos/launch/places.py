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


class LaunchError(Exception):
    """A step of starting failed: which, why, and what to do."""

    def __init__(self, step: str, why: str, remedy: str) -> None:
        super().__init__(step, why, remedy)
        self.step, self.why, self.remedy = step, why, remedy

    def __str__(self) -> str:
        return f"{self.step} failed: {self.why}\n  What to do: {self.remedy}"


DEFAULT_PORT = 8765
MOST_PORTS = 65_535


def wanted_port() -> int:
    """The port that is asked for by RHOMBOS_PORT, or the usual one."""
    typed = os.environ.get("RHOMBOS_PORT") or str(DEFAULT_PORT)
    if not (typed.isascii() and typed.isdigit() and 1 <= int(typed) <= MOST_PORTS):
        raise LaunchError("Reading RHOMBOS_PORT", f"{typed!r} is not a port", f"give a number from 1 to {MOST_PORTS}")
    return int(typed)
