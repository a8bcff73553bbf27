"""What the routes answer with, where it is not a shape of the sheet: they document the interface, and the page's types follow."""

from dataclasses import dataclass
from typing import Literal

from typing_extensions import TypedDict  # pydantic wants this one before Python 3.12

from rhombos.api.drawings import Number, WindingCard
from rhombos.core.graph.why import Why
from rhombos.formats.design import Design


class CutRow(TypedDict):
    """A part of a line-up that may be a project of its own: up to the place that it names."""

    id: str
    title: str


class LineUpRow(TypedDict):
    """A line-up that there is; `sample`: it has a brief to be tried on; `parts`: behind which places it may be cut."""

    id: str
    title: str
    sample: bool
    parts: list[CutRow]


class StageRow(TypedDict):
    """A stage that may stand alone, and the family that it is of; `leads` are the titles of the first figures by which people know it."""

    name: str
    title: str
    family: str
    path: bool
    leads: list[str]


class Parsed(TypedDict):
    """What was typed, in SI, and written as the page writes it."""

    value: float
    text: str


@dataclass(frozen=True)
class Movable:
    """A given that a figure hangs on."""

    key: str
    title: str
    place: str


@dataclass(frozen=True)
class WhyTold(Why):
    """Why a number is what it is, and the givens by which it can be moved, nearest first."""

    movable: list[Movable]


class PartRow(TypedDict):
    """A part to order."""

    place: str
    what: str
    part: str
    description: str
    quantity: Number
    price: Number
    total: Number


class ThresholdRow(TypedDict):
    """Something that trips: its value with its unit, from and to with the tolerances of its parts, its delay and its reset in words."""

    place: str
    what: str
    acts: str
    low: str
    high: str
    after: str
    resets: str


class ProcedureTold(TypedDict):
    """What is done on the bench, step by step."""

    place: str
    title: str
    steps: list[str]


class BuildPack(TypedDict):
    """What to order, what to wind, what to set and try."""

    parts: list[PartRow]
    csv: str
    windings: list[WindingCard]
    thresholds: list[ThresholdRow]
    procedures: list[ProcedureTold]


class Trace(TypedDict):
    """A waveform as a screen can show it."""

    t: list[float]
    v: list[float]
    unit: str


class Traces(TypedDict):
    """The nodes that the scope shows."""

    node: Trace
    choke: Trace
    output: Trace
    link: Trace
    front: Trace
    load: Trace


class Harmonic(TypedDict):
    """Amplitudes of one harmonic, at the output and at the bridge."""

    order: int
    output: float
    node: float


class Meter(TypedDict):
    """What three kinds of meter show, and the peak."""

    true_rms: float
    average: float
    peak_scaled: float
    peak: float


class Meters(TypedDict):
    """Meters at the output and at the bridge."""

    output: Meter
    node: Meter


class RectifierTold(TypedDict):
    """What the loads with rectifier input draw together, A and W."""

    rms: float
    peak: float
    watts: float
    crest_factor: float
    power_factor: float


class ScopeTold(TypedDict):
    """One output period with its harmonics and read-outs."""

    period: float
    traces: Traces
    harmonics: list[Harmonic]
    carrier_order: float
    thd: float
    thd_limit: float
    residue: float
    ripple: float
    choke_ripple: float
    choke_peak: float
    sampling: str
    expected_distortion: float
    dead_time: float
    link_ripple: float
    index: float
    edges: int
    meters: Meters
    rectifier: RectifierTold | None
    note: str


class ProjectRow(TypedDict):
    """A project as the shelf shows it; `message` is that of its newest revision."""

    id: int
    title: str
    head: int
    message: str
    created: str
    touched: str
    standing: Literal["shelf", "away", "deleted"]


class RevisionRow(TypedDict):
    """A revision without its design."""

    number: int
    parent: int
    author: str
    message: str
    created: str


class Draft(TypedDict):
    """The draft of a project: its version, the revision it is based on, its design."""

    version: int
    base: int
    design: Design
    saved: str


class DecisionRow(TypedDict):
    """A decision on record."""

    id: int
    revision: int
    title: str
    reason: str
    numbers: dict[str, float | str | None]
    author: str
    created: str


class ChangedPart(TypedDict):
    """A part whose record in the design differs from the catalogue's now."""

    pick: str
    part: str
    what: str


class Project(ProjectRow):
    """A project with its draft, revisions and decisions."""

    draft: Draft
    revisions: list[RevisionRow]
    decisions: list[DecisionRow]
    catalogue_changes: list[ChangedPart]


class Made(TypedDict):
    """The id of what was made."""

    id: int


class Version(TypedDict):
    """The version that a draft has now."""

    version: int


class Revised(TypedDict):
    """The revision that was made, and the version of the draft that stands on it."""

    number: int
    version: int


class RevisionTold(TypedDict):
    """A revision's design."""

    number: int
    design: Design


class Health(TypedDict):
    """Version and database state."""

    name: str
    version: str
    database: Literal["up", "down"]


class WrongField(TypedDict):
    """What was given where, and what is allowed there."""

    field: str
    given: object
    allowed: object


class Problem(TypedDict, total=False):
    """An error answer: what is wrong, field by field; a conflict carries the other side."""

    error: str
    message: str
    fields: list[WrongField]
    theirs: Draft
