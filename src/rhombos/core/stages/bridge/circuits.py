"""The circuit of the sine bridge: four switches with their diodes, the filter's choke between the legs."""

from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.bridge.h_bridge_modulation import h_bridge

SLOPE, OFF = 0.02, 1e6
"""Ω of a body diode beyond its forward voltage, and of what is off."""
_RATED = ("junction", "current_rating", "link_rating")
_POSITION = Worked(("hot_resistance", "switch_quantity"), lambda r, n: r / n)
"""Of the devices of one position, side by side."""
CARRIERS = 3


def _position(name: str, title: str, switch: float, diode: float, top: float) -> tuple[Part, ...]:
    """A switch and its body diode, five steps down from `top`."""
    return (
        Part("switch", name, (switch, top), (switch, top + 5), (_POSITION,), title, off=OFF, pick="switch", checks=_RATED),
        Part("diode", f"{name}_diode", (diode, top + 5), (diode, top), (SLOPE,), "Body", forward="switch_diode_voltage", off=OFF),
    )


h_bridge.draw(
    Schematic(
        (
            Part("source", "link", (0, 0), (0, 10), ("input_voltage",), neighbour=True),
            *_position("a_high", "A high", 3.5, 6.5, 0),
            *_position("a_low", "A low", 3.5, 6.5, 5),
            Part("inductor", "choke", (6.5, 5), (10, 5), ("filter_inductance",), "Filter choke", neighbour=True),
            Part("source", "output", (10, 5), (13, 5), (Worked(("delivered_voltage",), lambda v: v * 2**0.5),), "Output at its crest", neighbour=True),
            *_position("b_high", "B high", 16, 13, 0),
            *_position("b_low", "B low", 16, 13, 5),
        ),
        (((0, 0), (16, 0)), ((0, 10), (16, 10)), ((3.5, 5), (6.5, 5)), ((13, 5), (16, 5))),
        ((0, 10),),
        {"link": (0, 0), "leg A": (6.5, 5), "leg B": (13, 5)},
        joints=Joints(((0, 0), (0, 10)), ((19, -1.5), (19, 5)), wires=(((6.5, 5), (9.5, 5), (9.5, -1.5), (19, -1.5)), ((16, 5), (19, 5)))),
    )
)


@h_bridge.look("A few carrier periods at the crest", "v leg A", "v leg B", "i choke", "i a_low_diode")
def crest(seen: Seen) -> Course:
    """The legs by their modulation, dead time in every edge; the output stands at its crest, the choke begins at its current there."""
    period, dead = 1 / seen.at("carrier_frequency"), seen.at("dead_time")
    index = min(seen.at("delivered_voltage") * 2**0.5 / seen.at("input_voltage"), 0.999)
    bipolar = seen.at("carrier_multiple") < 2
    events: list[Event] = []
    for k in range(CARRIERS):
        # A leg is high for its share about the middle of the carrier's period; the legs of a bipolar bridge go against one another.
        legs = (("a", (1 + index) / 2, True), ("b", (1 + index) / 2 if bipolar else (1 - index) / 2, not bipolar))
        for leg, share, up in legs:
            events += _turned(leg, (k + 0.5 - share / 2) * period, dead, up=up)
            events += _turned(leg, (k + 0.5 + share / 2) * period, dead, up=not up)
    first = Event(0.0, {"a_low": True, "b_high" if bipolar else "b_low": True})
    start = {"choke": seen.at("choke_peak_current") - seen.at("filter_ripple") / 2}
    return Course(CARRIERS * period, (first, *events), repeats=False, start=start)


def _turned(leg: str, time: float, dead: float, *, up: bool) -> list[Event]:
    """A leg turned: what was on lets go, the other comes a dead time later."""
    off, on = (f"{leg}_low", f"{leg}_high") if up else (f"{leg}_high", f"{leg}_low")
    return [Event(time, {off: False}), Event(time + dead, {on: True})]
