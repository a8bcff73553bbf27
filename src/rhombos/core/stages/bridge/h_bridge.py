"""The output bridge, second part: switches, losses, heat, judgements (4.1 to 4.4)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, every
from rhombos.core.modulation.hard_share import recovered_share
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages.bridge.h_bridge_modulation import h_bridge, lag_sine
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.stages.switches.switch_heat import declare_bill, declare_junction, declare_position
from rhombos.core.vocabulary import word

MUR = "Mohan, Undeland & Robbins, Power Electronics"
HL = "Holmes & Lipo, Pulse Width Modulation for Power Converters"
SQUARE_WAVE_THD = float(np.sqrt(sum(1 / n**2 for n in range(3, 40, 2))))
"""Harmonics of a square wave to the 40th, over its fundamental."""


h_bridge.pick(
    "switch",
    "mosfet",
    MOSFET,
    title="Switch",
    quantities=(1, 2, 3),
    pieces=4,
    source=MUR,
    needs=(
        "link_rating",
        "gate_window",
        "fully_on",
        "current_rating",
        Need("Pulsed rating over the trip level", "pulsed_rating", "output_trip_level", 1.25),
        "junction",
        "droop",
    ),
    sentence="Cheapest MOSFET and count whose voltage, current and own temperature hold at every corner.",
)


@h_bridge.operation(
    unit="C",
    symbol=r"Q_{rr}(I)",
    source="[judgement] recovery charge by the root of the current recovered, from the data sheet's point at rated current",
    title="Recovery charge of a carrier cycle",
    low=0.0,
    tex=r"\begin{gathered}{switch_recovery_charge}\sqrt{\frac{sine_crest_current}{{switch_quantity}\,{switch_rated_current}}}\,s\\s=\operatorname{rec}\left({sine_crest_current},\,{filter_ripple},\,{displacement_factor},\,{output_reactive_power},\,{modulation_index},\,{carrier_multiple}\right)\end{gathered}",
    example=(
        {
            "switch_recovery_charge": 600e-9,
            "sine_crest_current": 5,
            "switch_quantity": 1,
            "switch_rated_current": 20,
            "filter_ripple": 1e-6,
            "displacement_factor": 1,
            "output_reactive_power": 0,
            "modulation_index": 0.9,
            "carrier_multiple": 2,
        },
        228.9e-9,
    ),
)
def recovered_charge(
    switch_recovery_charge,
    sine_crest_current,
    switch_quantity,
    switch_rated_current,
    filter_ripple,
    displacement_factor,
    output_reactive_power,
    modulation_index,
    carrier_multiple,
):
    """Recovery charge of one body diode, mean over the carrier cycles: each recovers the valley of its ripple, in those that commutate softly none."""
    sine = lag_sine(displacement_factor, output_reactive_power)
    share = recovered_share(sine_crest_current, filter_ripple, displacement_factor, sine, modulation_index, carrier_multiple - 1)
    return share * switch_recovery_charge * np.sqrt(sine_crest_current / (switch_quantity * switch_rated_current))


@h_bridge.operation(
    unit="W",
    symbol=r"P_\mathrm{fix}",
    source=MUR,
    title="Switching loss of one device",
    tex=r"\begin{gathered}\Big[\tfrac12{input_voltage}\frac{sine_crest_current}{\pi\,{switch_quantity}}({turn_on_time}+{turn_off_time})\\+\,\tfrac12\,({recovered_charge}+{hard_commutations}\,{switch_output_charge})\,{input_voltage}+{switch_diode_voltage}\frac{2\,{sine_crest_current}}{\pi\,{switch_quantity}}{dead_time}\Big]{carrier_frequency}\end{gathered}",
    example=(
        {
            "input_voltage": 380,
            "sine_crest_current": 6,
            "switch_quantity": 1,
            "turn_on_time": 50e-9,
            "turn_off_time": 40e-9,
            "hard_commutations": 0.5,
            "recovered_charge": 1e-6,
            "switch_output_charge": 100e-9,
            "switch_diode_voltage": 1,
            "dead_time": 400e-9,
            "carrier_frequency": 20e3,
        },
        4.67373,
    ),
)
def switching_loss(
    input_voltage,
    sine_crest_current,
    switch_quantity,
    turn_on_time,
    turn_off_time,
    hard_commutations,
    recovered_charge,
    switch_output_charge,
    switch_diode_voltage,
    dead_time,
    carrier_frequency,
):
    """Edges in the half cycle in which the current is its own; half of a leg's recovery and output charge, in its hard cycles; dead-time conduction."""
    share = sine_crest_current / (np.pi * switch_quantity)
    edges = input_voltage * share * (turn_on_time + turn_off_time) / 2
    charges = (recovered_charge + hard_commutations * switch_output_charge) * input_voltage / 2
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
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="sum of the devices",
    title="Loss",
    start=15.0,
    grows=BY_DRAWN,
    tex=r"{switch_positions}\,{switch_quantity}\,{device_loss}",
)
def loss(switch_positions, switch_quantity, device_loss):
    """Loss of all switches of the bridge."""
    return switch_positions * switch_quantity * device_loss


@h_bridge.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the link."""
    return output_power + losses


declare_position(h_bridge)
declare_bill(h_bridge)


@h_bridge.build(unit="", symbol=r"f_\mathrm{pwm}/f_o", source=HL, title="Carrier ratio", tex=r"\frac{carrier_frequency}{output_frequency}")
def carrier_ratio(carrier_frequency, output_frequency):
    """Carrier over output frequency: a whole number repeats every cycle."""
    return carrier_frequency / output_frequency


@h_bridge.build(unit="", symbol=r"\lfloor f_\mathrm{pwm}/f_o\rceil", source=HL, title="Whole carrier ratio", tex=r"\mathrm{round}({carrier_ratio})")
def whole_carrier_ratio(carrier_ratio):
    """Nearest whole carrier ratio."""
    return np.round(carrier_ratio)


@h_bridge.build(unit="", symbol=r"\epsilon", source=HL, title="Carrier ratio's fraction", tex=r"|{carrier_ratio}-{whole_carrier_ratio}|")
def ratio_fraction(carrier_ratio, whole_carrier_ratio):
    """What is left over of the carrier ratio: nothing where it is whole."""
    return np.abs(carrier_ratio - whole_carrier_ratio)


h_bridge.give(
    "allowed_ratio_fraction",
    0.01,
    "",
    r"\epsilon_\mathrm{lim}",
    1e-4,
    0.5,
    "Fraction of the carrier ratio up to which the pattern drifts too slowly to be seen [judgement].",
    "Fraction allowed",
    judgement=True,
)


@h_bridge.operation(
    unit="",
    symbol=r"d_\mathrm{dead}",
    source="harmonics 3 to 39 of the square wave that dead time takes from the fundamental",
    title="Distortion by dead time",
    tex=r"0.4703224\,\frac{{dead_time_share}\,{input_voltage}}{node_peak_voltage}",
    example=({"dead_time_share": 0.020372, "input_voltage": 380, "node_peak_voltage": 330}, 0.011033),
)
def dead_time_distortion(dead_time_share, input_voltage, node_peak_voltage):
    """Distortion that the dead time makes, no choke ripple helping: at most this."""
    return SQUARE_WAVE_THD * dead_time_share * input_voltage / node_peak_voltage


@h_bridge.operation(
    unit="",
    symbol=r"d_\mathrm{link}",
    source="product of the sine and a link that ripples at twice its frequency: a third harmonic of a quarter of the ripple",
    title="Distortion by link ripple",
    tex=r"\frac{link_ripple}{4\,{input_voltage}}",
    example=({"link_ripple": 15.2, "input_voltage": 380}, 0.01),
)
def link_distortion(link_ripple, input_voltage):
    """Third harmonic that the link's ripple makes where the modulation does not make up for it."""
    return link_ripple / (4 * input_voltage)


@h_bridge.operation(
    unit="",
    symbol=r"\mathrm{THD}_\mathrm{est}",
    source="the two are in quadrature at power factor 1",
    title="Distortion to expect",
    tex=r"(1-{surge})\sqrt{{dead_time_distortion}^2+{link_distortion}^2}",
    example=({"surge": 0, "dead_time_distortion": 0.003, "link_distortion": 0.004}, 0.005),
)
def expected_distortion(surge, dead_time_distortion, link_distortion):
    """THD to the 40th that dead time and link ripple make where they last; loads that draw distorted current add theirs."""
    return (1 - surge) * np.sqrt(dead_time_distortion**2 + link_distortion**2)


h_bridge.give("audible_limit", 16e3, "Hz", r"f_\mathrm{aud}", 1000.0, 30000.0, "Edge of hearing [judgement].", "Edge of hearing")


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
    remedies=(Move("returned_energy", "down", 20.0, "world"), Move("link_setpoint", "down", 1.3)),
)
h_bridge.check(
    "modulation",
    title="Modulation",
    demand="modulation_index",
    capability="modulation_limit",
    fail=0.999,  # a thousandth is the set-point's own tolerance of solving
    hold=1.0,
    harm="none",
    sentence="The sine asks for a modulation index of {demand}; pulses and refresh allow {capability}.",
    why="Beyond it the sine's tops are flattened.",
    remedies=(Move("link_setpoint", "up", 1.2), Move("dead_time", "down", 4.0)),
)
h_bridge.check(
    "whole_ratio",
    title="Carrier a whole multiple",
    demand="ratio_fraction",
    capability="allowed_ratio_fraction",
    fail=1.0,
    hold=2.0,
    harm="none",
    sentence="The carrier is {demand} of an output period off a whole multiple; {capability} is allowed.",
    why="The pattern beats against the sine.",
    no_demand="The carrier is a whole multiple of the output's frequency.",
    remedies=(Move("wanted_carrier", "up", 1.05),),
)
h_bridge.check(
    "silent",
    title="Silent carrier",
    demand="audible_limit",
    capability="carrier_frequency",
    fail=0.75,  # 12 kHz: above it few adults hear a choke
    hold=1.0,
    harm="none",
    sentence="The carrier is at {capability}; below {demand} it may be heard.",
    why="The choke sings.",
    remedies=(Move("wanted_carrier", "up", 4.0),),
)
h_bridge.check(
    "distortion",
    title="Distortion",
    demand="expected_distortion",
    capability="thd_limit",
    fail=1.0,
    hold=1.1,
    harm="none",
    sentence="Dead time and link ripple distort the sine by {demand}; the brief allows {capability}.",
    why="Motors warm, instruments read wrong, and a rectifier load adds its own on top.",
    remedies=(Move("dead_time", "down", 4.0), Move("ripple_fraction", "down", 3.0), Move("wanted_carrier", "down", 2.0)),
)

for _name, _unit, _symbol, _text, _alone in (
    ("carrier_frequency", "Hz", r"f_\mathrm{pwm}", "Frequency that one bridge switch sees.", 20e3),
    ("ripple_divisor", "", r"n_L", "Divisor in the choke's worst ripple: 8 unipolar, 2 bipolar.", 8),
    ("carrier_multiple", "", r"n_f", "Carrier ripple frequency over switch frequency: 2 unipolar, 1 bipolar.", 2),
    ("pulsed_rating", "A", r"I_\mathrm{SOA}", "Pulse that one position stands.", 400),
    ("output_trip_level", "A", r"I_\mathrm{trip}", "Trip level of the output.", 25),
    ("hard_commutations", "", r"s_h", "Share of hard commutations of a leg.", 0.95),
    ("node_peak_voltage", "V", r"\hat V_\mathrm{node}", "Peak that the filter asks of the bridge.", 330),
):
    word(_name, _unit, _symbol, _text, _alone)

__all__ = ["h_bridge"]
