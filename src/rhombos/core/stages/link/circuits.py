"""The circuit from the secondary to the link: rectifier, averaging choke, capacitor."""

from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.link.dc_link_discharge import dc_link
from rhombos.core.stages.link.rectifier import rectifier

SLOPE = 0.05
"""Ω of a diode beyond its forward voltage."""
CONTACT = 0.05
"""Ω of a closed contact."""


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
            Part(
                "inductor", "choke", (6, -2), (10, -2), ("choke_inductance",), "Averaging choke", order="Averaging choke", saturates="choke_saturation_current"
            ),
            Part("resistor", "choke_resistance", (10, -2), (13, -2), ("choke_resistance",), "Its resistance"),
            Part("capacitor", "link", (13, -2), (13, 7), ("link_capacitance",), "Link", neighbour=True),
            Part("current", "bridge", (16, -2), (16, 7), (Worked(("output_power", "link_voltage"), lambda p, v: p / v),), "Bridge", neighbour=True),
        ),
        (((3, 5), (3, 1)), ((0, 4), (6, 4)), ((6, 5), (6, 4)), ((3, -2), (6, -2)), ((13, -2), (16, -2)), ((3, 7), (16, 7))),
        ((13, 7),),
        {"secondary": (3, 1), "rectified": (6, -2), "link": (16, -2)},
        joints=Joints(((3, 1), (0, 4)), ((13, -2), (13, 7)), wires=(((0, 1), (3, 1)),)),
    )
)


TURNED = {one: (other, 1.0) for one, other in (("first", "third"), ("third", "first"), ("second", "fourth"), ("fourth", "second"))}
"""Which diodes of a bridge change places where what feeds it is turned round."""


@rectifier.look("Over a switching period", "v rectified", "v link", "i choke", "i first")
def pulses(seen: Seen) -> Course:
    """A pulse of the secondary each way, with the rest between them in which the choke's current goes through all diodes."""
    period = 1 / seen.at("switching_frequency")
    width, high = seen.at("effective_duty") * period / 2, seen.at("secondary_amplitude")
    levels = ((0.0, high), (width, 0.0), (period / 2, -high), (period / 2 + width, 0.0))
    near = {"link": seen.at("link_voltage"), "choke": max(seen.at("output_power") / seen.at("link_voltage") - seen.at("choke_ripple") / 2, 0.0)}
    return Course(period, tuple(Event(t, {}, {"secondary": v}) for t, v in levels), start=near, mirror=TURNED)


_DRAWN = ("output_power", "link_voltage")
dc_link.draw(
    Schematic(
        (
            Part(
                "source",
                "front",
                (0, 0),
                (0, 5),
                (Worked(("link_voltage", "front_resistance", "output_power"), lambda v, r, p: v + r * p / v),),
                "Front end",
                neighbour=True,
            ),
            Part("resistor", "front_resistance", (0, 0), (3, 0), ("front_resistance",), "Its resistance", neighbour=True),
            Part("inductor", "front_inductance", (3, 0), (6, 0), ("front_inductance",), "Its inductance", neighbour=True),
            Part("diode", "rectifier", (6, 0), (8.5, 0), (SLOPE,), "Rectifier", neighbour=True),
            Part(
                "resistor",
                "series_resistance",
                (8.5, 0),
                (8.5, 2.5),
                (Worked(("capacitor_series_resistance", "capacitor_quantity"), lambda r, n: r / n),),
                "Its resistance",
                checks=("life", "capacitor_ripple"),
            ),
            Part(
                "capacitor",
                "capacitor",
                (8.5, 2.5),
                (8.5, 5),
                ("link_capacitance",),
                "Link capacitors",
                pick="capacitor",
                checks=("capacitor_voltage", "ripple", "window_low"),
            ),
            Part("resistor", "bleeder", (11.4, 0), (11.4, 5), ("bleeder",), order="Bleeder resistor", checks=("discharge", "bleeder_voltage", "bleeder_power")),
            Part(
                "switch",
                "discharge_switch",
                (14, 0),
                (14, 2),
                (CONTACT,),
                "Discharge switch",
                order="Discharge switch",
                checks=("discharge_switch",),
                fitted="switched_discharge",
                across=True,
            ),
            Part(
                "resistor",
                "discharge",
                (14, 2),
                (14, 5),
                ("discharge_resistor",),
                order="Discharge resistor",
                checks=("discharge", "discharge_pulse"),
                fitted="switched_discharge",
                across=True,
            ),
            Part("current", "bridge", (17, 0), (17, 5), (Worked(_DRAWN, lambda p, v: p / v),), "Bridge, mean", neighbour=True),
            Part(
                "current",
                "swing",
                (19.8, 0),
                (19.8, 5),
                (Worked(("bridge_apparent_power", "link_voltage"), lambda s, v: s / v),),
                "Bridge, twice f",
                frequency=Worked(("output_frequency",), lambda f: 2 * f),
                neighbour=True,
            ),
        ),
        (((8.5, 0), (19.8, 0)), ((0, 5), (19.8, 5))),
        ((0, 5),),
        {"front": (0, 0), "link": (19.8, 0)},
        joints=Joints(((8.5, 0), (8.5, 5)), ((17, 0), (17, 5))),
    )
)


@dc_link.look("Over half an output period", "v link", "i front_inductance", "i capacitor", "i swing")
def swing(seen: Seen) -> Course:
    """The bridge draws the output's power, which swings at twice its frequency: capacitor and front end share it."""
    return Course(0.5 / seen.at("output_frequency"), start={"capacitor": seen.at("link_voltage")})


@dc_link.look("After switch-off", "v link")
def switched_off(seen: Seen) -> Course:
    """Nothing feeds the link and nothing draws from it any more: the switch closes, and it falls to 60 V and below."""
    off, silent = Event(0.0, {"discharge_switch": True}), frozenset(("front", "bridge", "swing"))
    return Course(1.5 * seen.at("time_to_60"), (off,), repeats=False, start={"capacitor": seen.at("highest_link")}, silent=silent)
