"""What a stage declares for those who read it: letters of its bus, hazards, parts to order, fields, comparisons, pictures.

All of it names figures as formulas do, and is resolved at the place as ports are (see `telling`).
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from rhombos.core.circuit.schematic import Look, Schematic
from rhombos.core.graph.errors import DeclarationError

BusKind = Literal["dc", "pulsed", "ac", "three_phase"]
HazardKind = Literal["dc_voltage", "pulsed_voltage", "ac_voltage", "energy", "fault_current", "discharge", "not_isolated", "never_dead"]
Group = Literal["source", "output", "surroundings"]
_BRACES = re.compile(r"\{(\w+)")
FULL: Mapping[str, float] = {"load_fraction": 1.0}


@dataclass(frozen=True)
class Letters:
    """The bus that a stage gives to: its kind, and the figures that letter it; `tail` stands behind the current."""

    kind: BusKind
    voltage: str
    current: str
    tail: str = ""


@dataclass(frozen=True)
class Hazard:
    """What can hurt people at a place: the kind, and the figure that measures it (the highest over the corners counts)."""

    kind: HazardKind
    figure: str


@dataclass(frozen=True)
class Ordered:
    """A row of the parts list beside the picks: what it is, its value and rating in words, how many, the price of one.

    In `part` and `rating` a name in braces is shown at its highest, `{name:lasting}` at its highest over the corners
    that last. `count` is a number, or figures and numbers whose product it is; `price` of one is a number (neutral
    credits), a figure, or a share of a figure.
    """

    what: str
    part: str
    rating: str
    count: int | tuple[str | float, ...]
    price: float | str | tuple[str, float]

    @property
    def names(self) -> list[str]:
        """The figures that its words name, in their order."""
        return _BRACES.findall(self.part + self.rating)


@dataclass(frozen=True)
class Trip:
    """A threshold at which something acts: the figure, its lowest and highest over the tolerances of its parts where they are
    figures, and in words (names in braces) how long it takes and what resets it.
    """

    what: str
    acts: str
    low: str | None
    high: str | None
    after: str
    resets: str
    when: str = ""
    """A figure (a column of a choice, say) without which there is no such thing."""


@dataclass(frozen=True)
class Procedure:
    """What is done on the bench, step by step, with the numbers that are to be expected (names in braces)."""

    title: str
    steps: tuple[str, ...]
    safety: bool = False
    """What keeps people whole comes before all else."""
    when: str = ""


@dataclass(frozen=True)
class Compared:
    """A row of the comparison of line-ups: a figure or pick, at the corner that stands there on the axes named."""

    title: str
    figure: str
    at: tuple[Mapping[str, float], ...] = (FULL,)


@dataclass(frozen=True)
class Field:
    """A given or choice that the brief asks for, `at_once` where a new project is made.

    A count may be asked by a sum instead, `each` being a column of the choice `by`: cells by the volts of the pack, say.
    """

    group: Group
    name: str
    at_once: bool = False
    by: str = ""
    each: str = ""
    sum: str = ""


@dataclass(frozen=True)
class Sum:
    """A figure that the brief shows beside what is typed, at the corner that stands there on the axes named."""

    title: str
    figure: str
    group: Literal["sums", "source"] = "sums"
    at: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Picture:
    """What a place looks like: `fn` is given the place as it was solved (`pictures.Seen`) and returns a plot, bars or a winding."""

    title: str
    fn: Callable[..., Any]
    reads: tuple[str, ...] = ()


class Shows:
    """The part of a stage that is declared for its readers."""

    def __init__(self) -> None:
        self.letters: Letters | None = None
        self.hazards: list[Hazard] = []
        self.orders: list[Ordered] = []
        self.trips: list[Trip] = []
        self.procedures: list[Procedure] = []
        self.compared: list[Compared] = []
        self.fields: list[Field] = []
        self.sums: list[Sum] = []
        self.pictures: list[Picture] = []
        self.schematic: Schematic | None = None
        self.looks: list[Look] = []
        self.views: dict[str, dict[str, str]] = {}
        self.usual: dict[str, float] = {}
        """What a port is usually here, where that is not what the vocabulary says of it everywhere."""

    def bus(self, kind: BusKind, voltage: str, current: str, tail: str = "") -> None:
        """Declare the bus that the stage gives to, and the figures (its own or such as it may read) that letter it."""
        self.letters = Letters(kind, voltage, current, tail)

    def hazard(self, kind: HazardKind, figure: str) -> None:
        """Declare what can hurt people here; `figure` is of this stage or one that it may read."""
        self.hazards.append(Hazard(kind, figure))

    def order(self, what: str, part: str, rating: str = "", *, count: int | tuple[str | float, ...] = 1, price: float | str | tuple[str, float]) -> None:
        """Declare a part to order that is not picked from the catalogue."""
        self.orders.append(Ordered(what, part, rating, count, price))

    def trip(self, what: str, acts: str, *, low: str | None = None, high: str | None = None, after: str = "", resets: str = "", when: str = "") -> None:
        """Declare a threshold at which something acts, where the figure `when` is not zero."""
        self.trips.append(Trip(what, acts, low, high, after, resets, when))

    def procedure(self, title: str, *steps: str, safety: bool = False, when: str = "") -> None:
        """Declare what is done on the bench, with names of figures in braces, where the figure `when` is not zero."""
        self.procedures.append(Procedure(title, steps, safety, when))

    def compare(self, title: str, figure: str, *at: Mapping[str, float]) -> None:
        """Declare a row of the comparison of line-ups."""
        self.compared.append(Compared(title, figure, at or (FULL,)))

    def ask(self, group: Group, *names: str, at_once: bool = False) -> None:
        """Declare givens and choices that the brief asks for, `at_once` where a new project is made."""
        self.fields += [Field(group, name, at_once) for name in names]

    def ask_count(self, group: Group, name: str, *, by: str, each: str, sum: str) -> None:
        """Declare a whole number that the brief asks for at once, or instead the `sum` that so many make, `each` adding a column of the choice `by`."""
        self.fields.append(Field(group, name, True, by, each, sum))

    def show_sum(self, title: str, figure: str, group: Literal["sums", "source"] = "sums", **at: float) -> None:
        """Declare a figure that the brief shows beside what is typed."""
        self.sums.append(Sum(title, figure, group, at))

    def view(self, name: str, **roles: str) -> None:
        """Declare which figures play which part in a view of the whole line-up (the scope, the winding card)."""
        if name in self.views:
            raise DeclarationError(f"the view {name!r} is declared twice", name=name)
        self.views[name] = roles

    def shown(self) -> set[str]:
        """The names that the declarations above name, beside those that formulas read."""
        names = {h.figure for h in self.hazards} | {s.figure for s in self.sums} | {c.figure for c in self.compared}
        names |= {self.letters.voltage, self.letters.current} if self.letters else set()
        for order in self.orders:
            names |= set(order.names)
            counted = order.count if isinstance(order.count, tuple) else ()
            names |= {c for c in counted if isinstance(c, str)}
        for trip in self.trips:
            names |= {n for n in (trip.acts, trip.low, trip.high) if n} | set(_BRACES.findall(trip.after + trip.resets))
        names |= {t.when for t in self.trips if t.when} | {p.when for p in self.procedures if p.when}
        names |= {name for procedure in self.procedures for step in procedure.steps for name in _BRACES.findall(step)}
        names |= self.schematic.names if self.schematic else set()
        names |= {name for look in self.looks for name in _BRACES.findall(look.note)}
        return names | {name for picture in self.pictures for name in picture.reads} | {f for view in self.views.values() for f in view.values()}

    def draw(self, schematic: Schematic) -> None:
        """Declare the circuit: what is drawn, probed and simulated."""
        if self.schematic is not None:
            raise DeclarationError("a stage has one schematic")
        self.schematic = schematic

    def look(self, title: str, *probes: str, note: str = "") -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        """Declare a way to look at the circuit, by a function of the place as it was solved; `probes` are what is shown at first ("v out", "i diode").

        `note` stands beside the traces, figures in braces: what of the sheet is not in them.
        """

        def declare(fn: Callable[..., Any]) -> Callable[..., Any]:
            self.looks.append(Look(title, fn, probes, note))
            return fn

        return declare

    def picture(self, title: str, *reads: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        """Declare a picture by a function of the place as it was solved; `reads` are the names of other stages that it draws."""

        def declare(fn: Callable[..., Any]) -> Callable[..., Any]:
            self.pictures.append(Picture(title, fn, reads))
            return fn

        return declare
