"""What control looks like: the clock's two outputs, a gate's edges, the bootstrap's droop and refresh."""

import numpy as np

from rhombos.core.graph.pictures import Limit, Mark, Plot, Seen, Series, most
from rhombos.core.sequence.bootstrap_cycle import Cell, repeated
from rhombos.core.stages.control import supply_pictures as supply_pictures
from rhombos.core.stages.control import ways as ways
from rhombos.core.stages.control.bootstrap_line import bootstrap
from rhombos.core.stages.control.gate_guard import gate_drive
from rhombos.core.stages.control.oscillator_parts import oscillator
from rhombos.core.units import show


@oscillator.picture("The two outputs over two periods", "gate_on_voltage", "total_duty")
def clock(seen: Seen) -> Plot:
    """When either output drives: at this corner's duty, within the greatest that the dead times leave."""
    period, high = 1 / seen.at("switching_frequency"), seen.at("gate_on_voltage")
    duty = min(seen.at("total_duty"), seen.at("duty_limit")) / 2
    series = []
    for name, shift, tone in (("first output", 0.0, "copper"), ("second output", 0.5, "slate")):
        edges = [(k + shift + at) * period for k in (0, 1) for at in (0.0, 0.0, duty, duty)]
        series.append(Series(name, [0.0, *edges, 2 * period], [0.0, *[0.0, high, high, 0.0] * 2, 0.0], tone))  # type: ignore[arg-type]
    return Plot(
        "time",
        "s",
        "V",
        series,
        y_from=0.0,
        y_to=1.15 * high,
        note="Between the outputs both switches are off: at the least for the dead time that the clock keeps.",
    )


LOOKED_AT = np.array([0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5])
"""Frequencies over the one that is built."""


@oscillator.picture("Losses over frequency", "total_loss")
def losses(seen: Seen) -> Plot:
    """All losses with this build at another frequency, and with everything sized anew for it: the least is that of the second."""
    built = seen.at("switching_frequency")
    frequency = built * LOOKED_AT
    held, sized = (seen.pinned("switching_frequency", frequency, "total_loss", held=held) for held in (True, False))
    marks = [Mark("as built", built, seen.at("total_loss"))]
    note = "Sized anew: turns, core, strands, chokes and parts for each frequency. Below 20 kHz a core sings."
    if np.isfinite(sized).any():
        least = int(np.nanargmin(sized))
        marks.append(Mark("least", float(frequency[least]), float(sized[least])))
        edge = " or beyond" if least in (0, len(frequency) - 1) else ""
        note += f" Of those looked at the least is {show(float(sized[least]), 'W', 3)} at {show(float(frequency[least]), 'Hz', 3)}{edge}."
    series = [Series("sized anew", frequency, sized), Series("this build", frequency, held, "slate", dashed=True)]
    return Plot("switching frequency", "Hz", "W", series, marks=marks, note=note)


@gate_drive.picture("Gate voltage at turn-on and turn-off")
def edges(seen: Seen) -> Plot:
    """One gate through its resistors: charging, the plateau while the drain moves, and the rest."""
    high, plateau = seen.at("gate_on_voltage"), min(seen.at("plateau_voltage"), 0.99 * seen.at("gate_on_voltage"))
    charge, capacitance = seen.at("switch_gate_drain_charge"), seen.at("switch_input_capacitance")
    up, down = seen.at("gate_path_on"), seen.at("gate_path_off")
    on = _edge(up * capacitance, lambda t: high * (1 - np.exp(-t)), -np.log(1 - plateau / high), charge * up / (high - plateau), plateau)
    off = _edge(down * capacitance, lambda t: high * np.exp(-t), np.log(high / plateau), charge * down / plateau, plateau)
    return Plot("time from the driver's edge", "s", "V", [Series("on", *on), Series("off", *off, "slate")], [Limit("plateau", plateau)], y_from=0.0)


def _edge(tau: float, law: object, reaches: float, holds: float, plateau: float) -> tuple[list[float], list[float]]:
    """Time and voltage of an edge: along its law to the plateau, along the plateau, and on along the law."""
    before, after = np.linspace(0, reaches, 15), np.linspace(reaches, reaches + 3, 20)
    time = np.concatenate([before * tau, after * tau + holds])
    value = np.concatenate([law(before), law(after)])  # type: ignore[operator]
    value[len(before) - 1 : len(before) + 1] = plateau
    return time.tolist(), value.tolist()


@bootstrap.picture("The capacitor over its longest cycle")
def droop(seen: Seen) -> Plot:
    """What the high side takes while it is on, and the refresh of the next low time; the capacitor at its effective value."""
    full, on = seen.at("full_voltage"), seen.at("longest_on_time")
    capacitance = seen.at("bootstrap_capacitor") / seen.at("capacitance_derating")
    lost = seen.at("on_time_charge") / capacitance
    drain = (seen.at("high_side_current") + seen.at("switch_quantity") * full / seen.at("pull_down")) * on / capacitance
    held = np.array([full, full - max(lost - drain, 0.0), full - lost])
    tau, refresh = seen.at("bootstrap_resistor") * capacitance, seen.at("minimum_low_time")
    low = np.linspace(0, max(3 * refresh, 3 * tau), 25)
    return Plot(
        "time from turn-on",
        "s",
        "V",
        [Series("high side on", [0.0, 0.0, on], held), Series("refresh", on + low, full - lost * np.exp(-low / tau), "slate")],
        [Limit("lock-out", seen.at("lockout_voltage"))],
        [Mark("least low time", on + refresh, float(full - lost * np.exp(-refresh / tau)))],
    )


@bootstrap.picture("The capacitor over an output period", "modulation_index", "output_frequency", "dead_time_share")
def over_period(seen: Seen) -> Plot:
    """Cycle by cycle to repetition: lowest where the high side is on for longest and refreshed for shortest."""
    output = seen.at("output_frequency")
    index = most(seen.each("modulation_index"))
    cell = Cell(
        seen.at("full_voltage"),
        seen.at("switch_quantity") * seen.at("gate_charge") + seen.at("level_shift_charge"),
        seen.at("high_side_current"),
        seen.at("pull_down") / seen.at("switch_quantity"),
        seen.at("bootstrap_capacitor") / seen.at("capacitance_derating"),
        seen.at("bootstrap_resistor"),
    )
    found = repeated(cell, index, seen.at("gate_frequency"), output, seen.at("available_dead_time"))
    floor = seen.at("lockout_voltage") + 1
    half = 1 / (2 * output)
    line = cell.after_high(cell.full, half)
    ok = "above" if found.lowest >= floor else "below"
    said = f"At the highest modulation index ({index:.3g}) it falls to {show(found.lowest, 'V', 3)}, {ok} what the driver needs ({show(floor, 'V', 3)})."
    if not found.repeats:
        said = "It does not come to repeat: each period leaves less."
    longest = f" A leg that stays high for half a period ({show(half, 's', 3)}) would leave {show(max(line, 0.0), 'V', 3)} on this capacitor: see the figures for line-frequency legs."
    return Plot("time", "s", "V", [Series("bootstrap", found.time, found.volts)], [Limit("lock-out and a volt", floor)], note=said + longest)
