"""The peak detector: a diode, a capacitor and what discharges it (6.3)."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen

DISCHARGE = "discharge of a capacitor through a resistor"

peak_detector = Stage("peak_detector", "Peak detector", path=False, telling="{droop}")
peak_detector.give("wave_amplitude", 10.0, "V", r"\hat V", 0.1, 1e4, "Peak that is to be followed.", "Peak of the wave")
peak_detector.give("lower_amplitude", 5.0, "V", r"\hat V_2", 0.1, 1e4, "Peak after it has fallen.", "Peak after a fall")
peak_detector.give("wave_frequency", 50e3, "Hz", "f", 0.1, 1e7, "Frequency of the wave.", "Frequency")
peak_detector.give("source_resistance", 10.0, "Ω", r"R_s", 1e-3, 1e5, "Resistance of what charges the capacitor.", "Source resistance")
peak_detector.give("hold_capacitor", 10e-9, "F", "C", 1e-12, 1e-2, "Capacitor that holds the peak.", "Capacitor")
peak_detector.give("bleed_resistor", 100e3, "Ω", "R", 1.0, 1e9, "Resistor that lets it follow downwards.", "Resistor")
peak_detector.give("diode_drop", 0.4, "V", r"V_F", 0.05, 5, "Forward voltage of the diode.", "Forward voltage")
peak_detector.give("droop_allowed", 0.05, "", r"\delta", 1e-4, 0.9, "Droop between two crests that is allowed, of the peak.", "Droop allowed")
peak_detector.give("envelope_time", 5e-3, "s", r"T_\mathrm{env}", 1e-7, 1e3, "Time within which it must follow the fall.", "Must follow within")


@peak_detector.build(unit="s", symbol=r"\tau", source=DISCHARGE, title="Time constant", tex=r"{bleed_resistor}\,{hold_capacitor}")
def time_constant(bleed_resistor, hold_capacitor):
    """Between the period of the wave and that of its envelope, far from both."""
    return bleed_resistor * hold_capacitor


@peak_detector.build(
    unit="V",
    symbol=r"\Delta V",
    source=DISCHARGE,
    title="Droop between crests",
    tex=r"({wave_amplitude}-{diode_drop})\left(1-\exp\left(-\frac{1}{{wave_frequency}\,{time_constant}}\right)\right)",
    example=({"wave_amplitude": 10, "diode_drop": 0.4, "wave_frequency": 50e3, "time_constant": 1e-3}, 0.190095),
)
def droop(wave_amplitude, diode_drop, wave_frequency, time_constant):
    """What is lost from one crest to the next."""
    return (wave_amplitude - diode_drop) * (1 - np.exp(-1 / (wave_frequency * time_constant)))


@peak_detector.build(
    unit="V", symbol=r"\Delta V_\mathrm{max}", source="share of the peak", title="Droop that is allowed", tex=r"{droop_allowed}\,{wave_amplitude}"
)
def most_droop(droop_allowed, wave_amplitude):
    """Droop that may be."""
    return droop_allowed * wave_amplitude


@peak_detector.build(
    unit="s",
    symbol=r"t_\mathrm{fall}",
    source=DISCHARGE,
    title="Time to follow a fall",
    tex=r"{time_constant}\ln\frac{{wave_amplitude}-{diode_drop}}{\max({lower_amplitude}-{diode_drop},\,0.001\,{wave_amplitude})}",
    example=({"time_constant": 1e-3, "wave_amplitude": 10, "diode_drop": 0.4, "lower_amplitude": 5}, 0.73571e-3),
    low=-1e6,
)
def follow_time(time_constant, wave_amplitude, diode_drop, lower_amplitude):
    """How long it stands above a wave that has become smaller."""
    return time_constant * np.log((wave_amplitude - diode_drop) / np.maximum(lower_amplitude - diode_drop, 1e-3 * wave_amplitude))


peak_detector.check(
    "droop",
    title="Holds between crests",
    demand="droop",
    capability="most_droop",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="It droops by {demand} between crests; {capability} is allowed.",
    why="The reading follows the wave, not its peak.",
    remedies=(Move("hold_capacitor", "up", 100.0), Move("bleed_resistor", "up", 100.0)),
)
peak_detector.check(
    "follows",
    title="Follows a fall",
    demand="follow_time",
    capability="envelope_time",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="After a fall it is late by {demand}; {capability} is allowed.",
    why="What acts on it acts too late; a switch across the capacitor resets it at once.",
    remedies=(Move("bleed_resistor", "down", 100.0), Move("hold_capacitor", "down", 100.0)),
)

peak_detector.draw(
    Schematic(
        (
            Part("sine", "wave", (0, 0), (0, 4), ("wave_amplitude",), frequency="wave_frequency", neighbour=True),
            Part("resistor", "source", (0, 0), (3, 0), ("source_resistance",), "Source resistance", neighbour=True),
            Part("diode", "diode", (3, 0), (6, 0), (0.5,), forward="diode_drop"),
            Part("capacitor", "capacitor", (6, 0), (6, 4), ("hold_capacitor",), checks=("droop",)),
            Part("resistor", "bleed", (9, 0), (9, 4), ("bleed_resistor",), "Resistor", checks=("follows",)),
        ),
        (((6, 0), (9, 0)), ((0, 4), (9, 4))),
        ((0, 4),),
        {"in": (0, 0), "out": (9, 0)},
    )
)


@peak_detector.look("Over a period", "v in", "v out", "i diode")
def period(seen: Seen) -> Course:
    """One period of the wave."""
    return Course(1 / seen.at("wave_frequency"))


@peak_detector.look("From twice the peak down", "v out", "v in")
def fall(seen: Seen) -> Course:
    """The capacitor stands at twice the peak, as after a greater wave, until it meets the crests again (four hundred of them at most)."""
    period = 1 / seen.at("wave_frequency")
    return Course(min(1.5 * np.log(2) * seen.at("time_constant"), 400 * period), (), False, {"capacitor": 2 * seen.at("wave_amplitude")})
