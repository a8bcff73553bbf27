"""The output filter, second part: currents, losses, the peak it asks of the bridge, judgements (8.4, 8.1)."""

import numpy as np

from rhombos.core.formulas.numeric import highest
from rhombos.core.graph.declare import Move, every
from rhombos.core.stages.magnetics.choke import declare_choke
from rhombos.core.stages.output.output_filter_rectifiers import output_filter
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.vocabulary import word

MUR = "Mohan, Undeland & Robbins, Power Electronics"
LC = "series choke, shunt capacitor, phasors at the output frequency"


@output_filter.operation(
    unit="A",
    symbol=r"\Delta I_{pp}",
    source=MUR,
    title="Choke ripple",
    tex=r"\frac{link_voltage}{{ripple_divisor}\,{filter_inductance}\,{carrier_frequency}}",
    example=({"link_voltage": 380, "ripple_divisor": 8, "filter_inductance": 1.5e-3, "carrier_frequency": 20e3}, 1.58333),
)
def filter_ripple(link_voltage, ripple_divisor, filter_inductance, carrier_frequency):
    """Peak-to-peak ripple of the choke at the worst duty (the bridge's supply is its link)."""
    return link_voltage / (ripple_divisor * filter_inductance * carrier_frequency)


@output_filter.operation(
    unit="VA",
    symbol=r"Q_b",
    source=LC,
    title="Reactive power of the bridge",
    tex=r"{output_reactive_power}-2\pi{output_frequency}({filter_capacitance}+{damping_capacitance}){delivered_voltage}^2",
    example=(
        {"output_reactive_power": 300, "output_frequency": 50, "filter_capacitance": 1e-6, "damping_capacitance": 3e-6, "delivered_voltage": 230},
        233.524,
    ),
)
def input_reactive_power(output_reactive_power, output_frequency, filter_capacitance, damping_capacitance, delivered_voltage):
    """Reactive power that the bridge delivers: the load's less the capacitors'."""
    farads = filter_capacitance + damping_capacitance
    return output_reactive_power - 2 * np.pi * output_frequency * farads * delivered_voltage * delivered_voltage


@output_filter.operation(
    unit="A",
    symbol=r"I_b",
    source=LC,
    title="Choke current, rms",
    tex=r"\frac{\sqrt{{output_power}^2+{input_reactive_power}^2+{output_distortion_power}^2}}{delivered_voltage}",
    example=({"output_power": 800, "input_reactive_power": 300, "output_distortion_power": 200, "delivered_voltage": 230}, 3.81520),
)
def input_current(output_power, input_reactive_power, output_distortion_power, delivered_voltage):
    """Rms current of the choke at the output frequency: load and capacitors."""
    return np.sqrt(output_power**2 + input_reactive_power**2 + output_distortion_power**2) / delivered_voltage


@output_filter.operation(
    unit="A",
    symbol=r"I_{L,rms}",
    source="rms of sine and triangle",
    title="Choke current with ripple",
    tex=r"\sqrt{{input_current}^2+\frac{{filter_ripple}^2}{12}}",
    example=({"input_current": 4, "filter_ripple": 1.6}, 4.02658),
)
def choke_rms_current(input_current, filter_ripple):
    """Rms current of the choke with its carrier ripple (at most: worst duty throughout)."""
    return np.sqrt(input_current**2 + filter_ripple**2 / 12)


@output_filter.operation(
    unit="A",
    symbol=r"\hat I_L",
    source="crest plus half the ripple",
    title="Choke current, peak",
    tex=r"\max({output_crest_current},\sqrt2\,{input_current})+\frac{filter_ripple}{2}",
    example=({"output_crest_current": 8, "input_current": 4, "filter_ripple": 1.6}, 8.8),
)
def choke_peak_current(output_crest_current, input_current, filter_ripple):
    """Highest working peak of choke and bridge: the loads' crests and half the ripple."""
    return np.maximum(output_crest_current, np.sqrt(2) * input_current) + filter_ripple / 2


@output_filter.operation(
    unit="V",
    symbol=r"\hat V_\mathrm{node}",
    source=LC,
    title="Peak asked of the bridge",
    tex=r"\begin{gathered}\sqrt2\,\sqrt{a^2+b^2}\\a={delivered_voltage}\left(1-\omega^2{filter_inductance}({filter_capacitance}+{damping_capacitance})\right)+{choke_resistance}\,p+\omega{filter_inductance}\,q\\"
    r"b=\omega{filter_inductance}\,p-{choke_resistance}\,q\\p=\frac{output_apparent_power}{delivered_voltage}\cos\varphi\\q=\frac{output_apparent_power}{delivered_voltage}\sin\varphi\\\varphi=\operatorname{arctan2}({output_reactive_power},{output_power})\\\omega=2\pi\,{output_frequency}\end{gathered}",
    example=(
        {
            "delivered_voltage": 230,
            "filter_inductance": 1.5e-3,
            "filter_capacitance": 1.5e-6,
            "damping_capacitance": 4.5e-6,
            "choke_resistance": 0.16,
            "output_apparent_power": 1000,
            "output_power": 800,
            "output_reactive_power": 600,
            "output_frequency": 50,
        },
        327.592,
    ),
)
def node_peak_voltage(
    delivered_voltage,
    filter_inductance,
    filter_capacitance,
    damping_capacitance,
    choke_resistance,
    output_apparent_power,
    output_power,
    output_reactive_power,
    output_frequency,
):
    """Peak of the bridge's fundamental: output, drop of the choke, relief by the capacitors."""
    omega = 2 * np.pi * output_frequency
    # The angle of nothing is zero here, and the current is zero with it.
    angle = np.arctan2(output_reactive_power, output_power)
    current = output_apparent_power / delivered_voltage
    along, across = current * np.cos(angle), current * np.sin(angle)
    real = (
        delivered_voltage * (1 - omega**2 * filter_inductance * (filter_capacitance + damping_capacitance))
        + choke_resistance * along
        + omega * filter_inductance * across
    )
    imaginary = omega * filter_inductance * along - choke_resistance * across
    return np.sqrt(2) * np.sqrt(real**2 + imaginary**2)


@output_filter.build(
    unit="",
    symbol="x",
    source=LC,
    title="Carrier on the capacitor",
    tex=r"2\pi\,{carrier_multiple}\,{carrier_frequency}\,{filter_capacitance}\,{damping_resistor}",
    example=({"carrier_multiple": 2, "carrier_frequency": 20e3, "filter_capacitance": 1.5e-6, "damping_resistor": 33}, 12.4407),
)
def carrier_ratio_damped(carrier_multiple, carrier_frequency, filter_capacitance, damping_resistor):
    """Damping resistor over the capacitor's impedance at the carrier's ripple frequency."""
    return 2 * np.pi * carrier_multiple * carrier_frequency * filter_capacitance * damping_resistor


@output_filter.operation(
    unit="A",
    symbol=r"I_{d}",
    source="current divider of capacitor and damping branch",
    title="Current of the damping branch, rms",
    tex=r"\begin{gathered}\sqrt{A+B}\\\omega=2\pi\,{output_frequency}\\A=\frac{(\omega{damping_capacitance}{delivered_voltage})^2}{1+(\omega{damping_capacitance}{damping_resistor})^2}\\"
    r"B=\frac{{filter_ripple}^2/12}{(1+{filter_capacitance}/{damping_capacitance})^2+{carrier_ratio_damped}^2}\end{gathered}",
    example=(
        {
            "output_frequency": 50,
            "damping_capacitance": 4.5e-6,
            "damping_resistor": 33,
            "delivered_voltage": 230,
            "filter_ripple": 1.6,
            "filter_capacitance": 1.5e-6,
            "carrier_ratio_damped": 12.4407,
        },
        0.326899,
    ),
)
def damping_current(output_frequency, damping_capacitance, damping_resistor, delivered_voltage, filter_ripple, filter_capacitance, carrier_ratio_damped):
    """Rms current through damping resistor and capacitor: the output's, and its share of the carrier ripple."""
    omega = 2 * np.pi * output_frequency
    at_output = (omega * damping_capacitance * delivered_voltage) ** 2 / (1 + (omega * damping_capacitance * damping_resistor) ** 2)
    at_carrier = filter_ripple**2 / 12 / ((1 + filter_capacitance / damping_capacitance) ** 2 + carrier_ratio_damped**2)
    return np.sqrt(at_output + at_carrier)


@output_filter.operation(
    unit="A",
    symbol=r"I_{C}",
    source="current divider of capacitor and damping branch",
    title="Current of the filter capacitor, rms",
    tex=r"\begin{gathered}\frac{1-{surge}}{capacitor_quantity}\sqrt{I^2+\frac{{filter_ripple}^2}{12}\cdot\frac{r^2+{carrier_ratio_damped}^2}{(1+r)^2+{carrier_ratio_damped}^2}}\\"
    r"I=2\pi\,{output_frequency}\,{filter_capacitance}\,{delivered_voltage}\\r={filter_capacitance}/{damping_capacitance}\end{gathered}",
    example=(
        {
            "surge": 0,
            "capacitor_quantity": 1,
            "output_frequency": 50,
            "filter_capacitance": 1.5e-6,
            "delivered_voltage": 230,
            "filter_ripple": 1.6,
            "damping_capacitance": 4.5e-6,
            "carrier_ratio_damped": 12.4407,
        },
        0.472163,
    ),
)
def capacitor_current(
    surge, capacitor_quantity, output_frequency, filter_capacitance, delivered_voltage, filter_ripple, damping_capacitance, carrier_ratio_damped
):
    """Rms current of one filter capacitor where it lasts: the output's, and nearly all of the carrier ripple (at most: worst duty throughout)."""
    ratio = filter_capacitance / damping_capacitance
    share = (ratio**2 + carrier_ratio_damped**2) / ((1 + ratio) ** 2 + carrier_ratio_damped**2)
    return (
        (1 - surge) / capacitor_quantity * np.sqrt((2 * np.pi * output_frequency * filter_capacitance * delivered_voltage) ** 2 + filter_ripple**2 / 12 * share)
    )


@output_filter.operation(
    unit="A", symbol=r"I_{d,1}", source="equal pieces", title="Current of one damping capacitor", tex=r"(1-{surge})\frac{damping_current}{damper_quantity}"
)
def damper_current(surge, damping_current, damper_quantity):
    """Rms current of one damping capacitor where it lasts."""
    return (1 - surge) * damping_current / damper_quantity


@output_filter.operation(
    unit="W",
    symbol=r"P_d",
    source="Joule's law",
    title="Damping loss",
    tex=r"{damping_current}^2{damping_resistor}",
    example=({"damping_current": 0.3, "damping_resistor": 33}, 2.97),
)
def damping_loss(damping_current, damping_resistor):
    """Loss of the damping resistor."""
    return damping_current**2 * damping_resistor


declare_choke(output_filter, "choke_", "filter_inductance", "choke_saturation_current", "filter_ripple", reference=150e-3, price=7.5, mass=0.25, core_loss=1.2)


@output_filter.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="sum",
    title="Loss",
    start=4.0,
    grows=BY_DRAWN,
    tex=r"{choke_rms_current}^2{choke_resistance}+{choke_core_loss}+{damping_loss}",
    example=({"choke_rms_current": 4, "choke_resistance": 0.2, "choke_core_loss": 1.2, "damping_loss": 3}, 7.4),
)
def loss(choke_rms_current, choke_resistance, choke_core_loss, damping_loss):
    """Loss of choke and damping."""
    return choke_rms_current**2 * choke_resistance + choke_core_loss + damping_loss


@output_filter.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the bridge."""
    return output_power + losses


@output_filter.build(unit="V", symbol=r"V_{o,max}", source="tolerance", title="Highest output", tex=r"{rated_output_voltage}\,(1+{output_voltage_tolerance})")
def highest_output_voltage(rated_output_voltage, output_voltage_tolerance):
    """Output voltage at the high end of its tolerance."""
    return rated_output_voltage * (1 + output_voltage_tolerance)


@output_filter.build(unit="A", symbol=r"\hat I_{L,max}", source="highest over the corners", title="Highest choke peak", tex=r"\max({choke_peak_current})")
def highest_choke_peak(choke_peak_current):
    """Highest working peak over all corners: no saturation there."""
    return highest(choke_peak_current)


@output_filter.build(
    unit="credit",
    symbol="c",
    source="catalogue",
    title="Cost",
    tex=r"{capacitor_quantity}\,{capacitor_price}+{damper_quantity}\,{damper_price}+{choke_price}+{resistor_price}",
)
def cost(capacitor_quantity, capacitor_price, damper_quantity, damper_price, choke_price, resistor_price):
    """Cost of capacitors, damping resistor and choke."""
    return capacitor_quantity * capacitor_price + damper_quantity * damper_price + choke_price + resistor_price


@output_filter.build(
    unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{capacitor_quantity}\,{capacitor_mass}+{damper_quantity}{damper_mass}+{choke_mass}"
)
def mass(capacitor_quantity, capacitor_mass, damper_quantity, damper_mass, choke_mass):
    """Mass of capacitors and choke."""
    return capacitor_quantity * capacitor_mass + damper_quantity * damper_mass + choke_mass


@output_filter.build(
    unit="",
    symbol="n",
    source="count",
    title="Parts",
    tex=r"{capacitor_quantity}+{damper_quantity}+2",
    example=({"capacitor_quantity": 1, "damper_quantity": 2}, 5),
)
def part_count(capacitor_quantity, damper_quantity):
    """Choke, capacitors, damping resistor, damping capacitors."""
    return capacitor_quantity + damper_quantity + 2


output_filter.check(
    "corner_high",
    title="Corner below the carrier",
    demand="corner_frequency",
    capability="highest_corner",
    fail=0.7,  # half the attenuation that was aimed at
    hold=1.0,
    harm="none",
    sentence="The filter's corner is at {demand}; aimed at is a tenth of the ripple frequency, {capability}.",
    why="Above it the carrier comes through.",
    remedies=(Move("filter_inductance", "up", 3.0), Move("carrier_frequency", "up", 3.0)),
)
output_filter.check(
    "corner_low",
    title="Corner above the output",
    demand="lowest_corner",
    capability="corner_frequency",
    fail=0.5,  # five times the output frequency: the loop still has a little room below it
    hold=1.0,
    harm="none",
    sentence="The filter's corner is at {capability}; aimed at is ten times the output frequency, {demand}.",
    why="Below it load steps ring into the sine.",
    remedies=(Move("filter_inductance", "down", 4.0),),
)
output_filter.check(
    "reactive",
    title="Reactive current",
    demand="reactive_current",
    capability="allowed_reactive_current",
    fail=0.5,  # twice what is aimed at costs idle power, and harms nothing
    hold=1.0,
    harm="none",
    sentence="The capacitors draw {demand}; aimed at is at most {capability}.",
    why="It loads the bridge all day, also without load.",
    remedies=(Move("damping_ratio", "down", 2.0), Move("reactive_share", "up", 2.0, "yardstick")),
)
output_filter.check(
    "capacitor_voltage",
    title="Filter capacitor voltage",
    demand="highest_output_voltage",
    capability="capacitor_rated_voltage",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The output may stand at {demand}; the capacitor is rated {capability} AC.",
    why="Film above its AC rating ages by corona.",
)

output_filter.check(
    "capacitor_current",
    title="Filter capacitor current",
    demand="capacitor_current",
    capability="capacitor_rated_ripple_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} rms flow in the filter capacitor; it is rated {capability}.",
    why="Film heated by its own current shrinks and loses its metal.",
    remedies=(Move("ripple_share", "down", 3.0), Move("reactive_share", "down", 3.0, "yardstick")),
)
output_filter.check(
    "damper_voltage",
    title="Damping capacitor voltage",
    demand="highest_output_voltage",
    capability="damper_rated_voltage",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The output may stand at {demand}; the damping capacitors are rated {capability} AC.",
    why="Film above its AC rating ages by corona.",
)
output_filter.check(
    "damper_current",
    title="Damping capacitor current",
    demand="damper_current",
    capability="damper_rated_ripple_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} rms flow in a damping capacitor; it is rated {capability}.",
    why="Film heated by its own current shrinks and loses its metal.",
    remedies=(Move("damper_quantity", "up", 4.0), Move("damping_ratio", "down", 2.0)),
)

for _name, _unit, _symbol, _text, _alone in (
    ("filter_inductance", "H", "L", "Whole choke of both lines.", 1.5e-3),
    ("choke_peak_current", "A", r"\hat I_L", "Highest working peak of choke and bridge.", 12),
    ("filter_ripple", "A", r"\Delta I_{pp}", "Choke ripple at the worst duty.", 1.6),
):
    word(_name, _unit, _symbol, _text, _alone)

output_filter.order(
    "Output choke",
    "wound",
    "{filter_inductance}, at its low tolerance no saturation up to {choke_saturation_current}, {choke_rms_current:lasting} rms, two halves on one core",
    price="choke_price",
)
output_filter.order("Damping resistor", "{damping_resistor}", "non-inductive, twice its loss of {damping_loss}", price="resistor_price")

__all__ = ["output_filter"]
