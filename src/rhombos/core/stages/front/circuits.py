"""The circuits of a push-pull: a drain's clamp, and the whole front end from the rail to the link."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.clamp import clamp
from rhombos.core.stages.front.front_end import push_pull
from rhombos.core.vocabulary import word

CONTACT, DROP, SLOPE = 1e-3, 0.8, 0.002
"""Ω of the switch, V and Ω of the clamp's diode: none of them is a figure."""

clamp.draw(
    Schematic(
        (
            Part("source", "winding", (0, 0), (0, 5), ("input_voltage",), "Winding", neighbour=True),
            Part("inductor", "leakage", (0, 0), (4, 0), ("leakage_inductance",), checks=("leakage_share",), neighbour=True),
            Part("switch", "switch", (4, 0), (4, 5), (CONTACT,), neighbour=True),
            Part("diode", "diode", (4, 0), (8, 0), (SLOPE,), "Clamp diode", forward=DROP, order="Clamp diode"),
            Part("capacitor", "capacitor", (8, 0), (8, 5), ("clamp_capacitor",), "Clamp capacitor", order="Clamp capacitor", checks=("clamp_room",)),
            Part("resistor", "resistor", (12, 0), (12, 5), ("clamp_resistor",), "Clamp resistor", order="Clamp resistor", checks=("clamp_resistor_power",)),
        ),
        (((8, 0), (12, 0)), ((0, 5), (12, 5))),
        ((0, 5),),
        {"drain": (4, 0), "clamp": (12, 0)},
    )
)


@clamp.look("Over a switching period", "v drain", "v clamp", "i diode", "i leakage")
def period(seen: Seen) -> Course:
    """One drain, volts from the rail: the leakage is charged to the current at the end of the pulse, then the winding holds the rail and the clamp takes it."""
    rail, peak, leakage = (seen.at(n) for n in ("input_voltage", "peak_current", "leakage_inductance"))
    seconds = 1 / seen.at("switching_frequency")
    return Course(seconds, (Event(0.0, {"switch": True}), Event(min(leakage * peak / rail, 0.9 * seconds), {"switch": False})))


word("clamp_capacitor", "F", "C_c", "Capacitor of a drain's clamp.", 1.5e-6)
word("clamp_resistor", "Ω", "R_c", "Resistor of a drain's clamp.", 390)
word("diode_forward_voltage", "V", "V_F", "Forward voltage of a rectifier diode.", 1.4)

OFF, RECTIFIER_OFF, BODY, SLOPE_OF_RECTIFIER = 1e5, 1e6, 0.01, 0.05
"""Ω of what is off at the rail's volts and at the link's (some ten milliwatts each: more would only make the circuit stiff), of a body diode and of a rectifier beyond their forward voltages."""
_HALF = (Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m + k),)
_HALVES = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m / (m + k))
_OUTWARD = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: (m / (m + k)) ** 0.5)
_POSITION = ("hot_resistance", "primary_resistance")
"""A switch with its half of the primary: their resistances lie in series."""


def _body(name: str, start: tuple[float, float], end: tuple[float, float]) -> Part:
    return Part("diode", name, start, end, (BODY,), "Body diode", forward="switch_diode_voltage", off=OFF)


def _rectifier(name: str, start: tuple[float, float], end: tuple[float, float]) -> Part:
    return Part("diode", name, start, end, (SLOPE_OF_RECTIFIER,), "Rectifier", forward="diode_forward_voltage", off=RECTIFIER_OFF, neighbour=True)


def _clamped(side: str, x: float) -> tuple[Part, ...]:
    """Diode, capacitor and resistor of a drain's clamp, back to the rail."""
    return (
        Part("diode", f"clamp_diode_{side}", (x - 3, 3), (x, 3), (BODY,), "Clamp", forward=DROP, off=OFF, neighbour=True),
        Part("capacitor", f"clamp_capacitor_{side}", (x, 3), (x, 0), ("clamp_capacitor",), "Clamp", neighbour=True),
        Part("resistor", f"clamp_resistor_{side}", (x + 3, 3), (x + 3, 0), ("clamp_resistor",), "Clamp", neighbour=True),
    )


_RATED = ("static_voltage_rating", "dynamic_voltage_rating", "current_rating", "junction")
push_pull.draw(
    Schematic(
        (
            Part("source", "rail", (0, 0), (0, 9), ("input_voltage",), neighbour=True),
            Part("inductor", "half_a", (6, 0), (6, 3), _HALF, "Half A", neighbour=True),
            Part("switch", "switch_a", (6, 3), (6, 9), _POSITION, "Switch A", off=OFF, pick="switch", checks=_RATED),
            _body("body_a", (3, 9), (3, 3)),
            *_clamped("a", 9),
            Part("inductor", "half_b", (18, 3), (18, 0), _HALF, "Half B", neighbour=True),
            Part("switch", "switch_b", (18, 3), (18, 9), _POSITION, "Switch B", off=OFF, pick="switch", checks=_RATED),
            _body("body_b", (15, 9), (15, 3)),
            *_clamped("b", 21),
            Part(
                "inductor",
                "secondary",
                (28, 2),
                (28, 6),
                (Worked(("turns_ratio", "magnetising_inductance"), lambda n, m: n**2 * m),),
                "Secondary",
                neighbour=True,
            ),
            Part("resistor", "winding", (28, 2), (31, 2), ("secondary_resistance",), "Winding", neighbour=True),
            _rectifier("first", (31, 2), (31, -1)),
            _rectifier("second", (31, 9), (31, 7)),
            _rectifier("third", (34, 6), (34, -1)),
            _rectifier("fourth", (34, 9), (34, 7)),
            Part("inductor", "choke", (34, -1), (37, -1), ("choke_inductance",), "Choke", neighbour=True),
            Part("resistor", "choke_resistance", (37, -1), (40, -1), ("choke_resistance",), "Its resistance", neighbour=True),
            Part("source", "link", (40, -1), (40, 9), ("link_voltage",), neighbour=True),
        ),
        (
            ((0, 0), (24, 0)),
            ((0, 9), (40, 9)),
            ((3, 3), (6, 3)),
            ((9, 3), (12, 3)),
            ((15, 3), (18, 3)),
            ((21, 3), (24, 3)),
            ((31, 7), (31, 2)),
            ((28, 6), (34, 6)),
            ((34, 7), (34, 6)),
            ((31, -1), (34, -1)),
        ),
        ((0, 9),),
        {"rail": (0, 0), "drain A": (6, 3), "drain B": (18, 3), "clamp A": (12, 3), "secondary": (31, 2), "rectified": (34, -1), "link": (40, -1)},
        (("half_a", "half_b", _HALVES), ("half_a", "secondary", _OUTWARD), ("half_b", "secondary", _OUTWARD)),
    )
)


@push_pull.look("Over a switching period", "v drain A", "i half_a", "i choke", "i clamp_diode_a")
def both(seen: Seen) -> Course:
    """Both switches in turn with the commanded duty, the leakage between them and into the clamps, the link held at its mean."""
    seconds, duty = 1 / seen.at("switching_frequency"), seen.at("total_duty")
    on = duty * seconds / 2
    turns = ((0.0, "switch_a", True), (on, "switch_a", False), (seconds / 2, "switch_b", True), (seconds / 2 + on, "switch_b", False))
    return Course(seconds, tuple(Event(t, {name: state}) for t, name, state in turns))
