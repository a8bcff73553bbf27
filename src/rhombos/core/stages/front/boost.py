"""Boost front end: one switch, one diode, one choke. The source's negative pole is the link's: nothing isolates (4.1, 5.3, 16 H30)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, highest_lasting, nearest_in
from rhombos.core.graph.declare import Option, Stage, every
from rhombos.core.stages.sizes import BY_DRAWN_SOURCE_CURRENT, BY_OUTPUT_VOLTAGE, BY_SOURCE_CURRENT, BY_SOURCE_RESISTANCE
from rhombos.core.stages.switches.switch_heat import declare_surroundings

EM = "Erickson & Maksimović, Fundamentals of Power Electronics"
VOLT_SECONDS = "volt-seconds of the choke over a period"
boost = Stage("boost", "Boost converter", telling="{switch} · {choke_inductance}")
boost.bus("dc", "output_voltage", "link_current")
boost.hazard("not_isolated", "highest_drain_voltage")
boost.hazard("dc_voltage", "highest_drain_voltage")
boost.compare("Switch", "switch")
boost.compare("Static switch voltage", "static_voltage")
boost.choice(
    "topology",
    {"boost": Option("Boost", {"switch_positions": 1})},
    {"switch_positions": ("", r"n_{sw}", "Switch positions.")},
    default="boost",
    sentence="One switch, one diode.",
)
boost.give("choke_ripple_fraction", 0.3, "", r"\Delta_L", 0.05, 2, "Peak-to-peak ripple of the choke over its greatest lasting current.", "Choke ripple wanted")
boost.give("choke_time_constant", 4e-3, "s", r"\tau_L", 1e-4, 1, "Inductance over resistance of the choke, hot [judgement].", "Choke L/R", judgement=True)
boost.give(
    "bus_inductance",
    20e-9,
    "H",
    r"L_\mathrm{bus}",
    0,
    1e-6,
    "Loop of switch, diode and link capacitor; it rings at turn-off [judgement].",
    "Loop of switch and link",
    judgement=True,
)
declare_surroundings(boost, loss_budget=0.025, pad_resistance=0.6, sink_time=135.0)
# The controller's two outputs are joined: the switch sees both in turn.
boost.rename(gate_frequency="ripple_frequency", switched_current="peak_current", pulse_loss="loss", static_voltage="output_voltage")


@boost.operation(
    unit="V",
    symbol=r"V_\mathrm{link}",
    source="regulated; a source above the set-point passes the diode",
    title="Link voltage",
    start=380.0,
    grows=BY_OUTPUT_VOLTAGE,
    tex=r"\max(\min({link_setpoint},{reachable_voltage}),{input_voltage}-{diode_forward_voltage})",
)
def output_voltage(link_setpoint, reachable_voltage, input_voltage, diode_forward_voltage):
    """Link voltage: the set-point or what the greatest duty reaches; never below the source less the diode."""
    return np.maximum(np.minimum(link_setpoint, reachable_voltage), input_voltage - diode_forward_voltage)


@boost.operation(unit="A", symbol=r"I_\mathrm{link}", source="I = P/V", title="Link current", tex=r"\frac{output_power}{output_voltage}")
def link_current(output_power, output_voltage):
    """Mean current delivered to the link."""
    return output_power / output_voltage


@boost.operation(
    unit="A",
    symbol="I_L",
    source="I = P/V",
    title="Choke current",
    start=20.0,
    grows=BY_DRAWN_SOURCE_CURRENT,
    tex=r"\frac{{output_power}+{losses}}{input_voltage}",
    example=({"output_power": 900, "losses": 60, "input_voltage": 192}, 5.0),
)
def choke_current(output_power, input_voltage, losses=every("pulse_loss", "host")):
    """Mean current of the choke; what control and gates draw from the rail does not pass it."""
    return (output_power + losses) / input_voltage


@boost.operation(
    unit="Ω",
    symbol=r"R_\mathrm{on}",
    start=0.02,
    grows=BY_SOURCE_RESISTANCE,
    source="resistances in parallel",
    title="Switch, hot",
    tex=r"\frac{hot_resistance}{switch_quantity}",
)
def position_resistance(hot_resistance, switch_quantity):
    """Resistance of the switch position while it is on."""
    return hot_resistance / switch_quantity


@boost.operation(
    unit="",
    symbol=r"D_\mathrm{ccm}",
    source=VOLT_SECONDS,
    title="Duty with lasting choke current",
    tex=r"1-\frac{{input_voltage}-{choke_current}({choke_resistance}+{position_resistance})}{{output_voltage}+{diode_forward_voltage}-{choke_current}{position_resistance}}",
    example=(
        {"input_voltage": 190, "choke_current": 5, "choke_resistance": 0.2, "position_resistance": 0.1, "output_voltage": 379, "diode_forward_voltage": 1.5},
        0.503286,
    ),
)
def continuous_duty(input_voltage, choke_current, choke_resistance, position_resistance, output_voltage, diode_forward_voltage):
    """Duty while the choke current never stops: D·(V − I·(R_L + R_on)) + (1 − D)·(V − I·R_L − V_F − V_o) = 0, solved."""
    off = output_voltage + diode_forward_voltage - choke_current * position_resistance
    return 1 - (input_voltage - choke_current * (choke_resistance + position_resistance)) / off


@boost.operation(
    unit="",
    symbol=r"D_\mathrm{dcm}",
    source=EM,
    title="Duty below the choke's boundary",
    tex=r"\frac{\sqrt{2\,{choke_inductance}\,{ripple_frequency}\,{link_current}\max({output_voltage}+{diode_forward_voltage}-{input_voltage},0)}}{input_voltage}",
    example=(
        {"choke_inductance": 1e-3, "ripple_frequency": 80e3, "link_current": 0.1, "output_voltage": 378.5, "diode_forward_voltage": 1.5, "input_voltage": 190},
        0.290191,
    ),
)
def discontinuous_duty(choke_inductance, ripple_frequency, link_current, output_voltage, diode_forward_voltage, input_voltage):
    """Duty at light load: D²·V²/(2·L·f) is taken in every second, and V_o + V_F − V of every volt must be lifted."""
    lifted = output_voltage + diode_forward_voltage - input_voltage
    return np.sqrt(2 * choke_inductance * ripple_frequency * link_current * np.maximum(lifted, 0 * lifted)) / input_voltage


@boost.operation(unit="", symbol="D", source=EM, title="Duty", start=0.5, tex=r"\max(\min({continuous_duty},{discontinuous_duty},{duty_limit}),0)")
def effective_duty(continuous_duty, discontinuous_duty, duty_limit):
    """Fraction of time in which the switch is on: none where the source stands above the link."""
    duty = np.minimum(np.minimum(continuous_duty, discontinuous_duty), duty_limit)
    return np.maximum(duty, 0 * duty)


@boost.operation(
    unit="V",
    symbol=r"V_\mathrm{reach}",
    source=VOLT_SECONDS,
    title="Link within reach",
    tex=r"\frac{{input_voltage}-{choke_current}({choke_resistance}+{duty_limit}{position_resistance})}{1-{duty_limit}}-{diode_forward_voltage}",
    example=(
        {"input_voltage": 50, "choke_current": 10, "choke_resistance": 0.1, "duty_limit": 0.9, "position_resistance": 0.1, "diode_forward_voltage": 1},
        480.0,
    ),
)
def reachable_voltage(input_voltage, choke_current, choke_resistance, duty_limit, position_resistance, diode_forward_voltage):
    """Link that the greatest duty makes while the choke's current never stops."""
    return (input_voltage - choke_current * (choke_resistance + duty_limit * position_resistance)) / (1 - duty_limit) - diode_forward_voltage


@boost.operation(
    unit="",
    symbol=r"D_\mathrm{0}",
    source=VOLT_SECONDS,
    title="Duty without drops",
    tex=r"\max\left(1-\frac{input_voltage}{{output_voltage}+{diode_forward_voltage}},\,0\right)",
    example=({"input_voltage": 190, "output_voltage": 378.5, "diode_forward_voltage": 1.5}, 0.5),
)
def lossless_duty(input_voltage, output_voltage, diode_forward_voltage):
    """Duty of a choke and a switch without resistance: the choke is wound for it, so that its own copper does not lead its turns around."""
    duty = 1 - input_voltage / (output_voltage + diode_forward_voltage)
    return np.maximum(duty, 0 * duty)


@boost.operation(
    unit="A",
    symbol="I_0",
    source=EM,
    title="Choke current without losses",
    tex=r"\frac{link_current}{1-{lossless_duty}}",
    example=({"link_current": 2.5, "lossless_duty": 0.5}, 5.0),
)
def lossless_current(link_current, lossless_duty):
    """Mean current of a choke and a switch without losses."""
    return link_current / (1 - lossless_duty)


@boost.build(
    unit="H",
    symbol="L",
    source=EM,
    title="Choke",
    safe="up",
    start=50e-6,
    grows=BY_SOURCE_RESISTANCE,
    tex=r"\mathrm{E24}_\uparrow\left(\max\frac{{input_voltage}\,{lossless_duty}}{ripple_frequency}\frac{1}{{choke_ripple_fraction}\max_\mathrm{lasting}({lossless_current})}\right)",
    example=({"input_voltage": 190, "lossless_duty": 0.5, "ripple_frequency": 80e3, "choke_ripple_fraction": 0.3, "lossless_current": 5}, 820e-6),
)
def choke_inductance(input_voltage, lossless_duty, ripple_frequency, choke_ripple_fraction, lossless_current):
    """Inductance that keeps the ripple wanted at every source; in steps of a tenth (E24, upwards), as its tolerance: finer ones lead it and the losses around."""
    return nearest_in("E24", "up")(highest(input_voltage * lossless_duty) / ripple_frequency / (choke_ripple_fraction * highest_lasting(lossless_current)))


@boost.operation(
    unit="A",
    symbol=r"\Delta I_L",
    start=3.0,
    grows=BY_SOURCE_CURRENT,
    source="V = L·dI/dt, drops taken off",
    title="Choke ripple",
    tex=r"\frac{({input_voltage}-{choke_current}({choke_resistance}+{position_resistance}))\,{effective_duty}}{{ripple_frequency}\,{choke_inductance}}",
    example=(
        {
            "input_voltage": 191,
            "choke_current": 5,
            "choke_resistance": 0.15,
            "position_resistance": 0.05,
            "effective_duty": 0.5,
            "ripple_frequency": 80e3,
            "choke_inductance": 1e-3,
        },
        1.1875,
    ),
)
def choke_ripple(input_voltage, choke_current, choke_resistance, position_resistance, effective_duty, ripple_frequency, choke_inductance):
    """Peak-to-peak ripple of the choke's current."""
    return (input_voltage - choke_current * (choke_resistance + position_resistance)) * effective_duty / (ripple_frequency * choke_inductance)


@boost.operation(
    unit="",
    symbol=r"D_2",
    source="mean of a triangle",
    title="Diode's share",
    start=0.5,
    tex=r"\min\left(1-{effective_duty},\,\frac{2\,{link_current}}{choke_ripple}\right)",
    example=({"effective_duty": 0.2, "link_current": 0.1, "choke_ripple": 1.0}, 0.2),
)
def diode_duty(effective_duty, link_current, choke_ripple):
    """Fraction of time in which the diode conducts: all that the switch leaves, or until the choke is empty."""
    return np.minimum(1 - effective_duty, 2 * link_current / np.where(choke_ripple > 0, choke_ripple, 1e-9 * np.abs(link_current)))


@boost.operation(
    unit="A",
    symbol=r"\hat I_L",
    source=EM,
    title="Choke current, peak",
    start=25.0,
    grows=BY_DRAWN_SOURCE_CURRENT,
    tex=r"\max\left({choke_current}+\tfrac12{choke_ripple},{choke_ripple}\right)+\frac{choke_swing}{1-{effective_duty}}",
    example=({"choke_current": 5, "choke_ripple": 1, "choke_swing": 1, "effective_duty": 0.5}, 7.5),
)
def peak_current(choke_current, choke_ripple, choke_swing, effective_duty):
    """Highest current of choke, switch and diode; below the boundary the pulse starts from nothing."""
    return np.maximum(choke_current + choke_ripple / 2, choke_ripple) + choke_swing / (1 - effective_duty)


@boost.operation(
    unit="A",
    symbol=r"I_\mathrm{sw,rms}",
    source="rms of a trapezoid, of a triangle below the boundary, and of the swing",
    title="Switch current, rms",
    tex=r"\sqrt{{effective_duty}\left({choke_mean_square}+\tfrac12\left(\frac{choke_swing}{1-{effective_duty}}\right)^2\right)}",
    example=({"effective_duty": 0.5, "choke_mean_square": 26.0, "choke_swing": 1.0}, 3.741657),
)
def switch_rms_current(effective_duty, choke_mean_square, choke_swing):
    """Rms current of the switch position."""
    return np.sqrt(effective_duty * (choke_mean_square + (choke_swing / (1 - effective_duty)) ** 2 / 2))


@boost.operation(
    unit="A^2",
    symbol=r"I_{L,\mathrm{on}}^2",
    source="mean square of a trapezoid, of a triangle below the boundary",
    title="Mean square while it flows",
    tex=r"\begin{cases}{choke_current}^2+\tfrac1{12}{choke_ripple}^2&{choke_current}\ge\tfrac12{choke_ripple}\\\tfrac13{choke_ripple}^2&\text{else}\end{cases}",
    example=({"choke_current": 5, "choke_ripple": 1}, 25.083333),
)
def choke_mean_square(choke_current, choke_ripple):
    """Mean square of the choke's current while it flows, without the swing."""
    return np.where(choke_current >= choke_ripple / 2, choke_current**2 + choke_ripple**2 / 12, choke_ripple**2 / 3)


@boost.operation(
    unit="A",
    symbol=r"I_{L,\mathrm{rms}}",
    source="rms of what flows and of the swing",
    title="Choke current, rms",
    tex=r"\sqrt{({effective_duty}+{diode_duty}){choke_mean_square}+\tfrac12\left(\frac{choke_swing}{1-{effective_duty}}\right)^2}",
    example=({"effective_duty": 0.5, "diode_duty": 0.5, "choke_mean_square": 26.0, "choke_swing": 1.0}, 5.291503),
)
def choke_rms_current(effective_duty, diode_duty, choke_mean_square, choke_swing):
    """Rms current of the choke."""
    return np.sqrt((effective_duty + diode_duty) * choke_mean_square + (choke_swing / (1 - effective_duty)) ** 2 / 2)
