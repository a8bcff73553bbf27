"""Putting a line-up together: stages become places, parameter names become links between figures.

A name that a stage does not make itself is a port. It is looked up, in this order: an explicit link; the host and
its other attachments (for an attachment); the joint (`input_x` is the feeding stage's `output_x`, `output_x` the load
side's `input_x`); the stage's own attachments; its section; the whole line-up. At the first scope where the name is
made exactly one place must make it. Distance never decides.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from rhombos.core.graph.declare import Check, Every, Figure, Pick, Stage
from rhombos.core.graph.errors import WiringError
from rhombos.core.vocabulary import VOCABULARY


@dataclass(frozen=True)
class Place:
    """A stage placed in a line-up under a name."""

    name: str
    stage: Stage
    section: str
    title: str = ""
    host: str | None = None
    fed_by: str | None = None
    links: Mapping[str, str] = field(default_factory=dict)
    supply: str | None = None
    """Where an attachment draws its power, if not from its host's rail (a bridge's gates, fed from the battery's side)."""

    @property
    def draws_at(self) -> str:
        return self.supply or self.host or self.name

    @property
    def shown(self) -> str:
        return self.title or self.stage.title


@dataclass(frozen=True)
class LineUp:
    """An ordered set of places, source first; `corner` figures are supplied by the solver."""

    id: str
    title: str
    places: tuple[Place, ...]

    def place(self, name: str) -> Place:
        for place in self.places:
            if place.name == name:
                return place
        raise WiringError(f"line-up {self.id!r} has no place {name!r}", place=name)


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


HAZARD_LEVELS: dict[str, float] = {"dc_voltage": 60.0, "pulsed_voltage": 60.0, "ac_voltage": 30.0, "energy": 10.0, "fault_current": 100.0, "discharge": 1.0}
"""From where on people are told: V DC, V at the peak of pulses, V AC rms, J, A into a short, s to 60 V."""

CORNER_FIGURES = (
    Figure("source_level", "given", "", r"\lambda", "Source level of the corner: 0 lowest, 1 nominal, 2 highest.", title="Source level"),
    Figure("load_fraction", "given", "", r"x", "Load of the corner as a fraction of the brief's full load.", title="Load fraction"),
    Figure("surge", "given", "", r"\sigma", "1 at a surge corner, else 0.", title="Surge"),
    Figure(
        "surge_by_watts",
        "given",
        "",
        r"\sigma_W",
        "1 where the start with the most watts decides, 0 where the one with the highest VA does.",
        title="Surge by watts",
    ),
)


def _sum(*values: Any) -> Any:
    total = values[0]
    for value in values[1:]:
        total = total + value
    return total


def _highest_of(*values: Any) -> Any:
    import numpy as np

    top = values[0]
    for value in values[1:]:
        top = np.fmax(top, value)
    return top


class Wiring:
    """A line-up put together: nodes, picks and checks by index. Refuses what is unlinked, ambiguous or double."""

    def __init__(self, lineup: LineUp) -> None:
        self.lineup = lineup
        self.nodes: list[Node] = []
        self.index: dict[str, int] = {}
        self.picks: list[WiredPick] = []
        self.checks: list[WiredCheck] = []
        self._collected: dict[tuple[Every, str], int] = {}
        self._path = [p for p in lineup.places if p.stage.path]
        self._by_name: dict[str, Place] = {}
        for place in lineup.places:
            if place.name in self._by_name:
                raise WiringError(f"line-up {lineup.id!r} has two places named {place.name!r}", place=place.name)
            self._by_name[place.name] = place
        self._makers: dict[str, list[Place]] = {}
        self._place_figures()
        self._link()
        self.children: list[list[int]] = [[] for _ in self.nodes]
        for node in self.nodes:
            for arg in node.args:
                self.children[arg].append(node.index)

    def _new(self, key: str, place: str, figure: Figure) -> int:
        index = len(self.nodes)
        self.nodes.append(Node(index, key, place, figure, figure.fn))
        self.index[key] = index
        return index

    def _place_figures(self) -> None:
        for figure in CORNER_FIGURES:
            self._new(f"corner.{figure.name}", "corner", figure)
        for place in self.lineup.places:
            if place.host is not None and place.host not in self._by_name:
                raise WiringError(f"{place.name!r} hangs on {place.host!r}, which the line-up does not have", place=place.name)
            for name, figure in place.stage.figures.items():
                self._makers.setdefault(name, []).append(place)
                self._new(f"{place.name}.{name}", place.name, figure)
            for name, pick in place.stage.picks.items():
                key = f"{place.name}.{name}"
                if key in self.index:
                    raise WiringError(f"{key!r} is both a figure and a pick", place=place.name)
                self._new(key, place.name, Figure(name, "pick", "", "", pick.sentence, title=pick.title, group=pick.group, source=pick.source))

    def _link(self) -> None:
        for place in self.lineup.places:
            for name, figure in place.stage.figures.items():
                node = self.nodes[self.index[f"{place.name}.{name}"]]
                if figure.kind == "published" and figure.owner in place.stage.picks:
                    self._set_args(node.index, (self.index[f"{place.name}.{figure.owner}"],), (figure.owner,))
                elif figure.fn is not None and figure.kind in ("build", "operation"):
                    collectors = figure.collectors
                    args = tuple(self._collect(place, collectors[p]) if p in collectors else self.resolve(place, p) for p in figure.params)
                    self._set_args(node.index, args, figure.params)
            for name, pick in place.stage.picks.items():
                index = self.index[f"{place.name}.{name}"]
                self._set_args(index, tuple(self.resolve(place, p) for p in pick.params), pick.params)
                published = tuple((f.column, self.index[f"{place.name}.{f.name}"]) for f in place.stage.figures.values() if f.owner == name)
                self.picks.append(WiredPick(f"{place.name}.{name}", place.name, pick, index, pick.params, published))
            for name, check in place.stage.checks.items():
                levels = [self.resolve(place, level) if isinstance(level, str) else level for level in (check.fail, check.hold)]
                self.checks.append(
                    WiredCheck(
                        f"{place.name}.{name}",
                        place.name,
                        check,
                        self.resolve(place, check.demand),
                        self.resolve(place, check.capability),
                        levels[0],
                        levels[1],
                    )
                )

    def _set_args(self, index: int, args: tuple[int, ...], params: tuple[str, ...]) -> None:
        node = self.nodes[index]
        self.nodes[index] = Node(index, node.key, node.place, node.figure, node.fn, args, params)

    def _collect(self, place: Place, collector: Every) -> int:
        within = self._scope(place, collector.scope)
        memo = (collector, ",".join(p.name for p in within))
        if memo in self._collected:
            return self._collected[memo]
        members = tuple(self.index[f"{p.name}.{collector.name}"] for p in within if collector.name in p.stage.figures)
        if not members:
            raise WiringError(f"{place.name!r} collects every {collector.name!r} of its {collector.scope}, and nothing makes it", place=place.name)
        first = self.nodes[members[0]].figure
        where = {"host": f"{place.host or place.name} and its attachments", "section": f"section {place.section}", "line-up": "the line-up"}[collector.scope]
        word = "Sum of" if collector.how == "sum" else "Highest"
        figure = Figure(
            f"every_{collector.name}",
            "collected",
            first.unit,
            rf"\sum {first.symbol}" if collector.how == "sum" else rf"\max {first.symbol}",
            f"{word} {collector.name.replace('_', ' ')} over {where}.",
            title=f"{word} {collector.name.replace('_', ' ')}, {where}",
        )
        key = f"{place.name}.every_{collector.name}_{collector.scope.replace('-', '_')}"
        index = self._new(key, place.name, figure)
        params = tuple(self.nodes[m].key.replace(".", "__") for m in members)
        self.nodes[index] = Node(index, key, place.name, figure, _sum if collector.how == "sum" else _highest_of, members, params)
        self._collected[memo] = index
        return index

    def _scope(self, place: Place, scope: str) -> list[Place]:
        host = place.host or place.name
        if scope == "host":
            return [p for p in self.lineup.places if p.draws_at == host]
        if scope == "section":
            return [p for p in self.lineup.places if p.section == place.section]
        return list(self.lineup.places)

    def resolve(self, place: Place, name: str) -> int:
        """The node that the name `name` means at `place`, or WiringError naming the parties."""
        if name in place.stage.figures:
            return self.index[f"{place.name}.{name}"]
        if name in place.links:
            target = place.links[name]
            if target not in self.index:
                raise WiringError(f"{place.name!r} links {name!r} to {target!r}, which nothing makes", place=place.name, port=name)
            return self.index[target]
        if f"corner.{name}" in self.index:
            return self.index[f"corner.{name}"]
        host = self._by_name[place.host] if place.host else place
        found = self._in_scopes(place, host, name)
        if found is None:
            raise WiringError(f"{place.name!r} reads {name!r}, and nothing in line-up {self.lineup.id!r} makes it", place=place.name, port=name)
        self._agree(found, name)
        return found

    def _in_scopes(self, place: Place, host: Place, name: str) -> int | None:
        makers = [p for p in self._makers.get(name, []) if p is not place]
        if place.host:
            near = [p for p in makers if p is host or p.host == host.name]
            if near:
                return self._only(place, name, near, "its host and the host's attachments")
        joint = self._joint(host, name)
        if joint is not None:
            return joint
        scopes = [
            (f"its own attachments on {host.name!r}", [p for p in makers if p.host == host.name]),
            (f"section {place.section!r}", [p for p in makers if p.section == place.section]),
            ("the whole line-up", makers),
        ]
        for title, members in scopes:
            if members:
                return self._only(place, name, members, title)
        return None

    def _only(self, place: Place, name: str, makers: Sequence[Place], scope: str) -> int:
        if len(makers) > 1:
            raise WiringError(
                f"{place.name!r} reads {name!r}; in {scope} it is made by {', '.join(p.name for p in makers)}: link it to one",
                place=place.name,
                port=name,
                makers=[p.name for p in makers],
            )
        return self.index[f"{makers[0].name}.{name}"]

    def _joint(self, host: Place, name: str) -> int | None:
        if not host.stage.path:
            return None
        at = self._path.index(host)
        if name.startswith("input_"):
            feeder = self._by_name[host.fed_by] if host.fed_by else (self._path[at - 1] if at else None)
            other, twin = feeder, "output_" + name[6:]
        elif name.startswith("output_"):
            fed = [p for p in self._path if p.fed_by == host.name]
            after = self._path[at + 1] if at + 1 < len(self._path) else None
            other, twin = (fed[0] if fed else (after if after is not None and after.fed_by is None else None)), "input_" + name[7:]
        else:
            return None
        if other is None or twin not in other.stage.figures:
            return None
        return self.index[f"{other.name}.{twin}"]

    def _agree(self, index: int, name: str) -> None:
        word = VOCABULARY.get(name)
        node = self.nodes[index]
        if word is not None and word.unit != node.figure.unit:
            raise WiringError(
                f"{node.key!r} is in {node.figure.unit or '1'!r}, the vocabulary has {name!r} in {word.unit or '1'!r}", port=name, makers=[node.place]
            )

    def telling(self, place: Place) -> str:
        """The place's telling words, each name in braces replaced by the key of the figure, pick or choice it means."""

        def key(match: re.Match[str]) -> str:
            name = match[1]
            own = name in place.stage.picks or name in place.stage.choices
            return "{%s}" % (f"{place.name}.{name}" if own else self.nodes[self.resolve(place, name)].key)

        return re.sub(r"\{(\w+)\}", key, place.stage.telling)

    def hazards(self, place: Place) -> list[dict[str, Any]]:
        """What can hurt people at the place: kind, the figure's key, and the level from which it counts (SI)."""
        return [{"kind": h.kind, "figure": self.nodes[self.resolve(place, h.figure)].key, "above": HAZARD_LEVELS[h.kind]} for h in place.stage.hazards]

    def path(self) -> list[Place]:
        """The places of the path, source first."""
        return list(self._path)
