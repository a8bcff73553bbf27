"""The front end's clock, first part: its family, parts for a wanted frequency, the frequency that they give (3.1)."""

import numpy as np

from rhombos.core.formulas.numeric import down, like, nearest_in, up
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.vocabulary import word

FAMILIES = "families of 3.1: f_osc = 1/(C_T·(a·R_T + b·R_D)), or a timer that counts its clock"

oscillator = Stage("oscillator", "Oscillator", path=False, telling="{switching_frequency}")


def _family(title: str, timing: float, other: float, outputs: float, kind: str, both_ways: float = 0.0) -> Option:
    by = {f"by_{name}": float(kind == name) for name in ("pin", "discharge", "counter", "delay")}
    return Option(title, {"timing_weight": timing, "other_weight": other, "outputs_ratio": outputs, "both_ways": both_ways, **by})


oscillator.choice(
    "family",
    {
        "pin": _family("two outputs, dead-time pin", 1 / 1.1, 0, 2, "pin"),
        "discharge": _family("two outputs, discharge", 0.7, 3, 2, "discharge"),
        "single_ended": _family("outputs together", 1 / 1.1, 0, 1, "pin"),
        "timer": _family("timer, up", 0, 0, 1, "counter"),
        "timer_both_ways": _family("timer, up and down", 0, 0, 1, "counter", 1),
        "flip_flop": _family("two-timer, flip-flop", 2 / 1.44, 1 / 1.44, 2, "delay"),
    },
    {
        "timing_weight": ("", "a", "Weight of the timing resistor in the period."),
        "other_weight": ("", "b", "Weight of the discharge (or charging) resistor in the period."),
        "outputs_ratio": ("", "k", "Oscillator frequency over what one switch sees."),
        "both_ways": ("", r"\kappa", "1 where a timer counts up and down."),
        "by_pin": ("", r"\sigma_p", "1 where a control voltage sets the dead time."),
        "by_discharge": ("", r"\sigma_d", "1 where the discharge of the timing capacitor is the dead time."),
        "by_counter": ("", r"\sigma_c", "1 where a timer makes the clock."),
        "by_delay": ("", r"\sigma_f", "1 where a delay behind the flip-flop makes the dead time."),
    },
    default="pin",
    sentence="What makes the clock.",
    title="Clock",
)

oscillator.give(
    "wanted_frequency", 40e3, "Hz", r"f_\mathrm{want}", 40, 400000.0, "Frequency that one front-end switch should see.", "Wanted switching frequency"
)
oscillator.give("timing_capacitor", 1e-9, "F", "C_T", 1e-10, 1e-05, "Timing capacitor.", "Timing capacitor")
oscillator.give("capacitor_tolerance", 0.05, "", r"\delta_C", 0, 0.3, "Tolerance of the timing capacitor (5 to 10 %).", "Tolerance of C")
oscillator.give("timing_tolerance", 0.01, "", r"\delta_R", 0, 0.2, "Tolerance of the timing resistors.", "Tolerance of R")
oscillator.give(
    "clock_tolerance",
    50e-6,
    "",
    r"\delta_\mathrm{clk}",
    0,
    0.05,
    "Tolerance of a timer's clock (50 ppm of a crystal, 2 % of an R-C).",
    "Tolerance of the clock",
)
oscillator.give("timer_clock", 16e6, "Hz", r"f_\mathrm{clk}", 1e3, 1e9, "Clock of the timer.", "Timer's clock")
oscillator.give("prescaler", 1.0, "", r"n_\mathrm{pre}", 1, 65536, "Prescaler of the timer.", whole=True)
oscillator.give("charging_resistor", 1e3, "Ω", "R_A", 100, 1e7, "Charging resistor of the two-timer astable.", "Charging resistor")
oscillator.give("least_dead_time", 0.3e-6, "s", "t_0", 0, 1e-4, "Least dead time of the controller, without a discharge resistor.", "Least dead time")
oscillator.give(
    "dead_by_capacitor",
    100.0,
    "Ω",
    r"k_0",
    0,
    1e4,
    "Dead time that the timing capacitor alone makes, 0.1 µs for each nF [judgement].",
    "Dead time by the capacitor",
    judgement=True,
)
oscillator.give(
    "off_fraction",
    0.05,
    "",
    r"d_\mathrm{off}",
    0.03,
    1,
    "Part of the oscillator period (half a period of a switch) that both outputs are to be off.",
    "Off fraction",
)


@oscillator.build(
    unit="s",
    symbol=r"t_\mathrm{dead,want}",
    source=FAMILIES,
    title="Dead time wanted",
    tex=r"\frac{off_fraction}{2\,{wanted_frequency}}",
    example=({"off_fraction": 0.05, "wanted_frequency": 40e3}, 625e-9),
)
def wanted_dead_time(off_fraction, wanted_frequency):
    """Dead time at each change of turns: the off fraction of half a period."""
    return off_fraction / (2 * wanted_frequency)


@oscillator.build(
    unit="Ω",
    symbol="R_D",
    source=FAMILIES,
    title="Discharge resistor",
    decided=True,
    tex=r"\begin{cases}\mathrm{E24}_\uparrow\left(\max\left(\frac{{wanted_dead_time}-{least_dead_time}-{dead_by_capacitor}\,{timing_capacitor}}{3\,{timing_capacitor}},\,1\,\Omega\right)\right)&{by_discharge}=1\\{charging_resistor}&{by_delay}=1\\0&\text{else}\end{cases}",
    example=(
        {
            "wanted_dead_time": 1e-6,
            "least_dead_time": 0.3e-6,
            "dead_by_capacitor": 100,
            "timing_capacitor": 1e-9,
            "by_discharge": 1,
            "charging_resistor": 1e3,
            "by_delay": 0,
        },
        200,
    ),
)
def other_resistor(wanted_dead_time, least_dead_time, dead_by_capacitor, timing_capacitor, by_discharge, charging_resistor, by_delay):
    """Discharge resistor for the dead time wanted; with a two-timer astable its charging resistor; else none."""
    rest = (wanted_dead_time - least_dead_time - dead_by_capacitor * timing_capacitor) / (3 * timing_capacitor)
    discharge = nearest_in("E24", "up")(np.maximum(rest, like(1.0, rest)))
    return np.where(by_discharge > 0, discharge, np.where(by_delay > 0, charging_resistor, 0 * charging_resistor))


@oscillator.build(
    unit="Ω",
    symbol=r"R_{T,0}",
    source=FAMILIES,
    title="Timing resistor, exact",
    tex=r"\frac{1/({outputs_ratio}\,{wanted_frequency}\,{timing_capacitor})-{other_weight}\,{other_resistor}}{\max({timing_weight},0.001)}",
    example=(
        {"outputs_ratio": 2, "wanted_frequency": 40e3, "timing_capacitor": 1e-9, "other_weight": 0, "other_resistor": 0, "timing_weight": 0.909090909},
        13.75e3,
    ),
)
def exact_resistor(outputs_ratio, wanted_frequency, timing_capacitor, other_weight, other_resistor, timing_weight):
    """Timing resistor that would give the frequency wanted exactly; of no use where a timer counts."""
    return (1 / (outputs_ratio * wanted_frequency * timing_capacitor) - other_weight * other_resistor) / np.maximum(timing_weight, 0.001)


@oscillator.build(
    unit="Ω",
    symbol="R_T",
    source=FAMILIES,
    title="Timing resistor",
    tex=r"\mathrm{E96}\!\left({exact_resistor}\right)",
    example=({"exact_resistor": 13.75e3}, 13.7e3),
    decided=True,
)
def timing_resistor(exact_resistor):
    """Timing resistor, nearest preferred value."""
    return nearest_in("E96")(exact_resistor)


@oscillator.build(
    unit="",
    symbol=r"\mathrm{TOP}",
    source=FAMILIES,
    title="TOP of the timer",
    decided=True,
    whole=True,
    tex=r"\max\left(\left\lfloor\frac{timer_clock}{{prescaler}\,{wanted_frequency}(1+{both_ways})}-(1-{both_ways})+0.5\right\rfloor,\,1\right)",
    example=({"timer_clock": 16e6, "prescaler": 1, "wanted_frequency": 40e3, "both_ways": 0}, 399),
)
def timer_top(timer_clock, prescaler, wanted_frequency, both_ways):
    """Value in the timer's register: it counts TOP + 1 up, or twice TOP up and down."""
    counts = timer_clock / (prescaler * wanted_frequency * (1 + both_ways))
    return np.maximum(down(counts - (1 - both_ways) + 0.5), 1.0)


@oscillator.build(
    unit="Hz",
    symbol=r"f_\mathrm{osc}",
    source=FAMILIES,
    title="Oscillator frequency",
    tex=r"\begin{cases}\frac{timer_clock}{{prescaler}({timer_top}(1+{both_ways})+1-{both_ways})}&{by_counter}=1\\\frac{1}{{timing_capacitor}({timing_weight}{timing_resistor}+{other_weight}{other_resistor})}&\text{else}\end{cases}",
    example=(
        {
            "timer_clock": 16e6,
            "prescaler": 1,
            "timer_top": 399,
            "both_ways": 0,
            "by_counter": 0,
            "timing_capacitor": 1e-9,
            "timing_weight": 0.7,
            "timing_resistor": 10e3,
            "other_weight": 3,
            "other_resistor": 100,
        },
        136.986e3,
    ),
)
def oscillator_frequency(
    timer_clock, prescaler, timer_top, both_ways, by_counter, timing_capacitor, timing_weight, timing_resistor, other_weight, other_resistor
):
    """Frequency of the oscillator itself: k times what one switch sees."""
    counted = timer_clock / (prescaler * (timer_top * (1 + both_ways) + 1 - both_ways))
    weighted = timing_weight * timing_resistor + other_weight * other_resistor
    charged = 1 / (timing_capacitor * np.where(by_counter > 0, timing_resistor, weighted))
    return np.where(by_counter > 0, counted, charged)


@oscillator.build(
    unit="Hz",
    symbol=r"f_\mathrm{sw}",
    tex=r"\frac{oscillator_frequency}{outputs_ratio}",
    source=FAMILIES,
    title="Switching frequency",
    example=({"oscillator_frequency": 110e3, "outputs_ratio": 2}, 55e3),
)
def switching_frequency(oscillator_frequency, outputs_ratio):
    """Frequency that one switch and the transformer see."""
    return oscillator_frequency / outputs_ratio


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


def _declare_extreme(name: str, symbol: str, title: str, sign: int) -> None:
    """The frequency at one end of its tolerances."""

    def formula(switching_frequency, by_counter, clock_tolerance, capacitor_tolerance, timing_tolerance):
        charged = (1 - sign * capacitor_tolerance) * (1 - sign * timing_tolerance)
        return switching_frequency * np.where(by_counter > 0, 1 + sign * clock_tolerance, 1 / charged)

    side = "+-"[sign < 0]
    other = "-+"[sign < 0]
    formula.__name__ = name
    formula.__doc__ = f"{title} by tolerance of R and C, or of the timer's clock."
    tex = rf"{{switching_frequency}}\begin{{cases}}1{side}{{clock_tolerance}}&{{by_counter}}=1\\\frac{{1}}{{(1{other}{{capacitor_tolerance}})(1{other}{{timing_tolerance}})}}&\text{{else}}\end{{cases}}"
    numbers = {"switching_frequency": 40e3, "by_counter": 0, "clock_tolerance": 50e-6, "capacitor_tolerance": 0.05, "timing_tolerance": 0.01}
    oscillator.build(unit="Hz", symbol=symbol, source="tolerance of R and C", title=title, tex=tex, example=(numbers, {1: 42530.6, -1: 37718.1}[sign]))(formula)


_declare_extreme("lowest_switching_frequency", r"f_\mathrm{sw,min}", "Lowest switching frequency", -1)
_declare_extreme("highest_switching_frequency", r"f_\mathrm{sw,max}", "Highest switching frequency", 1)


@oscillator.build(
    unit="s",
    symbol=r"t_\mathrm{dead}",
    source=FAMILIES,
    title="Dead time",
    tex=r"\begin{cases}\frac{off_fraction}{2\,{switching_frequency}}&{by_pin}=1\\{least_dead_time}+{dead_by_capacitor}{timing_capacitor}+3{other_resistor}{timing_capacitor}&{by_discharge}=1\\\frac{\left\lceil{wanted_dead_time}{timer_clock}\right\rceil}{timer_clock}&{by_counter}=1\\{wanted_dead_time}&\text{else}\end{cases}",
    example=(
        {
            "off_fraction": 0.05,
            "switching_frequency": 40e3,
            "by_pin": 0,
            "least_dead_time": 0.3e-6,
            "dead_by_capacitor": 100,
            "timing_capacitor": 1e-9,
            "other_resistor": 200,
            "by_discharge": 1,
            "wanted_dead_time": 1e-6,
            "timer_clock": 16e6,
            "by_counter": 0,
        },
        1e-6,
    ),
)
def available_dead_time(
    off_fraction,
    switching_frequency,
    by_pin,
    least_dead_time,
    dead_by_capacitor,
    timing_capacitor,
    other_resistor,
    by_discharge,
    wanted_dead_time,
    timer_clock,
    by_counter,
):
    """Dead time between the two outputs at full duty: by the pin's voltage, by the discharge, in whole counts, or by the delay fitted."""
    by_voltage = off_fraction / (2 * switching_frequency)
    by_discharging = least_dead_time + dead_by_capacitor * timing_capacitor + 3 * other_resistor * timing_capacitor
    counted = up(wanted_dead_time * timer_clock) / timer_clock
    return np.where(by_pin > 0, by_voltage, np.where(by_discharge > 0, by_discharging, np.where(by_counter > 0, counted, wanted_dead_time)))


@oscillator.build(
    unit="",
    symbol=r"D_\mathrm{tot,max}",
    tex=r"1-2\,{available_dead_time}\,{switching_frequency}",
    source=FAMILIES,
    title="Greatest total duty",
    example=({"available_dead_time": 625e-9, "switching_frequency": 40e3}, 0.95),
)
def duty_limit(available_dead_time, switching_frequency):
    """Greatest fraction of time in which the transformer is driven, twice the duty of one switch."""
    return 1 - 2 * available_dead_time * switching_frequency


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
