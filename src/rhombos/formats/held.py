"""Holding a build: everything that a sheet decided, as pins, so that what was ordered stays what it is."""

import math

import numpy as np

from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.formats.design import Design, PinnedValue

HELD = "build held: "
"""With this begins the reason of every pin that holding a build has made; by it they are let go together."""


def held(model: Model, sheet: Sheet, design: Design, reason: str) -> dict[str, PinnedValue]:
    """The pins that hold every decision and part of a sheet where it stands; what was pinned before keeps its pin.

    A decision that is not known is left free.
    """
    why = HELD + reason
    pins = dict(design.pins)
    for index, state in sheet.picks.items():
        key, candidates, chosen = model.wiring.nodes[index].key, model.candidates[index], int(np.reshape(state.chosen, -1)[0])
        pins.setdefault(key, PinnedValue(part=candidates.table.codes[int(candidates.rows[chosen])], quantity=int(candidates.quantity[chosen]), reason=why))
    for node in model.wiring.nodes:
        if node.figure.kind == "build" and node.figure.decided:
            value = float(np.reshape(sheet.value(node.key), -1)[0])
            if math.isfinite(value):
                pins.setdefault(node.key, PinnedValue(value=value, reason=why))
    return pins
