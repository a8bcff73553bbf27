"""The circuits before the converter: battery, line and bank; precharge."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.source.precharge import precharge
from rhombos.core.stages.source.source_input import source_input

FUSED = ("fuse_carries", "fuse_protects_cable", "fuse_voltage", "fuse_breaks", "fuse_inrush")
BANK = ("bulk_resistance", "bulk_cold", "line_damped")
CONTACT = 1e-4
"""Ω of a closed contact; the line's own resistance holds all contacts."""


def _drawn(ripple, step, charge):
    """Duty and frequency of rectangular pulses of height `step` that have this rms ripple and take this charge."""
    share = min((ripple / step) ** 2, 0.25) if step > 0 else 0.0
    duty = (1 + np.sqrt(max(1 - 4 * share, 0.0))) / 2
    return duty, ripple**2 / (step * charge) if step * charge > 0 else 0.0


source_input.draw(
    Schematic(
        (
            Part("source", "battery", (0, 0), (0, 5), ("open_circuit_voltage",), neighbour=True),
            Part("resistor", "pack", (0, 0), (3, 0), ("pack_resistance",), "In the pack", neighbour=True),
            Part("resistor", "line", (3, 0), (6, 0), ("line_resistance",), "Fuse and line", pick="fuse", checks=FUSED),
            Part("inductor", "cable", (6, 0), (9, 0), ("cable_inductance",), checks=("line_damped",), order="Battery cable"),
            Part("resistor", "bank_resistance", (9, 0), (9, 2.5), ("bank_resistance",), "Its resistance", checks=BANK),
            Part(
                "capacitor",
                "bank",
                (9, 2.5),
                (9, 5),
                ("bank_capacitance",),
                "Bulk capacitors",
                pick="bulk",
                checks=("bulk_voltage", "bulk_ripple", "bulk_capacitance"),
            ),
            Part("current", "converter", (13, 0), (13, 5), ("source_current",), neighbour=True),
        ),
        (((9, 0), (13, 0)), ((0, 5), (13, 5))),
        ((0, 5),),
        {"battery": (0, 0), "bank": (13, 0)},
    )
)


@source_input.look("Over a switching period", "v bank", "i line", "i bank_resistance")
def pulses(seen: Seen) -> Course:
    """The converter draws rectangular pulses whose height, rms ripple and charge are the sheet's; what the line smooths is the battery's."""
    step = seen.at("drawn_step")
    duty, frequency = _drawn(seen.at("drawn_ripple_current"), step, seen.at("drawn_ripple_charge"))
    if frequency <= 0:
        return Course(1e-3)
    mean = seen.at("source_current")
    high, low = mean + step * (1 - duty), mean - step * duty
    return Course(1 / frequency, (Event(0.0, {}, {"converter": high}), Event(duty / frequency, {}, {"converter": low})))


precharge.draw(
    Schematic(
        (
            Part("source", "battery", (0, 0), (0, 5), ("open_circuit_voltage",), neighbour=True),
            Part("resistor", "line", (0, 0), (3, 0), ("pack_resistance", "line_resistance"), "Pack and line", neighbour=True),
            Part("inductor", "cable", (3, 0), (6, 0), ("cable_inductance",), checks=("closing",)),
            Part("switch", "contactor", (6, 0), (11, 0), (CONTACT,), order="Main contactor", checks=("closing", "release")),
            Part("switch", "relay", (6, -2.5), (8.5, -2.5), (CONTACT,), "Precharge relay"),
            Part(
                "resistor",
                "resistor",
                (8.5, -2.5),
                (11, -2.5),
                ("precharge_resistor",),
                "Resistor",
                order="Precharge resistor",
                checks=("energy", "time", "body"),
            ),
            Part("resistor", "bank_resistance", (11, 0), (11, 2.5), ("bank_resistance",), "Its resistance", neighbour=True),
            Part("capacitor", "bank", (11, 2.5), (11, 5), ("bank_capacitance",), "Bulk capacitors", neighbour=True),
            Part("resistor", "bus_load", (14, 0), (14, 5), ("bus_load_resistance",), "Load on the bus", checks=("settles",), neighbour=True),
        ),
        (((6, 0), (6, -2.5)), ((11, -2.5), (11, 0)), ((11, 0), (14, 0)), ((0, 5), (14, 5))),
        ((0, 5),),
        {"pack": (0, 0), "bus": (14, 0)},
    )
)


@precharge.look("A start", "v bus", "i resistor", "i contactor")
def start(seen: Seen) -> Course:
    """The relay closes, and when the bank has reached its share the contactor; what is left of the voltage rings in the cable."""
    close = seen.at("precharge_time")
    return Course(1.25 * close, (Event(0.0, {"relay": True}), Event(close, {"contactor": True})), repeats=False)


@precharge.look("The contactor closes", "v bus", "i contactor")
def closing(seen: Seen) -> Course:
    """The first of it, from the voltage that the precharge leaves: the surge of resistance, inductance and capacitance in series."""
    inductance, capacitance = seen.at("cable_inductance"), seen.at("bank_capacitance")
    seconds = 4 * np.pi * np.sqrt(inductance * capacitance)
    left = seen.at("open_circuit_voltage") - seen.at("closing_step")
    return Course(seconds, (Event(0.0, {"relay": True, "contactor": True}),), repeats=False, start={"bank": left})
