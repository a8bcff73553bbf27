"""Input: fuse, cable, bulk capacitors (2.1, 2.3)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting, lowest, next_of, up
from rhombos.core.parts.columns import CAPACITOR, FUSE
from rhombos.core.vocabulary import word

FUSES = "IEC 60269 and battery-style series; continuous loading limit 0.75"
RIPPLE = "charge balance of rectangular pulses"
RHO_70 = 2.06e-8
CABLE_AREAS = np.array([1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185]) * 1e-6

source_input = Stage("source_input", "Input", telling="{fuse}", caution="battery")


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
source_input.give("cable_price", 6.0, "credit", r"c_\mathrm{cable}", 0, 1000, "Price of the battery cable [judgement].", "Price of the cable", judgement=True)


@source_input.operation(unit="A", symbol=r"I_\mathrm{last}", source="surge left out", title="Lasting current", tex=r"(1-{surge})\,{source_current}")
def lasting_current(surge, source_current):
    """Battery current at the corners that last."""
    return (1 - surge) * source_current


@source_input.build(
    unit="A", symbol=r"I_\mathrm{fuse,min}", source=FUSES, title="Fuse needed", tex=r"\frac{\max({source_current})}{0.75}", example=({"source_current": 39}, 52)
)
def needed_fuse_current(source_current):
    """Fuse rating that the lasting current asks for."""
    return highest_lasting(source_current) / 0.75


@source_input.pick("fuse", "fuse", FUSE, title="Fuse", source=FUSES)
def fuse(part, needed_fuse_current, source_current, highest_source_voltage, fault_current):
    """Cheapest fuse that carries the current and the surge, and breaks the battery's fault current."""
    return [
        Need("rated current over continuous load", part.rated_current, needed_fuse_current, "A"),
        Need("not more than the next ratings", 2.6 * needed_fuse_current, part.rated_current, "A"),
        Need("surge carried", part.rated_current * part.carried_overload, highest(source_current), "A"),
        Need("DC voltage", part.rated_voltage, highest_source_voltage, "V"),
        Need("breaking capacity", part.breaking_capacity, 1.25 * highest(fault_current), "A"),
    ]


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{need}",
    source="ampacity, and drop over both ways",
    title="Cable area needed",
    empirical=True,
    tex=r"\max\left(\frac{fuse_rated_current}{cable_density},\;\frac{2\rho_{70}\,{cable_length}\,\max({source_current})}{{cable_drop_share}\min({source_voltage})}\right)",
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
    tex=r"\mathrm{next}({needed_cable_area})",
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
    tex=r"\frac{2\cdot2.06\cdot10^{-8}\,{cable_length}}{cable_area}",
    example=({"cable_length": 1, "cable_area": 16e-6}, 2.575e-3),
)
def cable_resistance(cable_length, cable_area):
    """Resistance of both ways of the cable, warm."""
    return 2 * RHO_70 * cable_length / cable_area


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
    tex=r"(1-{surge})\,{flat_top_current}\sqrt{{effective_duty}(1-{effective_duty})}",
    example=({"surge": 0, "flat_top_current": 50, "effective_duty": 0.8}, 20),
)
def bulk_current(surge, flat_top_current, effective_duty):
    """Rms ripple current of the bulk capacitors where it lasts: pulses in, mean out."""
    return (1 - surge) * flat_top_current * np.sqrt(effective_duty * (1 - effective_duty))


@source_input.operation(
    unit="F",
    symbol=r"C_\mathrm{need}",
    source=RIPPLE,
    title="Bulk capacitance needed",
    tex=r"\frac{{flat_top_current}\,{effective_duty}(1-{effective_duty})}{2\,{switching_frequency}\,{bulk_ripple_share}\,{input_voltage}}",
    example=({"flat_top_current": 50, "effective_duty": 0.6, "switching_frequency": 40e3, "bulk_ripple_share": 0.02, "input_voltage": 25}, 300e-6),
)
def needed_bulk_capacitance(flat_top_current, effective_duty, switching_frequency, bulk_ripple_share, input_voltage):
    """Bulk capacitance that keeps the ripple small, at twice the switching frequency."""
    return flat_top_current * effective_duty * (1 - effective_duty) / (2 * switching_frequency * bulk_ripple_share * input_voltage)


@source_input.pick("bulk", "bulk", CAPACITOR, title="Bulk capacitor", quantities=(1, 2, 3, 4, 5, 6, 8, 10, 12, 16), source=RIPPLE)
def bulk(part, highest_source_voltage, bulk_current, needed_bulk_capacitance, flat_top_current, bulk_ripple_share, input_voltage):
    """Cheapest bulk capacitors in parallel whose voltage, ripple current, capacitance and ESR suit."""
    n = part.quantity
    return [
        Need("rated voltage with guard", part.rated_voltage, 1.15 * highest_source_voltage, "V"),
        Need("ripple current", n * part.rated_ripple_current, 1.25 * highest_lasting(bulk_current), "A"),
        Need("capacitance", n * part.capacitance, highest_lasting(needed_bulk_capacitance), "F"),
        Need("ripple by ESR", 2 * bulk_ripple_share * lowest(input_voltage), highest_lasting(flat_top_current) * part.series_resistance / n, "V"),
    ]


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


@source_input.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    start=4.0,
    tex=r"{flat_top_current}^2{effective_duty}(1-{effective_duty}){bank_resistance}",
    example=({"flat_top_current": 50, "effective_duty": 0.8, "bank_resistance": 0.005}, 2.0),
)
def loss(flat_top_current, effective_duty, bank_resistance):
    """Loss in the series resistance of the bulk capacitors."""
    return flat_top_current**2 * effective_duty * (1 - effective_duty) * bank_resistance


@source_input.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the battery at the converter's terminals."""
    return output_power + losses


@source_input.operation(
    unit="A",
    symbol=r"I_\mathrm{carry}",
    source=FUSES,
    title="Fuse carries",
    tex=r"{surge}\,{fuse_carried_overload}\,{fuse_rated_current}+(1-{surge})\cdot0.75\,{fuse_rated_current}",
    example=({"surge": 0, "fuse_carried_overload": 1.5, "fuse_rated_current": 60}, 45),
)
def fuse_carries(surge, fuse_carried_overload, fuse_rated_current):
    """What the fuse carries: three quarters of its rating for good, its overload for a surge of up to ten seconds."""
    return surge * fuse_carried_overload * fuse_rated_current + (1 - surge) * 0.75 * fuse_rated_current


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
    demand="source_current",
    capability="fuse_carries",
    fail=0.9,
    hold=1.0,
    harm="none",
    sentence="{demand} flow; the fuse carries {capability} here.",
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

for _name, _unit, _symbol, _text, _alone in (
    ("bank_capacitance", "F", r"C_\mathrm{bank}", "Capacitance of the input bank.", 4e-3),
    ("bank_resistance", "Ω", r"\mathrm{ESR}_\mathrm{bank}", "Series resistance of the input bank.", 5e-3),
):
    word(_name, _unit, _symbol, _text, _alone)
