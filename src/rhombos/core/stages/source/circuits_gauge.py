"""The circuit of the gauge: the pack's volts divided for a converter, whose reference clamps them."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.source.gauge import gauge

CLAMP, CLAMP_SLOPE = 0.35, 1.0
"""V of a clamping diode, and Ω beyond them."""
STEP = 1.0
"""s for which each level is held."""

gauge.draw(
    Schematic(
        (
            Part("source", "pack", (0, 0), (0, 6), (Worked(("cells", "cell_full"), lambda n, v: n * v),), "Pack, rested", neighbour=True),
            Part("resistor", "upper", (4, 0), (4, 3), ("adc_upper",), "Upper", checks=("span", "lamp")),
            Part("resistor", "lower", (4, 3), (4, 6), ("adc_lower",), "Lower"),
            Part("diode", "clamp", (7, 3), (10, 3), (CLAMP_SLOPE,), "Clamp", forward=CLAMP, checks=("inhibit_guards",)),
            Part("source", "reference", (10, 3), (10, 6), ("adc_reference",), "Reference"),
        ),
        (((0, 0), (4, 0)), ((4, 3), (7, 3)), ((0, 6), (10, 6))),
        ((0, 6),),
        {"pack": (4, 0), "tap": (7, 3)},
    )
)


@gauge.look("Empty, alarm, full, charging, inhibited", "v tap", "v pack")
def levels(seen: Seen) -> Course:
    """The pack at the levels that matter, a second each: the tap must stay below the reference, or the clamp conducts."""
    cells = seen.at("cells")
    volts = (
        cells * seen.at("cell_empty"),
        seen.at("alarm_threshold"),
        cells * seen.at("cell_full"),
        cells * seen.at("cell_charging"),
        seen.at("highest_inhibit"),
    )
    return Course(len(volts) * STEP, tuple(Event(k * STEP, {}, {"pack": level}) for k, level in enumerate(volts)), repeats=False)
