"""Precharge, second part: what draws from the bank while it is charged, and the schools (2.5; 16, H6)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, known
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.source.precharge import RC, precharge
from rhombos.core.units import NOT_FITTED

LOADED = "balance of currents at the bank: (V − v)/R = v/R_L + P/v"

precharge.choice(
    "school",
    {"sequenced": Option("relay, then contactor", {"sequenced": 1}), "permanent": Option("resistor for good", {"sequenced": 0})},
    {"sequenced": ("", r"\sigma", "1 where a relay switches the resistor, 0 where it stays across the contactor.")},
    default="sequenced",
    sentence="How the bank is filled before the contactor closes.",
)
precharge.hazard("never_dead", "bypassed_voltage")

precharge.give(
    "bus_load_resistance",
    NOT_FITTED["Ω"],
    "Ω",
    "R_L",
    0.1,
    NOT_FITTED["Ω"],
    "Resistance across the bank while it is charged; it may be not fitted.",
    "Load across the bank",
)
precharge.give("bus_load_power", 0.0, "W", "P", 0, 1e4, "Constant power that draws from the bank while it is charged.", "Converter on the bank")
precharge.give("wake_voltage", 0.0, "V", r"V_\mathrm{wake}", 0, 2e3, "Bank voltage at which that converter wakes.", "Converter wakes at")


def _balance(volts, resistor, load, power):
    """Conductance at the bank, the current a dead bank draws, and the discriminant of the balance."""
    conductance = 1 / resistor + 1 / load
    first = volts / resistor
    return conductance, first, first**2 - 4 * power * conductance


@precharge.operation(
    unit="V",
    symbol=r"V_\infty",
    source=LOADED,
    title="Bank settles at",
    tex=r"\begin{gathered}\begin{cases}\frac{I+\sqrt{\max(d,0)}}{2\,g}&d\ge0\\0&\text{else}\end{cases}\\d=I^2-4\,{bus_load_power}\,g\\g=\frac{1}{precharge_resistor}+\frac{1}{bus_load_resistance}\\I=\frac{open_circuit_voltage}{precharge_resistor}\end{gathered}",
    example=({"open_circuit_voltage": 350, "precharge_resistor": 820, "bus_load_resistance": 1e12, "bus_load_power": 30}, 252.65),
)
def settled_voltage(open_circuit_voltage, precharge_resistor, bus_load_resistance, bus_load_power):
    """Where the bank comes to rest behind its resistor with its load on; with too much power nowhere: it collapses and hiccups."""
    conductance, first, square = _balance(open_circuit_voltage, precharge_resistor, bus_load_resistance, bus_load_power)
    rests = (first + np.sqrt(np.maximum(square, 0 * square))) / (2 * conductance)
    return np.where(square >= 0 * square, rests, 0 * rests)


@precharge.operation(
    unit="V",
    symbol=r"V_\mathrm{lo}",
    source=LOADED,
    title="Bank collapses below",
    tex=r"\begin{gathered}\begin{cases}\frac{I-\sqrt{\max(d,0)}}{2\,g}&d\ge0\\{open_circuit_voltage}&\text{else}\end{cases}\\d=I^2-4\,{bus_load_power}\,g\\g=\frac{1}{precharge_resistor}+\frac{1}{bus_load_resistance}\\I=\frac{open_circuit_voltage}{precharge_resistor}\end{gathered}",
    example=({"open_circuit_voltage": 350, "precharge_resistor": 820, "bus_load_resistance": 1e12, "bus_load_power": 30}, 97.35),
)
def collapse_voltage(open_circuit_voltage, precharge_resistor, bus_load_resistance, bus_load_power):
    """A converter that wakes below this pulls the bank down again: it draws more than the resistor brings."""
    conductance, first, square = _balance(open_circuit_voltage, precharge_resistor, bus_load_resistance, bus_load_power)
    falls = (first - np.sqrt(np.maximum(square, 0 * square))) / (2 * conductance)
    return np.where(square >= 0 * square, falls, open_circuit_voltage)


@precharge.operation(unit="", symbol=r"v_\infty", source=LOADED, title="Settles at, over the source", tex=r"\frac{settled_voltage}{open_circuit_voltage}")
def settled_share(settled_voltage, open_circuit_voltage):
    """Where the bank comes to rest, over the source."""
    return settled_voltage / open_circuit_voltage


@precharge.operation(
    unit="s",
    symbol="t_x'",
    source=LOADED + ", integrated",
    title="Time to the closing fraction, loaded",
    tex=r"\begin{gathered}\frac{bank_capacitance}{g}\left(\ln\frac{V_R}{V_R-w}+\frac{{settled_voltage}\ln\frac{{settled_voltage}-w}{{settled_voltage}-y}+{collapse_voltage}\ln\frac{\max(y-{collapse_voltage},m)}{\max(w-{collapse_voltage},m)}}{{settled_voltage}-{collapse_voltage}}\right)\\w=\min({wake_voltage},y)\\m=10^{-9}\,{open_circuit_voltage}\\y={closing_fraction}\,{open_circuit_voltage}\\V_R=\frac{open_circuit_voltage}{{precharge_resistor}\,g}\\g=\frac{1}{precharge_resistor}+\frac{1}{bus_load_resistance}\end{gathered}",
    example=(
        {
            "bank_capacitance": 1e-3,
            "precharge_resistor": 100,
            "bus_load_resistance": 1e4,
            "settled_voltage": 341.96,
            "collapse_voltage": 4.575,
            "open_circuit_voltage": 350,
            "closing_fraction": 0.95,
            "wake_voltage": 100,
        },
        0.3606809,
    ),
)
def loaded_time(
    bank_capacitance, precharge_resistor, bus_load_resistance, settled_voltage, collapse_voltage, open_circuit_voltage, closing_fraction, wake_voltage
):
    """Time until the contactor may close with the loads on: the resistance from the start, the converter from where it wakes."""
    conductance = 1 / precharge_resistor + 1 / bus_load_resistance
    target = closing_fraction * open_circuit_voltage
    wakes = np.minimum(wake_voltage, target)
    empty = open_circuit_voltage / precharge_resistor / conductance
    least = 1e-9 * open_circuit_voltage
    ends = (settled_voltage > target) & (empty > wakes) & ((collapse_voltage <= least) | (wakes > collapse_voltage))
    high, low = np.where(ends, settled_voltage, 2 * target), np.where(ends, collapse_voltage, 0 * target)
    before = np.log(empty / np.where(ends, empty - wakes, empty))
    fast = high * np.log((high - wakes) / (high - target))
    slow = low * np.log(np.maximum(target - low, least) / np.maximum(wakes - low, least))
    time = bank_capacitance / conductance * (before + (fast + slow) / (high - low))
    return known(
        ends,
        time,
        "the bank never reaches {target} V: its load holds it at {volts} V, or pulls it down again below {low} V",
        target=target,
        volts=settled_voltage,
        low=collapse_voltage,
    )


@precharge.build(
    unit="V",
    symbol=r"V_\mathrm{by}",
    source="what the resistor leaves connected",
    title="Voltage past the open contactor",
    tex=r"(1-{sequenced})\,{highest_source_voltage}",
)
def bypassed_voltage(sequenced, highest_source_voltage):
    """Voltage that a permanent resistor keeps on the bank with the contactor open."""
    return (1 - sequenced) * highest_source_voltage


@precharge.build(
    unit="W",
    symbol=r"P_\mathrm{for ever}",
    source=RC,
    title="Resistor on a shorted bank",
    tex=r"\frac{{bypassed_voltage}\,{highest_source_voltage}}{precharge_resistor}",
    example=({"bypassed_voltage": 58, "highest_source_voltage": 58, "precharge_resistor": 100}, 33.64),
)
def standing_power(bypassed_voltage, highest_source_voltage, precharge_resistor):
    """What a permanent resistor burns for ever if the bank is shorted."""
    return bypassed_voltage * highest_source_voltage / precharge_resistor


@precharge.build(unit="s", symbol=r"t_x'", source="worst corner", title="Longest precharge", tex=r"\max({loaded_time})")
def longest_time(loaded_time):
    """Time until the contactor may close, at the worst corner."""
    return highest(loaded_time)


precharge.check(
    "settles",
    title="Bank gets full",
    demand="closing_fraction",
    capability="settled_share",
    fail=1.0,
    hold=1.01,
    harm="none",
    sentence="The contactor closes from {demand} of the source; with its loads the bank settles at {capability}.",
    why="A bank that stands still below its target never starts.",
    remedies=(Move("precharge_resistor", "down", 20.0), Move("bus_load_power", "down", 20.0), Move("closing_fraction", "down", 1.2)),
)
precharge.check(
    "wakes",
    title="Converter wakes late enough",
    demand="collapse_voltage",
    capability="wake_voltage",
    fail=1.0,
    hold=1.25,
    harm="none",
    sentence="Below {demand} the converter on the bank draws more than the resistor brings; it wakes at {capability}.",
    why="It wakes, pulls the bank down, dies and wakes again.",
    no_demand="No converter draws from the bank while it is charged.",
    remedies=(Move("wake_voltage", "up", 20.0), Move("precharge_resistor", "down", 20.0), Move("bus_load_power", "down", 20.0)),
)
precharge.check(
    "standing",
    title="Resistor stands a short for ever",
    demand="standing_power",
    capability="resistor_watts",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="With the bank shorted the resistor burns {demand} for as long as the pack lasts; it is rated {capability}.",
    why="Nothing disconnects a permanent resistor.",
    no_demand="The relay opens: the resistor burns nothing for good.",
    remedies=(Move("precharge_resistor", "up", 50.0), Move("resistor_watts", "up", 20.0)),
)
