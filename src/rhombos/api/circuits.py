"""Questions to the circuits of stages: what is drawn, and what a probe shows."""

from typing import Any, Literal

from fastapi import APIRouter
from typing_extensions import TypedDict  # pydantic wants this one before Python 3.12

from rhombos.api.answer import Answer
from rhombos.api.answers import Meter
from rhombos.api.schemas import AskCorner, AskLook, AskPicture, AskProbe
from rhombos.api.service import Sheets, corner_of, place_of
from rhombos.core.circuit.drawn import drawn, probe, read_out
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.whole import whole
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.pictures import Seen
from rhombos.formats.build_pack import beside

Point = tuple[float, float]


class DrawnPart(TypedDict):
    """A part from its start (plus, anode) to its end, lettered with its value; `neighbour`: it is joined here, not the stage's own."""

    kind: Literal["source", "sine", "current", "resistor", "inductor", "capacitor", "switch", "diode", "wire"]
    name: str
    title: str
    start: Point
    end: Point
    text: str
    nodes: tuple[str, str]
    figure: str | None
    verdict: Literal["holds", "tight", "fails", "unknown", ""]
    neighbour: bool


class DrawnNode(TypedDict):
    """A node and a point of it."""

    name: str
    at: Point
    named: bool


class LookTold(TypedDict):
    """A way to look at the circuit, what is probed at first, and what of the sheet's figures is not in its traces ("" where nothing is said)."""

    title: str
    probes: list[str]
    note: str


class Box(TypedDict):
    """How far something reaches on the grid."""

    left: float
    right: float
    top: float
    bottom: float


class Beside(TypedDict):
    """A part that is ordered for the stage and none of the circuit's elements: its value in words, how many, the figure that it opens."""

    title: str
    text: str
    quantity: float | None
    figure: str | None


class Drawn(Box):
    """A schematic on its grid, and what stands beside it."""

    parts: list[DrawnPart]
    wires: list[list[Point]]
    dots: list[Point]
    grounds: list[Point]
    nodes: list[DrawnNode]
    looks: list[LookTold]
    beside: list[Beside]


class Frame(Box):
    """A place's part of the whole sheet."""

    place: str
    title: str


class Tag(TypedDict):
    """Where a row of the sheet ends, or goes on: what is joined there."""

    at: Point
    text: str
    ends: bool


class WholeDrawn(Box):
    """The circuits along the path as one sheet; parts are named by their place."""

    parts: list[DrawnPart]
    wires: list[list[Point]]
    dots: list[Point]
    frames: list[Frame]
    tags: list[Tag]


class ProbedTrace(TypedDict):
    """One probed place over time: minimum and maximum in every bucket, its mean, and what meters show on it."""

    name: str
    unit: Literal["V", "A"]
    times: list[float]
    values: list[float]
    mean: float
    meter: Meter


class Gate(TypedDict):
    """From when to when a switch was on (s)."""

    name: str
    spans: list[tuple[float, float]]


class Reading(TypedDict):
    """What stands at a node (V), or flows through a part (A): mean and rms."""

    name: str
    mean: float
    rms: float


class ReadingsTold(TypedDict):
    """Of all nodes and all parts of a circuit."""

    nodes: list[Reading]
    parts: list[Reading]


class ProbeTold(TypedDict):
    """What a probe shows, and the gates; how often something turned, and the relative error of the energy's balance."""

    seconds: float
    traces: list[ProbedTrace]
    gates: list[Gate]
    turns: int
    balance: float


def circuits_router(sheets: Sheets) -> APIRouter:
    """The routes over the kept sheets."""
    router = APIRouter()

    def seen(body: AskPicture) -> Seen:
        model, sheet = sheets.solve(body.design)
        return Seen(model, sheet, place_of(model, body.place), corner_of(sheet, body.corner))

    @router.post("/schematic", response_model=Drawn)
    def schematic(body: AskPicture) -> Any:
        here = seen(body)
        return Answer(drawn(here) | {"beside": beside(here.model, here.sheet, here.place)})

    @router.post("/circuit", response_model=WholeDrawn)
    def whole_circuit(body: AskCorner) -> Any:
        model, sheet = sheets.solve(body.design)
        return Answer(whole(model, sheet, corner_of(sheet, body.corner)))

    @router.post("/probe", response_model=ProbeTold)
    def ask_probe(body: AskProbe) -> Any:
        try:
            here = seen(body)
            return Answer(probe(here, sheets.look(body.design, here, body.look), body.probes))
        except CircuitError as error:
            raise InputError(str(error), field="probes", given=", ".join(body.probes), allowed="a circuit that can be solved") from None

    @router.post("/readings", response_model=ReadingsTold)
    def ask_readings(body: AskLook) -> Any:
        try:
            here = seen(body)
            return Answer(read_out(here, sheets.look(body.design, here, body.look)))
        except CircuitError as error:
            raise InputError(str(error), field="look", given=body.look, allowed="a circuit that can be solved") from None

    return router
