"""Looking at circuits as stages declare them: a stage alone, a run of one of its looks, a sample's sheet with choices made otherwise."""

from dataclasses import replace

from rhombos.core.circuit.solved import looked
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.pictures import Seen
from rhombos.formats.design import model_for
from tests.core.trial import of_sample


def alone(name, corner="nominal_full", **pins):
    model = model_for(f"{name}_alone", ())
    inputs = Inputs()
    for key, value in pins.items():
        inputs = inputs.with_given(f"{name}.{key}", value)
    sheet = model.solve(inputs)
    return Seen(model, sheet, model.wiring.lineup.place(name), sheet.corners.ids.index(corner))


def run(seen, look=0):
    stage = seen.place.stage
    return looked(stage.schematic, seen.at, stage.looks[look].fn(seen))


def told(id, model, **choices):
    """A sample's sheet with choices made otherwise."""
    inputs = of_sample(id).inputs()
    return model.solve(replace(inputs, choices={**inputs.choices, **{key.replace("__", "."): value for key, value in choices.items()}}))
