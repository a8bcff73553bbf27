"""The circuit of the feedback's divider, from the link to the tap that is compared with the reference."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.feedback.feedback import feedback

feedback.draw(
    Schematic(
        (
            Part("source", "link", (0, 0), (0, 7.5), ("link_setpoint",), neighbour=True),
            Part(
                "resistor",
                "upper_leg",
                (4, 0),
                (4, 2.5),
                ("upper_leg",),
                "Upper leg, all pieces",
                order="Upper feedback resistor",
                checks=("piece_voltage", "piece_power", "spread"),
            ),
            Part("resistor", "lower_fixed", (4, 2.5), (4, 5), ("lower_fixed",), "Lower, fixed", order="Feedback path", checks=("spread", "single_fault")),
            Part("resistor", "pot", (4, 5), (4, 7.5), (Worked(("trim_pot",), lambda p: p / 2),), "Pot in its middle", checks=("trim", "pot_end")),
            Part("source", "reference", (12, 2.5), (12, 7.5), ("feedback_reference",), "Reference"),
            Part("resistor", "compared", (8, 2.5), (12, 2.5), (1e9,), "Compared: no current"),
        ),
        (((0, 0), (4, 0)), ((4, 2.5), (8, 2.5)), ((0, 7.5), (12, 7.5))),
        ((0, 7.5),),
        {"link": (4, 0), "tap": (4, 2.5), "reference": (12, 2.5)},
    )
)


@feedback.look("The link rises to its trip", "v tap", "v reference")
def rises(seen: Seen) -> Course:
    """From the set-point to where the over-voltage trip acts: by so much the tap leaves the reference."""
    return Course(2e-3, (Event(0.0, {}, {"link": seen.at("link_setpoint")}), Event(1e-3, {}, {"link": seen.at("overvoltage_trip")})), repeats=False)
