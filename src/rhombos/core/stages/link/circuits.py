"""The circuit from the secondary to the link: rectifier, averaging choke, capacitor."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.link.rectifier import rectifier

SLOPE = 0.05
"""Ω of a diode beyond its forward voltage."""


def _diode(name: str, start: tuple[float, float], end: tuple[float, float], title: str) -> Part:
    checks = ("reverse_voltage", "diode_current", "recovery", "diode_junction")
    return Part("diode", name, start, end, (SLOPE,), title, forward="diode_forward_voltage", pick="diode", checks=checks)


rectifier.draw(
    Schematic(
        (
            Part("source", "secondary", (0, 1), (0, 4), ("secondary_amplitude",), "Secondary", neighbour=True),
            Part("resistor", "winding", (0, 1), (3, 1), ("secondary_resistance",), "Winding", neighbour=True),
            _diode("first", (3, 1), (3, -2), "Diode 1"),
            _diode("second", (3, 7), (3, 5), "Diode 2"),
            _diode("third", (6, 4), (6, -2), "Diode 3"),
            _diode("fourth", (6, 7), (6, 5), "Diode 4"),
            Part("inductor", "choke", (6, -2), (10, -2), ("choke_inductance",), "Averaging choke", order="Averaging choke"),
            Part("resistor", "choke_resistance", (10, -2), (13, -2), ("choke_resistance",), "Its resistance"),
            Part("capacitor", "link", (13, -2), (13, 7), ("link_capacitance",), "Link", neighbour=True),
            Part("current", "bridge", (16, -2), (16, 7), (Worked(("output_power", "link_voltage"), lambda p, v: p / v),), "Bridge", neighbour=True),
        ),
        (((3, 5), (3, 1)), ((0, 4), (6, 4)), ((6, 5), (6, 4)), ((3, -2), (6, -2)), ((13, -2), (16, -2)), ((3, 7), (16, 7))),
        ((13, 7),),
        {"secondary": (3, 1), "rectified": (6, -2), "link": (16, -2)},
    )
)


@rectifier.look("Over a switching period", "v rectified", "v link", "i choke", "i first")
def pulses(seen: Seen) -> Course:
    """A pulse of the secondary each way, with the rest between them in which the choke's current goes through all diodes."""
    period = 1 / seen.at("switching_frequency")
    width, high = seen.at("effective_duty") * period / 2, seen.at("secondary_amplitude")
    levels = ((0.0, high), (width, 0.0), (period / 2, -high), (period / 2 + width, 0.0))
    return Course(period, tuple(Event(t, {}, {"secondary": v}) for t, v in levels))
