"""The battery: pack and cable by the closed form of a constant-power load, and run time."""

import numpy as np

from rhombos.core.formulas.numeric import applies, highest, known
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.stages.sizes import BY_SOURCE_VOLTAGE, SOURCE_VOLTAGE
from rhombos.core.vocabulary import word

TEXTBOOK = "constant-power load behind a resistance, quadratic of P = V·(V_oc − V)/R"
JUDGED = "[judgement] volts per cell by chemistry"

battery = Stage("battery", "Battery", telling="{cells} × {chemistry}")
battery.hazard("fault_current", "fault_current")
battery.hazard("dc_voltage", "highest_source_voltage")
battery.bus("dc", "terminal_voltage", "source_current")
battery.size(SOURCE_VOLTAGE, "open_circuit_voltage", 26.0)
battery.ask("source", "chemistry", at_once=True)
battery.ask_count("source", "cells", by="chemistry", each="chemistry_nominal", sum="Nominal volts")
battery.ask("source", "capacity")
battery.show_sum("Resistance of one cell", "cell_resistance", "source")
battery.show_sum("Lasts at full load", "run_time", "source")
battery.show_sum("Lasts idling", "run_time", "source", load_fraction=0.0)


def _cells(
    title: str,
    empty: float,
    nominal: float,
    full: float,
    cutoff: float,
    deep: float,
    charging: float,
    equalising: float,
    recovery: float,
    usable: float,
    peukert: float,
    resistance: float,
) -> Option:
    return Option(
        title,
        {
            "chemistry_empty": empty,
            "chemistry_nominal": nominal,
            "chemistry_full": full,
            "chemistry_cutoff": cutoff,
            "chemistry_deep": deep,
            "chemistry_charging": max(charging, equalising),
            "chemistry_recovery": recovery,
            "usable_fraction": usable,
            "peukert_exponent": peukert,
            "cell_resistance_capacity": resistance * 3600,
            "is_supply": 0,
        },
    )


_NO_CELLS = ("empty", "nominal", "full", "cutoff", "deep", "charging", "recovery")
SUPPLY = Option(
    "DC supply", {**{f"chemistry_{n}": 0 for n in _NO_CELLS}, "usable_fraction": 1, "peukert_exponent": 1, "cell_resistance_capacity": 0, "is_supply": 1}
)


battery.choice(
    "chemistry",
    {
        "lifepo4": _cells("LiFePO4", 2.90, 3.25, 3.40, 2.80, 2.50, 3.65, 0, 0.10, 0.8, 1.0, 0.07),
        "lead_acid": _cells("lead-acid", 1.96, 2.05, 2.13, 1.75, 1.65, 2.45, 2.60, 0.15, 0.5, 1.2, 0.08),
        "nmc": _cells("Li-ion (NMC, polymer)", 3.20, 3.70, 4.20, 3.00, 2.70, 4.20, 0, 0.10, 0.8, 1.0, 0.08),
        "nimh": _cells("NiMH", 1.10, 1.20, 1.35, 1.00, 0.90, 1.45, 0, 0.08, 0.8, 1.0, 0.045),
        "supply": SUPPLY,
    },
    {
        "chemistry_empty": ("V", r"v_\mathrm{empty}", "Rest voltage of one empty cell."),
        "chemistry_nominal": ("V", r"v_\mathrm{nom}", "Rest voltage of one cell at nominal charge."),
        "chemistry_full": ("V", r"v_\mathrm{full}", "Rest voltage of one full cell."),
        "chemistry_cutoff": ("V", r"v_\mathrm{cut}", "Cut-off voltage of one cell, at the terminals, under load."),
        "chemistry_deep": ("V", r"v_\mathrm{deep}", "Voltage of one cell under load below which it is harmed [judgement]."),
        "chemistry_charging": ("V", r"v_\mathrm{ch}", "Highest voltage of one cell while charging (equalising where the chemistry has it)."),
        "chemistry_recovery": ("V", r"\Delta v_\mathrm{rec}", "Rise of one cell's voltage when the load is taken off."),
        "usable_fraction": ("", "u", "Usable part of the capacity."),
        "peukert_exponent": ("", "n_P", "Peukert exponent (1: none)."),
        "cell_resistance_capacity": ("Ω·C", r"r_c C", "Internal resistance of a cell times its capacity, warm, with its share of the links [judgement]."),
        "is_supply": ("", r"\sigma_s", "1 where a DC supply stands in place of cells; then a cell is one supply."),
    },
    default="lifepo4",
    sentence="Chemistry of the cells, which sets the voltages of a cell; or a DC supply.",
    title="Chemistry",
)


battery.give("cells", 8.0, "", "n_c", 1, 200, "Cells in series.", "Cells in series", whole=True)
battery.give("capacity", 100 * 3600.0, "C_Ah", "C", 3600, 36000000.0, "Capacity of the pack (1 Ah is 3600 C).", "Capacity")
battery.give("rating_time", 20 * 3600.0, "s", "H", 3600, 100 * 3600, "Discharge time at which the capacity is rated.", "Rating hours")


@battery.build(
    unit="Ω",
    symbol="r_c",
    source="[judgement] by chemistry, in inverse proportion to the capacity",
    title="Resistance of one cell",
    tex=r"\frac{cell_resistance_capacity}{capacity}+{is_supply}\,{supply_resistance}",
    example=({"cell_resistance_capacity": 252, "capacity": 360e3, "is_supply": 0, "supply_resistance": 5e-3}, 0.7e-3),
    decided=True,
    empirical=True,
)
def cell_resistance(cell_resistance_capacity, capacity, is_supply, supply_resistance):
    """Internal resistance of one cell, warm, unless its maker states it; of a DC supply that of its leads."""
    return cell_resistance_capacity / capacity + is_supply * supply_resistance


@battery.build(unit="Ω", symbol=r"R_\mathrm{pack}", tex=r"{cells}\,{cell_resistance}", source="series connection")
def pack_resistance(cells, cell_resistance):
    """Internal resistance of the pack."""
    return cells * cell_resistance


@battery.operation(
    unit="V",
    symbol=r"V_\mathrm{oc}",
    source=JUDGED,
    title="Open-circuit voltage",
    tex=r"{cells}\cdot\operatorname{interp}({source_level};\,{cell_empty},{cell_nominal},{cell_charging})",
    example=({"cells": 8, "source_level": 2, "cell_empty": 2.9, "cell_nominal": 3.25, "cell_charging": 3.65}, 29.2),
)
def open_circuit_voltage(cells, source_level, cell_empty, cell_nominal, cell_charging):
    """Voltage without load: empty at the lowest level, nominal, charging (held by the charger) at the highest."""
    low = cell_empty + (cell_nominal - cell_empty) * source_level
    high = cell_nominal + (cell_charging - cell_nominal) * (source_level - 1)
    return cells * np.where(source_level <= 1, low, high)


@battery.operation(
    unit="Ω",
    symbol=r"R_s",
    source="at the highest level the charger holds the pack's terminals",
    title="Resistance behind the terminals",
    tex=r"{pack_resistance}\cdot\min(1,\,2-{source_level})+{line_resistance}",
    example=({"pack_resistance": 0.0072, "source_level": 2, "line_resistance": 0.002}, 0.002),
)
def source_resistance(pack_resistance, source_level, line_resistance):
    """Pack and cable; at the highest level the charger holds the pack and only the cable stays."""
    return pack_resistance * np.minimum(1.0, 2.0 - source_level) + line_resistance


@battery.operation(
    unit="V",
    symbol=r"V_t",
    start=25.0,
    grows=BY_SOURCE_VOLTAGE,
    sags=0.85,
    source=TEXTBOOK,
    title="Voltage at the converter",
    tex=r"\begin{gathered}\begin{cases}\max(V_1,V_2)&{source_level}+{surge}<1\\V_1&\text{else}\end{cases}\\V_1=\tfrac{1}{2}\left({open_circuit_voltage}+\sqrt{{open_circuit_voltage}^2-4\,{output_power}\,{source_resistance}}\right)\\"
    r"V_2=\tfrac{1}{2}\left({cells}{cell_cutoff}+\sqrt{({cells}{cell_cutoff})^2-4\,{output_power}\,{line_resistance}}\right)\end{gathered}",
    example=(
        {
            "open_circuit_voltage": 23.2,
            "source_resistance": 0.01,
            "output_power": 900,
            "cells": 8,
            "cell_cutoff": 2.8,
            "line_resistance": 0.0025,
            "source_level": 0,
            "surge": 0,
        },
        22.8050,
    ),
)
def terminal_voltage(open_circuit_voltage, source_resistance, output_power, cells, cell_cutoff, line_resistance, source_level, surge):
    """Voltage at the converter's terminals under a constant-power load, behind pack and cable.

    Below the nominal level the cut-off guards the pack: its voltage under load does not fall below the cut-off,
    so the higher of the two branches stands; a start is over before it acts, so there the cells stand alone.
    """
    square = open_circuit_voltage**2 - 4 * output_power * source_resistance
    guard = cells * cell_cutoff
    square_guard = guard**2 - 4 * output_power * line_resistance
    nothing = 0 * open_circuit_voltage
    # A branch whose root is imaginary does not exist: it must not win over the other with a number made from nothing.
    rest = np.where(square >= 0 * square, (open_circuit_voltage + np.sqrt(np.maximum(square, 0 * square))) / 2, nothing)
    guarded = np.where(square_guard >= 0 * square, (guard + np.sqrt(np.maximum(square_guard, 0 * square))) / 2, nothing)
    value = np.where((source_level < 1) & (surge < 1), np.maximum(rest, guarded), rest)
    can = value > nothing
    value = np.where(can, value, open_circuit_voltage / 2)
    return known(
        can,
        value,
        "the source cannot deliver it: {power} W are drawn, at most {most} W can be had",
        power=output_power,
        most=open_circuit_voltage**2 / (4 * source_resistance),
    )


battery.rename(output_voltage="terminal_voltage")


@battery.operation(unit="A", symbol=r"I_\mathrm{bat}", tex=r"\frac{output_power}{terminal_voltage}", source="I = P/V", title="Battery current")
def source_current(output_power, terminal_voltage):
    """Mean current drawn from the battery."""
    return output_power / terminal_voltage


@battery.operation(
    unit="V", symbol=r"V_\mathrm{pack}", tex=r"{terminal_voltage}+{source_current}\,{line_resistance}", source="Kirchhoff", title="Voltage at the pack"
)
def pack_voltage(terminal_voltage, source_current, line_resistance):
    """Voltage at the pack's own terminals, where the cut-off senses."""
    return terminal_voltage + source_current * line_resistance


@battery.operation(
    unit="V",
    symbol=r"V_\mathrm{pack,rest}",
    source=TEXTBOOK,
    title="Voltage at the pack without the guard",
    tex=r"\begin{gathered}V+\frac{{output_power}\,{line_resistance}}{V}\\V=\tfrac12\left({open_circuit_voltage}+\sqrt{\max({open_circuit_voltage}^2-4\,{output_power}\,{source_resistance},0)}\right)\end{gathered}",
    example=({"open_circuit_voltage": 23.2, "output_power": 1906, "source_resistance": 0.0221, "line_resistance": 0.0021}, 21.40),
)
def resting_pack_voltage(open_circuit_voltage, output_power, source_resistance, line_resistance):
    """Voltage at the pack's terminals as the cells alone give it, no cut-off helping: what the cut-off sees.

    Where the cells cannot deliver at all it is the voltage at their greatest power, which any cut-off takes for empty.
    """
    square = open_circuit_voltage**2 - 4 * output_power * source_resistance
    terminals = (open_circuit_voltage + np.sqrt(np.maximum(square, 0 * square))) / 2
    return terminals + output_power / terminals * line_resistance


@battery.operation(
    unit="W",
    symbol=r"P_\mathrm{max}",
    tex=r"\frac{{open_circuit_voltage}^2}{4\,{source_resistance}}",
    source="maximum power of a source behind a resistance",
    title="Most the source can give",
    example=({"open_circuit_voltage": 24, "source_resistance": 0.012}, 12000),
)
def deliverable_power(open_circuit_voltage, source_resistance):
    """The most power that can be had behind pack and cable."""
    return open_circuit_voltage**2 / (4 * source_resistance)


@battery.operation(
    unit="A", symbol=r"I_\mathrm{sc}", tex=r"\frac{open_circuit_voltage}{pack_resistance}", source="Ohm's law", title="Fault current at the battery"
)
def fault_current(open_circuit_voltage, pack_resistance):
    """Current into a short at the fuse's load side; the cable does not help."""
    return open_circuit_voltage / pack_resistance


@battery.operation(
    unit="s",
    symbol="t_\\mathrm{run}",
    source="Peukert's law; lithium and NiMH with exponent 1",
    title="Run time",
    tex=r"{usable_fraction}\,{rating_time}\left(\frac{capacity}{{source_current}\,{rating_time}}\right)^{peukert_exponent}\quad({source_level}=1,\,{is_supply}=0)",
    example=(
        {"usable_fraction": 0.5, "rating_time": 72000, "capacity": 360000, "source_current": 20, "peukert_exponent": 1.2, "source_level": 1, "is_supply": 0},
        6820.5,
    ),
)
def run_time(usable_fraction, rating_time, capacity, source_current, peukert_exponent, source_level, is_supply):
    """How long the pack lasts at the corner's load, from its nominal level; without a current there is no end."""
    drawn = np.maximum(source_current, 1e-12 * capacity / rating_time)
    time = usable_fraction * rating_time * (capacity / (drawn * rating_time)) ** peukert_exponent
    drawing = applies(source_current > 0 * source_current, time, "no current is drawn, so there is no run time")
    from_nominal = applies(
        (source_level > 0.5) & (source_level < 1.5), drawing, "run time is told from the nominal level: here the pack is empty, or on the charger"
    )
    return applies(is_supply < 1, from_nominal, "a DC supply lasts as long as its mains")


@battery.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    tex=r"({open_circuit_voltage}-{terminal_voltage})\cdot\frac{output_power}{terminal_voltage}",
    source="Joule loss of pack and cable",
    title="Loss in pack and cable",
)
def source_loss(open_circuit_voltage, terminal_voltage, output_power):
    """Power lost in pack and cable, before the converter; not part of its efficiency."""
    return (open_circuit_voltage - terminal_voltage) * output_power / terminal_voltage


@battery.build(unit="V", symbol=r"V_\mathrm{bat,max}", tex=r"\max({open_circuit_voltage})", source="highest source voltage", title="Highest battery voltage")
def highest_source_voltage(open_circuit_voltage):
    """The highest voltage that the source can stand at: charging, without load."""
    return highest(open_circuit_voltage)


battery.check(
    "deliverable",
    title="Source can deliver",
    demand="output_power",
    capability="deliverable_power",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="{demand} are drawn; behind pack and cable at most {capability} can be had.",
    why="Near that limit the voltage collapses and every further watt is lost in the pack.",
    remedies=(Move("capacity", "up", 4.0), Move("cells", "up", 2.0), Move("cell_resistance", "down", 5.0, "world")),
)

word("cells", "", "n_c", "Cells in series.", 8)
word("cell_cutoff", "V", r"v_\mathrm{cut}", "Cut-off voltage of one cell under load.", 2.8)
word("cell_recovery", "V", r"\Delta v_\mathrm{rec}", "Rest recovery of one cell.", 0.1)
word("cell_nominal", "V", r"v_\mathrm{nom}", "Rest voltage of one cell at nominal charge.", 3.25)
word("pack_resistance", "Ω", r"R_\mathrm{pack}", "Internal resistance of the pack.", 0.0072)
word("line_resistance", "Ω", r"R_\mathrm{line}", "Resistance from pack to converter: cable both ways, fuse, contactor, lugs.", 0.0035)
word("source_resistance", "Ω", r"R_s", "Resistance behind the converter's terminals.", 0.0105)
word("cell_deep", "V", r"v_\mathrm{deep}", "Voltage of one cell below which it is harmed.", 2.5)
word("resting_pack_voltage", "V", r"V_\mathrm{pack,rest}", "Voltage at the pack, no cut-off helping it.", 23.2)
word("source_current", "A", r"I_\mathrm{bat}", "Mean current drawn from the battery.", 40)
word("pack_voltage", "V", r"V_\mathrm{pack}", "Voltage at the pack's terminals.", 24)
word("terminal_voltage", "V", "V_t", "Voltage at the converter's terminals.", 24)
word("fault_current", "A", r"I_\mathrm{sc}", "Current into a short behind the fuse.", 3600)
word("highest_source_voltage", "V", r"V_\mathrm{bat,max}", "Highest source voltage.", 29.2)
word("open_circuit_voltage", "V", r"V_\mathrm{oc}", "Source voltage without load.", 26)
