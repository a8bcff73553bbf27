"""The output bridge: H-bridge with sine PWM (8.1, 8.3, 4.1 to 4.4)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Option, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages import gating
from rhombos.core.stages.front_end import declare_junction
from rhombos.core.stages.heat import settle
from rhombos.core.vocabulary import word

MUR = "Mohan, Undeland & Robbins, Power Electronics"
HL = "Holmes & Lipo, Pulse Width Modulation for Power Converters"

h_bridge = Stage("h_bridge", "H-bridge", telling=("switch", "carrier_frequency"), caution="link")

h_bridge.choice("modulation", {
    "unipolar": Option("unipolar (three levels)", {"ripple_divisor": 8, "carrier_multiple": 2, "switching_legs": 2, "ripple_linear": 4 / (3 * np.pi), "ripple_constant": 0.0}),
    "bipolar": Option("bipolar (two levels)", {"ripple_divisor": 2, "carrier_multiple": 1, "switching_legs": 2, "ripple_linear": 0.0, "ripple_constant": 0.5}),
}, {
    "ripple_divisor": ("", r"n_L", "Divisor of V_link/(L·f_sw) in the choke's worst ripple."),
    "carrier_multiple": ("", r"n_f", "Carrier ripple frequency over the frequency of one switch."),
    "switching_legs": ("", r"n_\mathrm{leg}", "Legs that switch at the carrier."),
    "ripple_linear": ("", r"r_1", "Coefficient of M in the square of the link ripple current."),
    "ripple_constant": ("", r"r_0", "Constant in the square of the link ripple current."),
}, default="unipolar", sentence="How the sine is made from pulses.")

h_bridge.choice("sampling", {
    "regular": Option("regular sampling (a table)", {"natural": 0}),
    "natural": Option("natural sampling (a comparator)", {"natural": 1}),
}, {"natural": ("", r"\nu", "1 for natural, 0 for regular sampling; only the scope reads it.")}, default="regular", sentence="How the reference is compared with the carrier.")

h_bridge.choice("topology", {"h_bridge": Option("H-bridge", {"switch_positions": 4})}, {"switch_positions": ("", r"n_{sw}", "Switch positions of the bridge.")},
                default="h_bridge", sentence="The numbers that make the bridge what it is.")


def _given(name: str, value: float, unit: str, symbol: str, low: float, high: float, sentence: str, title: str = "") -> None:
    def fn() -> float:
        return value
    fn.__name__, fn.__doc__ = name, sentence
    h_bridge.given(unit=unit, symbol=symbol, low=low, high=high, title=title)(fn)


_given("carrier_frequency", 20e3, "Hz", r"f_\mathrm{pwm}", 1e3, 200e3, "Frequency that one bridge switch sees; a whole multiple of the output frequency.")
_given("dead_time", 400e-9, "s", r"t_\mathrm{dead}", 0, 5e-6, "Dead time between the two switches of a leg.")
_given("driver_minimum_pulse", 200e-9, "s", r"t_\mathrm{pulse}", 0, 5e-6, "Shortest pulse that the driver passes.")
_given("ambient_temperature", 318.15, "K_abs", r"T_\mathrm{amb}", 233.15, 373.15, "Highest air temperature at the heat sink, inside the enclosure.", "Ambient inside")
_given("target_temperature", 383.15, "K_abs", r"T_\mathrm{target}", 313.15, 473.15, "Junction temperature aimed at in lasting service.", "Junction target")
_given("sink_resistance", 1.6, "K/W", r"R_{sa}", 0.01, 50, "Thermal resistance of the heat sink to air.", "Heat sink")
_given("pad_resistance", 1.0, "K/W", r"R_{cs}", 0.01, 10, "Thermal resistance from one case to the sink.", "Insulating pad")
_given("sink_capacity", 120.0, "J/K", r"C_\mathrm{sink}", 0.1, 1e4, "Heat capacity of the sink: it carries the surge.", "Heat capacity of the sink")


@h_bridge.operation(unit="A", symbol=r"\hat I_o", source=MUR, title="Crest of the sine current", tex=r"\sqrt2\,{output_current}", example=({"output_current": 5}, 7.0711))
def sine_crest_current(output_current):
    """Crest of the choke current taken as a sine: conduction and edges are judged by it."""
    return np.sqrt(2) * output_current


@h_bridge.operation(unit="A", symbol=r"I_\mathrm{sw}", source=MUR, title="Switched current", tex=r"{sine_crest_current}")
def switched_current(sine_crest_current):
    """Highest current that one position switches."""
    return sine_crest_current


@h_bridge.operation(unit="A", symbol=r"I_\mathrm{sw,rms}", source=MUR, title="Switch current, rms", tex=r"\frac{sine_crest_current}{2}", example=({"sine_crest_current": 7.0711}, 3.53555))
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


@h_bridge.build(unit="", symbol=r"k_d", source=HL, title="Dead time's share", tex=r"\frac4\pi\,{switching_legs}\,{dead_time}\,{carrier_frequency}", example=({"switching_legs": 2, "dead_time": 1e-6, "carrier_frequency": 20e3}, 0.050930))
def dead_time_share(switching_legs, dead_time, carrier_frequency):
    """Share of the link that dead time takes from the fundamental's peak."""
    return 4 / np.pi * switching_legs * dead_time * carrier_frequency


@h_bridge.build(unit="", symbol=r"M_\mathrm{max}", source="shortest refresh and pulse of the driver", title="Modulation limit", start=0.95,
                tex=r"\min\left(0.95,\;1-2\,{carrier_frequency}(\max({minimum_low_time},{driver_minimum_pulse})+{dead_time})\right)",
                example=({"carrier_frequency": 20e3, "minimum_low_time": 1e-6, "driver_minimum_pulse": 0.2e-6, "dead_time": 1e-6}, 0.92))
def modulation_limit(carrier_frequency, minimum_low_time, driver_minimum_pulse, dead_time):
    """Highest modulation index that bootstrap refresh, driver pulse and dead time leave."""
    return np.minimum(0.95, 1 - 2 * carrier_frequency * (np.maximum(minimum_low_time, driver_minimum_pulse) + dead_time))


@h_bridge.operation(unit="V", symbol=r"V_\mathrm{sw}", source="Ohm's law", title="Drop of two switches", start=1.5, tex=r"2\,\frac{{hot_resistance}\,{sine_crest_current}}{switch_quantity}", example=({"hot_resistance": 0.2, "sine_crest_current": 7, "switch_quantity": 1}, 2.8))
def switch_drop(hot_resistance, sine_crest_current, switch_quantity):
    """Drop of the two switches in the path at the current's crest."""
    return 2 * hot_resistance * sine_crest_current / switch_quantity


@h_bridge.operation(unit="V", symbol=r"V_\mathrm{fix}", source=HL, title="Peak demanded of the pulses", tex=r"{node_peak_voltage}+{switch_drop}")
def setpoint_peak_demand(node_peak_voltage, switch_drop):
    """Peak that the pulses must make, the dead time's share not yet counted."""
    return node_peak_voltage + switch_drop


@h_bridge.operation(unit="V", symbol=r"V_\mathrm{need}", source=HL, title="Peak needed", tex=r"{setpoint_peak_demand}+{dead_time_share}\,{input_voltage}", example=({"setpoint_peak_demand": 330, "dead_time_share": 0.02, "input_voltage": 380}, 337.6))
def peak_voltage_needed(setpoint_peak_demand, dead_time_share, input_voltage):
    """Peak that modulation must make: filter, switches and dead time."""
    return setpoint_peak_demand + dead_time_share * input_voltage


@h_bridge.operation(unit="", symbol="M", source=HL, title="Modulation index", tex=r"\frac{peak_voltage_needed}{input_voltage}")
def modulation_index(peak_voltage_needed, input_voltage):
    """Fundamental peak over the link voltage."""
    return peak_voltage_needed / input_voltage


@h_bridge.operation(unit="VA", symbol=r"S_b", source="apparent power at the choke", title="Apparent power of the bridge", tex=r"{output_current}\,{rated_output_voltage}")
def bridge_apparent_power(output_current, rated_output_voltage):
    """Apparent power out of the bridge, the filter's reactive current included."""
    return output_current * rated_output_voltage


@h_bridge.operation(unit="A", symbol=r"I_{b,sw}", source=MUR, title="Ripple current drawn from the link", tex=r"{sine_crest_current}\sqrt{{ripple_constant}+{ripple_linear}{modulation_index}-\tfrac38{modulation_index}^2}",
                    example=({"sine_crest_current": 1, "ripple_constant": 0, "ripple_linear": 0.424413, "modulation_index": 0.9}, 0.27973))
def bridge_ripple_current(sine_crest_current, ripple_constant, ripple_linear, modulation_index):
    """Rms carrier-frequency current that the bridge draws from the link (at power factor 1)."""
    square = ripple_constant + ripple_linear * modulation_index - 3 / 8 * modulation_index**2
    return sine_crest_current * np.sqrt(np.maximum(square, 0))


@h_bridge.pick("switch", "mosfet", MOSFET, title="Switch", quantities=(1, 2, 3), pieces=4, source=MUR)
def switch(part, highest_link, input_voltage, sine_crest_current, output_trip_level, switch_rms_current, carrier_frequency, dead_time, gate_on_voltage, wanted_on_plateau, wanted_off_plateau,
           driver_resistance, ambient_temperature, target_temperature, sink_resistance, pad_resistance, switch_positions):
    """Cheapest MOSFET and count whose voltage, current and own temperature hold at every corner."""
    n = part.quantity
    current = sine_crest_current / n
    plateau = gating.plateau_voltage(part.threshold_voltage, current, part.transconductance)
    inner = n * driver_resistance + part.internal_gate_resistance
    r_on = inner + gating.external(wanted_on_plateau, gate_on_voltage - plateau, part.gate_drain_charge, n, driver_resistance, part.internal_gate_resistance)
    r_off = inner + gating.external(wanted_off_plateau, part.threshold_voltage, part.gate_drain_charge, n, driver_resistance, part.internal_gate_resistance)
    t_on = gating.on_time(r_on, part.input_capacitance, part.gate_drain_charge, gate_on_voltage, part.threshold_voltage, plateau)
    t_off = gating.off_time(r_off, part.input_capacitance, part.gate_drain_charge, 0.0, part.threshold_voltage, plateau)
    edges = 0.5 * input_voltage * current / np.pi * (t_on + t_off) * carrier_frequency
    charges = 0.5 * (part.recovery_charge + part.output_charge) * input_voltage * carrier_frequency
    dead = part.diode_voltage * 2 / np.pi * current * dead_time * carrier_frequency
    own = part.junction_resistance + pad_resistance
    temperature = settle(ambient_temperature, own + switch_positions * n * sink_resistance, edges + charges + dead, (switch_rms_current / n) ** 2 * part.on_resistance, part.temperature_coefficient)
    rise = np.where(np.isnan(temperature) | (temperature < ambient_temperature), np.inf, temperature - ambient_temperature)
    return [
        Need("voltage rating over the link's crest", part.rated_voltage, 1.25 * highest_link, "V"),
        Need("gate rating", part.gate_rated_voltage, 1.25 * gate_on_voltage, "V"),
        Need("current rating, rms", n * part.rated_current, 1.25 * highest_lasting(switch_rms_current), "A"),
        Need("pulsed rating over the trip level", n * part.pulsed_current, 1.25 * output_trip_level, "A"),
        Need("junction rise to the target", target_temperature - ambient_temperature, highest_lasting(rise), "K"),
    ]


@h_bridge.operation(unit="W", symbol=r"P_\mathrm{fix}", source=MUR, title="Switching loss of one device",
                    tex=r"\left[\tfrac12{input_voltage}\frac{sine_crest_current}{\pi\,{switch_quantity}}({turn_on_time}+{turn_off_time})+\tfrac12({switch_recovery_charge}+{switch_output_charge}){input_voltage}+{switch_diode_voltage}\frac{2\,{sine_crest_current}}{\pi\,{switch_quantity}}{dead_time}\right]{carrier_frequency}",
                    example=({"input_voltage": 380, "sine_crest_current": 6, "switch_quantity": 1, "turn_on_time": 50e-9, "turn_off_time": 40e-9, "switch_recovery_charge": 1e-6, "switch_output_charge": 100e-9, "switch_diode_voltage": 1, "dead_time": 400e-9, "carrier_frequency": 20e3}, 4.86370))
def switching_loss(input_voltage, sine_crest_current, switch_quantity, turn_on_time, turn_off_time, switch_recovery_charge, switch_output_charge, switch_diode_voltage, dead_time, carrier_frequency):
    """Edges in the half cycle in which the current is its own, half of a leg's recovery and output charge, dead-time conduction."""
    share = sine_crest_current / (np.pi * switch_quantity)
    edges = input_voltage * share * (turn_on_time + turn_off_time) / 2
    charges = (switch_recovery_charge + switch_output_charge) * input_voltage / 2
    return (edges + charges + switch_diode_voltage * 2 * share * dead_time) * carrier_frequency


@h_bridge.operation(unit="W", symbol=r"P_{25}", source="Joule's law", title="Conduction loss of one device at 25 °C", tex=r"\left(\frac{switch_rms_current}{switch_quantity}\right)^2{switch_on_resistance}")
def conduction_loss_25(switch_rms_current, switch_quantity, switch_on_resistance):
    """Conduction loss that one device would have at 25 °C."""
    return (switch_rms_current / switch_quantity) ** 2 * switch_on_resistance


declare_junction(h_bridge)


@h_bridge.operation(unit="W", symbol=r"P_\mathrm{loss}", source="sum of the devices", title="Loss", start=15.0, tex=r"{switch_positions}\,{switch_quantity}\,{device_loss}")
def loss(switch_positions, switch_quantity, device_loss):
    """Loss of all switches of the bridge."""
    return switch_positions * switch_quantity * device_loss


@h_bridge.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the link."""
    return output_power + losses


@h_bridge.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{switch_positions}\,{switch_quantity}\,{switch_price}")
def cost(switch_positions, switch_quantity, switch_price):
    """Cost of the switches."""
    return switch_positions * switch_quantity * switch_price


@h_bridge.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{switch_positions}\,{switch_quantity}\,{switch_mass}")
def mass(switch_positions, switch_quantity, switch_mass):
    """Mass of the switches."""
    return switch_positions * switch_quantity * switch_mass


@h_bridge.build(unit="", symbol="n", source="count", title="Parts", tex=r"{switch_positions}\,{switch_quantity}")
def part_count(switch_positions, switch_quantity):
    """Number of switches."""
    return switch_positions * switch_quantity


@h_bridge.build(unit="A", symbol=r"I_\mathrm{SOA}", source="pulsed rating", title="Pulsed rating of the position", tex=r"{switch_quantity}\,{switch_pulsed_current}")
def pulsed_rating(switch_quantity, switch_pulsed_current):
    """Pulse that one position stands."""
    return switch_quantity * switch_pulsed_current


@h_bridge.build(unit="", symbol=r"f_\mathrm{pwm}/f_o", source=HL, title="Carrier ratio", tex=r"\frac{carrier_frequency}{output_frequency}")
def carrier_ratio(carrier_frequency, output_frequency):
    """Carrier over output frequency: a whole number repeats every cycle."""
    return carrier_frequency / output_frequency


@h_bridge.build(unit="", symbol=r"\lfloor f_\mathrm{pwm}/f_o\rceil", source=HL, title="Whole carrier ratio", tex=r"\mathrm{round}({carrier_ratio})")
def whole_carrier_ratio(carrier_ratio):
    """Nearest whole carrier ratio."""
    return np.round(carrier_ratio)


@h_bridge.build(unit="", symbol=r"\epsilon", source=HL, title="Carrier ratio's fraction", tex=r"1+|{carrier_ratio}-{whole_carrier_ratio}|", example=({"carrier_ratio": 400.25, "whole_carrier_ratio": 400}, 1.25))
def ratio_error(carrier_ratio, whole_carrier_ratio):
    """One where the ratio is whole; more by the fraction left over."""
    return 1 + np.abs(carrier_ratio - whole_carrier_ratio)


@h_bridge.build(unit="Hz", symbol=r"f_\mathrm{silent}", source="[judgement] edge of hearing", title="Silent above", tex=r"{audible_limit}")
def silent_frequency(audible_limit):
    """Frequency above which magnetics are not heard."""
    return audible_limit


@h_bridge.given(unit="Hz", symbol=r"f_\mathrm{aud}", low=1e3, high=30e3, title="Edge of hearing")
def audible_limit() -> float:
    """Edge of hearing [judgement]."""
    return 16e3


@h_bridge.build(unit="", symbol="1", source="ratio of whole numbers", title="Whole", tex=r"\frac{whole_carrier_ratio}{whole_carrier_ratio}")
def ratio_whole(whole_carrier_ratio):
    """One: what a whole carrier ratio shows."""
    return whole_carrier_ratio / whole_carrier_ratio


h_bridge.check("link_rating", title="Switch voltage", demand="highest_link", capability="switch_rated_voltage", fail=1.10, hold=1.25, harm="equipment",
               sentence="The link's crest is {demand}; the switches are rated {capability}.", why="Without reserve the first overshoot breaks a switch down and shorts the link.",
               remedies=(Move("returned_energy", "down", 20.0), Move("link_setpoint", "down", 1.3)))
h_bridge.check("modulation", title="Modulation", demand="modulation_index", capability="modulation_limit", fail=0.999, hold=1.0, harm="none",
               sentence="The sine asks for a modulation index of {demand}; pulses and refresh allow {capability}.", why="Beyond it the sine's tops are flattened.",
               remedies=(Move("link_setpoint", "up", 1.2), Move("dead_time", "down", 4.0)))
h_bridge.check("whole_ratio", title="Carrier a whole multiple", demand="ratio_error", capability="ratio_whole", fail=0.5, hold=0.9999, harm="none",
               sentence="The carrier ratio is off a whole number by a factor of {demand}.", why="Otherwise the pattern beats against the sine.", remedies=(Move("carrier_frequency", "up", 1.05),))
h_bridge.check("silent", title="Silent carrier", demand="silent_frequency", capability="carrier_frequency", fail=0.5, hold=1.0, harm="none",
               sentence="The carrier is at {capability}; below {demand} it is heard.", why="The choke sings.", remedies=(Move("carrier_frequency", "up", 4.0),))

for _name, _unit, _symbol, _text, _alone in (
    ("carrier_frequency", "Hz", r"f_\mathrm{pwm}", "Frequency that one bridge switch sees.", 20e3),
    ("ripple_divisor", "", r"n_L", "Divisor in the choke's worst ripple: 8 unipolar, 2 bipolar.", 8),
    ("carrier_multiple", "", r"n_f", "Carrier ripple frequency over switch frequency: 2 unipolar, 1 bipolar.", 2),
    ("pulsed_rating", "A", r"I_\mathrm{SOA}", "Pulse that one position stands.", 60),
    ("output_trip_level", "A", r"I_\mathrm{trip}", "Trip level of the output.", 25),
    ("node_peak_voltage", "V", r"\hat V_\mathrm{node}", "Peak that the filter asks of the bridge.", 330),
):
    word(_name, _unit, _symbol, _text, _alone)
