"""A circuit as a stage declares it: where its parts are drawn, and what figures they are. What is drawn is what is simulated.

Parts lie on a grid from `start` to `end`; wires join points. Nodes are not named twice: they are read off the drawing,
so that a circuit cannot be drawn one way and solved another. Whatever is left open or floats is refused.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Any, Literal

from rhombos.core.circuit.switched.elements import OFF_RESISTANCE, Event
from rhombos.core.graph.errors import DeclarationError

Point = tuple[float, float]
Wires = Sequence[Sequence[Point]]
Kind = Literal["source", "sine", "current", "resistor", "inductor", "capacitor", "switch", "diode"]


@dataclass(frozen=True)
class Worked:
    """A value worked out from figures: a capacitor at its effective value, a load's resistance from its watts."""

    names: tuple[str, ...]
    fn: Callable[..., float]


Amount = str | float | Worked
"""A figure by the name that the stage uses for it, a plain number, or what is worked out from figures."""
GROUND = "0"
BEYOND = 0.1
"""Of its inductance, what a gapped core has left for more current than saturates it [judgement]."""


@dataclass(frozen=True)
class Part:
    """A part from `start` (plus, anode) to `end`; its value is the sum of figures and numbers.

    A sine has its amplitude as value and a `frequency`, a switch and a diode their resistance when on, a diode a
    `forward` voltage; `off` is their resistance when off. `pick` is the pick, or `order` the row of the parts list, that it stands for; `checks` are the
    judgements that mark it. A `neighbour` stands for what is joined here: drawn pale, bought elsewhere. `fitted` is a
    figure that is 0 where the part is not there: a wire stands in its place, or nothing where it stands `across`. An inductor `saturates` at so many amperes:
    beyond, BEYOND of its inductance is left.
    """

    kind: Kind
    name: str
    start: Point
    end: Point
    value: tuple[Amount, ...] = ()
    title: str = ""
    frequency: Amount = 0.0
    forward: Amount = 0.0
    off: float = OFF_RESISTANCE
    pick: str = ""
    order: str = ""
    checks: tuple[str, ...] = ()
    neighbour: bool = False
    fitted: str = ""
    across: bool = False
    saturates: str = ""

    @property
    def shown(self) -> str:
        """Its title, or its name as words."""
        return self.title or self.name.replace("_", " ").capitalize()

    @property
    def figures(self) -> tuple[str, ...]:
        """The figures that it is made of."""
        return _figures(*self.value, self.frequency, self.forward, *(name for name in (self.fitted, self.saturates) if name))


@dataclass(frozen=True)
class Course:
    """What a circuit is looked at through: so many seconds, what is switched, whether it repeats, and from which start (by element).

    Where it repeats the start is a guess: the nearer, the sooner it is found.
    Parts that are `silent` drive nothing all the while: a sine cannot be set to a level. With a `mirror` the second half is
    the first's mirror image: by inductor or capacitor the one that is half a period later as it is now, and with which sign
    (what is not named is as it was itself): what repeats itself is found in half of the time.
    """

    seconds: float
    events: tuple[Event, ...] = ()
    repeats: bool = True
    start: Mapping[str, float] = field(default_factory=dict)
    silent: frozenset[str] = frozenset()
    mirror: Mapping[str, tuple[str, float]] | None = None


@dataclass(frozen=True)
class Look:
    """A way to look at a circuit: a function of the place as it was solved that returns a course (or a run, solved by itself), and what is probed at first.

    `note` says beside the traces what they leave out of the sheet's figures, which it names in braces.
    """

    title: str
    fn: Callable[..., Any]
    probes: tuple[str, ...]
    note: str = ""


@dataclass(frozen=True)
class Joints:
    """Where a circuit is joined to those beside it: plus and minus of the side that power comes from, and of the side it goes to.

    On the sheet of the whole line-up a neighbour is drawn by its own stage; those of `keeps` belong to a stage without a
    circuit, and stay. `wires` are drawn there only.
    """

    into: tuple[Point, Point]
    out: tuple[Point, Point]
    keeps: tuple[str, ...] = ()
    wires: tuple[tuple[Point, ...], ...] = ()


@dataclass(frozen=True)
class Schematic:
    """Parts, wires (points joined in a row), grounds, named nodes, and inductors that share flux: (one, other, coefficient of coupling).

    What stands in the path of the power has `joints`, unless it is `apart`: drawn on the whole sheet with its neighbour.
    """

    parts: tuple[Part, ...]
    wires: tuple[tuple[Point, ...], ...] = ()
    grounds: tuple[Point, ...] = ()
    nodes: Mapping[str, Point] = field(default_factory=dict)
    couplings: tuple[tuple[str, str, Amount], ...] = ()
    joints: Joints | None = None
    apart: bool = False

    def __post_init__(self) -> None:
        names = [p.name for p in self.parts]
        for name in names:
            if names.count(name) > 1:
                raise DeclarationError(f"two parts of the schematic are called {name!r}", name=name)
        if not self.grounds:
            raise DeclarationError("the schematic has no ground")
        for name, point in self.nodes.items():
            if point not in self._groups:
                raise DeclarationError(f"the node {name!r} lies at {point}, where nothing is", name=name)
        self._refuse_open()
        self._refuse_floating()
        if self.joints is not None:
            self._refuse_joints(self.joints)

    def _refuse_joints(self, joints: Joints) -> None:
        wires = [s for wire in (*self.wires, *joints.wires) for s in pairwise(wire)]
        for name in joints.keeps:
            if not any(p.name == name and p.neighbour for p in self.parts):
                raise DeclarationError(f"{name!r} is no neighbour that the whole sheet could keep", name=name)
        for point in (*joints.into, *joints.out):
            if not any(lies_on(point, *wire) for wire in wires) and not any(point in (p.start, p.end) for p in self.parts):
                raise DeclarationError(f"a joint lies at {point}, where nothing is", name=str(point))

    @property
    def names(self) -> set[str]:
        """Every figure that it reads."""
        return set(_figures(*(a for *_, a in self.couplings))) | {f for p in self.parts for f in p.figures}

    @cached_property
    def laid(self) -> tuple[tuple[Part, str, str], ...]:
        """Every part with the nodes at its start and end."""
        return tuple((part, *self.ends(part)) for part in self.parts)

    def ends(self, part: Part) -> tuple[str, str]:
        """The nodes at a part's start and end."""
        return self._names[self._groups[part.start]], self._names[self._groups[part.end]]

    @cached_property
    def _groups(self) -> dict[Point, Point]:
        """Every point that something touches, with the one that speaks for all that are joined to it."""
        segments = [s for wire in self.wires for s in pairwise(wire)]
        touched = {p for part in self.parts for p in (part.start, part.end)} | {p for wire in self.wires for p in wire} | set(self.grounds)
        parent = {p: p for p in touched}

        def root(p: Point) -> Point:
            while parent[p] != p:
                p = parent[p]
            return p

        for one, other in segments:
            for p in touched:
                if lies_on(p, one, other):
                    parent[root(p)] = root(one)
        for p in self.grounds:
            parent[root(p)] = root(self.grounds[0])
        return {p: root(p) for p in touched}

    @cached_property
    def _names(self) -> dict[Point, str]:
        """Names of the joined points: the ground, those that are named, and the rest by number in the order of the parts."""
        names = {self._groups[self.grounds[0]]: GROUND}
        for name, point in self.nodes.items():
            known = names.setdefault(self._groups[point], name)
            if known != name:
                raise DeclarationError(f"the nodes {known!r} and {name!r} are joined", name=name)
        unnamed = 0
        for point in (p for part in self.parts for p in (part.start, part.end)):
            if self._groups[point] not in names:
                unnamed += 1
                names[self._groups[point]] = f"node {unnamed}"
        return names

    @cached_property
    def ways(self) -> dict[str, tuple[tuple[str, int], ...]]:
        """By which parts every node is reached from the ground, and with which sign their volts add up to the node's."""
        found: dict[str, tuple[tuple[str, int], ...]] = {GROUND: ()}
        grown = True
        while grown:
            grown = False
            for part in self.parts:
                plus, minus = self.ends(part)
                for node, other, sign in ((plus, minus, 1), (minus, plus, -1)):
                    if other in found and node not in found:
                        found[node], grown = (*found[other], (part.name, sign)), True
        return found

    @cached_property
    def dots(self) -> tuple[Point, ...]:
        """Where three or more meet."""
        return meeting(self.wires, [p for part in self.parts for p in (part.start, part.end)], self.grounds)

    def _refuse_open(self) -> None:
        count: dict[str, list[str]] = {}
        for part in self.parts:
            for node in self.ends(part):
                count.setdefault(node, []).append(part.name)
        for node, parts in count.items():
            if len(parts) < 2 and node != GROUND:
                raise DeclarationError(f"{parts[0]!r} is open at {node!r}: nothing else is joined to it", name=parts[0])

    def _refuse_floating(self) -> None:
        reached, more = {GROUND}, True
        while more:
            following = reached | {node for part in self.parts if reached & set(self.ends(part)) for node in self.ends(part)}
            more, reached = following != reached, following
        for part in self.parts:
            if not reached & set(self.ends(part)):
                raise DeclarationError(f"{part.name!r} floats: no way leads from it to the ground", name=part.name)


def meeting(wires: Sequence[Sequence[Point]], ends: Sequence[Point], grounds: Sequence[Point] = ()) -> tuple[Point, ...]:
    """Where three or more of wires, ends of parts and grounds meet."""
    segments = [s for wire in wires for s in pairwise(wire)]

    def meet(p: Point) -> int:
        through = sum(2 for one, other in segments if lies_on(p, one, other) and p not in (one, other))
        return through + sum(p in s for s in segments) + ends.count(p) + grounds.count(p)

    return tuple(sorted(p for p in {*ends, *grounds, *(p for s in segments for p in s)} if meet(p) > 2))


def holding(wires: Sequence[Sequence[Point]], held: set[Point]) -> tuple[tuple[Point, ...], ...]:
    """The wires as far as one of the points `held`, or another wire that leads to one, hangs on them."""
    left: list[tuple[Point, Point]] = [s for wire in wires for s in pairwise(wire)]
    while True:
        used = held | {p for wire in left for p in wire if sum(lies_on(p, *other) for other in left) > 1}
        shorter = [cut for wire in left if (cut := _cut(wire, used)) is not None]
        if shorter == left:
            return tuple(left)
        left = shorter


def _cut(wire: tuple[Point, Point], used: set[Point]) -> tuple[Point, Point] | None:
    """A wire from the first to the last of what hangs on it; None where that is one place only."""
    on = sorted(p for p in used if lies_on(p, *wire))
    if len(on) < 2:
        return None
    return (on[0], on[-1]) if wire[0] <= wire[1] else (on[-1], on[0])


def _figures(*amounts: Amount) -> tuple[str, ...]:
    return tuple(name for a in amounts for name in ((a,) if isinstance(a, str) else a.names if isinstance(a, Worked) else ()))


def lies_on(p: Point, one: Point, other: Point) -> bool:
    """Whether a point lies on a wire between two points (wires run along the grid)."""
    return min(one[0], other[0]) <= p[0] <= max(one[0], other[0]) and min(one[1], other[1]) <= p[1] <= max(one[1], other[1])
