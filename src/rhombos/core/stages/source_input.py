"""Input: fuse, cable, bulk capacitors (2.1, 2.3)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting, lowest, next_of, up
from rhombos.core.magnetics.copper import RHO_70
from rhombos.core.parts.columns import CAPACITOR, FUSE
from rhombos.core.vocabulary import word

FUSES = "IEC 60269 and battery-style series; continuous loading limit and time-current curve"
RIPPLE = "charge balance of rectangular pulses"
CABLE_AREAS = np.array([1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185]) * 1e-6

source_input = Stage("source_input", "Input", telling="{fuse}")
source_input.hazard("dc_voltage", "highest_source_voltage")
source_input.hazard("energy", "bank_energy")


source_input.give("cable_length", 0.8, "m", "l", 0.01, 50, "Length of the battery cable, one way.")
source_input.give(
    "cable_density",
    5e6,
    "A/m^2",
    r"J_\mathrm{cable}",
    1e6,
    1.5e7,
    "Current density that the cable carries for good [judgement].",
    "Cable ampacity",
    judgement=True,
)
source_input.give(
    "cable_drop_share", 0.03, "", r"\delta_\mathrm{cable}", 0.002, 0.2, "Drop allowed along the cable, of the lowest source voltage.", "Cable drop allowed"
)
source_input.give(
    "bulk_ripple_share", 0.02, "", r"\delta_\mathrm{bulk}", 0.001, 0.2, "Ripple allowed on the bulk capacitors, of the source voltage.", "Bulk ripple allowed"
)
source_input.give(
    "contact_resistance",
    1.2e-3,
    "Ω",
    r"R_\mathrm{con}",
    0,
    0.1,
    "Fuse, contactor and lugs together, warm [judgement].",
    "Fuse, contactor and lugs",
    judgement=True,
)
source_input.give("continuous_share", 0.75, "", r"k_\mathrm{cont}", 0.5, 1, "Part of its rating that a fuse carries for good.", "Continuous loading limit")
source_input.give("cold_factor", 7.0, "", r"k_\mathrm{cold}", 1, 20, "Series resistance of an electrolytic at −20 °C over warm (5 to 10) [judgement].", "Cold factor of the ESR", judgement=True)
source_input.give("cold_ripple_share", 0.1, "", r"\delta_\mathrm{cold}", 0.005, 0.5, "Ripple allowed on the cold bulk capacitors, of the source voltage [judgement].", "Cold bulk ripple allowed", judgement=True)
source_input.give("cable_price", 6.0, "credit", r"c_\mathrm{cable}", 0, 1000, "Price of the battery cable [judgement].", "Price of the cable", judgement=True)


@source_input.operation(
    unit="A",
    symbol=r"I_{2f}",
    source="power balance at twice the output frequency",
    title="Battery ripple current",
    tex=r"\frac{{choke_swing}\,{link_voltage}}{\sqrt2\,{input_voltage}}",
    example=({"choke_swing": 1.0, "link_voltage": 380, "input_voltage": 24}, 11.196),
)
def battery_ripple_current(choke_swing, link_voltage, input_voltage):
    """Rms current at twice the output frequency that the front end draws from the battery."""
    return choke_swing * link_voltage / (np.sqrt(2) * input_voltage)


@source_input.operation(
    unit="A",
    symbol=r"I_\mathrm{rms}",
    source="rms of mean and ripple",
    title="Battery current, rms",
    tex=r"\sqrt{{source_current}^2+{battery_ripple_current}^2}",
    example=({"source_current": 40, "battery_ripple_current": 9}, 41.0),
)
def source_rms_current(source_current, battery_ripple_current):
    """Rms current of battery, fuse and cable: it heats them."""
    return np.sqrt(source_current**2 + battery_ripple_current**2)


@source_input.operation(unit="A", symbol=r"I_\mathrm{last}", source="surge left out", title="Lasting current", tex=r"(1-{surge})\,{source_rms_current}")
def lasting_current(surge, source_rms_current):
    """Battery current at the corners that last."""
    return (1 - surge) * source_rms_current


@source_input.build(
    unit="A",
    symbol=r"I_\mathrm{fuse,min}",
    source=FUSES,
    title="Fuse needed",
    tex=r"\frac{\max_\mathrm{lasting}({source_rms_current})}{continuous_share}",
)
def needed_fuse_current(source_rms_current, continuous_share):
    """Fuse rating that the lasting current asks for."""
    return highest_lasting(source_rms_current) / continuous_share


SHORT, LONG, FOR_GOOD = 0.01, 10.0, 3600.0
"""Seconds at which a fuse's curve is known: 10 ms and 10 s from its data, an hour by the continuous limit."""


def carried(seconds, short, long, for_good):
    """What a fuse carries over its rating, for a time: straight lines between its points on log-log paper, constant I²t below 10 ms."""
    t = np.maximum(seconds, 1e-3 + 0 * seconds)
    middle = short * (t / SHORT) ** (np.log(long / short) / np.log(LONG / SHORT))
    late = long * (t / LONG) ** (np.log(for_good / long) / np.log(FOR_GOOD / LONG))
    return np.where(t < SHORT, short * np.sqrt(SHORT / t), np.where(t < LONG, middle, np.maximum(late, for_good)))


@source_input.pick("fuse", "fuse", FUSE, title="Fuse", source=FUSES)
def fuse(part, surge, surge_time, needed_fuse_current, continuous_share, source_rms_current, highest_source_voltage, fault_current):
    """Cheapest fuse that carries the current and the surge, and breaks the battery's fault current.

    It protects the cable and limits fire; the I²t that kills a semiconductor is far below that of any such fuse.
    """
    bears = part.rated_current * np.where(surge > 0, carried(surge_time, part.carried_short, part.carried_overload, continuous_share), continuous_share)
    return [
        Need("rated current over continuous load", part.rated_current, needed_fuse_current, "A"),
        Need("surge carried for its seconds", bears, source_rms_current, "A"),
        Need("DC voltage", part.rated_voltage, highest_source_voltage, "V"),
        Need("breaking capacity", part.breaking_capacity, 1.25 * highest(fault_current), "A"),
    ]


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{need}",
    source="ampacity, and drop over both ways",
    title="Cable area needed",
    empirical=True,
    tex=r"\max\left(\frac{fuse_rated_current}{cable_density},\;\frac{2\rho_{70}\,{cable_length}\max_\mathrm{lasting}({source_current})}{{cable_drop_share}\min({source_voltage})}\right)",
    example=(
        {"fuse_rated_current": 63, "cable_density": 5e6, "cable_length": 1, "source_current": 60, "cable_drop_share": 0.03, "source_voltage": 22},
        12.6e-6,
    ),
)
def needed_cable_area(fuse_rated_current, cable_density, cable_length, source_current, cable_drop_share, source_voltage):
    """Copper area of the cable from ampacity behind the fuse, and from the drop."""
    drop = 2 * RHO_70 * cable_length * highest_lasting(source_current) / (cable_drop_share * lowest(source_voltage))
    return np.maximum(fuse_rated_current / cable_density, drop)


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{cable}",
    source="standard areas",
    title="Cable area",
    start=16e-6,
    safe="up",
    empirical=True,
    tex=r"\operatorname{area}_\uparrow({needed_cable_area})",
    example=({"needed_cable_area": 12.6e-6}, 16e-6),
)
def cable_area(needed_cable_area):
    """Next standard area; parallel cables of the greatest area beyond it."""
    area = next_of(CABLE_AREAS, needed_cable_area)
    return area * np.maximum(up(needed_cable_area / area), 1.0)


@source_input.build(
    unit="Ω",
    symbol=r"R_\mathrm{cable}",
    source="resistivity of copper at 70 °C",
    title="Cable resistance",
    empirical=True,
    tex=r"\frac{2\rho_{70}\,{cable_length}}{cable_area}",
    example=({"cable_length": 1, "cable_area": 16e-6}, 2.575e-3),
)
def cable_resistance(cable_length, cable_area):
    """Resistance of both ways of the cable, warm."""
    return 2 * RHO_70 * cable_length / cable_area


@source_input.build(
    unit="Ω", symbol=r"R_\mathrm{line}", source="resistances in series", title="Line resistance", tex=r"{cable_resistance}+{contact_resistance}"
)
def line_resistance(cable_resistance, contact_resistance):
    """Resistance from the pack's terminals to the converter's."""
    return cable_resistance + contact_resistance


@source_input.operation(unit="V", symbol="V", source="joint", title="Source voltage", tex=r"{input_voltage}")
def source_voltage(input_voltage):
    """Voltage at the converter's terminals."""
    return input_voltage


@source_input.operation(unit="V", symbol="V", source="joint", title="Output voltage", tex=r"{input_voltage}")
def output_voltage(input_voltage):
    """Voltage handed to the front end."""
    return input_voltage


@source_input.operation(
    unit="A",
    symbol=r"I_{C,rms}",
    source=RIPPLE,
    title="Bulk capacitor current",
    tex=r"(1-{surge})\sqrt{\left({flat_top_current}^2+\tfrac12{flat_top_swing}^2\right){effective_duty}(1-{effective_duty})}",
    example=({"surge": 0, "flat_top_current": 50, "flat_top_swing": 20, "effective_duty": 0.8}, 20.785),
)
def bulk_current(surge, flat_top_current, flat_top_swing, effective_duty):
    """Rms ripple current of the bulk capacitors where it lasts: pulses in, mean out; the pulses swing at twice the output frequency."""
    return (1 - surge) * np.sqrt((flat_top_current**2 + flat_top_swing**2 / 2) * effective_duty * (1 - effective_duty))


@source_input.operation(
    unit="F",
    symbol=r"C_\mathrm{need}",
    source=RIPPLE,
    title="Bulk capacitance needed",
    tex=r"\frac{({flat_top_current}+{flat_top_swing})\,{effective_duty}(1-{effective_duty})}{2\,{switching_frequency}\,{bulk_ripple_share}\,{input_voltage}}",
    example=(
        {"flat_top_current": 40, "flat_top_swing": 10, "effective_duty": 0.6, "switching_frequency": 40e3, "bulk_ripple_share": 0.02, "input_voltage": 25},
        300e-6,
    ),
)
def needed_bulk_capacitance(flat_top_current, flat_top_swing, effective_duty, switching_frequency, bulk_ripple_share, input_voltage):
    """Bulk capacitance that keeps the ripple small, at twice the switching frequency, in the crest of the output's power."""
    return (flat_top_current + flat_top_swing) * effective_duty * (1 - effective_duty) / (2 * switching_frequency * bulk_ripple_share * input_voltage)


@source_input.operation(
    unit="A", symbol=r"\hat I_\mathrm{pk}", source="mean pulse plus swing", title="Pulse height in the crest", tex=r"(1-{surge})({flat_top_current}+{flat_top_swing})"
)
def lasting_pulse_height(surge, flat_top_current, flat_top_swing):
    """Height of the current pulses in the crest of the output's power, at the corners that last."""
    return (1 - surge) * (flat_top_current + flat_top_swing)


@source_input.pick("bulk", "bulk", CAPACITOR, title="Bulk capacitor", quantities=(1, 2, 3, 4, 5, 6, 8, 10, 12, 16), source=RIPPLE)
def bulk(
    part, highest_source_voltage, bulk_current, needed_bulk_capacitance, lasting_pulse_height, bulk_ripple_share, cold_factor, cold_ripple_share, input_voltage
):
    """Cheapest bulk capacitors in parallel whose voltage, ripple current, capacitance and ESR, warm and cold, suit."""
    n = part.quantity
    drop = highest(lasting_pulse_height) * part.series_resistance / n
    return [
        Need("rated voltage with guard", part.rated_voltage, 1.15 * highest_source_voltage, "V"),
        Need("ripple current", n * part.rated_ripple_current, 1.25 * highest_lasting(bulk_current), "A"),
        Need("capacitance", n * part.capacitance, highest_lasting(needed_bulk_capacitance), "F"),
        Need("ripple by ESR", 2 * bulk_ripple_share * lowest(input_voltage), drop, "V"),
        Need("ripple by ESR, cold", cold_ripple_share * lowest(input_voltage), cold_factor * drop, "V"),
    ]


@source_input.operation(
    unit="V",
    symbol=r"\Delta V_C",
    source=RIPPLE,
    title="Bulk ripple",
    tex=r"\frac{{lasting_pulse_height}\,{effective_duty}(1-{effective_duty})}{2\,{switching_frequency}\,{bank_capacitance}}",
    example=({"lasting_pulse_height": 50, "effective_duty": 0.6, "switching_frequency": 40e3, "bank_capacitance": 300e-6}, 0.5),
)
def bulk_ripple(lasting_pulse_height, effective_duty, switching_frequency, bank_capacitance):
    """Peak-to-peak ripple of the bulk capacitors by their charge, at twice the switching frequency."""
    return lasting_pulse_height * effective_duty * (1 - effective_duty) / (2 * switching_frequency * bank_capacitance)


@source_input.operation(
    unit="V", symbol=r"\Delta V_\mathrm{allow}", source="share of the source voltage", title="Bulk ripple allowed, volts", tex=r"{bulk_ripple_share}\,{input_voltage}"
)
def allowed_bulk_ripple(bulk_ripple_share, input_voltage):
    """Ripple by charge that is allowed."""
    return bulk_ripple_share * input_voltage


@source_input.operation(
    unit="V", symbol=r"\Delta V_\mathrm{ESR}", source="Ohm's law", title="Ripple by ESR", tex=r"{lasting_pulse_height}\,{bank_resistance}"
)
def resistance_ripple(lasting_pulse_height, bank_resistance):
    """Step that the pulses make across the bank's series resistance, warm."""
    return lasting_pulse_height * bank_resistance


@source_input.operation(
    unit="V",
    symbol=r"\Delta V_\mathrm{ESR,allow}",
    source="[judgement] twice the share of the ripple by charge",
    title="Ripple by ESR allowed",
    tex=r"2\,{bulk_ripple_share}\,{input_voltage}",
    example=({"bulk_ripple_share": 0.02, "input_voltage": 25}, 1.0),
)
def allowed_resistance_ripple(bulk_ripple_share, input_voltage):
    """Step across the series resistance that is allowed."""
    return 2 * bulk_ripple_share * input_voltage


@source_input.operation(
    unit="V", symbol=r"\Delta V_\mathrm{cold}", source="Ohm's law, resistance at −20 °C", title="Ripple by ESR, cold", tex=r"{cold_factor}\,{resistance_ripple}"
)
def cold_ripple(cold_factor, resistance_ripple):
    """Step across the bank's series resistance on a cold start."""
    return cold_factor * resistance_ripple


@source_input.operation(
    unit="V", symbol=r"\Delta V_\mathrm{cold,allow}", source="share of the source voltage", title="Cold ripple allowed, volts", tex=r"{cold_ripple_share}\,{input_voltage}"
)
def allowed_cold_ripple(cold_ripple_share, input_voltage):
    """Step across the cold bank that is allowed."""
    return cold_ripple_share * input_voltage


@source_input.build(unit="F", symbol=r"C_\mathrm{bank}", source="capacitors in parallel", title="Bulk bank", tex=r"{bulk_quantity}\,{bulk_capacitance}")
def bank_capacitance(bulk_quantity, bulk_capacitance):
    """Capacitance of the whole input bank: what precharge fills."""
    return bulk_quantity * bulk_capacitance


@source_input.build(
    unit="Ω",
    symbol=r"\mathrm{ESR}_\mathrm{bank}",
    source="capacitors in parallel",
    title="Series resistance of the bank",
    tex=r"\frac{bulk_series_resistance}{bulk_quantity}",
)
def bank_resistance(bulk_series_resistance, bulk_quantity):
    """Series resistance of the whole bank."""
    return bulk_series_resistance / bulk_quantity


@source_input.build(
    unit="A", symbol=r"I_{C,rat}", source="capacitors in parallel", title="Ripple current rating", tex=r"{bulk_quantity}\,{bulk_rated_ripple_current}"
)
def bank_current_rating(bulk_quantity, bulk_rated_ripple_current):
    """Ripple current rating of the bank."""
    return bulk_quantity * bulk_rated_ripple_current


@source_input.build(
    unit="J",
    symbol=r"E_\mathrm{bank}",
    source="field energy",
    title="Energy in the bulk capacitors",
    tex=r"\tfrac12{bank_capacitance}\,{highest_source_voltage}^2",
    example=({"bank_capacitance": 8e-3, "highest_source_voltage": 30}, 3.6),
)
def bank_energy(bank_capacitance, highest_source_voltage):
    """Energy in the input bank at the highest source: above 10 J it is a hazard of its own."""
    return bank_capacitance * highest_source_voltage**2 / 2


@source_input.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    start=4.0,
    tex=r"\left({flat_top_current}^2+\tfrac12{flat_top_swing}^2\right){effective_duty}(1-{effective_duty})\,{bank_resistance}",
    example=({"flat_top_current": 50, "flat_top_swing": 20, "effective_duty": 0.8, "bank_resistance": 0.005}, 2.16),
)
def loss(flat_top_current, flat_top_swing, effective_duty, bank_resistance):
    """Loss in the series resistance of the bulk capacitors."""
    return (flat_top_current**2 + flat_top_swing**2 / 2) * effective_duty * (1 - effective_duty) * bank_resistance


@source_input.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the battery at the converter's terminals."""
    return output_power + losses


@source_input.operation(
    unit="A",
    symbol=r"I_\mathrm{carry}",
    source=FUSES,
    title="Fuse carries",
    empirical=True,
    tex=r"\begin{gathered}{fuse_rated_current}\begin{cases}{continuous_share}&{surge}=0\\{fuse_carried_short}\sqrt{0.01\,\mathrm{s}/t}&t<0.01\,\mathrm{s}\\"
    r"{fuse_carried_short}\,(t/0.01\,\mathrm{s})^{\ln({fuse_carried_overload}/{fuse_carried_short})/\ln1000}&t<10\,\mathrm{s}\\"
    r"\max\left({continuous_share},{fuse_carried_overload}\,(t/10\,\mathrm{s})^{\ln({continuous_share}/{fuse_carried_overload})/\ln360}\right)&\text{else}\end{cases}\\t=\max({surge_time},1\,\mathrm{ms})\end{gathered}",
    example=(
        {"surge": 1, "surge_time": 0.5, "fuse_carried_short": 10, "fuse_carried_overload": 1.6, "fuse_rated_current": 60, "continuous_share": 0.75},
        212.53,
    ),
)
def fuse_carries(surge, surge_time, fuse_carried_short, fuse_carried_overload, fuse_rated_current, continuous_share):
    """What the fuse carries: its continuous share for good, for a start what its time-current curve gives at the start's seconds."""
    return fuse_rated_current * np.where(surge > 0, carried(surge_time, fuse_carried_short, fuse_carried_overload, continuous_share), continuous_share)


@source_input.build(unit="A", symbol=r"I_\mathrm{amp}", source="[judgement] ampacity", title="Cable ampacity", tex=r"{cable_area}\,{cable_density}")
def cable_ampacity(cable_area, cable_density):
    """Current that the cable carries for good: the fuse must not be larger."""
    return cable_area * cable_density


@source_input.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{fuse_price}+{bulk_quantity}\,{bulk_price}+{cable_price}")
def cost(fuse_price, bulk_quantity, bulk_price, cable_price):
    """Cost of fuse, capacitors and cable."""
    return fuse_price + bulk_quantity * bulk_price + cable_price


@source_input.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{fuse_mass}+{bulk_quantity}\,{bulk_mass}")
def mass(fuse_mass, bulk_quantity, bulk_mass):
    """Mass of fuse and capacitors."""
    return fuse_mass + bulk_quantity * bulk_mass


@source_input.build(unit="", symbol="n", source="count", title="Parts", tex=r"{bulk_quantity}+2", example=({"bulk_quantity": 6}, 8))
def part_count(bulk_quantity):
    """Capacitors, fuse and cable."""
    return bulk_quantity + 2


@source_input.operation(
    unit="A",
    symbol=r"I_\mathrm{sc}\cdot1.25",
    source=FUSES,
    title="Fault current with reserve",
    tex=r"1.25\,{fault_current}",
    example=({"fault_current": 3000}, 3750),
)
def fault_current_reserve(fault_current):
    """Fault current at the battery with reserve for a typical pack resistance."""
    return 1.25 * fault_current


source_input.check(
    "fuse_carries",
    title="Fuse carries the load",
    demand="source_rms_current",
    capability="fuse_carries",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="{demand} rms flow; for as long as they do the fuse carries {capability}.",
    why="It blows without a fault.",
    remedies=(Move("fuse_rated_current", "up", 3.0),),
)
source_input.check(
    "fuse_protects_cable",
    title="Fuse protects the cable",
    demand="fuse_rated_current",
    capability="cable_ampacity",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="The fuse is rated {demand}; the cable carries {capability}.",
    why="A fuse larger than the cable's ampacity lets the cable burn.",
    remedies=(Move("cable_area", "up", 4.0),),
)
source_input.check(
    "fuse_voltage",
    title="Fuse voltage",
    demand="highest_source_voltage",
    capability="fuse_rated_voltage",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="The battery stands at up to {demand}; the fuse breaks {capability} DC.",
    why="A fuse beyond its DC voltage does not clear: the arc stays.",
)
source_input.check(
    "fuse_breaks",
    title="Fuse breaks the fault",
    demand="fault_current_reserve",
    capability="fuse_breaking_capacity",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="A short draws {demand} with reserve; the fuse breaks {capability}.",
    why="Beyond its breaking capacity a fuse bursts.",
    remedies=(Move("cell_resistance", "up", 3.0),),
)
source_input.check(
    "bulk_voltage",
    title="Bulk capacitor voltage",
    demand="highest_source_voltage",
    capability="bulk_rated_voltage",
    fail=1.0,
    hold=1.15,
    harm="equipment",
    sentence="The battery stands at up to {demand}; the capacitors are rated {capability}.",
    why="An electrolytic above its rating vents.",
)
source_input.check(
    "bulk_ripple",
    title="Bulk capacitor current",
    demand="bulk_current",
    capability="bank_current_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} rms flow in capacitors rated {capability}.",
    why="Ripple heats the capacitors; their life halves with every ten kelvin.",
    remedies=(Move("bulk_quantity", "up", 4.0),),
)

source_input.check(
    "bulk_capacitance",
    title="Bulk ripple",
    demand="bulk_ripple",
    capability="allowed_bulk_ripple",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The bulk capacitors ripple by {demand}; {capability} is allowed.",
    why="The rest of the ripple goes up the battery's cable, as heat and as emission.",
    remedies=(Move("bulk_quantity", "up", 4.0),),
)
source_input.check(
    "bulk_resistance",
    title="Bulk ripple by ESR",
    demand="resistance_ripple",
    capability="allowed_resistance_ripple",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="Across their series resistance the pulses make {demand}; {capability} is allowed.",
    why="The switches' rail jumps by it at every edge.",
    remedies=(Move("bulk_quantity", "up", 4.0),),
)
source_input.check(
    "bulk_cold",
    title="Bulk ripple by ESR, cold",
    demand="cold_ripple",
    capability="allowed_cold_ripple",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="At −20 °C the pulses make {demand} across the series resistance; {capability} is allowed.",
    why="A cold start sags into the lock-outs.",
    remedies=(Move("bulk_quantity", "up", 4.0), Move("cold_factor", "down", 2.0)),
)

for _name, _unit, _symbol, _text, _alone in (
    ("bank_capacitance", "F", r"C_\mathrm{bank}", "Capacitance of the input bank.", 4e-3),
    ("bank_resistance", "Ω", r"\mathrm{ESR}_\mathrm{bank}", "Series resistance of the input bank.", 5e-3),
):
    word(_name, _unit, _symbol, _text, _alone)
