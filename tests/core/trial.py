"""Designs to try laws on: every line-up's own sample brief, and a second that is strained."""

import pytest

from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.model import Model
from rhombos.core.graph.remedies import Remedy
from rhombos.core.lineups import LINE_UPS
from rhombos.core.lineups.samples import FIELD_STATION
from rhombos.demo import tern_islet
from rhombos.formats.design import Design, of_sample


def strained(id: str) -> Design:
    """The sample brief after careless changes: the demo's second revision where it is the demo's, else half again the greatest load on a warmer sink."""
    if LINE_UPS[id].sample is FIELD_STATION:
        return tern_islet.second().model_copy(update={"lineup": id})
    design = of_sample(id)
    return design.model_copy(
        update={
            "givens": {**design.givens, "load_3.rated_power": 1.5 * design.givens["load_3.rated_power"], "front.pad_resistance": 2.5, "front.sink_rise": 60.0}
        }
    )


def needs(model: Model, *keys: str) -> None:
    """Skip where the line-up has no such figure: the law speaks of a part that it does without."""
    for key in keys:
        if key not in model.wiring.index:
            pytest.skip(f"{model.wiring.lineup.title} has no {key}")


def applied(inputs: Inputs, remedy: Remedy) -> Inputs:
    """The inputs after a click on a remedy."""
    if remedy.kind == "given":
        return inputs.with_given(remedy.key, remedy.after)
    return inputs.with_pin(remedy.key, PartChoice(remedy.part, remedy.quantity) if remedy.part else remedy.after)
