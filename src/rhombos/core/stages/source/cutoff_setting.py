"""How the low-voltage cut-off is set and tried on the bench (2.4)."""

from rhombos.core.stages.source.cutoff import DIVIDER, cutoff


@cutoff.build(
    unit="V",
    symbol=r"V_\mathrm{tap}",
    source=DIVIDER,
    title="Tap at the rested pack",
    tex=r"\frac{{rested_voltage}/{upper_resistor}+{output_high}/{feedback_resistor}}{1/{upper_resistor}+1/{lower_resistor}+1/{feedback_resistor}}",
    example=({"rested_voltage": 26, "upper_resistor": 80e3, "output_high": 5, "feedback_resistor": 200e3, "lower_resistor": 10e3}, 2.97872),
)
def rested_tap(rested_voltage, upper_resistor, output_high, feedback_resistor, lower_resistor):
    """Voltage at the comparator's input with the rested pack: above the reference, the output is high."""
    return (rested_voltage / upper_resistor + output_high / feedback_resistor) / (1 / upper_resistor + 1 / lower_resistor + 1 / feedback_resistor)


@cutoff.build(
    unit="s",
    symbol=r"5\tau_f",
    source="first-order filter: within 1 %",
    title="Wait at each step",
    tex=r"5\,{filter_time}",
    example=({"filter_time": 0.05}, 0.25),
)
def settling_time(filter_time):
    """Time after which the filtered tap stands within 1 %."""
    return 5 * filter_time


cutoff.trip(
    "Low-voltage cut-off",
    "falling_threshold",
    low="lowest_falling_threshold",
    high="highest_falling_threshold",
    after="{filter_time} filter",
    resets="above {rising_threshold}, the highest {highest_rising_threshold}",
)
cutoff.procedure(
    "Try the cut-off",
    "No battery: a bench supply limited to 0.1 A in place of the pack, the power stage not connected. After every change wait {settling_time}: the filter is slow.",
    "Supply at {rested_voltage}: the tap reads {rested_tap}, the reference {reference_voltage}, the comparator's output {output_high}.",
    "Lower the supply in small steps. The output falls to {output_low} at {falling_threshold}; with the tolerances of the parts between {lowest_falling_threshold} and {highest_falling_threshold}. The tap stands at {reference_voltage} there.",
    "Raise it again. The output is back at {output_high} from {rising_threshold} on, at the latest at {highest_rising_threshold}.",
    "Between the two lie {hysteresis}; the pack's rebound asks for {needed_hysteresis}. Write both thresholds down.",
)
