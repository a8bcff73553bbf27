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
            Part("source", "secondary", (0, 0), (0, 6), ("secondary_amplitude",), "Secondary", neighbour=True),
            Part("resistor", "winding", (0, 0), (3, 0), ("secondary_resistance",), "Its resistance", neighbour=True),
            _diode("first", (3, 0), (3, -3), "Diode 1"),
            _diode("second", (3, 9), (3, 0), "Diode 2"),
            _diode("third", (7, 6), (7, -3), "Diode 3"),
            _diode("fourth", (7, 9), (7, 6), "Diode 4"),
            Part("inductor", "choke", (7, -3), (11, -3), ("choke_inductance",), "Averaging choke", order="Averaging choke"),
            Part("resistor", "choke_resistance", (11, -3), (14, -3), ("choke_resistance",), "Its resistance"),
            Part("capacitor", "link", (14, -3), (14, 9), ("link_capacitance",), "Link capacitor", neighbour=True),
            Part("current", "bridge", (18, -3), (18, 9), (Worked(("output_power", "link_voltage"), lambda p, v: p / v),), "Bridge, its mean", neighbour=True),
        ),
        (((3, -3), (7, -3)), ((0, 6), (7, 6)), ((14, -3), (18, -3)), ((3, 9), (18, 9))),
        ((18, 9),),
        {"secondary": (3, 0), "rectified": (7, -3), "link": (18, -3)},
    )
)


@rectifier.look("Over a switching period", "v rectified", "v link", "i choke", "i first")
def pulses(seen: Seen) -> Course:
    """A pulse of the secondary each way, with the rest between them in which the choke's current goes through all diodes."""
    period = 1 / seen.at("switching_frequency")
    width, high = seen.at("effective_duty") * period / 2, seen.at("secondary_amplitude")
    levels = ((0.0, high), (width, 0.0), (period / 2, -high), (period / 2 + width, 0.0))
    return Course(period, tuple(Event(t, {}, {"secondary": v}) for t, v in levels))
