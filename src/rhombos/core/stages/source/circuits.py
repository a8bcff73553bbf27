"""The circuits before the converter: battery, line and bank; precharge."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.polarity import polarity
from rhombos.core.stages.source.precharge import RELAY, precharge
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
        joints=Joints(((0, 0), (0, 5)), ((13, 0), (13, 5)), keeps=("battery", "pack")),
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
            Part("switch", "relay", (6, -2.5), (8.5, -2.5), (CONTACT,), "Precharge relay", order=RELAY, fitted="sequenced"),
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


cutoff.draw(
    Schematic(
        (
            Part("source", "pack", (0, 0), (0, 6), ("voltage_before",), "Pack, cells alone", neighbour=True),
            Part("resistor", "upper", (4, 0), (4, 3), ("upper_resistor",), "Upper", order="Upper resistor", checks=("no_trip_in_service", "guards_cells")),
            Part("resistor", "lower", (4, 3), (4, 6), ("lower_resistor",), "Lower", order="Lower resistor"),
            Part("resistor", "filter_resistor", (7, 3), (10, 3), ("filter_resistor",), "Filter", order="Filter resistor"),
            Part("capacitor", "filter", (10, 3), (10, 6), ("filter_capacitor",), "Filter", order="Filter capacitor", checks=("no_trip_in_service",)),
            Part("resistor", "feedback", (7, 0.5), (13, 0.5), ("feedback_resistor",), "Feedback", order="Feedback resistor", checks=("rebound", "restart")),
            Part("source", "output", (13, 3), (13, 6), ("output_high",), "Comparator", order="Comparator"),
        ),
        (((0, 0), (4, 0)), ((4, 3), (7, 3)), ((7, 3), (7, 0.5)), ((13, 0.5), (13, 3)), ((0, 6), (13, 6))),
        ((0, 6),),
        {"pack": (4, 0), "tap": (7, 3), "comparator": (10, 3)},
    )
)


@cutoff.look("The worst start", "v comparator", "v tap")
def start_seen(seen: Seen) -> Course:
    """The pack as the cells alone hold it falls, at its lowest corner, for as long as the longest start lasts; what the comparator sees must stay above the reference."""
    worst = int(np.nanargmin(seen.each("resting_pack_voltage")))
    before, fallen = float(seen.each("voltage_before")[worst]), float(seen.each("resting_pack_voltage")[worst])
    seconds = float(np.nanmax(seen.each("surge_time")))
    seconds = seconds if seconds > 0 else seen.at("filter_time")
    legs = np.array([seen.at(n) for n in ("upper_resistor", "lower_resistor", "feedback_resistor")])
    tap = (before / legs[0] + seen.at("output_high") / legs[2]) / (1 / legs).sum()
    falls = (Event(0.0, {}, {"pack": before}), Event(0.25 * seconds, {}, {"pack": fallen}), Event(1.25 * seconds, {}, {"pack": before}))
    return Course(2 * seconds, falls, repeats=False, start={"filter": float(tap)})


SCHOTTKY, SHUNT, BODY = 5e-3, 1e-3, 0.8
"""Ω of the diodes beyond their forward voltage, and the volts of a body diode or a shunt diode."""

_BARE = Worked(("line_resistance", "polarity_resistance"), lambda line, series: line - series)
"""The line without the series part, which the sheet counts into it."""

polarity.draw(
    Schematic(
        (
            Part("source", "battery", (0, 0), (0, 5), ("open_circuit_voltage",), neighbour=True),
            Part("resistor", "line", (0, 0), (3, 0), ("pack_resistance", _BARE), "Pack and line", neighbour=True),
            Part("switch", "fuse", (3, 0), (6, 0), (CONTACT,), "Fuse", neighbour=True),
            Part(
                "diode",
                "series_diode",
                (6, 0),
                (9, 0),
                (SCHOTTKY,),
                "Series diode",
                forward="series_drop",
                order="Series diode",
                checks=("series_part", "series_heat"),
                fitted="by_series_diode",
            ),
            Part(
                "switch",
                "series_switch",
                (9, 0),
                (12, 0),
                ("series_resistance",),
                "Series MOSFET",
                order="Series MOSFET",
                checks=("series_part", "series_heat"),
                fitted="by_series_switch",
            ),
            Part("diode", "body", (9, -2.5), (12, -2.5), (SCHOTTKY,), "Body", forward=BODY, fitted="by_series_switch", across=True),
            Part(
                "diode",
                "shunt_diode",
                (12, 5),
                (12, 0),
                (SHUNT,),
                "Shunt diode",
                forward=BODY,
                order="Shunt diode",
                checks=("shunt_diode",),
                fitted="by_shunt_diode",
                across=True,
            ),
            Part("resistor", "bank_resistance", (16, 0), (16, 2.5), ("bank_resistance",), "Its resistance", neighbour=True),
            Part("capacitor", "bank", (16, 2.5), (16, 5), ("bank_capacitance",), "Bulk capacitors", neighbour=True),
        ),
        (((9, 0), (9, -2.5)), ((12, 0), (12, -2.5)), ((12, 0), (16, 0)), ((0, 5), (16, 5))),
        ((0, 5),),
        {"pack": (0, 0), "bank": (16, 0)},
    )
)


def _in_the_way(seen: Seen) -> float:
    """Resistance from the cells to the bank."""
    return seen.at("pack_resistance") + seen.at("line_resistance")


@polarity.look("The wrong way round", "v bank", "i line")
def reversed_(seen: Seen) -> Course:
    """The pack is put on the wrong way round, all contacts closed: what reaches the bank, until the fuse clears where it must."""
    volts, resistance = seen.at("open_circuit_voltage"), _in_the_way(seen)
    clears = seen.at("clearing_heat") * (resistance / volts) ** 2
    filling = 5 * (resistance + seen.at("bank_resistance")) * seen.at("bank_capacitance")
    blown = (Event(clears, {"fuse": False}),) if seen.at("by_shunt_diode") else ()
    begun = Event(0.0, {"fuse": True}, {"battery": -volts})
    return Course(2 * max(filling, clears if blown else 0.0), (begun, *blown), repeats=False)


@polarity.look("In service", "v bank", "i line")
def in_service(seen: Seen) -> Course:
    """The right way round: the bank is filled through what stands in the line (without its precharge)."""
    filling = 5 * (_in_the_way(seen) + seen.at("bank_resistance")) * seen.at("bank_capacitance")
    return Course(2 * filling, (Event(0.0, {"fuse": True, "series_switch": True}),), repeats=False)
