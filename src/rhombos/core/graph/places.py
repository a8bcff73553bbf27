"""What a line-up is made of: places for stages, and the buses between them."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from rhombos.core.graph.corners import STANDARD, CornerSet
from rhombos.core.graph.declare import Stage
from rhombos.core.graph.errors import WiringError

Rule = Literal["single", "ladder", "regulated"]


@dataclass(frozen=True)
class Place:
    """A stage placed in a line-up under a name.

    A path place takes from the bus `takes` (where none is named, from that of the path place before it) and gives to
    the bus `gives` (where none is named, to one of its own, under its own name). An attachment hangs on `host`.
    """

    name: str
    stage: Stage
    section: str
    title: str = ""
    host: str | None = None
    takes: str | None = None
    gives: str | None = None
    links: Mapping[str, str] = field(default_factory=dict)
    """Names that mean another place's figure here, by `place.name`."""
    supply: str | None = None
    """Where an attachment draws its power, if not from its host's rail (a bridge's gates, fed from the battery's side)."""

    @property
    def draws_at(self) -> str:
        return self.supply or self.host or self.name

    @property
    def shown(self) -> str:
        return self.title or self.stage.title


@dataclass(frozen=True)
class Bus:
    """A bus with more than one source: by which rule its voltage stands and its power is shared.

    `ladder`: every source has a set-point (`output_voltage`) and a limit (`output_power_limit`); the highest carries
    all up to its limit, the next the rest; the bus stands at the lowest set-point that carries.
    `regulated`: the place `regulator` holds the voltage and takes up what the others, who say themselves what they
    give (`output_power`), leave.
    """

    name: str
    rule: Rule
    regulator: str = ""


@dataclass(frozen=True)
class Sample:
    """A brief to try a line-up on: the title of every load row, and what is given, chosen and pinned by `place.name`.

    A pin is (value or part, reason).
    """

    title: str
    loads: Mapping[str, str]
    givens: Mapping[str, float] = field(default_factory=dict)
    choices: Mapping[str, str] = field(default_factory=dict)
    pins: Mapping[str, tuple[float | str, str]] = field(default_factory=dict)


@dataclass(frozen=True)
class LineUp:
    """An ordered set of places, source first, with the buses that have more than one source and the corners to solve at.

    `open`: names that nothing makes become givens (a line-up that was cut, a stage that stands alone).
    """

    id: str
    title: str
    places: tuple[Place, ...]
    buses: tuple[Bus, ...] = ()
    corners: CornerSet = STANDARD
    open: bool = False
    row: Stage | None = None
    """What a row of the load list is; rows hang on the last place of the path."""
    sample: Sample | None = None

    def place(self, name: str) -> Place:
        for place in self.places:
            if place.name == name:
                return place
        raise WiringError(f"line-up {self.id!r} has no place {name!r}", place=name)

    @property
    def path(self) -> tuple[Place, ...]:
        """The places that carry the power, source first."""
        return tuple(p for p in self.places if p.stage.path)

    def with_loads(self, names: tuple[str, ...]) -> "LineUp":
        """The line-up with one place for each load row, before what belongs to the whole of it."""
        if self.row is None:
            return self
        rows = tuple(Place(name, self.row, "loads", host=self.path[-1].name) for name in names)
        at = next((i for i, p in enumerate(self.places) if p.section == "whole"), len(self.places))
        return replace(self, places=(*self.places[:at], *rows, *self.places[at:]))

    def cut(self, first: str | None = None, last: str | None = None) -> "LineUp":
        """The part of the line-up from the path place `first` to `last`, with what hangs on them.

        The source or load that is cut off becomes givens of the bus it stood at, what else is missing givens outside.
        """
        names = [p.name for p in self.path]
        for name in (first, last):
            if name is not None and name not in names:
                raise WiringError(f"line-up {self.id!r} has no place {name!r} on its path; it has {', '.join(names)}", place=name)
        start, stop = names.index(first or names[0]), names.index(last or names[-1])
        kept = set(names[start : stop + 1])
        if not kept:
            raise WiringError(f"{first!r} stands behind {last!r} in line-up {self.id!r}", place=first)
        inside = tuple(p for p in self.places if p.name in kept or (p.host in kept and p.section not in ("loads", "whole")))
        return replace(self, places=inside, open=True, row=None)


def alone(stage: Stage) -> LineUp:
    """A stage that stands alone: a line-up of one place, whose ports are givens."""
    return LineUp(stage.name, stage.title, (Place(stage.name, stage, "alone"),), open=True)
