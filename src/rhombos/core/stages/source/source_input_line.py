"""Input, first part: fuse, cable, contacts (2.1)."""

import numpy as np

from rhombos.core.formulas.numeric import highest_lasting, lowest_lasting, next_of, up
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.magnetics.copper import RHO_70
from rhombos.core.parts.columns import FUSE
from rhombos.core.stages.sizes import BY_SOURCE_CURRENT

FUSES = "IEC 60269 and battery-style series; continuous loading limit and time-current curve"

RIPPLE = "charge balance of rectangular pulses"

CABLE_AREAS = np.array([1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185]) * 1e-6

source_input = Stage("source_input", "Input", telling="{fuse}")
source_input.bus("dc", "input_voltage", "source_current")
source_input.ask("source", "cable_length")

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
    "cable_drop_share",
    0.03,
    "",
    r"\delta_\mathrm{cable}",
    0.002,
    0.2,
    "Drop allowed along the cable, of the lowest source voltage that lasts.",
    "Cable drop allowed",
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
    unit="A", symbol=r"I_\mathrm{fuse,min}", source=FUSES, title="Fuse needed", tex=r"\frac{\max_\mathrm{lasting}({source_rms_current})}{continuous_share}"
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


source_input.pick(
    "fuse",
    "fuse",
    FUSE,
    title="Fuse",
    source=FUSES,
    needs=("fuse_carries", "fuse_voltage", "fuse_breaks"),
    sentence="Cheapest fuse that carries the current and the surge, and breaks the battery's fault current. "
    "It protects the cable and limits fire; the I²t that kills a semiconductor is far below that of any such fuse.",
)


@source_input.build(
    unit="A",
    symbol=r"I_\mathrm{last}",
    source="power over voltage",
    title="Lasting current",
    tex=r"\max\left(\max_\mathrm{lasting}({source_current}),\,\frac{rated_active_power}{\min_\mathrm{lasting}({source_voltage})}\right)",
    example=({"source_current": 60, "rated_active_power": 1200, "source_voltage": 22}, 60),
)
def lasting_source_current(source_current, rated_active_power, source_voltage):
    """Highest current that lasts: never less than what the brief's watts alone draw at the lowest voltage that lasts."""
    lasting, least = highest_lasting(source_current), rated_active_power / lowest_lasting(source_voltage)
    # Where no corner has settled yet, the least that it can be.
    return np.where(lasting > least, lasting, least)


@source_input.build(
    unit="V",
    symbol=r"\Delta V_\mathrm{cable}",
    source="share of the lowest voltage that lasts",
    title="Drop allowed along the cable",
    tex=r"{cable_drop_share}\min_\mathrm{lasting}({source_voltage})",
    example=({"cable_drop_share": 0.03, "source_voltage": 22}, 0.66),
)
def allowed_cable_drop(cable_drop_share, source_voltage):
    """Volts that both ways of the cable may take while it lasts."""
    return cable_drop_share * lowest_lasting(source_voltage)


@source_input.operation(
    unit="A",
    symbol=r"I_\delta",
    source="the same watts through a cable that drops all it may",
    title="Current at the drop allowed",
    tex=r"\frac{{input_voltage}\,{source_current}}{{input_voltage}+{source_current}\,{cable_resistance}-{allowed_cable_drop}}",
    example=({"input_voltage": 21.5, "source_current": 60, "cable_resistance": 2e-3, "allowed_cable_drop": 0.66}, 61.521),
)
def current_at_allowed_drop(input_voltage, source_current, cable_resistance, allowed_cable_drop):
    """What the source would give if the cable dropped as much as it may: a cable that is thicker than it need be must not ask for less of itself."""
    return input_voltage * source_current / (input_voltage + source_current * cable_resistance - allowed_cable_drop)


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{last}",
    source="ampacity, and drop over both ways",
    title="Cable area for what lasts",
    empirical=True,
    tex=r"\max\left(\frac{fuse_rated_current}{cable_density},\;\frac{2\rho_{70}\,{cable_length}\max\left({lasting_source_current},\,\max_\mathrm{lasting}({current_at_allowed_drop})\right)}{allowed_cable_drop}\right)",
    example=(
        {
            "fuse_rated_current": 63,
            "cable_density": 5e6,
            "cable_length": 1,
            "lasting_source_current": 60,
            "current_at_allowed_drop": 60,
            "allowed_cable_drop": 0.66,
        },
        12.6e-6,
    ),
)
def lasting_cable_area(fuse_rated_current, cable_density, cable_length, lasting_source_current, current_at_allowed_drop, allowed_cable_drop):
    """Copper area of the cable from ampacity behind the fuse, and from the drop."""
    current = np.fmax(lasting_source_current, highest_lasting(current_at_allowed_drop))
    return np.maximum(fuse_rated_current / cable_density, 2 * RHO_70 * cable_length * current / allowed_cable_drop)


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{need}",
    source="ampacity, drop over both ways, starts",
    title="Cable area needed",
    empirical=True,
    tex=r"\min\left(\max({starting_cable_area},{lasting_cable_area}),\,{cable_thickening}\,{lasting_cable_area}\right)",
    example=({"lasting_cable_area": 12.6e-6, "starting_cable_area": 20e-6, "cable_thickening": 4}, 20e-6),
)
def needed_cable_area(lasting_cable_area, starting_cable_area, cable_thickening):
    """Copper area of the cable: what lasts asks for, and more for starts, up to so many times that."""
    return np.minimum(np.maximum(starting_cable_area, lasting_cable_area), cable_thickening * lasting_cable_area)


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{cable}",
    source="standard areas",
    title="Cable area",
    start=16e-6,
    grows=BY_SOURCE_CURRENT,
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
    unit="Ω",
    symbol=r"R_\mathrm{line}",
    source="resistances in series",
    title="Line resistance",
    tex=r"{cable_resistance}+{contact_resistance}+{polarity_resistance}",
)
def line_resistance(cable_resistance, contact_resistance, polarity_resistance):
    """Resistance from the pack's terminals to the converter's: cable, contacts, and a part against reverse polarity."""
    return cable_resistance + contact_resistance + polarity_resistance


source_input.rename(source_voltage="input_voltage", output_voltage="input_voltage")


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
    remedies=(Move("cell_resistance", "up", 3.0, "world"),),
)

source_input.trip("Battery fuse", "fuse_rated_current", after="hours to milliseconds, by its curve", resets="a new fuse, after the fault is found")
