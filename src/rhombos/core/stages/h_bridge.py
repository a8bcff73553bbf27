"""The output bridge, second part: switches, losses, heat, judgements (4.1 to 4.4)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, every
from rhombos.core.graph.numeric import highest, highest_lasting
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages import gating
from rhombos.core.stages.h_bridge_modulation import h_bridge
from rhombos.core.stages.heat import own_rise
from rhombos.core.stages.switch_heat import declare_junction
from rhombos.core.vocabulary import word

MUR = "Mohan, Undeland & Robbins, Power Electronics"
HL = "Holmes & Lipo, Pulse Width Modulation for Power Converters"


@h_bridge.pick("switch", "mosfet", MOSFET, title="Switch", quantities=(1, 2, 3), pieces=4, source=MUR)
def switch(
    part,
    surge,
    surge_time,
    thermal_settling_time,
    sink_capacity,
    highest_link,
    input_voltage,
    sine_crest_current,
    output_trip_level,
    switch_rms_current,
    carrier_frequency,
    dead_time,
    gate_on_voltage,
    wanted_on_plateau,
    wanted_off_plateau,
    driver_resistance,
    ambient_temperature,
    target_temperature,
    sink_resistance,
    pad_resistance,
    switch_positions,
):
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
    rise = own_rise(
        ambient_temperature,
        surge,
        surge_time,
        thermal_settling_time,
        part.junction_resistance + pad_resistance,
        sink_resistance,
        sink_capacity,
        switch_positions * n,
        edges + charges + dead,
        (switch_rms_current / n) ** 2 * part.on_resistance,
        part.temperature_coefficient,
    )
    return [
        Need("voltage rating over the link's crest", part.rated_voltage, 1.25 * highest_link, "V"),
        Need("gate rating", part.gate_rated_voltage, 1.25 * gate_on_voltage, "V"),
        Need("current rating, rms", n * part.rated_current, 1.25 * highest_lasting(switch_rms_current), "A"),
        Need("pulsed rating over the trip level", n * part.pulsed_current, 1.25 * output_trip_level, "A"),
        Need("junction rise to the target", target_temperature - ambient_temperature, highest_lasting(rise), "K"),
        Need("junction rise at the surge's end", part.maximum_temperature - ambient_temperature, highest(rise), "K"),
    ]


@h_bridge.operation(
    unit="W",
    symbol=r"P_\mathrm{fix}",
    source=MUR,
    title="Switching loss of one device",
    tex=r"\begin{gathered}\Big[\tfrac12{input_voltage}\frac{sine_crest_current}{\pi\,{switch_quantity}}({turn_on_time}+{turn_off_time})\\+\,\tfrac12({switch_recovery_charge}+{switch_output_charge}){input_voltage}+{switch_diode_voltage}\frac{2\,{sine_crest_current}}{\pi\,{switch_quantity}}{dead_time}\Big]{carrier_frequency}\end{gathered}",
    example=(
        {
            "input_voltage": 380,
            "sine_crest_current": 6,
            "switch_quantity": 1,
            "turn_on_time": 50e-9,
            "turn_off_time": 40e-9,
            "switch_recovery_charge": 1e-6,
            "switch_output_charge": 100e-9,
            "switch_diode_voltage": 1,
            "dead_time": 400e-9,
            "carrier_frequency": 20e3,
        },
        4.86370,
    ),
)
def switching_loss(
    input_voltage,
    sine_crest_current,
    switch_quantity,
    turn_on_time,
    turn_off_time,
    switch_recovery_charge,
    switch_output_charge,
    switch_diode_voltage,
    dead_time,
    carrier_frequency,
):
    """Edges in the half cycle in which the current is its own, half of a leg's recovery and output charge, dead-time conduction."""
    share = sine_crest_current / (np.pi * switch_quantity)
    edges = input_voltage * share * (turn_on_time + turn_off_time) / 2
    charges = (switch_recovery_charge + switch_output_charge) * input_voltage / 2
    return (edges + charges + switch_diode_voltage * 2 * share * dead_time) * carrier_frequency


@h_bridge.operation(
    unit="W",
    symbol=r"P_{25}",
    source="Joule's law",
    title="Conduction loss of one device at 25 °C",
    tex=r"\left(\frac{switch_rms_current}{switch_quantity}\right)^2{switch_on_resistance}",
    example=({"switch_rms_current": 3, "switch_quantity": 1, "switch_on_resistance": 0.2}, 1.8),
)
def conduction_loss_25(switch_rms_current, switch_quantity, switch_on_resistance):
    """Conduction loss that one device would have at 25 °C."""
    return (switch_rms_current / switch_quantity) ** 2 * switch_on_resistance


declare_junction(h_bridge)


@h_bridge.operation(
    unit="W", symbol=r"P_\mathrm{loss}", source="sum of the devices", title="Loss", start=15.0, tex=r"{switch_positions}\,{switch_quantity}\,{device_loss}"
)
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


@h_bridge.build(
    unit="A", symbol=r"I_\mathrm{SOA}", source="pulsed rating", title="Pulsed rating of the position", tex=r"{switch_quantity}\,{switch_pulsed_current}"
)
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


@h_bridge.build(
    unit="",
    symbol=r"\epsilon",
    source=HL,
    title="Carrier ratio's fraction",
    tex=r"1+|{carrier_ratio}-{whole_carrier_ratio}|",
    example=({"carrier_ratio": 400.25, "whole_carrier_ratio": 400}, 1.25),
)
def ratio_error(carrier_ratio, whole_carrier_ratio):
    """One where the ratio is whole; more by the fraction left over."""
    return 1 + np.abs(carrier_ratio - whole_carrier_ratio)


@h_bridge.build(unit="Hz", symbol=r"f_\mathrm{silent}", source="[judgement] edge of hearing", title="Silent above", tex=r"{audible_limit}")
def silent_frequency(audible_limit):
    """Frequency above which magnetics are not heard."""
    return audible_limit


h_bridge.give("audible_limit", 16e3, "Hz", r"f_\mathrm{aud}", 1000.0, 30000.0, "Edge of hearing [judgement].", "Edge of hearing")


@h_bridge.build(unit="", symbol="1", source="ratio of whole numbers", title="Whole", tex=r"\frac{whole_carrier_ratio}{whole_carrier_ratio}")
def ratio_whole(whole_carrier_ratio):
    """One: what a whole carrier ratio shows."""
    return whole_carrier_ratio / whole_carrier_ratio


h_bridge.check(
    "link_rating",
    title="Switch voltage",
    demand="highest_link",
    capability="switch_rated_voltage",
    fail=1.10,
    hold=1.25,
    harm="equipment",
    sentence="The link's crest is {demand}; the switches are rated {capability}.",
    why="Without reserve the first overshoot breaks a switch down and shorts the link.",
    remedies=(Move("returned_energy", "down", 20.0), Move("link_setpoint", "down", 1.3)),
)
h_bridge.check(
    "modulation",
    title="Modulation",
    demand="modulation_index",
    capability="modulation_limit",
    fail=0.999,
    hold=1.0,
    harm="none",
    sentence="The sine asks for a modulation index of {demand}; pulses and refresh allow {capability}.",
    why="Beyond it the sine's tops are flattened.",
    remedies=(Move("link_setpoint", "up", 1.2), Move("dead_time", "down", 4.0)),
)
h_bridge.check(
    "whole_ratio",
    title="Carrier a whole multiple",
    demand="ratio_error",
    capability="ratio_whole",
    fail=0.5,
    hold=0.9999,
    harm="none",
    sentence="The carrier is a whole multiple of the output frequency within a factor of {demand}.",
    why="Otherwise the pattern beats against the sine.",
    remedies=(Move("carrier_frequency", "up", 1.05),),
)
h_bridge.check(
    "silent",
    title="Silent carrier",
    demand="silent_frequency",
    capability="carrier_frequency",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="The carrier is at {capability}; below {demand} it is heard.",
    why="The choke sings.",
    remedies=(Move("carrier_frequency", "up", 4.0),),
)

for _name, _unit, _symbol, _text, _alone in (
    ("carrier_frequency", "Hz", r"f_\mathrm{pwm}", "Frequency that one bridge switch sees.", 20e3),
    ("ripple_divisor", "", r"n_L", "Divisor in the choke's worst ripple: 8 unipolar, 2 bipolar.", 8),
    ("carrier_multiple", "", r"n_f", "Carrier ripple frequency over switch frequency: 2 unipolar, 1 bipolar.", 2),
    ("pulsed_rating", "A", r"I_\mathrm{SOA}", "Pulse that one position stands.", 60),
    ("output_trip_level", "A", r"I_\mathrm{trip}", "Trip level of the output.", 25),
    ("node_peak_voltage", "V", r"\hat V_\mathrm{node}", "Peak that the filter asks of the bridge.", 330),
):
    word(_name, _unit, _symbol, _text, _alone)

__all__ = ["h_bridge"]
