"""The clock, second part: trim, resolution, parts and what is tried before power (3.1)."""

import numpy as np

from rhombos.core.formulas.numeric import like, nearest_in
from rhombos.core.graph.declare import Move
from rhombos.core.stages.control.oscillator import FAMILIES, oscillator

TRIM = "fixed resistor and pot, the wanted value in the middle half of the travel over all tolerances"

oscillator.give("trim_place", 0.5, "", r"x_\mathrm{may}", 0.5, 0.5, "Half of the travel: the middle half.", "Middle half of the travel")


@oscillator.build(
    unit="",
    symbol=r"\delta_f",
    source="tolerance of R and C",
    title="Spread of the frequency",
    tex=r"\frac{{highest_switching_frequency}-{lowest_switching_frequency}}{2\,{switching_frequency}}",
    example=({"highest_switching_frequency": 42e3, "lowest_switching_frequency": 38e3, "switching_frequency": 40e3}, 0.05),
)
def frequency_spread(highest_switching_frequency, lowest_switching_frequency, switching_frequency):
    """How far the frequency may stand off either way, untrimmed."""
    return (highest_switching_frequency - lowest_switching_frequency) / (2 * switching_frequency)


@oscillator.build(
    unit="Ω",
    symbol="P_T",
    source=TRIM,
    title="Trim pot, if one is wanted",
    tex=r"\mathrm{E6}_\uparrow\left(\max(4\,{frequency_spread}\,{exact_resistor},\,1\,\Omega)\right)",
    example=({"frequency_spread": 0.06, "exact_resistor": 13.75e3}, 3.3e3),
)
def clock_trim(frequency_spread, exact_resistor):
    """Pot whose middle half takes up all tolerances; next higher value as pots are sold."""
    wanted = 4 * frequency_spread * exact_resistor
    return nearest_in("E6", "up")(np.maximum(wanted, like(1.0, wanted)))


@oscillator.build(
    unit="Ω",
    symbol=r"R_{T,1}",
    source=TRIM,
    title="Fixed resistor beside the pot",
    tex=r"\mathrm{E96}\!\left({exact_resistor}-\frac{clock_trim}{2}\right)",
    example=({"exact_resistor": 13.75e3, "clock_trim": 3.3e3}, 12.1e3),
)
def clock_fixed(exact_resistor, clock_trim):
    """Fixed resistor in series with the pot, in place of the timing resistor."""
    return nearest_in("E96")(exact_resistor - clock_trim / 2)


@oscillator.build(
    unit="",
    symbol="x_T",
    source=TRIM,
    title="Wiper for the frequency wanted",
    tex=r"\frac{{exact_resistor}-{clock_fixed}}{clock_trim}",
    example=({"exact_resistor": 13.75e3, "clock_fixed": 12.1e3, "clock_trim": 3.3e3}, 0.5),
)
def clock_wiper(exact_resistor, clock_fixed, clock_trim):
    """Part of the pot's travel at the frequency wanted, with nominal parts."""
    return (exact_resistor - clock_fixed) / clock_trim


@oscillator.build(
    unit="",
    symbol=r"n_\mathrm{bit}",
    source=FAMILIES,
    title="Resolution of a timer's duty",
    tex=r"\frac{\ln({timer_top}+1)}{\ln2}",
    example=({"timer_top": 399}, 8.6439),
)
def timer_bits(timer_top):
    """Bits of the duty of a timer that counts to TOP."""
    return np.log(timer_top + 1) / np.log(2)


oscillator.give(
    "least_bits", 6.0, "", r"n_0", 2, 16, "Bits that the duty needs so that a step is not heard or seen [judgement].", "Bits wanted", judgement=True
)


@oscillator.build(unit="", symbol=r"n_\mathrm{ask}", source="[judgement] step of the duty", title="Bits asked of a timer", tex=r"{by_counter}\,{least_bits}")
def asked_bits(by_counter, least_bits):
    """Bits that are asked of a timer; none where none counts."""
    return by_counter * least_bits


oscillator.check(
    "resolution",
    title="Resolution of the timer",
    demand="asked_bits",
    capability="timer_bits",
    fail=0.8,
    hold=1.0,
    harm="none",
    sentence="The timer gives {capability} bits of duty; {demand} are wanted.",
    why="A coarse duty hunts between two steps.",
    remedies=(Move("timer_clock", "up", 8.0), Move("prescaler", "down", 8.0)),
    no_demand="No timer makes the clock.",
)

oscillator.give("controller_price", 2.0, "credit", "c_1", 0, 100, "Price of the controller or timer [judgement].", "Price of the controller", judgement=True)
oscillator.give("timing_price", 0.1, "credit", "c_2", 0, 100, "Price of each timing part [judgement].", "Price of a timing part", judgement=True)


@oscillator.build(unit="", symbol=r"n_{RC}", source="count", title="Clocks by R and C", tex=r"1-{by_counter}", whole=True)
def by_charging(by_counter):
    """1 where a resistor and a capacitor make the time; a timer has neither."""
    return 1 - by_counter


@oscillator.build(unit="", symbol=r"n_{D}", source="count", title="Second resistors", tex=r"{by_discharge}+{by_delay}", whole=True)
def second_resistors(by_discharge, by_delay):
    """1 where a discharge or charging resistor is part of the time."""
    return by_discharge + by_delay


@oscillator.build(
    unit="",
    whole=True,
    symbol=r"n_T",
    source="count",
    title="Timing parts",
    tex=r"2\,{by_charging}+{second_resistors}",
    example=({"by_charging": 1, "second_resistors": 0}, 2),
)
def timing_parts(by_charging, second_resistors):
    """Resistors and capacitor that make the time."""
    return 2 * by_charging + second_resistors


@oscillator.build(unit="credit", symbol="c", source="[judgement] small parts", title="Cost", tex=r"{controller_price}+{timing_parts}\,{timing_price}")
def cost(controller_price, timing_parts, timing_price):
    """Price of the controller with its timing parts."""
    return controller_price + timing_parts * timing_price


@oscillator.build(unit="", symbol="n", source="count", title="Parts", tex=r"1+{timing_parts}", example=({"timing_parts": 2}, 3))
def part_count(timing_parts):
    """Controller and timing parts."""
    return 1 + timing_parts


oscillator.order("Controller", "two outputs in turn", "{oscillator_frequency}", price="controller_price")
oscillator.order("Timing resistor", "{timing_resistor}", "{timing_tolerance:percent}", count=("by_charging",), price="timing_price")
oscillator.order("Timing capacitor", "{timing_capacitor}", "{capacitor_tolerance:percent}, C0G or film", count=("by_charging",), price="timing_price")
oscillator.order("Second timing resistor", "{other_resistor}", "{timing_tolerance:percent}", count=("second_resistors",), price="timing_price")

oscillator.procedure(
    "Clock before power",
    "Only the control supply is on, no power stage. The timing pin (or the timer) runs at {oscillator_frequency}; each gate is driven at {switching_frequency}: count both, a factor of two between them is read wrongly at once.",
    "By its tolerances a switch may see {lowest_switching_frequency} to {highest_switching_frequency}. To trim it: {clock_fixed} and a pot of {clock_trim} in place of {timing_resistor}; it stands near {clock_wiper:percent} of the travel.",
    "Both outputs are off together for at least {available_dead_time} at every change of turns: look at both on one screen.",
)

__all__ = ["oscillator"]
