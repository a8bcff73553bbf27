"""Boost front end, third part: diode, losses, what it costs and weighs, judgements (6.2)."""

from rhombos.core.formulas.numeric import highest
from rhombos.core.graph.declare import Move, every
from rhombos.core.parts.columns import RECTIFIER
from rhombos.core.stages.front.boost_parts import EM, boost
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.stages.switches.diode import declare_ratings
from rhombos.core.stages.switches.stress import declare_stress

__all__ = ["boost"]


boost.pick(
    "diode",
    "rectifier",
    RECTIFIER,
    title="Diode",
    pieces=1,
    source=EM,
    needs=("reverse_voltage", "diode_current", "recovery", "diode_temperature_check"),
    sentence="Cheapest rectifier whose voltage, current, recovery time and own temperature suit.",
)


@boost.build(
    unit="V",
    symbol=r"V_{R}",
    source="[judgement] a quarter for ringing",
    title="Reverse voltage with ringing",
    tex=r"1.25\,\max({output_voltage})",
    example=({"output_voltage": 400}, 500),
)
def diode_reverse_voltage(output_voltage):
    """Reverse voltage of the diode with ringing."""
    return 1.25 * highest(output_voltage)


@boost.operation(unit="A", symbol=r"I_\mathrm{D}", source="surge left out", title="Diode current, mean", tex=r"(1-{surge})\,{link_current}")
def diode_current(surge, link_current):
    """Mean current of the diode at the corners that last."""
    return (1 - surge) * link_current


@boost.build(
    unit="s",
    symbol=r"t_{rr,max}",
    source="[judgement] 1/100 of the period",
    title="Recovery time allowed",
    tex=r"\frac{1}{100\,{ripple_frequency}}",
    example=({"ripple_frequency": 50e3}, 200e-9),
)
def allowed_recovery_time(ripple_frequency):
    """Longest reverse recovery time for the switching frequency."""
    return 1 / (100 * ripple_frequency)


@boost.operation(
    unit="W",
    symbol=r"P_D",
    source="mean current; its recovery heats the switch",
    title="Loss of the diode",
    tex=r"{diode_forward_voltage}\,{link_current}",
    example=({"diode_forward_voltage": 1.2, "link_current": 2.5}, 3.0),
)
def diode_loss(diode_forward_voltage, link_current):
    """Conduction loss of the diode."""
    return diode_forward_voltage * link_current


@boost.operation(
    unit="K_abs",
    symbol=r"T_D",
    source="thermal resistances in series, beside the switch on one sink",
    title="Junction of the diode",
    tex=r"{ambient_temperature}+{diode_loss}({diode_junction_resistance}+{pad_resistance})+({diode_loss}+{switch_quantity}{device_loss}){sink_resistance}",
    example=(
        {
            "ambient_temperature": 318.15,
            "diode_loss": 3.0,
            "diode_junction_resistance": 2.0,
            "pad_resistance": 0.6,
            "switch_quantity": 1,
            "device_loss": 10.0,
            "sink_resistance": 0.75,
        },
        335.7,
    ),
)
def diode_temperature(ambient_temperature, diode_loss, diode_junction_resistance, pad_resistance, switch_quantity, device_loss, sink_resistance):
    """Junction temperature of the diode on the sink that the switch heats too, if the load lasted."""
    return ambient_temperature + diode_loss * (diode_junction_resistance + pad_resistance) + (diode_loss + switch_quantity * device_loss) * sink_resistance


@boost.operation(
    unit="K",
    symbol=r"\Delta T_D",
    source="difference; starts are short beside the sink",
    title="Diode rise, lasting",
    tex=r"(1-{surge})({diode_temperature}-{ambient_temperature})",
)
def diode_rise(surge, diode_temperature, ambient_temperature):
    """Junction of the diode above ambient at the corners that last."""
    return (1 - surge) * (diode_temperature - ambient_temperature)


@boost.build(unit="K", symbol=r"\Delta T_{D,\max}", source="difference", title="Diode rise allowed", tex=r"{diode_maximum_temperature}-{ambient_temperature}")
def allowed_diode_rise(diode_maximum_temperature, ambient_temperature):
    """Highest junction temperature of the diode above ambient."""
    return diode_maximum_temperature - ambient_temperature


@boost.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    start=15.0,
    grows=BY_DRAWN,
    source="switches, diode, choke",
    title="Loss",
    tex=r"{switch_quantity}{device_loss}+{diode_loss}+{choke_rms_current}^2{choke_resistance}+{choke_core_loss}",
    example=({"switch_quantity": 1, "device_loss": 10, "diode_loss": 3, "choke_rms_current": 5, "choke_resistance": 0.2, "choke_core_loss": 1}, 19.0),
)
def loss(switch_quantity, device_loss, diode_loss, choke_rms_current, choke_resistance, choke_core_loss):
    """Loss of switches, diode and choke (its core at the greatest ripple)."""
    return switch_quantity * device_loss + diode_loss + choke_rms_current**2 * choke_resistance + choke_core_loss


@boost.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the rail: what goes to the link, the stage's losses and what its attachments draw."""
    return output_power + losses


@boost.build(
    unit="credit",
    symbol="c",
    source="catalogue; choke by its energy",
    title="Cost",
    tex=r"{switch_quantity}{switch_price}+{sink_price}+{diode_price}+{choke_price}",
)
def cost(switch_quantity, switch_price, sink_price, diode_price, choke_price):
    """Cost of switches, sink, diode and choke."""
    return switch_quantity * switch_price + sink_price + diode_price + choke_price


@boost.build(
    unit="kg",
    symbol="m",
    source="catalogue; an aluminium sink by its heat capacity, 900 J/(kg·K)",
    title="Mass",
    empirical=True,
    tex=r"{switch_quantity}{switch_mass}+{diode_mass}+{choke_mass}+\frac{sink_capacity}{900}",
    example=({"switch_quantity": 1, "switch_mass": 0.005, "diode_mass": 0.005, "choke_mass": 0.2, "sink_capacity": 180}, 0.41),
)
def mass(switch_quantity, switch_mass, diode_mass, choke_mass, sink_capacity):
    """Mass of switches, diode, choke and sink."""
    return switch_quantity * switch_mass + diode_mass + choke_mass + sink_capacity / 900


@boost.build(unit="", symbol="n", source="count", title="Parts", tex=r"2\,{switch_quantity}+4", example=({"switch_quantity": 1}, 6.0))
def part_count(switch_quantity):
    """Switches and diode with a pad each, choke, sink."""
    return 2 * switch_quantity + 4


boost.order("Choke", "wound", "{choke_inductance}, no saturation up to {choke_saturation_current}, {choke_rms_current:lasting} rms", price="choke_price")
declare_ratings(boost, recovery=(Move("wanted_frequency", "down", 3.0),))
declare_stress(boost, "output_voltage", dynamic=(Move("bus_inductance", "down", 4.0, "world"),), pulsed=(Move("choke_inductance", "up", 4.0),))
boost.check(
    "diode_temperature_check",
    title="Junction of the diode",
    demand="diode_rise",
    capability="allowed_diode_rise",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The diode rises by {demand}; {capability} are allowed.",
    why="Hotter, its leakage and recovery grow until it runs away.",
    remedies=(Move("sink_resistance", "down", 4.0),),
)
boost.check(
    "reach",
    title="Link within reach",
    demand="link_setpoint",
    capability="reachable_voltage",
    fail=1.0,
    hold=1.05,
    harm="none",
    sentence="The link is to stand at {demand}; the greatest duty reaches {capability}.",
    why="Below its set-point the link clips the output's crest.",
    remedies=(Move("off_fraction", "down", 2.0),),
)
boost.check(
    "source_below_link",
    title="Source below the link",
    demand="input_voltage",
    capability="link_setpoint",
    fail=1.0,
    hold=1.05,
    harm="equipment",
    sentence="The source stands at {demand}, the link at {capability}.",
    why="A boost converter cannot make less than its source: through choke and diode the link follows it, and nothing holds the current back.",
)
