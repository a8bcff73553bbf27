"""Rectifier, second part: diodes, their recovery and heat, losses, judgements (6.2)."""

import numpy as np

from rhombos.core.formulas.numeric import before_surge, highest_lasting
from rhombos.core.graph.declare import Move, every
from rhombos.core.parts.columns import RECTIFIER
from rhombos.core.stages.link.averaging_choke import EM, rectifier
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.stages.switches.diode import declare_ratings
from rhombos.core.stages.switches.heat import surge_resistance
from rhombos.core.stages.switches.sink import declare_sink
from rhombos.core.stages.switches.switch_heat import target_of

declare_sink(rectifier, rise=30.0, sink_time=250.0, watts="lasting_diode_losses", prefix="diode_")
rectifier.give("diode_pad_resistance", 1.0, "K/W", r"R_{cs}", 0.01, 60, "Thermal resistance from one diode's case to the sink.", "Insulating pad")
rectifier.give(
    "diode_sink_price_factor",
    2.4,
    "credit·K/W",
    r"c_{sa}",
    0,
    100,
    "Price of the sink times its thermal resistance [judgement].",
    "Price of heat sinks",
    judgement=True,
)
JUNCTION_TIME, PAD_TIME = 0.04, 1.5
"""Seconds in which a diode's junction and its pad settle: as the switches' [judgement]."""


rectifier.pick(
    "diode",
    "rectifier",
    RECTIFIER,
    title="Diode",
    pieces=4,
    source=EM,
    needs=("reverse_voltage", "diode_current", "recovery", "diode_junction"),
    sentence="Cheapest rectifier whose voltage with ringing, current, recovery time and own temperature suit.",
)


@rectifier.build(
    unit="V",
    symbol=r"V_{R}",
    source="half again for ringing",
    title="Reverse voltage with ringing",
    tex=r"1.5\,{highest_secondary_amplitude}",
    example=({"highest_secondary_amplitude": 560}, 840),
)
def diode_reverse_voltage(highest_secondary_amplitude):
    """Reverse voltage of one diode with ringing."""
    return 1.5 * highest_secondary_amplitude


@rectifier.operation(
    unit="A",
    symbol=r"I_\mathrm{D}",
    source="each pair takes half",
    title="Diode current, mean",
    tex=r"(1-{surge})\frac{link_current}{2}",
    example=({"surge": 0, "link_current": 2.4}, 1.2),
)
def diode_current(surge, link_current):
    """Mean current of one diode at the corners that last."""
    return (1 - surge) * link_current / 2


@rectifier.build(
    unit="s",
    symbol=r"t_{rr,max}",
    source="1/200 of the period",
    title="Recovery time allowed",
    tex=r"\frac{1}{200\,{switching_frequency}}",
    example=({"switching_frequency": 50e3}, 100e-9),
)
def allowed_recovery_time(switching_frequency):
    """Longest reverse recovery time for the switching frequency."""
    return 1 / (200 * switching_frequency)


@rectifier.operation(
    unit="C",
    symbol=r"Q_{rr}(I)",
    source="[judgement] recovery charge by the root of the current recovered, from the data sheet's point at rated current",
    title="Recovery charge at this current",
    tex=r"{diode_recovery_charge}\sqrt{\frac{\max({link_current}-\tfrac12{choke_ripple},\,0)}{diode_rated_current}}",
    example=({"diode_recovery_charge": 100e-9, "link_current": 2.5, "choke_ripple": 1.0, "diode_rated_current": 8}, 50e-9),
)
def recovered_charge(diode_recovery_charge, link_current, choke_ripple, diode_rated_current):
    """Recovery charge of one diode: it recovers the choke's valley current, below the boundary none."""
    valley = link_current - choke_ripple / 2
    return diode_recovery_charge * np.sqrt(np.maximum(valley, 0 * valley) / diode_rated_current)


@rectifier.operation(
    unit="W",
    symbol=r"P_\mathrm{D}",
    source="conduction of half the link current, recovery once a period",
    title="Loss of one diode",
    tex=r"{diode_forward_voltage}\frac{link_current}{2}+{recovered_charge}\,{secondary_amplitude}\,{switching_frequency}",
    example=({"diode_forward_voltage": 1.2, "link_current": 2.3, "recovered_charge": 20e-9, "secondary_amplitude": 440, "switching_frequency": 40e3}, 1.732),
)
def diode_loss(diode_forward_voltage, link_current, recovered_charge, secondary_amplitude, switching_frequency):
    """Loss of one diode."""
    return diode_forward_voltage * link_current / 2 + recovered_charge * secondary_amplitude * switching_frequency


@rectifier.build(
    unit="W",
    symbol=r"P_{D,\mathrm{last}}",
    source="four diodes, surge left out",
    title="Losses of the diodes that last",
    tex=r"4\max_\mathrm{lasting}({diode_loss})",
    example=({"diode_loss": 3}, 12),
)
def lasting_diode_losses(diode_loss):
    """Highest loss of all diodes together at the corners that last: what their sink is bought for."""
    return 4 * highest_lasting(diode_loss)


@rectifier.build(
    unit="K/W",
    symbol=r"R_\mathrm{th,D}",
    source="thermal resistances in series",
    title="Thermal resistance of one diode",
    tex=r"{diode_junction_resistance}+{diode_pad_resistance}+4\,{diode_sink_resistance}",
    example=({"diode_junction_resistance": 2.0, "diode_pad_resistance": 1.0, "diode_sink_resistance": 5.0}, 23.0),
)
def diode_thermal_resistance(diode_junction_resistance, diode_pad_resistance, diode_sink_resistance):
    """Rise per watt of one diode for good: junction, pad, and the sink that four share."""
    return diode_junction_resistance + diode_pad_resistance + 4 * diode_sink_resistance


@rectifier.operation(
    unit="K/W",
    symbol=r"Z_\mathrm{th,D}",
    source="superposition, as for the switches",
    title="Thermal impedance of the start, diode",
    empirical=True,
    tex=r"{diode_junction_resistance}\sqrt{\min\left(\frac{heating_time}{0.04\,\mathrm{s}},1\right)}+{diode_pad_resistance}\left(1-\exp\left(-\frac{heating_time}{1.5\,\mathrm{s}}\right)\right)+\frac{4\,{heating_time}}{diode_sink_capacity}",
    example=({"heating_time": 0.01, "diode_junction_resistance": 2.0, "diode_pad_resistance": 1.0, "diode_sink_capacity": 50}, 1.007445),
)
def diode_impedance(heating_time, diode_junction_resistance, diode_pad_resistance, diode_sink_capacity):
    """Rise per added watt of one diode at the end of the start's seconds."""
    return surge_resistance(heating_time, diode_junction_resistance, JUNCTION_TIME, diode_pad_resistance, PAD_TIME, 4 / diode_sink_capacity)


@rectifier.operation(unit="W", symbol=r"P_{D,0}", source="state before the start", title="Loss of one diode before", tex=r"{diode_loss}_{\text{before}}")
def diode_loss_before(diode_loss):
    """Lasting loss of one diode that a start begins from: full load at the same source level."""
    return before_surge(diode_loss)


@rectifier.operation(
    unit="K",
    symbol=r"\Delta T_\mathrm{D}",
    source="thermal network of junction, pad and sink; a start by superposition",
    title="Junction rise of one diode",
    tex=r"{diode_thermal_resistance}\,{diode_loss_before}+{diode_impedance}\,({diode_loss}-{diode_loss_before})",
)
def diode_rise(diode_thermal_resistance, diode_loss_before, diode_impedance, diode_loss):
    """Junction of one diode above ambient; at a surge corner at the end of the start's seconds of heat."""
    return diode_thermal_resistance * diode_loss_before + diode_impedance * (diode_loss - diode_loss_before)


@rectifier.build(
    unit="K", symbol=r"\Delta T_\mathrm{D,max}", source="difference", title="Diode rise allowed", tex=r"{diode_maximum_temperature}-{ambient_temperature}"
)
def allowed_diode_rise(diode_maximum_temperature, ambient_temperature):
    """Highest junction temperature of the diode above ambient."""
    return diode_maximum_temperature - ambient_temperature


@rectifier.operation(
    unit="",
    symbol=r"h_D",
    source="[judgement] margin at 110 °C for 150 °C parts, 125 °C for 175 °C parts",
    title="Margin of the diode at its target",
    empirical=True,
    tex=r"\begin{cases}1&{surge}=1\\\dfrac{{diode_maximum_temperature}-{ambient_temperature}}{110\,^\circ\mathrm{C}+0.6\,({diode_maximum_temperature}-150\,^\circ\mathrm{C})-{ambient_temperature}}&\text{else}\end{cases}",
    example=({"surge": 0, "diode_maximum_temperature": 448.15, "ambient_temperature": 318.15}, 1.625),
)
def diode_hold(surge, diode_maximum_temperature, ambient_temperature):
    """The margin that holds: its value at the target temperature; a start may use the whole rating."""
    lasting = (diode_maximum_temperature - ambient_temperature) / (target_of(diode_maximum_temperature) - ambient_temperature)
    return np.where(surge > 0, 1.0, lasting)


@rectifier.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    start=10.0,
    grows=BY_DRAWN,
    source="four diodes and the choke",
    title="Loss",
    tex=r"4\,{diode_loss}+{choke_rms_current}^2{choke_resistance}+{choke_core_loss}\left(\frac{choke_ripple}{full_choke_ripple}\right)^2",
    example=(
        {"diode_loss": 2.0, "choke_rms_current": 2.32, "choke_resistance": 0.35, "choke_core_loss": 0.8, "choke_ripple": 1, "full_choke_ripple": 1},
        10.6838,
    ),
)
def loss(diode_loss, choke_rms_current, choke_resistance, choke_core_loss, choke_ripple, full_choke_ripple):
    """Loss of the diodes and of the averaging choke (its core loss scaled with the square of the ripple)."""
    return 4 * diode_loss + choke_rms_current**2 * choke_resistance + choke_core_loss * (choke_ripple / full_choke_ripple) ** 2


@rectifier.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the transformer."""
    return output_power + losses


@rectifier.build(
    unit="credit",
    symbol="c",
    source="catalogue",
    title="Cost",
    tex=r"4\,{diode_price}+{choke_price}+{diode_sink_price}",
    example=({"diode_price": 0.9, "choke_price": 4.5, "diode_sink_price": 0.48}, 8.58),
)
def cost(diode_price, choke_price, diode_sink_price):
    """Cost of four diodes, their sink and the choke."""
    return 4 * diode_price + choke_price + diode_sink_price


@rectifier.build(
    unit="credit",
    symbol=r"c_\mathrm{sink}",
    source="price by thermal resistance",
    title="Price of the diodes' heat sink",
    tex=r"\frac{diode_sink_price_factor}{diode_sink_resistance}",
)
def diode_sink_price(diode_sink_price_factor, diode_sink_resistance):
    """Price of the heat sink that the diodes share: twice as cool costs twice as much."""
    return diode_sink_price_factor / diode_sink_resistance


@rectifier.build(
    unit="kg",
    symbol="m",
    source="catalogue; an aluminium sink by its heat capacity, 900 J/(kg·K)",
    title="Mass",
    empirical=True,
    tex=r"4\,{diode_mass}+{choke_mass}+\frac{diode_sink_capacity}{900}",
    example=({"diode_mass": 0.002, "choke_mass": 0.12, "diode_sink_capacity": 45}, 0.178),
)
def mass(diode_mass, choke_mass, diode_sink_capacity):
    """Mass of four diodes, their sink and the choke."""
    return 4 * diode_mass + choke_mass + diode_sink_capacity / 900


@rectifier.build(unit="", symbol="n", source="count", title="Parts", tex=r"8\,{diode_quantity}+2", example=({"diode_quantity": 1}, 10))
def part_count(diode_quantity):
    """Four diodes with their pads, the sink and the choke."""
    return 8 * diode_quantity + 2


declare_ratings(rectifier, voltage=(Move("secondary_turns", "down", 1.2),), recovery=(Move("wanted_frequency", "down", 3.0),))
rectifier.check(
    "diode_junction",
    title="Diode temperature",
    demand="diode_rise",
    capability="allowed_diode_rise",
    fail=1.0,
    hold="diode_hold",
    harm="equipment",
    sentence="The diode's junction stands {demand} above ambient; {capability} is the limit of the part.",
    why="A few watts in a free-standing case are two hundred kelvin: a diode needs its sink.",
    remedies=(Move("diode_sink_resistance", "down", 6.0), Move("diode_pad_resistance", "down", 4.0, "world")),
)

rectifier.order("Heat sink of the diodes", "{diode_sink_resistance}", "for four diodes", price="diode_sink_price")
rectifier.order("Insulating pad", "{diode_pad_resistance}", "one for each diode, in the sink's price", count=4, price=0.0)

__all__ = ["rectifier"]
