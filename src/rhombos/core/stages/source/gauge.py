"""Alarm, over-voltage inhibit and gauge of the battery: thresholds in their order, and the counts of a converter (2.4; 15.2 no. 12)."""

import numpy as np

from rhombos.core.formulas.numeric import down, nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.stages.names import with_names
from rhombos.core.vocabulary import word

CONVERTER = "analogue-to-digital converter: counts = min(2^b − 1, floor(V·k/V_ref·2^b))"

gauge = Stage("gauge", "Gauge", path=False, telling="{alarm_threshold}")

gauge.give("guard_tolerance", 0.015, "", r"\delta_g", 0, 0.2, "Tolerance of alarm and inhibit.", "Tolerance of alarm and inhibit")
gauge.give("alarm_room", 0.1, "V", r"\Delta V_a", 0, 10, "Volts between the alarm at its lowest and the cut-off at its highest.", "Alarm above the cut-off")
gauge.give("inhibit_room", 0.02, "", r"k_\mathrm{ov}", 0, 0.5, "Over-voltage inhibit, at its lowest, above the charging battery.", "Inhibit above charging")
gauge.give("adc_bits", 10.0, "", "b", 6, 24, "Bits of the converter.", "Bits", whole=True)
gauge.give("adc_reference", 5.0, "V", r"V_\mathrm{adc}", 0.5, 10, "Reference of the converter: its full scale.", "Converter's reference")
gauge.give("adc_lower", 10e3, "Ω", r"R_{l,a}", 100, 1e6, "Lower resistor of the converter's divider.", "Lower resistor")
gauge.give("adc_room", 0.05, "", r"k_a", 0, 1, "Scale left above the highest battery.", "Scale left above")
gauge.give("adc_tolerance", 0.015, "", r"\delta_a", 0, 0.2, "Tolerance of divider and reference together, uncalibrated.", "Tolerance of the reading")
gauge.give("lamps", 4.0, "", r"n_l", 1, 20, "Lamps of the gauge.", whole=True)


@gauge.build(
    unit="V",
    symbol=r"V_\mathrm{alarm}",
    source="alarm above the cut-off by both tolerances",
    title="Alarm",
    decided=True,
    tex=r"\frac{{highest_falling_threshold}+{alarm_room}}{1-{guard_tolerance}}",
    example=({"highest_falling_threshold": 22.1, "alarm_room": 0.1, "guard_tolerance": 0.015}, 22.5381),
)
def alarm_threshold(highest_falling_threshold, alarm_room, guard_tolerance):
    """Pack voltage under load at which the alarm comes, before the cut-off even where both stand at their tolerances."""
    return (highest_falling_threshold + alarm_room) / (1 - guard_tolerance)


@gauge.build(unit="V", symbol=r"V_\mathrm{alarm,min}", source="tolerance", title="Alarm, lowest", tex=r"{alarm_threshold}(1-{guard_tolerance})")
def lowest_alarm(alarm_threshold, guard_tolerance):
    """The alarm at its low tolerance."""
    return alarm_threshold * (1 - guard_tolerance)


@gauge.build(unit="V", symbol=r"V_\mathrm{alarm,max}", source="tolerance", title="Alarm, highest", tex=r"{alarm_threshold}(1+{guard_tolerance})")
def highest_alarm(alarm_threshold, guard_tolerance):
    """The alarm at its high tolerance."""
    return alarm_threshold * (1 + guard_tolerance)


@gauge.build(
    unit="V",
    symbol=r"V_\mathrm{inh}",
    source="above the charging battery by its tolerance",
    title="Over-voltage inhibit",
    decided=True,
    tex=r"\frac{{highest_source_voltage}(1+{inhibit_room})}{1-{guard_tolerance}}",
    example=({"highest_source_voltage": 29.2, "inhibit_room": 0.02, "guard_tolerance": 0.015}, 30.2376),
)
def inhibit_threshold(highest_source_voltage, inhibit_room, guard_tolerance):
    """Battery above which nothing starts: a wrong pack, or a charger gone wild. With another chemistry it is raised, never taken out."""
    return highest_source_voltage * (1 + inhibit_room) / (1 - guard_tolerance)


@gauge.build(unit="V", symbol=r"V_\mathrm{inh,max}", source="tolerance", title="Inhibit, highest", tex=r"{inhibit_threshold}(1+{guard_tolerance})")
def highest_inhibit(inhibit_threshold, guard_tolerance):
    """The inhibit at its high tolerance: what the input parts must stand while it decides."""
    return inhibit_threshold * (1 + guard_tolerance)


@gauge.build(unit="V", symbol=r"V_\mathrm{inh,min}", source="tolerance", title="Inhibit, lowest", tex=r"{inhibit_threshold}(1-{guard_tolerance})")
def lowest_inhibit(inhibit_threshold, guard_tolerance):
    """The inhibit at its low tolerance: it must not act on a battery that is being charged."""
    return inhibit_threshold * (1 - guard_tolerance)


@gauge.build(
    unit="Ω",
    symbol=r"R_{u,a}",
    source=CONVERTER,
    title="Converter's upper resistor",
    decided=True,
    tex=r"\mathrm{E96}_\uparrow\left({adc_lower}\left(\frac{(1+{adc_room})\,{highest_inhibit}}{adc_reference}-1\right)\right)",
    example=({"adc_lower": 10e3, "adc_room": 0.05, "highest_inhibit": 30.7, "adc_reference": 5}, 54.9e3),
)
def adc_upper(adc_lower, adc_room, highest_inhibit, adc_reference):
    """Upper resistor of the converter's divider: its full scale lies above the inhibit, so that the clamp never conducts in service."""
    return nearest_in("E96", "up")(adc_lower * ((1 + adc_room) * highest_inhibit / adc_reference - 1))


@gauge.build(
    unit="V",
    symbol=r"V_\mathrm{count}",
    source=CONVERTER,
    title="Volts of a count",
    tex=r"\frac{{adc_reference}({adc_upper}+{adc_lower})}{{adc_lower}\,2^{adc_bits}}",
    example=({"adc_reference": 5, "adc_upper": 54.9e3, "adc_lower": 10e3, "adc_bits": 10}, 31.6895e-3),
)
def volts_per_count(adc_reference, adc_upper, adc_lower, adc_bits):
    """Battery volts of one count."""
    return adc_reference * (adc_upper + adc_lower) / (adc_lower * 2**adc_bits)


def _declare_counts(name: str, symbol: str, title: str, cell: str, gives: float) -> None:
    """Counts at a rest voltage of the pack."""

    def formula(adc_bits, cells, level, volts_per_count):
        return np.minimum(2**adc_bits - 1, down(cells * level / volts_per_count))

    formula.__name__ = name
    formula.__doc__ = f"{title}: what the controller reads then."
    tex = rf"\min\left(2^{{adc_bits}}-1,\,\left\lfloor\frac{{{{cells}}\,{{{cell}}}}}{{volts_per_count}}\right\rfloor\right)"
    numbers = {"adc_bits": 10, "cells": 8, cell: 2.9 if cell == "cell_empty" else 3.65, "volts_per_count": 31.6895e-3}
    gauge.build(unit="", whole=True, symbol=symbol, source=CONVERTER, title=title, tex=tex, example=(numbers, gives))(
        with_names(formula, "adc_bits", "cells", cell, "volts_per_count")
    )


_declare_counts("counts_empty", r"n_\mathrm{empty}", "Counts, empty at rest", "cell_empty", 732)
_declare_counts("counts_charging", r"n_\mathrm{ch}", "Counts, charging", "cell_charging", 921)


@gauge.build(
    unit="",
    symbol=r"\eta_n",
    source=CONVERTER,
    title="Span used",
    tex=r"\frac{counts_charging}{2^{adc_bits}-1}",
    example=({"counts_charging": 921, "adc_bits": 10}, 0.900293),
)
def span_used(counts_charging, adc_bits):
    """Part of the converter's span that the highest battery reaches."""
    return counts_charging / (2**adc_bits - 1)


@gauge.build(
    unit="V",
    symbol=r"V_\mathrm{lamp}",
    source="linear in the rest voltage between empty and full",
    title="Step of a lamp",
    tex=r"\frac{{cells}({cell_full}-{cell_empty})}{lamps}",
    example=({"cells": 8, "cell_full": 3.4, "cell_empty": 2.9, "lamps": 4}, 1.0),
)
def lamp_step(cells, cell_full, cell_empty, lamps):
    """Battery volts between two lamps. Under load the gauge reads low."""
    return cells * (cell_full - cell_empty) / lamps


@gauge.build(
    unit="V",
    symbol=r"\delta V",
    source="tolerance of divider and reference, and a count",
    title="Reading may be off by",
    tex=r"{adc_tolerance}\,{cells}\,{cell_full}+{volts_per_count}",
)
def reading_error(adc_tolerance, cells, cell_full, volts_per_count):
    """How far the reading may be off, uncalibrated, near a full battery."""
    return adc_tolerance * cells * cell_full + volts_per_count


@gauge.build(unit="A", symbol=r"I_a", source="Ohm's law", title="Drain of the gauge", tex=r"\frac{highest_source_voltage}{{adc_upper}+{adc_lower}}")
def gauge_drain(highest_source_voltage, adc_upper, adc_lower):
    """Current that the converter's divider takes for ever."""
    return highest_source_voltage / (adc_upper + adc_lower)


gauge.give("span_wanted", 0.5, "", r"\eta_0", 0.05, 1, "Part of the span that is to be used [judgement].", "Span wanted", judgement=True)
gauge.give("cost", 1.6, "credit", "c", 0, 100, "Price of comparators, dividers and lamps [judgement].", "Cost", judgement=True)
gauge.give("part_count", 10.0, "", "n", 1, 100, "Two comparators, dividers, lamps and their resistors.", "Parts", whole=True)

gauge.check(
    "alarm_first",
    title="Alarm before the cut-off",
    demand="highest_falling_threshold",
    capability="lowest_alarm",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The cut-off may act at up to {demand}; the alarm comes at {capability} at the latest.",
    why="An alarm that comes with the dark is none.",
    remedies=(Move("alarm_threshold", "up", 1.1),),
)
gauge.check(
    "quiet_in_service",
    title="Alarm silent on a rested pack",
    demand="highest_alarm",
    capability="rested_voltage",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The alarm may come at up to {demand}; the rested pack has {capability}.",
    why="An alarm that always sounds is taken out.",
    remedies=(Move("alarm_threshold", "down", 1.1), Move("guard_tolerance", "down", 5.0)),
)
gauge.check(
    "inhibit_guards",
    title="Inhibit below what the input stands",
    demand="highest_inhibit",
    capability="bulk_rated_voltage",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="Up to {demand} the unit may run; the bulk capacitors stand {capability}.",
    why="A wrong pack or a wild charger must not be let in.",
    remedies=(Move("inhibit_room", "down", 10.0), Move("guard_tolerance", "down", 5.0)),
)
gauge.check(
    "inhibit_above_charging",
    title="Inhibit above the charging battery",
    demand="highest_source_voltage",
    capability="lowest_inhibit",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="On the charger the battery stands at {demand}; the inhibit may act at {capability}.",
    why="The inverter would stop whenever the charger is on.",
    remedies=(Move("inhibit_threshold", "up", 1.2),),
)
gauge.check(
    "span",
    title="Span of the converter",
    demand="span_wanted",
    capability="span_used",
    fail=0.4,
    hold=1.0,
    harm="none",
    sentence="The battery uses {capability} of the converter's span; {demand} is wanted.",
    why="A reading of few counts hides what it should show.",
    remedies=(Move("adc_upper", "down", 4.0), Move("adc_room", "down", 10.0)),
)
gauge.check(
    "lamp",
    title="Lamps finer than the error",
    demand="reading_error",
    capability="lamp_step",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="The reading may be off by {demand}; a lamp stands for {capability}.",
    why="A step that is smaller than the error tells nothing: calibrate, or show fewer lamps.",
    remedies=(Move("adc_tolerance", "down", 10.0), Move("lamps", "down", 4.0)),
)
gauge.order("Alarm, inhibit and gauge", "alarm {alarm_threshold}, inhibit {inhibit_threshold}", "{lamps} lamps, divider {adc_upper}", price="cost")
gauge.trip("Low-voltage alarm", "alarm_threshold", low="lowest_alarm", high="highest_alarm", after="the cut-off's filter", resets="by itself")
gauge.trip("Over-voltage inhibit", "inhibit_threshold", low="lowest_inhibit", high="highest_inhibit", after="at once", resets="by itself, below it")
gauge.procedure(
    "Calibrate the gauge",
    "A bench supply in place of the pack, limited to 0.1 A. At the pack's empty rest voltage the controller must read {counts_empty} counts, charging {counts_charging}; each count is {volts_per_count}.",
    "Two points give gain and offset, a third proves them to half a count. Write both into the unit with its number and the date.",
    "Turn the supply down: the alarm comes at {alarm_threshold}, between {lowest_alarm} and {highest_alarm}, before the cut-off. Turn it up: nothing may start above {inhibit_threshold}.",
)

word("highest_falling_threshold", "V", r"V_\mathrm{fall,max}", "Cut-off threshold at its highest.", 22.1)
word("cell_empty", "V", r"v_\mathrm{empty}", "Rest voltage of one empty cell.", 2.9)
word("cell_full", "V", r"v_\mathrm{full}", "Rest voltage of one full cell.", 3.4)
word("cell_charging", "V", r"v_\mathrm{ch}", "Highest voltage of one cell while charging.", 3.65)
word("bulk_rated_voltage", "V", r"V_{C,\mathrm{rat}}", "Rated voltage of the bulk capacitors.", 35)
word("rested_voltage", "V", r"V_\mathrm{rest}", "Voltage of the rested pack.", 26)

__all__ = ["gauge"]
