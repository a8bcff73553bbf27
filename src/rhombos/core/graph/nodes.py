"""What a line-up is wired into: nodes, and picks and checks over them by index."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from rhombos.core.graph.declare import Check, Figure, Pick


@dataclass(frozen=True)
class Node:
    """One figure at one place: `args` are the indices of what it is computed from."""

    index: int
    key: str
    place: str
    figure: Figure
    fn: Callable[..., Any] | None
    args: tuple[int, ...] = ()
    params: tuple[str, ...] = ()


@dataclass(frozen=True)
class WiredPick:
    """A pick at its place, with the nodes it reads and publishes."""

    key: str
    place: str
    pick: Pick
    index: int
    params: tuple[str, ...]
    published: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class WiredCheck:
    """A check at its place, with the nodes it compares; `fail` and `hold` are levels or nodes."""

    key: str
    place: str
    check: Check
    demand: int
    capability: int
    fail: int | float
    hold: int | float
