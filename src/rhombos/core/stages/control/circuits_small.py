"""The circuits of clock, control supply and current sensor."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.control.control_supply import control_supply
from rhombos.core.stages.control.current_sensing import current_sensing
from rhombos.core.stages.control.oscillator import oscillator

CONTACT, SLOPE = 0.01, 0.05
"""Ω of what is switched, and of a small diode beyond its forward voltage."""
LIMIT = 1.0
"""Ω of a regulator near its limit and the diode behind it."""
CHIP = 25.0
"""Ω of the switch in a controller that empties the timing capacitor."""
INPUT = 10e3
"""Ω that a driver's input takes."""
UPPER = 3.0
"""V at which a controller turns its capacitor back, and of an output that is on."""
EMPTYING = 5
"""Time constants in which a capacitor without discharge resistor is empty."""

control_supply.draw(
    Schematic(
        (
            Part("source", "regulator", (0, 0), (0, 6), ("control_rail",), "Regulator", order="Control supply", checks=("rail", "rating", "heat", "fan")),
            Part("diode", "diode", (0, 0), (4, 0), (LIMIT,), "Blocking diode"),
            Part("resistor", "series", (6, 0), (6, 2.5), ("hold_up_resistance",), "ESR"),
            Part("capacitor", "hold_up", (6, 2.5), (6, 6), ("hold_up_capacitor",), "Hold-up", checks=("ride_through",)),
            Part("current", "load", (10, 0), (10, 6), ("supplied_current",), "Gates and control", neighbour=True),
        ),
        (((4, 0), (10, 0)), ((0, 6), (10, 6))),
        ((0, 6),),
        {"regulator": (0, 0), "rail": (10, 0)},
    )
)


@control_supply.look("The longest dip", "v rail", "v regulator")
def dip(seen: Seen) -> Course:
    """The lowest rail, gone for the longest dip and back again: the capacitor feeds gates and control meanwhile."""
    seconds, rail = seen.at("dip_time"), float(np.nanmin(seen.each("control_rail")))
    falls = (Event(0.0, {}, {"regulator": rail}), Event(0.25 * seconds, {}, {"regulator": 0.0}), Event(1.25 * seconds, {}, {"regulator": rail}))
    return Course(1.75 * seconds, falls, repeats=False, start={"hold_up": rail - LIMIT * seen.at("supplied_current")})


_SENSED = ("front_trip_level", "sensor_turns", "by_transformer")


def _through(level: float, turns: float, by_transformer: float) -> float:
    """What flows in the circuit drawn at the trip level: behind a transformer its secondary's share."""
    return level / turns if by_transformer else level


current_sensing.draw(
    Schematic(
        (
            Part("current", "pulse", (0, 6), (0, 0), (Worked(_SENSED, _through),), "Pulse at the trip level", neighbour=True),
            Part("inductor", "core", (4, 0), (4, 6), ("sensor_inductance",), "Sensor's core", fitted="by_transformer", across=True, checks=("sensor_flux",)),
            Part("diode", "reset", (7, 6), (7, 0), (SLOPE,), "Reset", forward="reset_voltage", fitted="by_transformer", across=True, checks=("core_resets",)),
            Part("diode", "rectifier", (7, 0), (10, 0), (SLOPE,), "Diode", forward="sensor_diode", fitted="by_transformer"),
            Part("resistor", "winding", (10, 0), (13, 0), ("sensor_winding",), "Winding", fitted="by_transformer"),
            Part("resistor", "burden", (13, 0), (13, 6), ("burden",), "Burden", fitted="by_transformer", across=True, order="Current sensor of the front end"),
            Part("resistor", "shunt", (16, 0), (16, 6), ("shunt_resistance",), "Shunt", fitted="by_shunt", across=True),
            Part(
                "resistor",
                "switches",
                (19, 0),
                (19, 6),
                (Worked(("hot_resistance", "switch_quantity"), lambda r, n: r / n),),
                "Hot switches",
                fitted="by_drain",
                across=True,
                neighbour=True,
            ),
        ),
        (((0, 0), (7, 0)), ((13, 0), (19, 0)), ((0, 6), (19, 6))),
        ((0, 6),),
        {"sensor": (4, 0), "reading": (19, 0)},
    )
)


@current_sensing.look("Pulses at the trip level", "v reading", "i core")
def pulses(seen: Seen) -> Course:
    """Pulse after pulse at the level, flat-topped; between them the core resets against what stands across it."""
    level = _through(*(seen.at(name) for name in _SENSED))
    on, off = seen.at("pulse_time"), seen.at("reset_time")
    return Course(on + off, (Event(0.0, {}, {"pulse": level}), Event(on, {}, {"pulse": 0.0})))


_ASKED = ("timing_weight", "other_weight", "by_delay", "by_discharge", "timing_resistor")


def _reference(a: float, b: float, by_delay: float, by_discharge: float, resistor: float) -> float:
    """Volts behind the timing resistor, such that the capacitor reaches UPPER in its time: an astable turns at a third and two thirds of them."""
    if by_delay:
        return 1.5 * UPPER
    if a == 0:
        return UPPER
    lower = UPPER * float(np.exp(-b)) if by_discharge else 0.0
    grown = float(np.exp(a if by_discharge else a - EMPTYING * CHIP / resistor))
    return (UPPER * grown - lower) / (grown - 1)


def _output(name: str, title: str, x: float) -> tuple[Part, Part]:
    return (
        Part("source", f"output_{name}", (x, 0), (x, 6), (UPPER,), f"Out {title}"),
        Part("resistor", f"driver_{name}", (x + 2.25, 0), (x + 2.25, 6), (INPUT,), "Driver", neighbour=True),
    )


oscillator.draw(
    Schematic(
        (
            Part("source", "reference", (0, 0), (0, 6), (Worked(_ASKED, _reference),), "Reference", order="Controller"),
            Part("resistor", "charging", (0, 0), (3, 0), ("other_resistor",), "Charging", fitted="by_delay", order="Second timing resistor"),
            Part("switch", "turn_back", (3, 0), (3, 6), (CONTACT,), "Turns back", fitted="by_delay", across=True),
            Part(
                "resistor",
                "timing",
                (3, 0),
                (6.5, 0),
                ("timing_resistor",),
                "Timing",
                fitted="by_charging",
                across=True,
                order="Timing resistor",
                checks=("frequency_slip",),
            ),
            Part("capacitor", "capacitor", (6.5, 0), (6.5, 6), ("timing_capacitor",), "Timing", fitted="by_charging", across=True, order="Timing capacitor"),
            Part("resistor", "discharge", (6.5, 0), (9, 0), ("other_resistor",), "Discharge", fitted="by_discharge", order="Second timing resistor"),
            Part("switch", "emptying", (9, 0), (9, 6), (CHIP,), "Empties"),
            *_output("a", "A", 11.5),
            *_output("b", "B", 15.75),
        ),
        (((11.5, 0), (13.75, 0)), ((15.75, 0), (18, 0)), ((0, 6), (18, 6))),
        ((0, 6),),
        {"ramp": (6.5, 0), "a": (13.75, 0), "b": (18, 0)},
    )
)


@oscillator.look("The clock and its outputs", "v a", "v b")
def clock(seen: Seen) -> Course:
    """One period of a switch: the capacitor charged and emptied in the times of the family, and at full duty the outputs, the dead time between them.

    A controller's ramp may be straight; here it bends as resistor and capacitor bend it. A timer has no capacitor.
    """
    together = seen.at("outputs_ratio") == 1 and not seen.at("by_counter")
    period, dead = 1 / seen.at("switching_frequency"), seen.at("available_dead_time")
    on = period * seen.at("duty_limit") if together else period / 2 - dead
    turns: list[tuple[float, dict[str, bool], dict[str, float]]] = [
        (0.0, {}, {"output_a": UPPER, "output_b": UPPER if together else 0.0}),
        (on, {}, {"output_a": 0.0, "output_b": 0.0}),
    ]
    if not together:
        turns += [(period / 2, {}, {"output_b": UPPER}), (period / 2 + on, {}, {"output_b": 0.0})]
    if not seen.at("by_counter"):
        each, empty = 1 / seen.at("oscillator_frequency"), _emptying(seen)
        switch = "turn_back" if seen.at("by_delay") else "emptying"
        for k in range(round(seen.at("outputs_ratio"))):
            turns += [(k * each, {switch: False}, {}), ((k + 1) * each - empty, {switch: True}, {})]
    return Course(period, tuple(Event(*turn) for turn in sorted(turns, key=lambda turn: turn[0])), start={} if seen.at("by_counter") else {"capacitor": 0.0})


def _emptying(seen: Seen) -> float:
    """Seconds of a period in which the capacitor is emptied: its discharge resistor's share, an astable's timing resistor's, else the controller's own."""
    capacitor = seen.at("timing_capacitor")
    if seen.at("by_delay"):
        return float(np.log(2)) * seen.at("timing_resistor") * capacitor
    return seen.at("other_weight") * seen.at("other_resistor") * capacitor if seen.at("by_discharge") else EMPTYING * CHIP * capacitor
