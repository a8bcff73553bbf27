"""Pictures of a place: what the stage's functions are given, and the plain forms that they return.

Five forms draw everything: a plot (curves over something), bars (ranges on one scale), a winding (strands in a window),
scenes (what happens one way or another: plots over one time, and under them what was switched), a table (ways side by side).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass
from typing import Any, Literal

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.curves import Curve, over_load, over_source, pinned
from rhombos.core.graph.model import Model
from rhombos.core.graph.places import Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import has, key_of

Tone = Literal["copper", "slate", "hold", "tight", "fail"]


@dataclass(frozen=True)
class Series:
    """One curve: x and y in SI; null leaves a gap."""

    name: str
    x: Sequence[float | None] | Values
    y: Sequence[float | None] | Values
    tone: Tone = "copper"
    dashed: bool = False


@dataclass(frozen=True)
class Mark:
    """A point with a name."""

    name: str
    x: float
    y: float


@dataclass(frozen=True)
class Limit:
    """A named level across a picture."""

    name: str
    value: float


@dataclass(frozen=True)
class Plot:
    """Curves over something; units are SI names, "" is a share shown in percent. `log` puts x on decades, `log_y` y."""

    x_name: str
    x_unit: str
    y_unit: str
    series: Sequence[Series]
    limits: Sequence[Limit] = ()
    marks: Sequence[Mark] = ()
    y_from: float | None = None
    y_to: float | None = None
    log: bool = False
    log_y: bool = False
    note: str = ""
    form: Literal["plot"] = "plot"


@dataclass(frozen=True)
class Bar:
    """A range on the common scale; `ring` is a point within it, `weak` draws it pale, `strong` thick."""

    name: str
    start: float
    end: float
    tone: Tone = "copper"
    ring: float | None = None
    weak: bool = False
    strong: bool = False


@dataclass(frozen=True)
class Bars:
    """Ranges under one another on one scale, with named levels across them. `from_zero` begins the scale at nothing."""

    unit: str
    bars: Sequence[Bar]
    limits: Sequence[Limit] = ()
    note: str = ""
    from_zero: bool = False
    form: Literal["bars"] = "bars"


@dataclass(frozen=True)
class Winding:
    """A winding card, drawn as its window to scale."""

    card: Mapping[str, Any]
    form: Literal["winding"] = "winding"


@dataclass(frozen=True)
class Track:
    """From when to when something was on."""

    name: str
    spans: Sequence[tuple[float, float]]


@dataclass(frozen=True)
class Scene:
    """One way that it may go: plots over the same time, what was switched, and how it ends; `good` if that is as it should."""

    name: str
    plots: Sequence[Plot]
    tracks: Sequence[Track]
    said: str
    good: bool


@dataclass(frozen=True)
class Scenes:
    """Several ways that it may go, one of which is looked at."""

    scenes: Sequence[Scene]
    note: str = ""
    form: Literal["scenes"] = "scenes"


@dataclass(frozen=True)
class Way:
    """One way of a table, in words and written numbers; how it would do, "" where that is not judged. The one taken is `chosen`."""

    cells: Sequence[str]
    verdict: Literal["holds", "tight", "fails", "unknown", ""] = ""
    chosen: bool = False


@dataclass(frozen=True)
class Table:
    """Ways that something may be done, or go wrong, side by side."""

    columns: Sequence[str]
    rows: Sequence[Way]
    note: str = ""
    form: Literal["table"] = "table"


class Seen:
    """A place as it was solved: figures by the names that the stage uses, at one corner or at all."""

    def __init__(self, model: Model, sheet: Sheet, place: Place, corner: int) -> None:
        self.model, self.sheet, self.place, self.corner = model, sheet, place, corner
        self.corners = [c.title for c in sheet.corners.corners]

    def key(self, name: str) -> str:
        """The key of what a name means here."""
        return key_of(self.model.wiring, self.place, name)

    def has(self, name: str) -> bool:
        """Whether the line-up has what the name means."""
        return has(self.model.wiring, self.place, name)

    def each(self, name: str) -> Values:
        """A figure at every corner (SI; not a number where unknown)."""
        return np.broadcast_to(self.sheet.value(self.key(name)), (len(self.corners),))

    def at(self, name: str) -> float:
        """A figure at the corner looked at."""
        return self.sheet.number(self.key(name), self.corner)

    def lasting(self, name: str) -> Values:
        """A figure at the corners that last."""
        return self.each(name)[self.sheet.corners.lasting]

    def over_source(self, *names: str) -> Curve:
        """Figures over the window of the source at full load, the build held; series go by the names asked for."""
        keys = [self.key(n) for n in names]
        curve = over_source(self.model, self.sheet, self.key("source_voltage"), keys)
        return Curve(curve.x, {n: curve.series[k] for n, k in zip(names, keys, strict=True)})

    def over_load(self, name: str) -> Curve:
        """A figure over the load at the lowest, nominal and highest source, the build held."""
        return over_load(self.model, self.sheet, self.key(name))

    def pinned(self, name: str, values: Values, goal: str, *, held: bool) -> Values:
        """A figure at this corner with another pinned to each of many values, the rest of the build held or sized anew."""
        goal = self.key(goal)
        corner = self.sheet.corners.ids[self.corner]
        return pinned(self.model, self.sheet, self.key(name), values, [goal], corner, held=held)[goal]

    def every(self, name: str) -> list[tuple[str, float]]:
        """A figure of every place that makes it, at the corner looked at: name of the place and value."""
        rows = []
        for place in self.model.wiring.lineup.places:
            if name in place.stage.figures or name in place.stage.renames:
                value = float(np.broadcast_to(self.sheet.value(f"{place.name}.{name}"), (len(self.corners),))[self.corner])
                rows.append((place.name, value))
        return rows

    def allowed(self, name: str) -> list[tuple[str, float, float]]:
        """What every check on a figure allows: title of its capability, the lowest capability, and the margin that holds."""
        index = self.model.wiring.index[self.key(name)]
        verdicts = self.sheet.judge()
        rows = []
        for row, check in enumerate(self.model.wiring.checks):
            if check.demand == index:
                title = self.model.wiring.nodes[check.capability].figure.title
                rows.append((title, least(verdicts.capability[row]), least(verdicts.hold[row])))
        return rows


def least(values: Values) -> float:
    """The least of those that are known; not a number where none is."""
    return float(np.fmin.reduce(values))


def most(values: Values) -> float:
    """The greatest of those that are known; not a number where none is."""
    return float(np.fmax.reduce(values))


def pictures_of(model: Model, sheet: Sheet, place: Place, corner: int) -> list[dict[str, Any]]:
    """The pictures of a place at a corner, as plain values; where figures are unknown, empty ones."""
    seen = Seen(model, sheet, place, corner)
    with np.errstate(all="ignore"):
        return [{"title": p.title, **_plain(p.fn(seen))} for p in place.stage.pictures if all(seen.has(name) for name in p.reads)]


def _plain(value: Any) -> Any:
    """Numbers that are not finite become null; arrays become lists."""
    if is_dataclass(value):
        return {field.name: _plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, dict):
        return {k: _plain(v) for k, v in value.items()}
    if isinstance(value, np.ndarray):
        return value.tolist() if np.isfinite(value).all() else _plain(value.tolist())
    if isinstance(value, list | tuple):
        return [_plain(v) for v in value]
    if isinstance(value, float | np.floating):
        return float(value) if np.isfinite(value) else None
    return value
