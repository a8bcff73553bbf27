"""The DC restorer, and with a peak detector behind it the voltage doubler (6.3)."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen

RESTORING = "the capacitor is charged to the peak through the diode, and loses charge through the load"
PUMPING = "charge balance: what the load takes in a period is handed on by both capacitors"

restorer = Stage("restorer", "DC restorer", path=False, telling="{restored_level}")
doubler = Stage("doubler", "Voltage doubler", path=False, telling="{doubled_voltage}")
for _stage, _load in ((restorer, 100e3), (doubler, 100e3)):
    _stage.give("wave_amplitude", 100.0, "V", r"\hat V", 0.1, 1e5, "Peak of the wave.", "Peak of the wave")
    _stage.give("wave_frequency", 20e3, "Hz", "f", 0.1, 1e7, "Frequency of the wave.", "Frequency")
    _stage.give("source_resistance", 5.0, "Ω", r"R_s", 1e-3, 1e5, "Resistance of what charges the capacitor.", "Source resistance")
    _stage.give("coupling_capacitor", 100e-9, "F", r"C_1", 1e-12, 1e-2, "Capacitor in series with the wave.", "Series capacitor")
    _stage.give("load_resistor", _load, "Ω", "R", 1.0, 1e9, "What it feeds.", "Load")
    _stage.give("diode_drop", 0.7, "V", r"V_F", 0.05, 5, "Forward voltage of a diode.", "Forward voltage")
    _stage.give("diode_rating", 400.0, "V", r"V_{RRM}", 1, 1e5, "Reverse voltage that a diode stands.", "Diode stands")
restorer.give("droop_allowed", 0.05, "", r"\delta", 1e-4, 0.9, "Droop over a period that is allowed, of the peak.", "Droop allowed")
doubler.give("output_capacitor", 100e-9, "F", r"C_2", 1e-12, 1e-2, "Capacitor across the load.", "Output capacitor")
doubler.give("wanted_output", 180.0, "V", r"V_\mathrm{want}", 0.1, 1e5, "Output that is asked for.", "Output wanted")


@restorer.build(unit="V", symbol=r"V_0", source=RESTORING, title="Level", tex=r"{wave_amplitude}-{diode_drop}")
def restored_level(wave_amplitude, diode_drop):
    """Mean that the wave swings about: its lower peak stands a forward voltage below ground, its upper peak at twice the wave's."""
    return wave_amplitude - diode_drop


@restorer.build(
    unit="V",
    symbol=r"\Delta V",
    source="discharge of a capacitor through a resistor",
    title="Droop over a period",
    tex=r"{wave_amplitude}\left(1-\exp\left(-\frac{1}{{wave_frequency}\,{load_resistor}\,{coupling_capacitor}}\right)\right)",
    example=({"wave_amplitude": 100, "wave_frequency": 20e3, "load_resistor": 100e3, "coupling_capacitor": 100e-9}, 0.498752),
)
def restored_droop(wave_amplitude, wave_frequency, load_resistor, coupling_capacitor):
    """What the level loses from one lower peak to the next."""
    return wave_amplitude * (1 - np.exp(-1 / (wave_frequency * load_resistor * coupling_capacitor)))


@restorer.build(unit="V", symbol=r"\Delta V_\mathrm{max}", source="share of the peak", title="Droop that is allowed", tex=r"{droop_allowed}\,{wave_amplitude}")
def most_droop(droop_allowed, wave_amplitude):
    """Droop that may be."""
    return droop_allowed * wave_amplitude


def _reverse(wave_amplitude):
    """Twice the peak: the wave's own, and what stands on the capacitor."""
    return 2 * wave_amplitude


for _stage in (restorer, doubler):
    _reverse.__name__ = "reverse_voltage"
    _stage.build(
        unit="V", symbol=r"V_R", source=RESTORING, title="Reverse voltage of a diode", tex=r"2\,{wave_amplitude}", example=({"wave_amplitude": 100}, 200)
    )(_reverse)
    _stage.check(
        "reverse",
        title="Diodes stand twice the peak",
        demand="reverse_voltage",
        capability="diode_rating",
        fail=1.0,
        hold=1.25,
        harm="equipment",
        sentence="A diode blocks {demand}; it stands {capability}.",
        why="Whoever reckons with the peak alone fits half of what is needed.",
        remedies=(Move("diode_rating", "up", 10.0),),
    )
restorer.check(
    "droop",
    title="Holds its level",
    demand="restored_droop",
    capability="most_droop",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The level droops by {demand} over a period; {capability} is allowed.",
    why="The wave tilts, and its lower peak sinks.",
    remedies=(Move("coupling_capacitor", "up", 100.0), Move("load_resistor", "up", 100.0)),
)


@doubler.build(
    unit="V",
    symbol=r"V_\mathrm{out}",
    source=PUMPING,
    title="Output",
    tex=r"\frac{2\,({wave_amplitude}-{diode_drop})}{1+\frac{1}{{wave_frequency}\,{load_resistor}}\left(\frac{1}{coupling_capacitor}+\frac{1}{2\,{output_capacitor}}\right)}",
    example=(
        {"wave_amplitude": 100, "diode_drop": 0.7, "wave_frequency": 20e3, "load_resistor": 100e3, "coupling_capacitor": 1e-7, "output_capacitor": 1e-7},
        197.122,
    ),
)
def doubled_voltage(wave_amplitude, diode_drop, wave_frequency, load_resistor, coupling_capacitor, output_capacitor):
    """Mean output: of twice the peak what the charge of a period takes from both capacitors is missing."""
    share = (1 / coupling_capacitor + 1 / (2 * output_capacitor)) / (wave_frequency * load_resistor)
    return 2 * (wave_amplitude - diode_drop) / (1 + share)


@doubler.build(
    unit="V", symbol=r"\Delta V", source=PUMPING, title="Output ripple", tex=r"\frac{doubled_voltage}{{wave_frequency}\,{load_resistor}\,{output_capacitor}}"
)
def doubled_ripple(doubled_voltage, wave_frequency, load_resistor, output_capacitor):
    """Peak to peak on the output capacitor."""
    return doubled_voltage / (wave_frequency * load_resistor * output_capacitor)


doubler.check(
    "reaches",
    title="Reaches the output wanted",
    demand="wanted_output",
    capability="doubled_voltage",
    fail=1.0,
    hold=1.02,
    harm="none",
    sentence="{demand} are wanted; loaded it gives {capability}.",
    why="A doubler has an output resistance of the inverse of frequency and capacitance.",
    remedies=(Move("coupling_capacitor", "up", 100.0), Move("wave_amplitude", "up", 3.0)),
)

_WAVE = (
    Part("sine", "wave", (0, 0), (0, 4), ("wave_amplitude",), frequency="wave_frequency", neighbour=True),
    Part("resistor", "source", (0, 0), (3, 0), ("source_resistance",), "Source resistance", neighbour=True),
)
restorer.draw(
    Schematic(
        (
            *_WAVE,
            Part("capacitor", "series", (3, 0), (6, 0), ("coupling_capacitor",), "Series capacitor", checks=("droop",)),
            Part("diode", "diode", (6, 4), (6, 0), (0.5,), forward="diode_drop", checks=("reverse",)),
            Part("resistor", "load", (9, 0), (9, 4), ("load_resistor",), neighbour=True),
        ),
        (((6, 0), (9, 0)), ((0, 4), (9, 4))),
        ((0, 4),),
        {"in": (0, 0), "out": (9, 0)},
    )
)
doubler.draw(
    Schematic(
        (
            *_WAVE,
            Part("capacitor", "series", (3, 0), (6, 0), ("coupling_capacitor",), "Series capacitor", checks=("reaches",)),
            Part("diode", "first_diode", (6, 4), (6, 0), (0.5,), forward="diode_drop", checks=("reverse",)),
            Part("diode", "second_diode", (6, 0), (9, 0), (0.5,), forward="diode_drop", checks=("reverse",)),
            Part("capacitor", "output", (9, 0), (9, 4), ("output_capacitor",), "Output capacitor"),
            Part("resistor", "load", (12, 0), (12, 4), ("load_resistor",), neighbour=True),
        ),
        (((9, 0), (12, 0)), ((0, 4), (12, 4))),
        ((0, 4),),
        {"in": (0, 0), "middle": (6, 0), "out": (12, 0)},
    )
)


def _period(seen: Seen) -> Course:
    """One period of the wave."""
    return Course(1 / seen.at("wave_frequency"))


restorer.look("Over a period", "v in", "v out", "i diode")(_period)
doubler.look("Over a period", "v in", "v middle", "v out", "i second_diode")(_period)
