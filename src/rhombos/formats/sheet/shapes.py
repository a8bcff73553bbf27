"""The shapes of what is sent: they document the routes, and the page's types are made from them."""

from typing import Literal

from typing_extensions import TypedDict  # pydantic wants this one before Python 3.12

Number = float | None
Verdict = Literal["fails", "unknown", "tight", "holds"]
Kind = Literal["given", "choice", "pick", "build", "operation", "published", "collected"]
HazardKind = Literal["dc_voltage", "pulsed_voltage", "ac_voltage", "energy", "fault_current", "discharge", "not_isolated", "never_dead"]


class FigureMeta(TypedDict):
    """A figure as its stage declares it. `whole`: it is a number of things."""

    name: str
    kind: Kind
    title: str
    symbol: str
    unit: str
    shown_unit: str
    sentence: str
    low: Number
    high: Number
    default: Number
    judgement: bool
    source: str
    owner: str
    group: str
    whole: bool


class CheckMeta(TypedDict):
    """A check as its stage declares it."""

    title: str
    why: str
    harm: str


class PickMeta(TypedDict):
    """A pick as its stage declares it; `type` is the type of part."""

    title: str
    sentence: str
    type: str


class ChoiceMeta(TypedDict):
    """A choice as its stage declares it; `options` are titles by key."""

    title: str
    sentence: str
    default: str
    options: dict[str, str]


class StageMeta(TypedDict):
    """A stage as it is declared, whatever line-up it stands in; `groups` are the headings of its sheet, in order."""

    title: str
    path: bool
    groups: list[str]
    figures: dict[str, FigureMeta]
    checks: dict[str, CheckMeta]
    picks: dict[str, PickMeta]
    choices: dict[str, ChoiceMeta]


class Stages(TypedDict):
    """Every stage; `hash` names this very text, so that it may be kept for ever."""

    hash: str
    stages: dict[str, StageMeta]


class Hazard(TypedDict):
    """What can hurt people at a place: `figure` measures it, from `above` (SI) on it is told."""

    kind: HazardKind
    figure: str
    above: float


class PlaceMeta(TypedDict):
    """A place of the line-up; `telling` are the words on the line, with keys in braces."""

    name: str
    title: str
    stage: str
    section: str
    host: str | None
    path: bool
    telling: str
    hazards: list[Hazard]
    pictures: list[str]
    schematic: bool


class Joint(TypedDict):
    """What is lettered between two places of the path; `kind` is that of the bus."""

    frm: str
    to: str
    kind: str
    voltage: str
    current: str
    sign: str
    tail: str


class WiredCheck(TypedDict):
    """A check at its place: the keys of what it compares."""

    key: str
    place: str
    name: str
    demand: str
    capability: str


class WiredPick(TypedDict):
    """A pick at its place, and the keys of the figures that it publishes."""

    key: str
    place: str
    name: str
    published: list[str]


class Extra(FigureMeta):
    """A figure that no stage declares: a sum over places, a bus, a given of what was cut off."""

    place: str


class Counted(TypedDict):
    """How a count follows from the sum that it makes: what each adds, by the option of the choice `by`."""

    title: str
    unit: str
    by: str
    each: dict[str, float]


class Field(TypedDict):
    """A given or choice that the brief asks for, at once where a new project is made."""

    group: str
    key: str
    at_once: bool
    counted: Counted | None


class Sum(TypedDict):
    """A figure that the brief shows, at a corner (index)."""

    title: str
    key: str
    group: str
    corner: int


class CornerMeta(TypedDict):
    """A corner: its id, its name, and whether it lasts."""

    id: str
    title: str
    lasts: bool


class LineUpMeta(TypedDict):
    """A line-up with its load rows: places, the order of the columns, and what is resolved at the places."""

    id: str
    title: str
    stages: str
    places: list[PlaceMeta]
    order: list[str]
    extra: dict[str, Extra]
    same: dict[str, str]
    checks: list[WiredCheck]
    picks: list[WiredPick]
    joints: list[Joint]
    corners: list[CornerMeta]
    first: int
    fields: list[Field]
    sums: list[Sum]
    views: list[str]


class Pinned(TypedDict, total=False):
    """A figure that is held: why, and what its own formula gives."""

    reason: str
    computed: list[Number]


class Part(TypedDict):
    """What a pick decided."""

    part: str
    quantity: int
    fits: bool
    pinned: bool


class Judged(TypedDict):
    """A check's margins and verdicts at every corner (null where there is no demand, or unknown)."""

    margin: list[Number]
    verdicts: list[Verdict]
    verdict: Verdict
    worst: int
    fail: Number
    hold: Number
    no_demand: bool


class Note(TypedDict, total=False):
    """What is to be said beside a figure of the open place, by corner ("all" where it has one value)."""

    unknown: dict[str, str]
    does_not_apply: dict[str, str]
    warnings: list[str]


class Open(TypedDict):
    """Words for the place that is open: notes by figure, sentences by check."""

    name: str
    notes: dict[str, Note]
    sentences: dict[str, str]


class Passes(TypedDict):
    """What the solve took, and what alternated to its end."""

    outer: int
    inner: int
    alternating: list[str]


class Columns(TypedDict):
    """A solved sheet: values in the order of the line-up, a list for a figure that has one for every corner."""

    values: list[list[Number] | Number]
    pinned: dict[str, Pinned]
    picks: list[Part]
    checks: list[Judged]
    passes: Passes
    open: Open | None


class RunnerUp(TypedDict):
    """A candidate with the need that decides about it."""

    part: str
    quantity: int
    price: Number
    fits: bool
    need: str
    capability: Number
    demand: Number
    level: Number
    unit: str
    margin: Number


class PickTold(TypedDict):
    """A pick explained: the part's record, its tightest need, and the runners-up, nearest first."""

    part: str
    quantity: int
    record: dict[str, float | str]
    fits: bool
    pinned: bool
    tightest: RunnerUp
    runners_up: list[RunnerUp]
