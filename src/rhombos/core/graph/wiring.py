"""Putting a line-up together: stages become places, parameter names become links between figures.

A name that a stage does not make itself is a port. It is looked up, in this order: an explicit link; the corner; the
host and its other attachments (for an attachment); the bus (`input_x` is what the sources make as `output_x`,
`output_x` what the loads make as `input_x`); the stage's own attachments; its section; the whole line-up. At the first
scope where the name is made exactly one place must make it. Distance never decides. All that cannot be resolved is
told at once.
"""

from collections.abc import Callable, Sequence
from typing import Any

from rhombos.core.graph.buses import Rail, ladder_share, ladder_voltage, left_over, rails_of, top, total, vector
from rhombos.core.graph.cones import cones
from rhombos.core.graph.declare import Every, Figure, Need
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.nodes import Node, WiredCheck, WiredNeed, WiredPick
from rhombos.core.graph.places import LineUp, Place
from rhombos.core.vocabulary import VOCABULARY

OUTSIDE = "outside"
"""Where a line-up that was cut keeps the givens of what it no longer has."""


class Wiring:
    """A line-up put together: nodes, picks and checks by index. Refuses what is unlinked, ambiguous or double."""

    def __init__(self, lineup: LineUp) -> None:
        self.lineup = lineup
        self.nodes: list[Node] = []
        self.index: dict[str, int] = {}
        self.picks: list[WiredPick] = []
        self.checks: list[WiredCheck] = []
        self.same: dict[str, str] = {}
        """Names that a place hands on under another one, by `place.name`: the key of the figure itself."""
        self._wrong: list[WiringError] = []
        self._whole = False
        self._collected: dict[tuple[Every, str], int] = {}
        self._joined: dict[tuple[str, ...], int] = {}
        self._by_name: dict[str, Place] = {}
        for place in lineup.places:
            if place.name in self._by_name:
                raise WiringError(f"line-up {lineup.id!r} has two places named {place.name!r}", place=place.name)
            self._by_name[place.name] = place
        self.rails, self.takes, self.gives = rails_of(lineup)
        self._makers: dict[str, list[Place]] = {}
        self._place_figures()
        self._link()
        if lineup.open:
            self._link_shown()
        self._refuse()
        self._whole = True
        said = [(name, self.index[f"{place.name}.{figure}"], usual) for place in lineup.places for name, (figure, usual) in place.stage.sizes.items()]
        self.sizes = {name: (index, usual) for name, index, usual in reversed(said)}
        """The sizes of the brief: the figure of each, the first place's that says so, and what is usual."""
        self._say_what_picks_read()
        self.children: list[list[int]] = [[] for _ in self.nodes]
        for node in self.nodes:
            for arg in node.args:
                self.children[arg].append(node.index)

    def path(self) -> list[Place]:
        """The places of the path, source first."""
        return list(self.lineup.path)

    def _refuse(self) -> None:
        if len(self._wrong) == 1:
            raise self._wrong[0]
        if self._wrong:
            told = list(dict.fromkeys(e.message for e in self._wrong))
            raise WiringError("; ".join(told), problems=told, makers=sorted({m for e in self._wrong for m in e.fields.get("makers", ())}))

    # -- places and their figures

    def _new(self, key: str, place: str, figure: Figure, fn: Callable[..., Any] | None = None, args: tuple[int, ...] = ()) -> int:
        index = len(self.nodes)
        params = tuple(self.nodes[a].key.replace(".", "__") for a in args)
        self.nodes.append(Node(index, key, place, figure, fn or figure.fn, args, params))
        self.index[key] = index
        return index

    def _place_figures(self) -> None:
        for axis in self.lineup.corners.axes:
            self._new(f"corner.{axis.name}", "corner", Figure(axis.name, "given", "", axis.symbol, axis.sentence, title=axis.title))
        for place in self.lineup.places:
            if place.host is not None and place.host not in self._by_name:
                raise WiringError(f"{place.name!r} hangs on {place.host!r}, which the line-up does not have", place=place.name)
            for name in place.stage.renames:
                self._makers.setdefault(name, []).append(place)
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
                    args = [self._noted(self._collect, place, collectors[p]) if p in collectors else self._noted(self.resolve, place, p) for p in figure.params]
                    self._set_args(node.index, tuple(args), figure.params)
            self._link_checks(place)
            for name in place.stage.renames:
                index = self._noted(self.resolve, place, name)
                self.index[f"{place.name}.{name}"] = index
                self.same[f"{place.name}.{name}"] = self.nodes[index].key
        for place in self.lineup.places:
            self._link_picks(place)

    def _link_shown(self) -> None:
        """Givens for what an open line-up shows and no formula of it reads."""
        for place in self.lineup.places:
            for name in place.stage.shown():
                if name not in place.stage.picks and name not in place.stage.choices and name in VOCABULARY:
                    self._noted(self.resolve, place, name)

    def _link_picks(self, place: Place) -> None:
        """Picks, once all checks are linked: their needs name some."""
        hung = [p for p in self.lineup.places if p.host == place.name]
        judged = {c.check.name: c for p in (*hung, place) for c in self.checks if c.place == p.name}
        for name, pick in place.stage.picks.items():
            published = tuple((f.column, self.index[f"{place.name}.{f.name}"]) for f in place.stage.figures.values() if f.owner == name)
            needs = [self._need(place, name, need, judged) for need in pick.needs]
            own = frozenset((place.name, *(p.name for p in hung)))
            key = f"{place.name}.{name}"
            self.picks.append(WiredPick(key, place.name, pick, self.index[key], published, tuple(n for n in needs if n is not None), own))

    def _need(self, place: Place, pick: str, need: str | Need, judged: dict[str, WiredCheck]) -> WiredNeed | None:
        """A need with its nodes; none for a check of an attachment that an open line-up does not have."""
        if isinstance(need, Need):
            capability, demand = (self._noted(self.resolve, place, side) for side in (need.capability, need.demand))
            return WiredNeed(need.title, capability, demand, need.level)
        if need in judged:
            check = judged[need]
            return WiredNeed(check.check.title, check.capability, check.demand, check.hold)
        if not self.lineup.open:
            makers = ", ".join(sorted(judged))
            self._wrong.append(WiringError(f"{place.name!r} picks {pick!r} by the check {need!r}; it and what hangs on it have {makers}", place=place.name))
        return None

    def _link_checks(self, place: Place) -> None:
        for name, check in place.stage.checks.items():
            fail, hold = (self._noted(self.resolve, place, level) if isinstance(level, str) else level for level in (check.fail, check.hold))
            demand, capability = (self._noted(self.resolve, place, side) for side in (check.demand, check.capability))
            self.checks.append(WiredCheck(f"{place.name}.{name}", place.name, check, demand, capability, fail, hold))

    def _noted(self, find: Callable[..., int], place: Place, what: Any) -> int:
        """What `find` finds; what it refuses is kept, so that all of it is told together."""
        try:
            return find(place, what)
        except WiringError as error:
            self._wrong.append(error)
            return 0

    def _say_what_picks_read(self) -> None:
        for index, cone in cones(self.nodes, [n.args for n in self.nodes], self.picks).items():
            self._set_args(index, cone.inputs, tuple(self.nodes[i].key.replace(".", "__") for i in cone.inputs))

    def _set_args(self, index: int, args: tuple[int, ...], params: tuple[str, ...]) -> None:
        node = self.nodes[index]
        self.nodes[index] = Node(index, node.key, node.place, node.figure, node.fn, args, params)

    # -- collectors

    def _collect(self, place: Place, collector: Every) -> int:
        within = self._scope(place, collector.scope)
        memo = (collector, ",".join(p.name for p in within))
        if memo in self._collected:
            return self._collected[memo]
        members = tuple(self._own(p, collector.name) for p in within if collector.name in p.stage.figures or collector.name in p.stage.renames)
        if not members:
            if self.lineup.open:
                return self._given(OUTSIDE, collector.name, place)
            raise WiringError(f"{place.name!r} collects every {collector.name!r} of its {collector.scope}, and nothing makes it", place=place.name)
        first = self.nodes[members[0]].figure
        where = {"host": f"{place.host or place.name} and its attachments", "section": f"section {place.section}", "line-up": "the line-up"}[collector.scope]
        figure = _gathered(first, f"every_{collector.name}", collector.name.replace("_", " "), collector.how, f"over {where}")
        key = f"{place.name}.every_{collector.name}_{collector.scope.replace('-', '_')}"
        self._collected[memo] = index = self._new(key, place.name, figure, total if collector.how == "sum" else top, members)
        return index

    def _scope(self, place: Place, scope: str) -> list[Place]:
        host = place.host or place.name
        if scope == "host":
            return [p for p in self.lineup.places if p.draws_at == host]
        if scope == "section":
            return [p for p in self.lineup.places if p.section == place.section]
        return list(self.lineup.places)

    # -- names

    def resolve(self, place: Place, name: str) -> int:
        """The node that the name `name` means at `place`, or WiringError naming the parties."""
        if name in place.stage.figures or name in place.stage.renames:
            return self._own(place, name)
        if name in place.links:
            target = place.links[name]
            if target in self.index:
                return self.index[target]
            there, _, what = target.partition(".")
            if there in self._by_name and what in self._by_name[there].stage.renames:
                return self._own(self._by_name[there], what)
            if not self.lineup.open:
                raise WiringError(f"{place.name!r} links {name!r} to {target!r}, which nothing makes", place=place.name, port=name)
        if f"corner.{name}" in self.index:
            return self.index[f"corner.{name}"]
        host = self._by_name[place.host] if place.host else place
        found = self._in_scopes(place, host, name)
        if found is None:
            if self.lineup.open:
                return self._given(OUTSIDE, name, place)
            raise WiringError(f"{place.name!r} reads {name!r}, and nothing in line-up {self.lineup.id!r} makes it", place=place.name, port=name)
        self._agree(found, name)
        return found

    def _own(self, place: Place, name: str) -> int:
        """A place's own figure, or what it hands on under that name."""
        if name in place.stage.figures:
            return self.index[f"{place.name}.{name}"]
        return self.resolve(place, place.stage.renames[name])

    def _in_scopes(self, place: Place, host: Place, name: str) -> int | None:
        makers = [p for p in self._makers.get(name, []) if p is not place]
        if place.host:
            near = [p for p in makers if p is host or p.host == host.name]
            if near:
                return self._only(place, name, near, "its host and the host's attachments")
        if host.stage.path:
            on_bus = self._on_bus(host, name)
            if on_bus is not None:
                return on_bus
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
        return self._own(makers[0], name)

    def _given(self, where: str, name: str, place: Place) -> int:
        """A given for what an open line-up lacks, at the value that is usual."""
        key = f"{where}.{name}"
        if key not in self.index:
            word = VOCABULARY.get(name)
            if self._whole:
                raise WiringError(f"{place.name!r} would read {name!r}, which the line-up does not have", place=place.name, port=name)
            usual = place.stage.usual.get(name, word.alone if word else None)
            if word is None or usual is None:
                raise WiringError(f"{place.name!r} reads {name!r}, for which the vocabulary has no usual value", place=place.name, port=name)
            title = name.replace("_", " ").capitalize()
            self._new(key, where, Figure(name, "given", word.unit, word.symbol, word.sentence, title=title, default=float(usual)))
        return self.index[key]

    def _agree(self, index: int, name: str) -> None:
        word = VOCABULARY.get(name)
        node = self.nodes[index]
        if word is not None and word.unit != node.figure.unit:
            raise WiringError(
                f"{node.key!r} is in {node.figure.unit or '1'!r}, the vocabulary has {name!r} in {word.unit or '1'!r}", port=name, makers=[node.place]
            )

    # -- buses

    def _on_bus(self, host: Place, name: str) -> int | None:
        """What a name of a port means on the bus of its side; None where the name is none, or nobody there makes it."""
        if name.startswith("input_"):
            bus = self.takes[host.name]
            return None if bus is None else self._across(self.rails[bus], "output_" + name[6:])
        if name.startswith("output_"):
            return self._through(self.rails[self.gives[host.name]], host, name)
        return None

    def _across(self, rail: Rail, name: str) -> int | None:
        """What the sources of a bus make: of one source its figure, of several by the bus's rule."""
        makers = [p for p in rail.sources if _makes(p, name)]
        if len(rail.sources) > 1 and name == "output_voltage":
            return self._shared_voltage(rail)
        if len(makers) > 1:
            raise WiringError(
                f"{name!r} of the bus {rail.name!r} is made by {', '.join(p.name for p in makers)}, and no rule joins it: link it to one",
                port=name,
                makers=[p.name for p in makers],
            )
        return self._own(makers[0], name) if makers else None

    def _through(self, rail: Rail, source: Place, name: str) -> int | None:
        """What the loads of a bus draw together, and of several sources the share of one."""
        if len(rail.sources) > 1 and name == "output_power":
            return self._share(rail, source)
        return self._drawn(rail, name)

    def _drawn(self, rail: Rail, name: str) -> int | None:
        twin = "input_" + name[7:]
        makers = [p for p in rail.loads if _makes(p, twin)]
        if not makers:
            return None
        if len(makers) < len(rail.loads):
            lacking = [p.name for p in rail.loads if p not in makers]
            raise WiringError(
                f"{', '.join(lacking)} on the bus {rail.name!r} makes no {twin!r}, as {', '.join(p.name for p in makers)} does", port=twin, makers=lacking
            )
        return self._own(makers[0], twin) if len(makers) == 1 else self._together(rail, name, makers, twin)

    def _together(self, rail: Rail, name: str, makers: Sequence[Place], twin: str) -> int:
        """One node for what several loads draw, by the rule of the vocabulary's word."""
        if (rail.name, name) in self._joined:
            return self._joined[rail.name, name]
        rule = VOCABULARY[name].joined if name in VOCABULARY else ""
        where = f"over {', '.join(p.name for p in makers)}"
        words = name[7:].replace("_", " ")
        if rule == "vector":
            parts = [self._drawn(rail, f"output_{kind}") for kind in ("power", "reactive_power", "distortion_power")]
            if None in parts:
                raise WiringError(f"the bus {rail.name!r} has no power, reactive and distortion power to join {name!r} from", port=name)
            members = tuple(p for p in parts if p is not None)
        elif rule:
            members = tuple(self._own(p, twin) for p in makers)
        else:
            raise WiringError(
                f"no rule joins {name!r} of the bus {rail.name!r}, drawn by {', '.join(p.name for p in makers)}", port=name, makers=[p.name for p in makers]
            )
        first = self.nodes[members[-1]].figure
        fn: Callable[..., Any] = {"vector": vector, "sum": total}.get(rule, top)
        figure = _gathered(first, name, words, "highest" if rule == "highest" else "sum", where)
        self._joined[rail.name, name] = index = self._new(f"{rail.name}_bus.{name[7:]}", f"{rail.name}_bus", figure, fn, members)
        return index

    def _share(self, rail: Rail, source: Place) -> int | None:
        """The power that one of several sources gives."""
        memo = (rail.name, "output_power", source.name)
        if memo in self._joined:
            return self._joined[memo]
        drawn = self._drawn(rail, "output_power")
        if drawn is None or rail.rule is None:
            return None
        others = [p for p in rail.sources if p is not source]
        if rail.rule.rule == "regulated":
            members = (drawn, *(self._must(rail, p, "output_power") for p in others))
            fn: Callable[..., Any] = left_over
        else:
            members = (drawn, *self._steps(rail))
            fn = ladder_share(rail.sources.index(source), len(rail.sources))
        figure = Figure("output_power", "collected", "W", "P", f"Power that {source.shown} gives to the bus.", title=f"Power given by {source.shown}")
        self._joined[memo] = index = self._new(f"{source.name}.share_of_{rail.name}", source.name, figure, fn, members)
        return index

    def _shared_voltage(self, rail: Rail) -> int | None:
        if rail.rule is not None and rail.rule.rule == "regulated":
            return self._must(rail, self._by_name[rail.rule.regulator], "output_voltage")
        memo = (rail.name, "output_voltage")
        if memo not in self._joined:
            drawn = self._drawn(rail, "output_power")
            if drawn is None:
                return None
            figure = Figure(
                "voltage", "collected", "V", "V", f"Voltage of the bus {rail.name}: the lowest set-point that carries.", title="Bus voltage", start=None
            )
            self._joined[memo] = self._new(
                f"{rail.name}_bus.voltage", f"{rail.name}_bus", figure, ladder_voltage(len(rail.sources)), (drawn, *self._steps(rail))
            )
        return self._joined[memo]

    def _steps(self, rail: Rail) -> tuple[int, ...]:
        """Set-points, then limits, of the sources of a ladder."""
        return tuple(self._must(rail, p, name) for name in ("output_voltage", "output_power_limit") for p in rail.sources)

    def _must(self, rail: Rail, place: Place, name: str) -> int:
        if not _makes(place, name):
            raise WiringError(f"{place.name!r} gives to the bus {rail.name!r} beside others and must make {name!r}", place=place.name, port=name)
        return self._own(place, name)


def _makes(place: Place, name: str) -> bool:
    return name in place.stage.figures or name in place.stage.renames


def _gathered(first: Figure, name: str, words: str, how: str, where: str) -> Figure:
    """What stands for several figures: their sum, or the highest of them."""
    word, sign = ("Sum of", r"\sum") if how == "sum" else ("Highest", r"\max")
    return Figure(name, "collected", first.unit, rf"{sign} {first.symbol}", f"{word} {words} {where}.", title=f"{word} {words}, {where.removeprefix('over ')}")
