"""Cut-off, second part: what its tolerances make of the thresholds (2.4)."""

import numpy as np

from rhombos.core.formulas.numeric import lowest
from rhombos.core.stages.names import with_names
from rhombos.core.stages.source.cutoff import DIVIDER, cutoff
from rhombos.core.stages.source.thresholds import REFERENCES, RESISTORS, coarsest, extreme

cutoff.give("offset", 0.003, "V", r"V_\mathrm{os}", 0, 0.1, "Offset of the comparator at its inputs, either way [judgement].", judgement=True)
cutoff.give(
    "bias_current",
    1e-9,
    "A",
    r"I_b",
    0,
    1e-5,
    "Current into the comparator's input, hot: a CMOS part has next to none, a bipolar one up to a quarter of a microampere [judgement].",
    "Input current of the comparator",
    judgement=True,
)


@cutoff.build(
    unit="V",
    symbol=r"V_{\mathrm{os},b}",
    source="Ohm's law: the input's current in what lies before it",
    title="Offset with the input's current",
    tex=r"{offset}+{bias_current}\left({filter_resistor}+\frac{1}{1/{upper_resistor}+1/{lower_resistor}+1/{feedback_resistor}}\right)",
    example=(
        {"offset": 0.003, "bias_current": 1e-9, "filter_resistor": 470e3, "upper_resistor": 80e3, "lower_resistor": 10e3, "feedback_resistor": 200e3},
        0.00347851,
    ),
)
def input_offset(offset, bias_current, filter_resistor, upper_resistor, lower_resistor, feedback_resistor):
    """By how much the comparator may turn beside its reference, either way: its own offset, and what its input's current drops before it."""
    return offset + bias_current * (filter_resistor + 1 / (1 / upper_resistor + 1 / lower_resistor + 1 / feedback_resistor))


cutoff.give(
    "output_tolerance",
    0.02,
    "",
    r"\delta_O",
    0,
    0.5,
    "Tolerance of the output's levels, by their supply [judgement].",
    "Tolerance of the output",
    judgement=True,
)
cutoff.give(
    "least_filter_time",
    0.05,
    "s",
    r"\tau_{f,0}",
    1e-6,
    10,
    "Time constant at the comparator's input where no start is longer: spikes are not seen [judgement].",
    "Least time constant of the filter",
    judgement=True,
)
cutoff.give(
    "filter_starts",
    4.0,
    "",
    r"k_f",
    0,
    20,
    "Time constant of the filter over the longest start, so that a start is hardly seen [judgement].",
    "Filter over the longest start",
    judgement=True,
)


@cutoff.build(
    unit="",
    whole=True,
    low=0.0,
    high=2.0,
    symbol="k",
    source="the coarsest parts that are sold with which both thresholds stand where they must",
    title="Tolerance class",
    safe="up",
    tex=r"\operatorname{class}({reference_voltage},{upper_resistor},{lower_resistor},{feedback_resistor},{output_high},{output_low},{input_offset},{output_tolerance},{pot_drift};\,\min({sensed_voltage}),{rested_voltage},{least_cutoff})",
    example=(
        {
            "reference_voltage": 2.5,
            "upper_resistor": 80e3,
            "lower_resistor": 10e3,
            "feedback_resistor": 200e3,
            "output_high": 5,
            "output_low": 0.1,
            "input_offset": 0.003,
            "output_tolerance": 0.02,
            "pot_drift": 0.0005,
            "sensed_voltage": 22.0,
            "rested_voltage": 26.0,
            "least_cutoff": 20.0,
        },
        1,
    ),
)
def tolerance_class(
    reference_voltage,
    upper_resistor,
    lower_resistor,
    feedback_resistor,
    output_high,
    output_low,
    input_offset,
    output_tolerance,
    pot_drift,
    sensed_voltage,
    rested_voltage,
    least_cutoff,
):
    """0: 1 % resistors and reference; 1: half a per cent; 2: 0.1 % resistors and a reference of 0.2 %."""
    parts = (reference_voltage, upper_resistor, lower_resistor, feedback_resistor)
    return coarsest(parts, (output_high, output_low), (input_offset, output_tolerance, pot_drift), lowest(sensed_voltage), rested_voltage, least_cutoff)


def _declare_tolerance(name: str, symbol: str, title: str, classes: tuple[float, float, float]) -> None:
    usual, close, precise = classes

    def formula(tolerance_class):
        return np.where(tolerance_class < 1, usual, np.where(tolerance_class < 2, close, precise))

    formula.__name__ = name
    formula.__doc__ = f"{title}, of the class taken."
    tex = rf"\begin{{cases}}{usual}&{{tolerance_class}}=0\\{close}&{{tolerance_class}}=1\\{precise}&\text{{else}}\end{{cases}}"
    cutoff.build(unit="", symbol=symbol, source="tolerances that are sold", title=title, tex=tex, decided=True, example=({"tolerance_class": 1}, close))(
        formula
    )


_declare_tolerance("resistor_tolerance", r"\delta_R", "Tolerance of the resistors", RESISTORS)
_declare_tolerance("reference_tolerance", r"\delta_\mathrm{ref}", "Tolerance of the reference", REFERENCES)


def _declare_extreme(name: str, symbol: str, title: str, output: str, side: int) -> None:
    """The highest or lowest of a threshold over all tolerances."""

    def formula(reference_voltage, upper_resistor, lower_resistor, feedback_resistor, level, *tolerances):
        return extreme(side, (reference_voltage, upper_resistor, lower_resistor, feedback_resistor), level, tolerances)

    parts = ("reference_voltage", "upper_resistor", "lower_resistor", "feedback_resistor", output)
    tolerances = ("resistor_tolerance", "reference_tolerance", "input_offset", "output_tolerance", "pot_drift")
    formula.__name__ = name
    formula.__doc__ = f"{title}, over every corner of the tolerances: three resistors, reference, offset, output, the pot's drift."
    operator = "V_max" if side > 0 else "V_min"
    tex = rf"\operatorname{{{operator}}}({','.join(f'{{{n}}}' for n in parts)};\,{','.join(f'{{{n}}}' for n in tolerances)})"
    cutoff.build(unit="V", symbol=symbol, source=DIVIDER, title=title, tex=tex, example=EXTREMES[name])(with_names(formula, *parts, *tolerances))


_PARTS = {
    "reference_voltage": 2.5,
    "upper_resistor": 80e3,
    "lower_resistor": 10e3,
    "feedback_resistor": 200e3,
    "resistor_tolerance": 0.01,
    "reference_tolerance": 0.01,
    "input_offset": 0.003,
    "output_tolerance": 0.02,
    "pot_drift": 0.0005,
}
EXTREMES = {
    "highest_falling_threshold": ({**_PARTS, "output_high": 5}, 22.22219),
    "lowest_falling_threshold": ({**_PARTS, "output_high": 5}, 20.79560),
    "highest_rising_threshold": ({**_PARTS, "output_low": 0.1}, 24.16263),
}
"""Worked apart from the code, every corner written out."""
_declare_extreme("highest_falling_threshold", r"V_\mathrm{fall,max}", "Cut-off threshold, highest", "output_high", 1)
_declare_extreme("lowest_falling_threshold", r"V_\mathrm{fall,min}", "Cut-off threshold, lowest", "output_high", -1)
_declare_extreme("highest_rising_threshold", r"V_\mathrm{rise,max}", "Restart threshold, highest", "output_low", 1)
