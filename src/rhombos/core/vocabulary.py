"""Names that cross stages: one sentence, unit and symbol each; whoever makes them must agree."""

from dataclasses import dataclass
from typing import Literal

Joined = Literal["", "sum", "highest", "vector"]


@dataclass(frozen=True)
class Word:
    """What a port name means wherever it is read.

    `alone` is the value suggested when a stage stands alone; `joined` says how what several loads draw from one bus
    comes together (`vector`: from active, displacement and distortion power).
    """

    unit: str
    symbol: str
    sentence: str
    alone: float | None = None
    joined: Joined = ""


VOCABULARY: dict[str, Word] = {}


def word(name: str, unit: str, symbol: str, sentence: str, alone: float | None = None, joined: Joined = "") -> None:
    """Enter a name that crosses stages."""
    if name in VOCABULARY:
        raise ValueError(f"the vocabulary has {name!r} already")
    VOCABULARY[name] = Word(unit, symbol, sentence, alone, joined)
