"""The output bridge, first part: modulation, peak needed, currents (8.1, 8.3)."""

import numpy as np

from rhombos.core.graph.declare import Option, Stage
from rhombos.core.stages.switch_heat import declare_surroundings

MUR = "Mohan, Undeland & Robbins, Power Electronics"
HL = "Holmes & Lipo, Pulse Width Modulation for Power Converters"

h_bridge = Stage("h_bridge", "H-bridge", telling="{switch} · {carrier_frequency}", caution="link")

h_bridge.choice(
    "modulation",
    {
        "unipolar": Option(
            "unipolar (three levels)",
            {"ripple_divisor": 8, "carrier_multiple": 2, "switching_legs": 2, "ripple_linear": 4 / (3 * np.pi), "ripple_constant": 0.0},
        ),
        "bipolar": Option(
            "bipolar (two levels)", {"ripple_divisor": 2, "carrier_multiple": 1, "switching_legs": 2, "ripple_linear": 0.0, "ripple_constant": 0.5}
        ),
    },
    {
        "ripple_divisor": ("", r"n_L", "Divisor of V_link/(L·f_sw) in the choke's worst ripple."),
        "carrier_multiple": ("", r"n_f", "Carrier ripple frequency over the frequency of one switch."),
        "switching_legs": ("", r"n_\mathrm{leg}", "Legs that switch at the carrier."),
        "ripple_linear": ("", r"r_1", "Coefficient of M in the square of the link ripple current."),
        "ripple_constant": ("", r"r_0", "Constant in the square of the link ripple current."),
    },
    default="unipolar",
    sentence="How the sine is made from pulses.",
)

h_bridge.choice(
    "sampling",
    {"regular": Option("regular sampling (a table)", {"natural": 0}), "natural": Option("natural sampling (a comparator)", {"natural": 1})},
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


h_bridge.give(
    "carrier_frequency", 20e3, "Hz", r"f_\mathrm{pwm}", 1e3, 200e3, "Frequency that one bridge switch sees; a whole multiple of the output frequency."
)
h_bridge.give("dead_time", 400e-9, "s", r"t_\mathrm{dead}", 0, 5e-6, "Dead time between the two switches of a leg.")
h_bridge.give("driver_minimum_pulse", 200e-9, "s", r"t_\mathrm{pulse}", 0, 5e-6, "Shortest pulse that the driver passes.")
declare_surroundings(h_bridge, sink_resistance=1.6, pad_resistance=1.0, sink_capacity=120.0)


@h_bridge.operation(
    unit="A", symbol=r"\hat I_o", source=MUR, title="Crest of the sine current", tex=r"\sqrt2\,{output_current}", example=({"output_current": 5}, 7.0711)
)
def sine_crest_current(output_current):
    """Crest of the choke current taken as a sine: conduction and edges are judged by it."""
    return np.sqrt(2) * output_current


@h_bridge.operation(unit="A", symbol=r"I_\mathrm{sw}", source=MUR, title="Switched current", tex=r"{sine_crest_current}")
def switched_current(sine_crest_current):
    """Highest current that one position switches."""
    return sine_crest_current


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


@h_bridge.build(unit="Hz", symbol=r"f_\mathrm{pwm}", source="carrier", title="Gate frequency", tex=r"{carrier_frequency}")
def gate_frequency(carrier_frequency):
    """Frequency of each gate."""
    return carrier_frequency


@h_bridge.build(unit="s", symbol=r"t_\mathrm{dead}", source="given", title="Dead time available", tex=r"{dead_time}")
def available_dead_time(dead_time):
    """Dead time between the two switches of a leg."""
    return dead_time


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
    tex=r"\min\left(0.95,\;1-2\,{carrier_frequency}(\max({minimum_low_time},{driver_minimum_pulse})+{dead_time})\right)",
    example=({"carrier_frequency": 20e3, "minimum_low_time": 1e-6, "driver_minimum_pulse": 0.2e-6, "dead_time": 1e-6}, 0.92),
)
def modulation_limit(carrier_frequency, minimum_low_time, driver_minimum_pulse, dead_time):
    """Highest modulation index that bootstrap refresh, driver pulse and dead time leave."""
    return np.minimum(0.95, 1 - 2 * carrier_frequency * (np.maximum(minimum_low_time, driver_minimum_pulse) + dead_time))


@h_bridge.operation(
    unit="V",
    symbol=r"V_\mathrm{sw}",
    source="Ohm's law",
    title="Drop of two switches",
    start=3.0,
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


@h_bridge.operation(
    unit="VA", symbol=r"S_b", source="apparent power at the choke", title="Apparent power of the bridge", tex=r"{output_current}\,{rated_output_voltage}"
)
def bridge_apparent_power(output_current, rated_output_voltage):
    """Apparent power out of the bridge, the filter's reactive current included."""
    return output_current * rated_output_voltage


@h_bridge.operation(
    unit="A",
    symbol=r"I_{b,sw}",
    source=MUR,
    title="Ripple current drawn from the link",
    tex=r"{sine_crest_current}\sqrt{{ripple_constant}+{ripple_linear}{modulation_index}-\tfrac38{modulation_index}^2}",
    example=({"sine_crest_current": 1, "ripple_constant": 0, "ripple_linear": 0.424413, "modulation_index": 0.9}, 0.27973),
)
def bridge_ripple_current(sine_crest_current, ripple_constant, ripple_linear, modulation_index):
    """Rms carrier-frequency current that the bridge draws from the link (at power factor 1)."""
    square = ripple_constant + ripple_linear * modulation_index - 3 / 8 * modulation_index**2
    return sine_crest_current * np.sqrt(np.maximum(square, 0))
