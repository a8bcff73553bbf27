"""One figure of a stage that stands alone: what is typed is taken, all else has its usual value, and both are said."""

from dataclasses import dataclass
from difflib import get_close_matches
from typing import Any

import numpy as np

from rhombos.core.graph.inputs import Inputs, PartChoice, Pin
from rhombos.core.graph.model import Model
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.why import ancestors, why
from rhombos.core.units import parse_list, show

CORNER = "nominal_full"
"""The corner that a stage alone speaks for where none is named: full load at the nominal source."""


class AloneError(ValueError):
    """A name was given that the stage does not have, or the figure has no value."""


@dataclass(frozen=True)
class Worked:
    """A figure's values (SI; one for each that was typed of an input), its unit, and what they hang on.

    `used` and `usual` are inputs by name as they stand: typed, and taken at their usual values; `unused` were typed and
    are not needed. `formula` and `numbers` are TeX; they speak for the first value.
    """

    values: list[float]
    unit: str
    corner: str
    used: dict[str, str]
    usual: dict[str, str]
    unused: tuple[str, ...]
    formula: str
    numbers: str
    sentence: str
    source: str


def work_alone(model: Model, name: str, typed: dict[str, str], corner: str = CORNER) -> Worked:
    """Work out the figure `name` of the one stage in `model`, as a sheet of the stage does.

    `typed` says givens, choices, ports and any figure between as people write them, several values apart by "; ".
    Raises AloneError, QuantityError or InputError, naming what was given.
    """
    (place,) = model.wiring.lineup.places
    if name not in place.stage.figures:
        raise AloneError(f"stage {place.stage.name!r} has no figure {name!r}; it has {', '.join(place.stage.figures)}")
    ids = model.wiring.lineup.corners.ids
    if corner not in ids:
        raise AloneError(f"no corner {corner!r}; there are {', '.join(ids)}")
    key = f"{place.name}.{name}"
    sheet = model.solve(_inputs(model, typed), model.wiring.lineup.corners)
    hangs_on = {n.index: n for n in ancestors(sheet, key)}
    known = _names(model)
    needed = {t for t in typed if t in place.stage.choices or known[t].index in hangs_on}
    usual = {n.key.partition(".")[2]: n for n in hangs_on.values() if n.figure.kind == "given" and n.place != "corner"}
    first = why(_first(model, typed), key, corner)
    return Worked(
        _values(sheet, key, ids.index(corner)),
        sheet.node(key).figure.unit,
        corner,
        {t: typed[t] for t in typed if t in needed},
        {n: show(float(np.atleast_1d(sheet.values[node.index]).reshape(-1)[0]), node.figure.unit) for n, node in usual.items() if n not in typed},
        tuple(t for t in typed if t not in needed),
        first.formula,
        first.numbers,
        first.sentence,
        first.source,
    )


def _names(model: Model) -> dict[str, Node]:
    """Every node by the name that the stage knows it by; its own figures come before what stands outside."""
    (place,) = model.wiring.lineup.places
    nodes = [n for n in model.wiring.nodes if n.place != "corner"]
    return {n.key.partition(".")[2]: n for n in sorted(nodes, key=lambda n: n.place == place.name)}


def _first(model: Model, typed: dict[str, str]) -> Sheet:
    """The sheet of the first of everything typed."""
    return model.solve(_inputs(model, {name: text.split(";")[0].split(", ")[0] for name, text in typed.items()}))


def _inputs(model: Model, typed: dict[str, str]) -> Inputs:
    (place,) = model.wiring.lineup.places
    known = _names(model)
    givens: dict[str, Any] = {}
    choices: dict[str, str] = {}
    pins: dict[str, Pin] = {}
    for name, text in typed.items():
        if name in place.stage.choices:
            choices[f"{place.name}.{name}"] = text
            continue
        if name not in known:
            everything = [*known, *place.stage.choices]
            near = get_close_matches(name, everything, 3, 0.6)
            raise AloneError(
                f"{place.stage.name} reads no {name!r}; " + (f"did you mean {' or '.join(near)}?" if near else f"it reads {', '.join(everything)}")
            )
        node = known[name]
        if node.figure.kind == "pick":
            pins[node.key] = Pin(PartChoice(text), "typed")
            continue
        numbers = parse_list(text, node.figure.unit)
        value = numbers[0] if len(numbers) == 1 else np.array(numbers)[:, None]
        if node.figure.kind == "given":
            givens[node.key] = value
        else:
            pins[node.key] = Pin(value, "typed")
    return Inputs(givens, choices, pins)


def _values(sheet: Sheet, key: str, at: int) -> list[float]:
    """The figure at a corner, one for each variant; AloneError with the cause where none has a value."""
    value = np.atleast_1d(sheet.value(key))
    column = np.atleast_1d(value[..., 0 if value.shape[-1] == 1 else at])
    if np.isnan(column).all():
        raise AloneError(f"{key}: {sheet.why_missing(sheet.wiring.index[key], at)}")
    return [float(v) for v in column]
