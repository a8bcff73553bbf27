"""Response models of pictures and winding cards: what the page draws."""

from typing import Literal

from typing_extensions import TypedDict  # pydantic wants this one before Python 3.12

Number = float | None


class Series(TypedDict):
    """One curve of a picture."""

    name: str
    x: list[Number]
    y: list[Number]
    tone: Literal["copper", "slate", "hold", "tight", "fail"]
    dashed: bool


class Mark(TypedDict):
    """A point with a name."""

    name: str
    x: Number
    y: Number


class Limit(TypedDict):
    """A named level."""

    name: str
    value: Number


class ScenePlot(TypedDict):
    """Curves over something."""

    form: Literal["plot"]
    x_name: str
    x_unit: str
    y_unit: str
    series: list[Series]
    limits: list[Limit]
    marks: list[Mark]
    y_from: Number
    y_to: Number
    log: bool
    log_y: bool
    note: str


class Plot(ScenePlot):
    """Curves that stand by themselves."""

    title: str


class Bar(TypedDict):
    """A range on the common scale."""

    name: str
    start: Number
    end: Number
    tone: Literal["copper", "slate", "hold", "tight", "fail"]
    ring: Number
    weak: bool
    strong: bool


class Bars(TypedDict):
    """Ranges under one another on one scale."""

    form: Literal["bars"]
    title: str
    unit: str
    bars: list[Bar]
    limits: list[Limit]
    note: str
    from_zero: bool


class CardCore(TypedDict):
    """Geometry of the core (SI)."""

    area: float
    window: float
    breadth: float
    mean_turn: float


class Layer(TypedDict):
    """What is wound in one go."""

    name: str
    turns: float
    strands: float
    diameter: float
    length: float
    resistance: float
    mass: float
    start: str
    finish: str
    note: str


class WindingCard(TypedDict):
    """What a person holds while winding a transformer."""

    place: str
    title: str
    halves: int
    core: CardCore
    order: list[Layer]
    interfaces: Number
    insulation: Number
    expected: dict[str, Number]
    test: str
    unknown: list[str]
    """What is not known of it, in words: then it cannot be wound from this card."""


class Winding(TypedDict):
    """A winding drawn as its window to scale."""

    form: Literal["winding"]
    title: str
    card: WindingCard


class Track(TypedDict):
    """From when to when something was on (s)."""

    name: str
    spans: list[tuple[float, float]]


class Scene(TypedDict):
    """One way that it may go."""

    name: str
    plots: list[ScenePlot]
    tracks: list[Track]
    said: str
    good: bool


class Scenes(TypedDict):
    """Several ways that it may go, one of which is looked at."""

    form: Literal["scenes"]
    title: str
    scenes: list[Scene]
    note: str


class Way(TypedDict):
    """One way of a table, and how it would do; the one taken is `chosen`."""

    cells: list[str]
    verdict: Literal["holds", "tight", "fails", "unknown", ""]
    chosen: bool


class Table(TypedDict):
    """Ways that something may be done, or go wrong, side by side."""

    form: Literal["table"]
    title: str
    columns: list[str]
    rows: list[Way]
    note: str


Picture = Plot | Bars | Winding | Scenes | Table
