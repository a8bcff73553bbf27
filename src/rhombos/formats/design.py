"""The open design file: one revision as JSON, versioned, with a published schema. It round-trips exactly."""

import json
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError, field_validator, model_validator

from rhombos.catalogue.loader import load as load_catalogue
from rhombos.core.graph.errors import InputError, WiringError
from rhombos.core.graph.inputs import Inputs, PartChoice, Pin
from rhombos.core.graph.model import Model
from rhombos.core.graph.wiring import OUTSIDE
from rhombos.core.lineups import LINE_UPS, exists, lineup
from rhombos.formats import plain
from rhombos.formats.plain import faults
from rhombos.formats.renamed import brought_up

Name = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,63}$")]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,63}\.[a-z][a-z0-9_]{0,63}$")]
Text = Annotated[str, StringConstraints(max_length=2000)]


class Strict(BaseModel):
    """Unknown fields, numbers that are not finite, and texts that could not be stored are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _plain(cls, raw: Any) -> Any:
        for path, wrong in faults(raw):
            raise ValueError(f"{path or 'it'} {wrong}")
        return raw


TAKEN = frozenset(("corner", OUTSIDE, *(p.name for line in LINE_UPS.values() for p in line.places)))
"""Names that a load row cannot have."""


class PinnedValue(Strict):
    """A figure held at a value (SI), or a pick held at a part, with the reason."""

    value: float | None = None
    part: str | None = None
    quantity: Annotated[int, Field(ge=1, le=99)] = 1
    reason: Text = ""

    @model_validator(mode="after")
    def _one_of(self) -> "PinnedValue":
        if (self.value is None) == (self.part is None):
            raise ValueError("a pin holds either a value or a part")
        return self


class LoadRow(Strict):
    """A row of the load list: the place it makes in the line-up, and what people call it."""

    place: Name
    title: Annotated[str, StringConstraints(min_length=1, max_length=120)]

    @field_validator("place")
    @classmethod
    def _own(cls, place: str) -> str:
        if place in TAKEN:
            raise ValueError(f"{place!r} is the name of what every line-up has; a load row is load_1, load_2 or the like")
        return place


class Design(Strict):
    """One revision: line-up, load rows, givens (SI), choices, pins, and the records of the parts that were picked."""

    format: Literal["rhombos-design"] = "rhombos-design"
    version: Literal[1] = 1
    title: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    lineup: str
    loads: Annotated[list[LoadRow], Field(max_length=24)] = Field(default_factory=list)
    givens: dict[Key, float] = Field(default_factory=dict)
    choices: dict[Key, str] = Field(default_factory=dict)
    pins: dict[Key, PinnedValue] = Field(default_factory=dict)
    parts: dict[Key, dict[str, float | str]] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _brought_up(cls, raw: Any) -> Any:
        return brought_up(raw)

    @model_validator(mode="after")
    def _known(self) -> "Design":
        if not exists(self.lineup):
            raise ValueError(f"lineup {self.lineup!r} is not one of {', '.join(LINE_UPS)}, and no stage alone")
        if not self.loads and self.lineup in LINE_UPS:
            raise ValueError("a line-up needs at least one load row")
        places = [row.place for row in self.loads]
        if len(set(places)) != len(places):
            raise ValueError("two load rows have the same place")
        return self

    def model(self) -> Model:
        """The line-up put together for these load rows."""
        return model_for(self.lineup, tuple(row.place for row in self.loads))

    def inputs(self) -> Inputs:
        """What the solver takes. Entries that only another line-up's stages read are kept in the design and left out here.

        Raises InputError for a name that no line-up has: a typing slip is not passed over.
        """
        model = self.model()
        index, choices = model.wiring.index, model.choices
        for key in (*self.givens, *self.choices, *self.pins):
            if key not in index and key not in choices and not any(_has(line, self.loads, key) for line in LINE_UPS):
                raise InputError(f"no line-up has {key!r}", field=key, given=key, allowed="a given, choice or figure by place.name")
        pins = {k: Pin(PartChoice(p.part, p.quantity) if p.part is not None else p.value, p.reason) for k, p in self.pins.items() if k in index}
        return Inputs({k: v for k, v in self.givens.items() if k in index}, {k: v for k, v in self.choices.items() if k in choices}, pins)


def _has(line: str, loads: list[LoadRow], key: str) -> bool:
    model = model_for(line, tuple(row.place for row in loads))
    return key in model.wiring.index or key in model.choices


@lru_cache(maxsize=24)
def model_for(line: str, loads: tuple[str, ...]) -> Model:
    """A model for a line-up and its load rows; put together once."""
    return Model(lineup(line, loads), load_catalogue())


class DesignError(ValueError):
    """A design file is refused; `places` lists (path, what is wrong there)."""

    def __init__(self, places: list[tuple[str, str]]) -> None:
        super().__init__(places)
        self.places = places

    def __str__(self) -> str:
        return "; ".join(f"{path or 'the file'}: {what}" for path, what in self.places)


def of_sample(id: str) -> Design:
    """The brief that a line-up is tried on, as a design."""
    sample = LINE_UPS[id].sample
    if sample is None:
        raise InputError(f"line-up {id!r} has no sample brief", field="lineup", given=id, allowed=[k for k, v in LINE_UPS.items() if v.sample])
    pins = {k: PinnedValue(part=v, reason=why) if isinstance(v, str) else PinnedValue(value=v, reason=why) for k, (v, why) in sample.pins.items()}
    loads = [LoadRow(place=k, title=v) for k, v in sample.loads.items()]
    return Design(title=sample.title, lineup=id, loads=loads, givens=dict(sample.givens), choices=dict(sample.choices), pins=pins)


def read_design(text: str | bytes) -> Design:
    """A design from its JSON text. Raises DesignError with the line or the path at fault."""
    return check_design(read_raw(text.encode("utf-8", "surrogatepass") if isinstance(text, str) else text))


def read_raw(text: bytes) -> Any:
    """JSON of a file, not yet looked at. Raises DesignError with the line or the path at fault."""
    try:
        return plain.read(text)
    except plain.PlainError as error:
        raise DesignError([(error.place, error.what)]) from None


def check_design(raw: Any) -> Design:
    """A design from parsed JSON: first its shape, then every name and number against its line-up."""
    try:
        design = Design.model_validate(raw)
    except ValidationError as error:
        raise DesignError(places_of(error)) from None
    check_names(design)
    return design


def places_of(error: ValidationError) -> list[tuple[str, str]]:
    """Where a file has another shape, and what is wrong there."""
    return [(".".join(str(p) for p in e["loc"]), e["msg"]) for e in error.errors()]


def check_names(design: Design) -> None:
    """Every name and number against the design's line-up. Raises DesignError with its path."""
    try:
        model = design.model()
        model.leaves(design.inputs(), model.wiring.lineup.corners)
    except InputError as error:
        raise DesignError([(str(error.fields.get("field", "")), error.message)]) from None
    except WiringError as error:
        raise DesignError([("loads", error.message)]) from None


def write_design(design: Design) -> str:
    """The JSON text of a design; the same design always gives the same text."""
    return text_of(design.model_dump(mode="json"))


def text_of(raw: Any) -> str:
    """The JSON text of a design that is not looked at: as it was stored, whatever rules came later."""
    return json.dumps(raw, indent=2, sort_keys=True, ensure_ascii=False, allow_nan=False) + "\n"


def schema() -> dict[str, Any]:
    """The published JSON Schema."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": "urn:rhombos:design:1", **Design.model_json_schema()}
