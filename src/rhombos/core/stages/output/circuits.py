"""The circuit of the output filter between bridge and load."""

import math
from dataclasses import replace
from typing import Any

from rhombos.core.circuit.output.run import PeriodRun
from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.scope import Setting, output_period, surroundings
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.output.output_filter import output_filter

_LOAD = ("output_power", "output_reactive_power", "delivered_voltage")
_ASKED = {
    "link": "link_voltage",
    "index": "node_peak_voltage",
    "frequency": "output_frequency",
    "carrier": "carrier_frequency",
    "inductance": "filter_inductance",
    "resistance": "choke_resistance",
    "capacitance": "filter_capacitance",
    "damping_capacitance": "damping_capacitance",
    "damping_resistance": "damping_resistor",
    "power": "output_power",
    "reactive_power": "output_reactive_power",
    "voltage": "delivered_voltage",
}
"""What the filter knows itself of a setting."""
NO_LOAD = 1e-4
"""Of a load's volt-amperes: what a meter at open terminals draws."""
WIRE = 1e-6
"""H of a metre of wire."""


def _resistance(power, reactive, voltage):
    """Of the series circuit that takes these watts and this reactive power."""
    return voltage**2 * max(power, NO_LOAD) / (max(power, NO_LOAD) ** 2 + reactive**2)


def _inductance(power, reactive, voltage, frequency):
    """Of the same; a wire's where it takes none."""
    return max(voltage**2 * reactive / (max(power, NO_LOAD) ** 2 + reactive**2) / (2 * math.pi * frequency), WIRE)


output_filter.draw(
    Schematic(
        (
            Part("source", "bridge", (0, 0), (0, 5), ("link_voltage",), "Bridge node", neighbour=True),
            Part("inductor", "choke", (0, 0), (4, 0), ("filter_inductance",), "Filter choke", order="Output choke", checks=("corner_high", "corner_low")),
            Part("resistor", "choke_resistance", (4, 0), (7, 0), ("choke_resistance",), "Its resistance"),
            Part(
                "capacitor",
                "capacitor",
                (7, 0),
                (7, 5),
                ("filter_capacitance",),
                "Filter capacitor",
                pick="capacitor",
                checks=("corner_high", "corner_low", "reactive", "capacitor_voltage", "capacitor_current"),
            ),
            Part("resistor", "damping", (11, 0), (11, 2.5), ("damping_resistor",), "Damping resistor", order="Damping resistor"),
            Part(
                "capacitor",
                "damper",
                (11, 2.5),
                (11, 5),
                ("damping_capacitance",),
                "Damping capacitor",
                pick="damper",
                checks=("damper_voltage", "damper_current"),
            ),
            Part("resistor", "load", (15, 0), (15, 2.5), (Worked(_LOAD, _resistance),), "Load, its watts", neighbour=True),
            Part("inductor", "load_inductance", (15, 2.5), (15, 5), (Worked((*_LOAD, "output_frequency"), _inductance),), "Its inductance", neighbour=True),
        ),
        (((7, 0), (15, 0)), ((0, 5), (15, 5))),
        ((0, 5),),
        {"bridge": (0, 0), "out": (15, 0)},
        joints=Joints(((0, 0), (0, 5)), ((15, 0), (15, 5)), keeps=("load", "load_inductance")),
    )
)


@output_filter.look("Over an output period", "v out", "i choke", "i damping")
def output_period_of(seen: Seen) -> PeriodRun:
    """The bridge's edges as its modulation makes them, with the dead time and on the link of this line-up; the load by its watts and reactive power."""
    asked: dict[str, Any] = {name: seen.at(figure) for name, figure in _ASKED.items()}
    around = {"natural": False, **surroundings(seen.sheet, seen.sheet.corners.ids[seen.corner])}
    setting = Setting(**asked, unipolar=seen.at("carrier_multiple") == 2, **around)
    seen_period = output_period(replace(setting, index=min(setting.index / setting.link, 1.0))).seen
    assert output_filter.schematic is not None, "drawn above"
    return PeriodRun(seen_period, output_filter.schematic.ways)


@output_filter.look("Over two carrier periods", "v bridge", "i choke", "i capacitor")
def carrier_period(seen: Seen) -> Course:
    """At a duty of one half, where the ripple is greatest; the output stands still."""
    half = 1 / (seen.at("carrier_multiple") * seen.at("carrier_frequency"))
    link, bipolar = seen.at("link_voltage"), seen.at("carrier_multiple") < 2
    high, low = (link, -link) if bipolar else (link, 0.0)
    return Course(2 * half, tuple(Event(k * half / 2, {}, {"bridge": high if k % 2 == 0 else low}) for k in range(4)))
