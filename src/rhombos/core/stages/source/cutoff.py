"""Low-voltage cut-off by comparator and divider, hysteresis on the non-inverting input (2.4, first form)."""

import numpy as np

from rhombos.core.formulas.numeric import before_surge, highest, nearest_in
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.stages.source.thresholds import threshold

DIVIDER = "comparator with divider and positive feedback, node equation"

cutoff = Stage("cutoff", "Cut-off", path=False, telling="{falling_threshold}")


cutoff.give("reference_voltage", 2.5, "V", r"V_\mathrm{ref}", 0.5, 10, "Reference of the comparator.")
cutoff.give("output_high", 5.0, "V", r"V_{OH}", 0.5, 30, "Comparator output, high: healthy.")
cutoff.give("output_low", 0.1, "V", r"V_{OL}", 0, 5, "Comparator output, low.")


@cutoff.build(
    unit="s",
    symbol=r"\tau_f",
    source="a delay beyond the longest start: what trips is what lasts",
    title="Time constant of the filter",
    tex=r"\max({least_filter_time},\,{filter_starts}\max({surge_time}))",
    example=({"least_filter_time": 0.05, "filter_starts": 4, "surge_time": 1.5}, 6.0),
    decided=True,
)
def filter_time(least_filter_time, filter_starts, surge_time):
    """Time constant at the comparator's input."""
    return np.maximum(least_filter_time, filter_starts * highest(surge_time))


cutoff.choice(
    "sense_at",
    {"pack": Option("at the pack", {"at_converter": 0}), "converter": Option("at the converter", {"at_converter": 1})},
    {"at_converter": ("", r"\sigma_c", "1 where the cable's drop is in what the cut-off sees.")},
    default="pack",
    sentence="Where the cut-off's divider is connected.",
    title="Senses",
)
cutoff.give("lower_resistor", 10e3, "Ω", r"R_l", 1e2, 1e7, "Lower resistor of the divider.")


cutoff.give(
    "threshold_room",
    0.01,
    "",
    r"\delta_V",
    0,
    0.1,
    "What the tolerances of close parts may move a threshold by [judgement].",
    "Room for tolerances",
    judgement=True,
)


@cutoff.build(
    unit="V",
    symbol=r"V_\mathrm{cut}",
    source="[judgement] cut-off per cell; under a heavy load lower, down to what harms the cells",
    title="Cut-off wanted",
    tex=r"\min\left({cells}\,{cell_cutoff},\;\max\left((1-{threshold_room}){rested_voltage}-{needed_hysteresis},\,(1+3{threshold_room}){least_cutoff}\right)\right)",
    example=({"cells": 6, "cell_cutoff": 1.75, "threshold_room": 0.01, "rested_voltage": 12.3, "needed_hysteresis": 1.9, "least_cutoff": 9.9}, 10.277),
)
def wanted_cutoff(cells, cell_cutoff, threshold_room, rested_voltage, needed_hysteresis, least_cutoff):
    """Pack voltage under load at which the inverter must stop: so low that a rested pack still restarts it after the rebound.

    Never where cells are harmed: above that the tolerances and a step of the preferred values are left.
    """
    restarting = np.maximum((1 - threshold_room) * rested_voltage - needed_hysteresis, (1 + 3 * threshold_room) * least_cutoff)
    return np.minimum(cells * cell_cutoff, restarting)


@cutoff.operation(unit="A", symbol=r"I_{f,0}", source="state before the start", title="Battery current before a start", tex=r"{source_current}_{\text{before}}")
def current_before(source_current):
    """Battery current that a start begins from: full load at the same source level."""
    return before_surge(source_current)


@cutoff.operation(
    unit="V", symbol=r"V_{f,0}", source="state before the start", title="Pack voltage before a start", tex=r"{resting_pack_voltage}_{\text{before}}"
)
def voltage_before(resting_pack_voltage):
    """Pack voltage, by the cells alone, that a start begins from: full load at the same source level."""
    return before_surge(resting_pack_voltage)


@cutoff.operation(
    unit="A",
    symbol=r"I_f",
    source="first-order filter",
    title="Battery current as the cut-off feels it",
    tex=r"{current_before}+({source_current}-{current_before})\left(1-\exp\left(-\frac{surge_time}{filter_time}\right)\right)",
    example=({"current_before": 40, "source_current": 80, "surge_time": 0.05, "filter_time": 0.05}, 65.2848),
)
def sensed_current(current_before, source_current, surge_time, filter_time):
    """Battery current behind the voltage that the comparator sees: of a short start only a part."""
    return current_before + (source_current - current_before) * (1 - np.exp(-surge_time / filter_time))


@cutoff.operation(
    unit="V",
    symbol=r"V_f",
    source="first-order filter",
    title="Voltage as the cut-off sees it",
    tex=r"{voltage_before}+({resting_pack_voltage}-{voltage_before})\left(1-\exp\left(-\frac{surge_time}{filter_time}\right)\right)-{at_converter}\,{sensed_current}\,{line_resistance}",
    example=(
        {
            "voltage_before": 24,
            "resting_pack_voltage": 22,
            "surge_time": 0.05,
            "filter_time": 0.05,
            "at_converter": 0,
            "sensed_current": 60,
            "line_resistance": 0.002,
        },
        22.73576,
    ),
)
def sensed_voltage(voltage_before, resting_pack_voltage, surge_time, filter_time, at_converter, sensed_current, line_resistance):
    """What the comparator sees of the pack that the cells alone hold, at the end of a start; at the converter less the cable's drop."""
    pack = voltage_before + (resting_pack_voltage - voltage_before) * (1 - np.exp(-surge_time / filter_time))
    return pack - at_converter * sensed_current * line_resistance


@cutoff.build(
    unit="V",
    symbol=r"\Delta V_\mathrm{h}",
    source="rebound of pack and cable when the load goes",
    title="Hysteresis needed",
    tex=r"1.2\left(\max({sensed_current})({pack_resistance}+{line_resistance})+{cells}\,{cell_recovery}\right)",
    example=({"sensed_current": 80, "pack_resistance": 0.0072, "line_resistance": 0.0028, "cells": 8, "cell_recovery": 0.1}, 1.92),
)
def needed_hysteresis(sensed_current, pack_resistance, line_resistance, cells, cell_recovery):
    """Width between restart and cut-off that the rebound of the battery asks for."""
    return 1.2 * (highest(sensed_current) * (pack_resistance + line_resistance) + cells * cell_recovery)


@cutoff.build(unit="", symbol=r"R_u/R_h", source=DIVIDER, title="Feedback ratio", tex=r"\frac{needed_hysteresis}{{output_high}-{output_low}}")
def feedback_ratio(needed_hysteresis, output_high, output_low):
    """Upper resistor over feedback resistor that makes the width."""
    return needed_hysteresis / (output_high - output_low)


@cutoff.build(
    unit="Ω",
    symbol=r"R_u",
    source=DIVIDER,
    title="Upper resistor",
    safe="down",
    tex=r"\mathrm{E96}_\downarrow\left({lower_resistor}\left(\frac{{wanted_cutoff}+{output_high}{feedback_ratio}}{reference_voltage}-1-{feedback_ratio}\right)\right)",
    example=({"lower_resistor": 10e3, "wanted_cutoff": 22.4, "output_high": 5, "feedback_ratio": 0.4, "reference_voltage": 2.5}, 82.5e3),
)
def upper_resistor(lower_resistor, wanted_cutoff, output_high, feedback_ratio, reference_voltage):
    """Upper resistor of the divider, next lower preferred value (the threshold never lies above the one wanted)."""
    return nearest_in("E96", "down")(lower_resistor * ((wanted_cutoff + output_high * feedback_ratio) / reference_voltage - 1 - feedback_ratio))


@cutoff.build(
    unit="Ω",
    symbol=r"R_h",
    source=DIVIDER,
    title="Feedback resistor",
    safe="down",
    tex=r"\mathrm{E96}_\downarrow\left(\frac{upper_resistor}{feedback_ratio}\right)",
    example=({"upper_resistor": 82.5e3, "feedback_ratio": 0.4}, 205e3),
)
def feedback_resistor(upper_resistor, feedback_ratio):
    """Resistor from the output to the divider, next lower preferred value (more width)."""
    return nearest_in("E96", "down")(upper_resistor / feedback_ratio)


@cutoff.build(
    unit="V",
    symbol=r"V_\mathrm{fall}",
    source=DIVIDER,
    title="Cut-off threshold",
    tex=r"{reference_voltage}\left(1+\frac{upper_resistor}{lower_resistor}+\frac{upper_resistor}{feedback_resistor}\right)-{output_high}\frac{upper_resistor}{feedback_resistor}",
    example=({"reference_voltage": 2.5, "upper_resistor": 80e3, "lower_resistor": 10e3, "feedback_resistor": 200e3, "output_high": 5}, 21.5),
)
def falling_threshold(reference_voltage, upper_resistor, lower_resistor, feedback_resistor, output_high):
    """Pack voltage at which the inverter stops."""
    return threshold(reference_voltage, upper_resistor, lower_resistor, feedback_resistor, output_high)


@cutoff.build(
    unit="V",
    symbol=r"V_\mathrm{rise}",
    source=DIVIDER,
    title="Restart threshold",
    tex=r"{reference_voltage}\left(1+\frac{upper_resistor}{lower_resistor}+\frac{upper_resistor}{feedback_resistor}\right)-{output_low}\frac{upper_resistor}{feedback_resistor}",
    example=({"reference_voltage": 2.5, "upper_resistor": 80e3, "lower_resistor": 10e3, "feedback_resistor": 200e3, "output_low": 0.1}, 23.46),
)
def rising_threshold(reference_voltage, upper_resistor, lower_resistor, feedback_resistor, output_low):
    """Pack voltage from which a start is allowed again."""
    return threshold(reference_voltage, upper_resistor, lower_resistor, feedback_resistor, output_low)


cutoff.give(
    "filter_resistor",
    470e3,
    "Ω",
    "R_f",
    0,
    10e6,
    "Resistor from the divider's tap to the comparator: behind it a small capacitor is slow enough; the input's current must not drop much in it.",
    "Filter resistor",
)


@cutoff.build(
    unit="F",
    symbol="C_f",
    source="time constant of resistor and divider with a capacitor at the comparator",
    title="Filter capacitor",
    tex=r"\mathrm{E6}_\uparrow\left(\frac{filter_time}{{filter_resistor}+\frac{1}{1/{upper_resistor}+1/{lower_resistor}+1/{feedback_resistor}}}\right)",
    example=({"filter_time": 0.05, "filter_resistor": 470e3, "upper_resistor": 80e3, "lower_resistor": 10e3, "feedback_resistor": 200e3}, 150e-9),
)
def filter_capacitor(filter_time, filter_resistor, upper_resistor, lower_resistor, feedback_resistor):
    """Capacitor from the comparator's input to ground, next higher preferred value."""
    return nearest_in("E6", "up")(filter_time / (filter_resistor + 1 / (1 / upper_resistor + 1 / lower_resistor + 1 / feedback_resistor)))


@cutoff.build(unit="V", symbol=r"\Delta V", source=DIVIDER, title="Hysteresis", tex=r"{rising_threshold}-{falling_threshold}")
def hysteresis(rising_threshold, falling_threshold):
    """Width between restart and cut-off."""
    return rising_threshold - falling_threshold


@cutoff.build(unit="V", symbol=r"V_\mathrm{nom}", source="[judgement] rest voltage per cell", title="Battery at rest", tex=r"{cells}\,{cell_nominal}")
def rested_voltage(cells, cell_nominal):
    """Voltage of the rested pack at nominal charge: restart must lie below it."""
    return cells * cell_nominal


@cutoff.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Ohm's law",
    title="Loss",
    tex=r"\frac{{pack_voltage}^2}{{upper_resistor}+{lower_resistor}}",
    example=({"pack_voltage": 25, "upper_resistor": 80e3, "lower_resistor": 10e3}, 6.944e-3),
)
def loss(pack_voltage, upper_resistor, lower_resistor):
    """Standing drain of the divider."""
    return pack_voltage**2 / (upper_resistor + lower_resistor)


cutoff.give("part_count", 7.0, "", "n", 1, 100, "Comparator, reference, three resistors, filter of two.", "Parts", whole=True)
cutoff.give(
    "usual_price", 1.8, "credit", "c_0", 0, 500, "Price of comparator, reference and resistors of 1 % [judgement].", "Price of usual parts", judgement=True
)
cutoff.give(
    "class_price", 0.7, "credit", "c_k", 0, 100, "What each closer class of tolerance costs more [judgement].", "Price of a closer class", judgement=True
)


@cutoff.build(
    unit="credit", symbol="c", source="[judgement] small parts by their tolerance", title="Cost", tex=r"{usual_price}+{tolerance_class}\,{class_price}"
)
def cost(usual_price, tolerance_class, class_price):
    """Price of comparator, reference and resistors."""
    return usual_price + tolerance_class * class_price


cutoff.check(
    "no_trip_in_service",
    title="Cut-off below the working pack",
    demand="highest_falling_threshold",
    capability="sensed_voltage",
    fail=1.0,
    hold=1.0,  # every tolerance is in the demand
    harm="none",
    sentence="With its parts at their tolerances the cut-off acts at up to {demand}; with the cells alone it sees {capability}.",
    why="A start on an empty pack would stop the inverter.",
    remedies=(
        Move("reference_tolerance", "down", 10.0),
        Move("resistor_tolerance", "down", 10.0),
        Move("cell_resistance", "down", 4.0, "world"),
        Move("upper_resistor", "down", 1.2),
    ),
)
cutoff.check(
    "rebound",
    title="Hysteresis over the rebound",
    demand="needed_hysteresis",
    capability="hysteresis",
    fail=0.834,  # the demand carries a factor of 1.2: below 1/1.2 the rebound itself reaches the restart
    hold=1.0,
    harm="none",
    sentence="The pack's rebound asks for {demand}, a fifth of it reserve; the thresholds lie {capability} apart.",
    why="The load chatters on and off.",
    remedies=(Move("feedback_resistor", "down", 2.0), Move("capacity", "up", 3.0), Move("cable_area", "up", 4.0)),
)
cutoff.check(
    "restart",
    title="Restart within reach",
    demand="highest_rising_threshold",
    capability="rested_voltage",
    fail=1.0,
    hold=1.0,  # every tolerance is in the demand
    harm="none",
    sentence="A start is allowed from up to {demand}; the rested pack has {capability}.",
    why="The inverter would not start until the charger is on.",
    remedies=(
        Move("feedback_resistor", "up", 2.0),
        Move("resistor_tolerance", "down", 10.0),
        Move("reference_tolerance", "down", 10.0),
        Move("capacity", "up", 3.0),
        Move("cable_area", "up", 4.0),
        Move("cell_resistance", "down", 4.0, "world"),
    ),
)
cutoff.check(
    "guards_cells",
    title="Cut-off protects the cells",
    demand="least_cutoff",
    capability="lowest_falling_threshold",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="With its parts at their tolerances the cut-off acts at {capability} or above; below {demand} the cells are harmed.",
    why="Deep discharge ends a cell's life.",
    remedies=(Move("resistor_tolerance", "down", 10.0), Move("reference_tolerance", "down", 10.0), Move("upper_resistor", "up", 1.2)),
)


@cutoff.build(unit="V", symbol=r"V_\mathrm{deep}", source="[judgement] deep discharge per cell", title="Deep discharge", tex=r"{cells}\,{cell_deep}")
def least_cutoff(cells, cell_deep):
    """Pack voltage that the cut-off must not lie below."""
    return cells * cell_deep


cutoff.order("Comparator", "rail to rail", "input current up to {bias_current}, offset up to {offset}", price=("cost", 0.5))
cutoff.order("Reference", "{reference_voltage}", "{reference_tolerance:percent}", price=("cost", 0.4))
cutoff.order("Filter capacitor", "{filter_capacitor}", "film or X7R, at the comparator's input", price=("cost", 0.02))
cutoff.order("Filter resistor", "{filter_resistor}", "5 %, from the tap to the comparator", price=("cost", 0.02))
for _resistor in ("upper_resistor", "lower_resistor", "feedback_resistor"):
    cutoff.order(_resistor.replace("_", " ").capitalize(), "{%s}" % _resistor, "{resistor_tolerance:percent}", price=("cost", 0.02))  # noqa: UP031 - braces
