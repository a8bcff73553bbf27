"""The output bridge, first part: modulation, peak needed, currents (8.1, 8.3)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, up_to_step
from rhombos.core.graph.declare import Option, Stage
from rhombos.core.modulation.hard_share import hard_share
from rhombos.core.stages.sizes import BY_SHARE
from rhombos.core.stages.switches.switch_heat import declare_surroundings

MUR = "Mohan, Undeland & Robbins, Power Electronics"
HL = "Holmes & Lipo, Pulse Width Modulation for Power Converters"

h_bridge = Stage("h_bridge", "H-bridge", telling="{switch} · {carrier_frequency}")
h_bridge.bus("pulsed", "input_voltage", "choke_rms_current")
h_bridge.usual = {"input_voltage": 375.0}
h_bridge.compare("Switch", "switch")
h_bridge.view(
    "scope",
    link="input_voltage",
    carrier="carrier_frequency",
    carrier_multiple="carrier_multiple",
    natural="natural",
    dead_time="dead_time",
    switch_resistance="hot_resistance",
    switch_quantity="switch_quantity",
    diode_voltage="switch_diode_voltage",
    dead_time_distortion="dead_time_distortion",
    link_distortion="link_distortion",
)
h_bridge.hazard("dc_voltage", "highest_link")
h_bridge.hazard("energy", "stored_energy")
h_bridge.hazard("discharge", "discharge_time")

h_bridge.choice(
    "modulation",
    {
        "unipolar": Option(
            "unipolar (three levels)",
            {
                "ripple_divisor": 8,
                "carrier_multiple": 2,
                "switching_legs": 2,
                "ripple_linear": 2 / (3 * np.pi),
                "ripple_constant": 0.0,
                "slope_0": 0.0,
                "slope_2": 0.0,
                "slope_3": 64 / (3 * np.pi),
                "slope_4": -12.0,
                "slope_5": 256 / (15 * np.pi),
            },
        ),
        "bipolar": Option(
            "bipolar (two levels)",
            {
                "ripple_divisor": 2,
                "carrier_multiple": 1,
                "switching_legs": 2,
                "ripple_linear": 0.0,
                "ripple_constant": 0.5,
                "slope_0": 1.0,
                "slope_2": -1.0,
                "slope_3": 0.0,
                "slope_4": 3 / 8,
                "slope_5": 0.0,
            },
        ),
    },
    {
        "ripple_divisor": ("", r"n_L", "Divisor of V_link/(L·f_sw) in the choke's worst ripple."),
        "carrier_multiple": ("", r"n_f", "Carrier ripple frequency over the frequency of one switch."),
        "switching_legs": ("", r"n_\mathrm{leg}", "Legs that switch at the carrier."),
        "ripple_linear": ("", r"r_1", "Coefficient of M·(1 + cos²φ) in the square of the link's current."),
        "ripple_constant": ("", r"r_0", "Constant in the square of the link's current."),
        "slope_0": ("", r"q_0", "Choke ripple in the link's current, mean over the period: constant term."),
        "slope_2": ("", r"q_2", "The same, term of M²."),
        "slope_3": ("", r"q_3", "The same, term of M³."),
        "slope_4": ("", r"q_4", "The same, term of M⁴."),
        "slope_5": ("", r"q_5", "The same, term of M⁵."),
    },
    default="unipolar",
    sentence="How the sine is made from pulses.",
)

h_bridge.choice(
    "sampling",
    {"regular": Option("regular sampling, asymmetric (a table)", {"natural": 0}), "natural": Option("natural sampling (a comparator)", {"natural": 1})},
    {"natural": ("", r"\nu", "1 for natural, 0 for regular sampling; only the scope reads it.")},
    default="regular",
    sentence="How the reference is compared with the carrier.",
)

h_bridge.choice(
    "topology",
    {"h_bridge": Option("H-bridge", {"switch_positions": 4})},
    {"switch_positions": ("", r"n_{sw}", "Switch positions of the bridge.")},
    default="h_bridge",
    sentence="The numbers that make the bridge what it is.",
)


h_bridge.give("wanted_carrier", 20e3, "Hz", r"f_\mathrm{pwm}^*", 1e3, 200e3, "Frequency that one bridge switch is to see, at least.", "Wanted carrier")


@h_bridge.build(
    unit="Hz",
    symbol=r"f_\mathrm{pwm}",
    source="Holmes and Lipo, Pulse Width Modulation for Power Converters",
    title="Carrier frequency",
    tex=r"\left\lceil\frac{wanted_carrier}{output_frequency}\right\rceil{output_frequency}",
    example=({"wanted_carrier": 20e3, "output_frequency": 60}, 20040),
)
def carrier_frequency(wanted_carrier, output_frequency):
    """Frequency that one bridge switch sees: the next whole multiple of the output's, so that the pattern does not drift."""
    return up_to_step(wanted_carrier, output_frequency)


h_bridge.give("dead_time", 400e-9, "s", r"t_\mathrm{dead}", 0, 5e-6, "Dead time between the two switches of a leg.")
h_bridge.give("driver_minimum_pulse", 200e-9, "s", r"t_\mathrm{pulse}", 0, 5e-6, "Shortest pulse that the driver passes.")
declare_surroundings(h_bridge, loss_budget=0.0115, pad_resistance=1.0, sink_time=192.0)


@h_bridge.operation(
    unit="A", symbol=r"\hat I_o", source=MUR, title="Crest of the sine current", tex=r"\sqrt2\,{output_current}", example=({"output_current": 5}, 7.0711)
)
def sine_crest_current(output_current):
    """Crest of the choke current taken as a sine: conduction and edges are judged by it."""
    return np.sqrt(2) * output_current


h_bridge.rename(switched_current="sine_crest_current")


@h_bridge.operation(
    unit="A",
    symbol=r"I_\mathrm{sw,rms}",
    source=MUR,
    title="Switch current, rms",
    tex=r"\frac{sine_crest_current}{2}",
    example=({"sine_crest_current": 7.0711}, 3.53555),
)
def switch_rms_current(sine_crest_current):
    """Rms current of one position: the channel carries both directions, driven as synchronous rectifier."""
    return sine_crest_current / 2


h_bridge.rename(gate_frequency="carrier_frequency")


h_bridge.rename(available_dead_time="dead_time")


@h_bridge.build(
    unit="",
    symbol=r"k_d",
    source=HL,
    title="Dead time's share",
    tex=r"\frac4\pi\,{switching_legs}\,{dead_time}\,{carrier_frequency}",
    example=({"switching_legs": 2, "dead_time": 1e-6, "carrier_frequency": 20e3}, 0.050930),
)
def dead_time_share(switching_legs, dead_time, carrier_frequency):
    """Share of the link that dead time takes from the fundamental's peak."""
    return 4 / np.pi * switching_legs * dead_time * carrier_frequency


@h_bridge.build(
    unit="",
    symbol=r"M_\mathrm{max}",
    source="shortest refresh and pulse of the driver",
    title="Modulation limit",
    start=0.95,
    tex=r"\min\left(0.95,\;1-2\,{carrier_frequency}(\max({counted_low_time},{driver_minimum_pulse})+{dead_time})\right)",
    example=({"carrier_frequency": 20e3, "counted_low_time": 1e-6, "driver_minimum_pulse": 0.2e-6, "dead_time": 1e-6}, 0.92),
)
def modulation_limit(carrier_frequency, counted_low_time, driver_minimum_pulse, dead_time):
    """Highest modulation index that bootstrap refresh, driver pulse and dead time leave."""
    return np.minimum(0.95, 1 - 2 * carrier_frequency * (np.maximum(counted_low_time, driver_minimum_pulse) + dead_time))


@h_bridge.operation(
    unit="V",
    symbol=r"V_\mathrm{sw}",
    source="Ohm's law",
    title="Drop of two switches",
    start=3.0,
    grows=BY_SHARE,
    tex=r"2\,\frac{{hot_resistance}\,{sine_crest_current}}{switch_quantity}",
    example=({"hot_resistance": 0.2, "sine_crest_current": 7, "switch_quantity": 1}, 2.8),
)
def switch_drop(hot_resistance, sine_crest_current, switch_quantity):
    """Drop of the two switches in the path at the current's crest."""
    return 2 * hot_resistance * sine_crest_current / switch_quantity


@h_bridge.operation(unit="V", symbol=r"V_\mathrm{fix}", source=HL, title="Peak demanded of the pulses", tex=r"{node_peak_voltage}+{switch_drop}")
def setpoint_peak_demand(node_peak_voltage, switch_drop):
    """Peak that the pulses must make, the dead time's share not yet counted."""
    return node_peak_voltage + switch_drop


@h_bridge.operation(
    unit="V",
    symbol=r"V_\mathrm{need}",
    source=HL,
    title="Peak needed",
    tex=r"{setpoint_peak_demand}+{dead_time_share}\,{input_voltage}",
    example=({"setpoint_peak_demand": 330, "dead_time_share": 0.02, "input_voltage": 380}, 337.6),
)
def peak_voltage_needed(setpoint_peak_demand, dead_time_share, input_voltage):
    """Peak that modulation must make: filter, switches and dead time."""
    return setpoint_peak_demand + dead_time_share * input_voltage


@h_bridge.operation(unit="", symbol="M", source=HL, title="Modulation index", tex=r"\frac{peak_voltage_needed}{input_voltage}")
def modulation_index(peak_voltage_needed, input_voltage):
    """Fundamental peak over the link voltage."""
    return peak_voltage_needed / input_voltage


@h_bridge.build(
    unit="V",
    symbol=r"V_\mathrm{low}",
    source="Ohm's law",
    title="Drop of the low-side switch",
    tex=r"\max\frac{{hot_resistance}\,({choke_peak_current}-{filter_ripple}/2)}{switch_quantity}",
    example=({"hot_resistance": 0.3, "choke_peak_current": 9, "filter_ripple": 2, "switch_quantity": 1}, 2.4),
)
def low_side_drop(hot_resistance, choke_peak_current, filter_ripple, switch_quantity):
    """Highest drop of a low-side switch while the bootstrap is refreshed, at the crest of the current into the leg, carrier ripple averaged."""
    return highest(hot_resistance * (choke_peak_current - filter_ripple / 2) / switch_quantity)


@h_bridge.operation(
    unit="VA", symbol=r"S_b", source="apparent power at the choke", title="Apparent power of the bridge", tex=r"{output_current}\,{delivered_voltage}"
)
def bridge_apparent_power(output_current, delivered_voltage):
    """Apparent power out of the bridge, the filter's reactive current included."""
    return output_current * delivered_voltage


@h_bridge.operation(
    unit="",
    symbol=r"\cos\varphi",
    source="IEEE 1459",
    title="Displacement factor of the bridge",
    tex=r"\begin{gathered}\begin{cases}\dfrac{output_power}{S}&S>0\\1&\text{else}\end{cases}\\S=\sqrt{{output_power}^2+{output_reactive_power}^2}\end{gathered}",
    example=({"output_power": 80, "output_reactive_power": 60}, 0.8),
)
def displacement_factor(output_power, output_reactive_power):
    """Cosine of the angle by which the choke's current lags the fundamental."""
    apparent = np.sqrt(output_power**2 + output_reactive_power**2)
    return np.where(apparent > 0 * apparent, output_power / np.where(apparent > 0 * apparent, apparent, np.nan), 1.0)


@h_bridge.operation(
    unit="",
    symbol=r"s_h",
    source="half the ripple of the carrier cycle against the sine's current there, over half a period",
    title="Share of hard commutations",
    tex=r"\operatorname{hard}\left({sine_crest_current},\,{filter_ripple},\,{displacement_factor},\,{output_reactive_power},\,{modulation_index},\,{carrier_multiple}\right)",
    example=(
        {
            "sine_crest_current": 1e6,
            "filter_ripple": 1.0,
            "displacement_factor": 1.0,
            "output_reactive_power": 0,
            "modulation_index": 0.9,
            "carrier_multiple": 2,
        },
        1.0,
    ),
)
def hard_commutations(sine_crest_current, filter_ripple, displacement_factor, output_reactive_power, modulation_index, carrier_multiple):
    """Share of carrier cycles in which a leg commutates hard: elsewhere the choke's ripple reverses the current and does it softly."""
    sine = lag_sine(displacement_factor, output_reactive_power)
    return hard_share(sine_crest_current, filter_ripple, displacement_factor, sine, modulation_index, carrier_multiple - 1)


def lag_sine(displacement_factor, output_reactive_power):
    """Sine of the angle by which the choke's current lags, below zero where it leads."""
    lag = np.sqrt(np.maximum(1 - displacement_factor**2, 0.0))
    return np.where(output_reactive_power < 0 * output_reactive_power, -lag, lag)


@h_bridge.operation(
    unit="A",
    symbol=r"I_{b,sw}",
    source="Mohan, Undeland & Robbins, with the angle and the choke's ripple put in",
    title="Ripple current drawn from the link",
    tex=r"\begin{gathered}\sqrt{{sine_crest_current}^2A+\tfrac1{12}{filter_ripple}^2q}\\"
    r"A={ripple_constant}+{ripple_linear}\,{modulation_index}(1+({displacement_factor})^2)-\tfrac18{modulation_index}^2(1+2\,({displacement_factor})^2)\\q={slope_0}+{slope_2}{modulation_index}^2+{slope_3}{modulation_index}^3+{slope_4}{modulation_index}^4+{slope_5}{modulation_index}^5\end{gathered}",
    example=(
        {
            "sine_crest_current": 1,
            "filter_ripple": 0.2,
            "ripple_constant": 0,
            "ripple_linear": 0.212207,
            "displacement_factor": 1.0,
            "modulation_index": 0.9,
            "slope_0": 0,
            "slope_2": 0,
            "slope_3": 6.79061,
            "slope_4": -12,
            "slope_5": 5.43249,
        },
        0.28146,
    ),
)
def bridge_ripple_current(
    sine_crest_current, filter_ripple, ripple_constant, ripple_linear, displacement_factor, modulation_index, slope_0, slope_2, slope_3, slope_4, slope_5
):
    """Rms carrier-frequency current that the bridge draws from the link: the pulsed sine, and the choke's ripple while it is connected."""
    m, c = modulation_index, displacement_factor
    sine = ripple_constant + ripple_linear * m * (1 + c**2) - m**2 * (1 + 2 * c**2) / 8
    slopes = slope_0 + slope_2 * m**2 + slope_3 * m**3 + slope_4 * m**4 + slope_5 * m**5
    square = sine_crest_current**2 * sine + filter_ripple**2 / 12 * slopes
    return np.sqrt(np.maximum(square, 0 * square))
