"""The DC link, second part: currents, life, hold-up, judgements (6.4)."""

import numpy as np

from rhombos.core.formulas.numeric import applies, before_surge, highest_lasting
from rhombos.core.graph.declare import Move, every
from rhombos.core.stages.link.dc_link_window import EM, MUR, dc_link
from rhombos.core.stages.sizes import BY_DRAWN_OUTPUT_CURRENT


@dc_link.operation(
    unit="A",
    symbol=r"I_{2f}",
    source=EM,
    title="Double-frequency current",
    tex=r"\frac{{bridge_apparent_power}\,{double_frequency_share}}{\sqrt2\,{link_voltage}}",
    example=({"bridge_apparent_power": 1000, "double_frequency_share": 1, "link_voltage": 380}, 1.8608),
)
def low_frequency_current(bridge_apparent_power, double_frequency_share, link_voltage):
    """Rms current at twice the output frequency in the link capacitor."""
    return bridge_apparent_power * double_frequency_share / (np.sqrt(2) * link_voltage)


@dc_link.operation(
    unit="A",
    symbol=r"I_\mathrm{sw}",
    source=MUR,
    title="Switching ripple current",
    start=1.0,
    grows=BY_DRAWN_OUTPUT_CURRENT,
    tex=r"\sqrt{{bridge_ripple_current}^2+{feed_ripple_current}^2}",
    example=({"bridge_ripple_current": 3, "feed_ripple_current": 4}, 5.0),
)
def switching_ripple_current(bridge_ripple_current, feed_ripple_current):
    """Rms current at the switching frequencies in the link capacitor, from the bridge and from what feeds the link."""
    return np.sqrt(bridge_ripple_current**2 + feed_ripple_current**2)


@dc_link.operation(
    unit="A",
    symbol=r"I_{C,rms}",
    source=EM,
    title="Capacitor current, referred",
    tex=r"(1-{surge})\sqrt{\left(\frac{low_frequency_current}{low_frequency_factor}\right)^2+\left(\frac{switching_ripple_current}{high_frequency_factor}\right)^2}",
    example=({"surge": 0, "low_frequency_current": 1.86, "low_frequency_factor": 1, "switching_ripple_current": 1.53, "high_frequency_factor": 1.4}, 2.15707),
)
def capacitor_current(surge, low_frequency_current, low_frequency_factor, switching_ripple_current, high_frequency_factor):
    """Rms current of all link capacitors with the rating's frequency factors put in, where it lasts."""
    return (1 - surge) * np.sqrt((low_frequency_current / low_frequency_factor) ** 2 + (switching_ripple_current / high_frequency_factor) ** 2)


@dc_link.build(
    unit="A", symbol=r"I_{C,rat}", source="capacitors in parallel", title="Ripple current rating", tex=r"{capacitor_quantity}\,{capacitor_rated_ripple_current}"
)
def capacitor_current_rating(capacitor_quantity, capacitor_rated_ripple_current):
    """Ripple current rating of all link capacitors."""
    return capacitor_quantity * capacitor_rated_ripple_current


@dc_link.build(
    unit="J",
    symbol="E",
    source="field energy",
    title="Stored energy",
    tex=r"\tfrac12{link_capacitance}{highest_link}^2",
    example=({"link_capacitance": 470e-6, "highest_link": 400}, 37.6),
)
def stored_energy(link_capacitance, highest_link):
    """Energy in the link at its highest: above 10 J it is a hazard of its own."""
    return link_capacitance * highest_link**2 / 2


@dc_link.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    tex=r"{bleeder_loss}+\left({low_frequency_current}^2+{switching_ripple_current}^2\right)\frac{capacitor_series_resistance}{capacitor_quantity}",
    example=(
        {"bleeder_loss": 2.57857, "low_frequency_current": 1.86, "switching_ripple_current": 1.5, "capacitor_series_resistance": 0.3, "capacitor_quantity": 1},
        4.2915,
    ),
)
def loss(bleeder_loss, low_frequency_current, switching_ripple_current, capacitor_series_resistance, capacitor_quantity):
    """Bleeder, and series resistance of the capacitors."""
    return bleeder_loss + (low_frequency_current**2 + switching_ripple_current**2) * capacitor_series_resistance / capacitor_quantity


dc_link.give("rated_life", 5000 * 3600.0, "s", "L_0", 3600, 1e9, "Life of the capacitor at its rated temperature and current.", "Rated life")
dc_link.give("rated_temperature", 378.15, "K_abs", "T_0", 323.15, 423.15, "Temperature that the rated life is stated for.", "Rated temperature")
dc_link.give(
    "can_resistance",
    9.0,
    "K/W",
    r"R_\mathrm{can}",
    0.1,
    200,
    "Thermal resistance from a can's core to the air inside [judgement].",
    "Can to air",
    judgement=True,
)
dc_link.give("wanted_life", 20000 * 3600.0, "s", r"L_\mathrm{want}", 3600, 1e10, "Hours at full load that the link capacitors should last.", "Life wanted")


@dc_link.operation(
    unit="K_abs",
    symbol=r"T_\mathrm{core}",
    source="Joule's law in one can, through its thermal resistance",
    title="Core of a can",
    tex=r"{ambient_temperature}+(1-{surge})\frac{{low_frequency_current}^2+{switching_ripple_current}^2}{{capacitor_quantity}^2}\,{capacitor_series_resistance}\,{can_resistance}",
    example=(
        {
            "ambient_temperature": 318.15,
            "surge": 0,
            "low_frequency_current": 1.86,
            "switching_ripple_current": 1.5,
            "capacitor_quantity": 2,
            "capacitor_series_resistance": 0.3,
            "can_resistance": 9.0,
        },
        322.004,
    ),
)
def core_temperature(
    ambient_temperature, surge, low_frequency_current, switching_ripple_current, capacitor_quantity, capacitor_series_resistance, can_resistance
):
    """Temperature in the middle of one can at the corners that last."""
    square = low_frequency_current**2 + switching_ripple_current**2
    return ambient_temperature + (1 - surge) * square / capacitor_quantity**2 * capacitor_series_resistance * can_resistance


@dc_link.build(
    unit="s",
    symbol=r"L",
    source="life doubles with every ten kelvin less",
    title="Life of the link capacitors",
    empirical=True,
    tex=r"{rated_life}\cdot2^{({rated_temperature}-\max_\mathrm{lasting}({core_temperature}))/10}",
    example=({"rated_life": 18e6, "rated_temperature": 378.15, "core_temperature": 338.15}, 288e6),
)
def capacitor_life(rated_life, rated_temperature, core_temperature):
    """Life at the worst lasting corner, day and night."""
    return rated_life * 2 ** ((rated_temperature - highest_lasting(core_temperature)) / 10)


@dc_link.operation(
    unit="s",
    symbol=r"t_\mathrm{hold}",
    source="field energy between two voltages",
    title="Hold-up",
    tex=r"\frac{{link_capacitance}\,({link_valley}^2-\min({needed_valley},{link_valley})^2)}{2\,{output_power}}",
    example=({"link_capacitance": 470e-6, "link_valley": 370, "needed_valley": 350, "output_power": 850}, 3.981e-3),
)
def hold_up_time(link_capacitance, link_valley, needed_valley, output_power):
    """How long the link carries the bridge when the front end stops, until the sine's tops clip."""
    reached = np.minimum(needed_valley, link_valley)
    time = link_capacitance * (link_valley**2 - reached**2) / (2 * np.where(output_power > 0 * output_power, output_power, np.nan))
    return applies(output_power > 0 * output_power, time, "nothing is drawn, so nothing ends")


@dc_link.operation(unit="W", symbol=r"P_{o,0}", source="state before the start", title="Power given before a start", tex=r"{output_power}_{\text{before}}")
def power_before(output_power):
    """Power that a start begins from: full load at the same source level."""
    return before_surge(output_power)


@dc_link.operation(
    unit="W",
    symbol=r"P_\mathrm{feed}",
    source="the capacitors carry the half-wave's pulsation: what feeds them gives the mean over half a period",
    title="Power asked of what feeds the link",
    tex=r"{power_before}+({output_power}-{power_before})\min(1,\,2\,{output_frequency}\,{surge_time})",
    example=({"power_before": 300, "output_power": 2300, "output_frequency": 50, "surge_time": 0.005}, 1300),
)
def feed_power(power_before, output_power, output_frequency, surge_time):
    """Power that the link hands through: of a start shorter than half a period only its mean over that, the capacitors give the rest once."""
    return power_before + (output_power - power_before) * np.minimum(2 * output_frequency * surge_time, 1.0)


@dc_link.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{feed_power}+{losses}")
def input_power(feed_power, losses=every("loss", "host")):
    """Power from the rectifier."""
    return feed_power + losses


@dc_link.build(
    unit="credit",
    symbol="c",
    source="catalogue",
    title="Cost",
    tex=r"{capacitor_quantity}\,{capacitor_price}+{bleeder_pieces}\,{bleeder_piece_price}+{switched_discharge}({discharge_resistor_price}+{discharge_switch_price})",
)
def cost(capacitor_quantity, capacitor_price, bleeder_pieces, bleeder_piece_price, switched_discharge, discharge_resistor_price, discharge_switch_price):
    """Cost of the link capacitors, the bleeder and what discharges beside it."""
    return (
        capacitor_quantity * capacitor_price + bleeder_pieces * bleeder_piece_price + switched_discharge * (discharge_resistor_price + discharge_switch_price)
    )


@dc_link.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{capacitor_quantity}\,{capacitor_mass}")
def mass(capacitor_quantity, capacitor_mass):
    """Mass of the link capacitors."""
    return capacitor_quantity * capacitor_mass


@dc_link.build(
    unit="",
    symbol="n",
    source="count",
    title="Parts",
    tex=r"{capacitor_quantity}+{bleeder_pieces}+2\,{switched_discharge}",
    example=({"capacitor_quantity": 2, "bleeder_pieces": 3, "switched_discharge": 1}, 7),
)
def part_count(capacitor_quantity, bleeder_pieces, switched_discharge):
    """Capacitors, bleeder, and the discharge resistor with its switch."""
    return capacitor_quantity + bleeder_pieces + 2 * switched_discharge


dc_link.check(
    "window_low",
    title="Link window, lower edge",
    demand="needed_valley",
    capability="link_valley",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The output's peak needs a valley of {demand}; the link's lowest is {capability}.",
    why="Below it the tops of the sine are clipped.",
    remedies=(Move("link_setpoint", "up", 1.2), Move("ripple_fraction", "down", 3.0), Move("secondary_turns", "up", 1.4)),
)
dc_link.check(
    "capacitor_voltage",
    title="Link capacitor voltage",
    demand="highest_link",
    capability="capacitor_rated_voltage",
    fail=1.0,
    hold=1.15,
    harm="people",
    sentence="The link rises to {demand}; the capacitor is rated {capability}.",
    why="An electrolytic above its rating vents or bursts.",
    remedies=(Move("returned_energy", "down", 20.0, "world"), Move("link_setpoint", "down", 1.2)),
)
dc_link.check(
    "ripple",
    title="Link ripple",
    demand="lasting_ripple",
    capability="aimed_ripple",
    fail=0.5,  # twice what is aimed at costs set-point, and harms nothing that is not judged by itself
    hold=1.0,
    harm="none",
    sentence="The link ripples by {demand}; aimed at is {capability}.",
    why="The set-point must stand higher by half of it, and its third harmonic comes through in the sine.",
    remedies=(Move("capacitor_quantity", "up", 4.0), Move("ripple_fraction", "up", 2.0)),
)
dc_link.check(
    "capacitor_ripple",
    title="Link capacitor current",
    demand="capacitor_current",
    capability="capacitor_current_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} rms flow in capacitors rated {capability}.",
    why="Ripple heats the capacitor; its life halves with every ten kelvin.",
    remedies=(Move("capacitor_quantity", "up", 4.0),),
)
dc_link.check(
    "life",
    title="Life of the link capacitors",
    demand="wanted_life",
    capability="capacitor_life",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="At full load day and night the capacitors last {capability}; {demand} are wanted.",
    why="They are the first part of an inverter to wear out.",
    remedies=(Move("capacitor_quantity", "up", 3.0), Move("can_resistance", "down", 3.0, "world")),
)

dc_link.procedure(
    "Before anything is touched",
    "Switch off, open the service disconnect, and wait {discharge_time}: so long the bleeder alone takes to 60 V.",
    "Measure across the link with a meter that has been tried on a known voltage before and is tried again after. Above 60 V nothing is touched: it has held up to {highest_link} and {stored_energy}.",
    safety=True,
)

__all__ = ["dc_link"]
