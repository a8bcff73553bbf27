"""The front end's clock, family B: two outputs, R·C, dead time set by a control voltage (3.1)."""

import numpy as np

from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.vocabulary import word

FAMILY_B = "two-output PWM controller, timing R and C, family B: f_osc = 1.1/(R_T·C_T)"

oscillator = Stage("oscillator", "Oscillator", path=False, telling="{switching_frequency}")


oscillator.give(
    "wanted_frequency", 40e3, "Hz", r"f_\mathrm{want}", 5000.0, 400000.0, "Frequency that one front-end switch should see.", "Wanted switching frequency"
)
oscillator.give("timing_capacitor", 1e-9, "F", "C_T", 1e-10, 1e-07, "Timing capacitor.", "Timing capacitor")
oscillator.give("frequency_tolerance", 0.06, "", r"\delta_f", 0, 0.3, "How far the frequency may stand low by the tolerance of R and C.", "Frequency tolerance")
oscillator.give(
    "off_fraction",
    0.05,
    "",
    r"d_\mathrm{off}",
    0.03,
    1,
    "Part of the oscillator period that the dead-time pin keeps both outputs off (0.03 at 0 V, 1 at about 3 V).",
    "Off fraction",
)
oscillator.give("control_power", 1.6, "W", r"P_\mathrm{ctrl}", 0, 50, "Power of controller, regulators and fan [judgement].", "Control supply", judgement=True)


@oscillator.build(
    unit="Ω",
    symbol="R_T",
    tex=r"\mathrm{E96}\!\left(\frac{1.1}{2\,{timing_capacitor}\,{wanted_frequency}}\right)",
    source=FAMILY_B,
    example=({"timing_capacitor": 1e-9, "wanted_frequency": 40e3}, 13.7e3),
    decided=True,
)
def timing_resistor(timing_capacitor, wanted_frequency):
    """Timing resistor, nearest preferred value."""
    return nearest_in("E96")(1.1 / (2 * timing_capacitor * wanted_frequency))


@oscillator.build(
    unit="Hz",
    symbol=r"f_\mathrm{osc}",
    tex=r"\frac{1.1}{{timing_resistor}\,{timing_capacitor}}",
    source=FAMILY_B,
    example=({"timing_resistor": 10e3, "timing_capacitor": 1e-9}, 110e3),
)
def oscillator_frequency(timing_resistor, timing_capacitor):
    """Frequency of the oscillator itself: k times what one switch sees."""
    return 1.1 / (timing_resistor * timing_capacitor)


@oscillator.build(unit="", symbol="k", tex=r"\frac{oscillator_frequency}{switching_frequency}", source=FAMILY_B, title="Oscillator over switch frequency")
def frequency_ratio(oscillator_frequency, switching_frequency):
    """K = f_osc/f_sw; two with two alternating outputs."""
    return oscillator_frequency / switching_frequency


@oscillator.build(unit="Hz", symbol=r"f_\mathrm{sw}", tex=r"\frac{oscillator_frequency}{2}", source=FAMILY_B, example=({"oscillator_frequency": 110e3}, 55e3))
def switching_frequency(oscillator_frequency):
    """Frequency that one switch and the transformer see."""
    return oscillator_frequency / 2


@oscillator.build(
    unit="Hz",
    symbol=r"f_\mathrm{rip}",
    tex=r"2\,{switching_frequency}",
    source="two pulses per period",
    title="Ripple frequency",
    example=({"switching_frequency": 40e3}, 80e3),
)
def ripple_frequency(switching_frequency):
    """Frequency of the rectified ripple of the front end."""
    return 2 * switching_frequency


@oscillator.build(unit="Hz", symbol=r"f_\mathrm{sw,min}", tex=r"{switching_frequency}(1-{frequency_tolerance})", source="tolerance of R and C")
def lowest_switching_frequency(switching_frequency, frequency_tolerance):
    """Lowest switching frequency by tolerance: flux is judged there."""
    return switching_frequency * (1 - frequency_tolerance)


@oscillator.build(
    unit="", symbol=r"D_\mathrm{tot,max}", tex=r"1-{off_fraction}", source=FAMILY_B, title="Greatest total duty", example=({"off_fraction": 0.05}, 0.95)
)
def duty_limit(off_fraction):
    """Greatest fraction of time in which the transformer is driven, twice the duty of one switch."""
    return 1 - off_fraction


@oscillator.build(unit="s", symbol=r"t_\mathrm{dead}", tex=r"\frac{off_fraction}{oscillator_frequency}", source=FAMILY_B, title="Dead time")
def available_dead_time(off_fraction, oscillator_frequency):
    """Dead time between the two outputs at full duty."""
    return off_fraction / oscillator_frequency


oscillator.rename(loss="control_power")


@oscillator.build(
    unit="",
    symbol=r"k_\mathrm{miss}",
    tex=r"\max\left(\frac{switching_frequency}{wanted_frequency},\,\frac{wanted_frequency}{switching_frequency}\right)",
    source="ratio, whichever way",
    title="Frequency missed by",
)
def frequency_miss(switching_frequency, wanted_frequency):
    """Factor between the frequency obtained and the one wanted, in either direction; 1 where it is met."""
    return np.maximum(switching_frequency / wanted_frequency, wanted_frequency / switching_frequency)


oscillator.give(
    "allowed_miss",
    1.4,
    "",
    r"k_\mathrm{slip}",
    1.01,
    1.9,
    "Factor from which a frequency is nearer to a slip of two than to the one wanted: the root of two.",
    "Slip from",
)
oscillator.give("cost", 2.2, "credit", "c", 0, 100, "Price of the controller with its R and C [judgement].", "Cost", judgement=True)
oscillator.give("part_count", 3.0, "", "n", 1, 100, "Controller, timing resistor, timing capacitor.", "Parts", whole=True)


oscillator.check(
    "frequency_slip",
    title="f_osc and f_sw not confused",
    demand="frequency_miss",
    capability="allowed_miss",
    fail=1.0,
    hold=1.3,  # within 8 %: more than a preferred resistor misses by
    harm="equipment",
    sentence="Each switch is off the frequency wanted by a factor of {demand}; from {capability} on it is nearer to a slip of two.",
    why="Taking the oscillator's frequency for the switch's is a factor of two in flux, snubber watts and edge losses.",
    remedies=(Move("timing_capacitor", "down", 3.0), Move("timing_capacitor", "up", 3.0)),
)

word("switching_frequency", "Hz", r"f_\mathrm{sw}", "Frequency that one front-end switch sees.", 40e3)
word("lowest_switching_frequency", "Hz", r"f_\mathrm{sw,min}", "Lowest switching frequency by tolerance.", 38e3)
word("ripple_frequency", "Hz", r"f_\mathrm{rip}", "Frequency of the ripple of the front end: two pulses a period.", 80e3)
word("duty_limit", "", r"D_\mathrm{tot,max}", "Greatest fraction of time in which the transformer is driven.", 0.95)

oscillator.order("Controller", "two outputs in turn", "{oscillator_frequency}, {control_power} drawn", price=("cost", 0.94))
oscillator.order("Timing resistor", "{timing_resistor}", "1 %", price=("cost", 0.015))
oscillator.order("Timing capacitor", "{timing_capacitor}", "5 %, C0G", price=("cost", 0.045))

oscillator.procedure(
    "Clock before power",
    "Only the control supply is on, no power stage. The timing pin runs at {oscillator_frequency}; each gate is driven at {switching_frequency}: count both, a factor of two between them is read wrongly at once.",
    "Both outputs are off together for at least {available_dead_time} at every change of turns: look at both on one screen.",
)
