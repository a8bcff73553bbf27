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
class WiredNeed:
    """One need of a pick, with the nodes that say it: `capability` over `demand` reaches `level`, a number or a node."""

    title: str
    capability: int
    demand: int
    level: int | float


@dataclass(frozen=True)
class WiredPick:
    """A pick at its place, with the nodes it publishes, what it needs, and the places whose figures are worked out for every candidate."""

    key: str
    place: str
    pick: Pick
    index: int
    published: tuple[tuple[str, int], ...]
    needs: tuple[WiredNeed, ...]
    own: frozenset[str]


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
