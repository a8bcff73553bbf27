"""The limiter of the first power-up: lamps in series, cold and hot, or a supply's own limit (7.3)."""

import numpy as np

from rhombos.core.formulas.numeric import lowest, next_of, up
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.vocabulary import word

LAMP = "filament lamp: hot W/V, cold about ten times that for a tenth of a second"
LAMPS = np.array([2, 5, 10, 21, 35, 55, 75, 100, 150, 200, 300, 500, 1000])

first_power = Stage("first_power", "First power", path=False, telling="{lamp_watts}")
first_power.hazard("dc_voltage", "highest_source_voltage")
first_power.hazard("energy", "bank_energy")

first_power.give("lamp_voltage", 24.0, "V", r"V_\mathrm{lamp}", 2, 400, "Voltage that each lamp is made for.", "Voltage of a lamp")
first_power.give(
    "cold_ratio", 10.0, "", r"k_\mathrm{cold}", 5, 20, "Cold over hot current of a lamp (halogen 12 to 15) [judgement].", "Cold over hot", judgement=True
)
first_power.give(
    "idle_share",
    0.1,
    "",
    r"k_\mathrm{idle}",
    0.01,
    0.9,
    "Part of its hot current that idling may draw, so that it barely warms [judgement].",
    "Idling over the lamp",
    judgement=True,
)


@first_power.build(
    unit="",
    whole=True,
    symbol=r"n_\mathrm{lamp}",
    source="rated voltage of the lamps together at least that of the supply",
    title="Lamps in series",
    tex=r"\left\lceil\frac{highest_source_voltage}{lamp_voltage}\right\rceil",
    example=({"highest_source_voltage": 29.2, "lamp_voltage": 24}, 2),
)
def lamps_in_series(highest_source_voltage, lamp_voltage):
    """Lamps in series that stand the supply into a short."""
    return up(highest_source_voltage / lamp_voltage)


@first_power.build(unit="A", symbol=r"I_0", source="least of the corners", title="Idle current", tex=r"\min({running_current})")
def idle_current(running_current):
    """Current that the whole draws idling: what the limiter must let pass."""
    return lowest(running_current)


@first_power.build(
    unit="W",
    symbol=r"W",
    source=LAMP,
    title="Lamp",
    empirical=True,
    tex=r"\operatorname{lamp}_\uparrow\left(\frac{{idle_current}\,{lamp_voltage}}{idle_share}\right)",
    example=({"idle_current": 0.3, "lamp_voltage": 24, "idle_share": 0.1}, 75),
)
def lamp_watts(idle_current, lamp_voltage, idle_share):
    """Watts of each lamp, the next that is sold: idling barely warms it, so nearly all of the supply arrives."""
    return next_of(LAMPS, idle_current * lamp_voltage / idle_share)


@first_power.build(unit="A", symbol=r"I_\mathrm{hot}", source=LAMP, title="Lets through, hot", tex=r"\frac{lamp_watts}{lamp_voltage}")
def hot_limit(lamp_watts, lamp_voltage):
    """Current into a fault once the filament glows."""
    return lamp_watts / lamp_voltage


@first_power.build(unit="A", symbol=r"I_\mathrm{cold}", source=LAMP, title="Lets through, cold", tex=r"{cold_ratio}\,{hot_limit}")
def cold_limit(cold_ratio, hot_limit):
    """Current into a fault for the first tenth of a second."""
    return cold_ratio * hot_limit


@first_power.build(
    unit="A",
    symbol=r"I_\mathrm{lim}",
    source="[judgement] twice the idle current",
    title="Or: limit of a supply",
    tex=r"2\,{idle_current}",
    example=({"idle_current": 0.3}, 0.6),
)
def supply_setting(idle_current):
    """Limit of a bench supply that takes the lamps' place; its own output capacitor is not limited."""
    return 2 * idle_current


first_power.check(
    "cold",
    title="Cold lamp within the pulsed rating",
    demand="cold_limit",
    capability="limited_pulse_rating",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="For a tenth of a second a fault draws {demand}; the switches stand {capability}.",
    why="A limiter that lets the fault through is an ornament.",
    remedies=(Move("idle_share", "up", 5.0),),
)
first_power.check(
    "hot",
    title="Hot lamp within the lasting rating",
    demand="hot_limit",
    capability="limited_rating",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="Into a fault the lamps let {demand} through for good; the switches carry {capability}.",
    why="What burns must be the lamp.",
    remedies=(Move("idle_share", "up", 5.0),),
)
first_power.procedure(
    "First power, limited",
    "Test parts first, good parts last. Between the bulk capacitors and the stage under test: {lamps_in_series} lamps of {lamp_watts}, {lamp_voltage} each, in series; or a supply limited to {supply_setting}. Upstream of the charged bank ({bank_energy}) neither limits what the bank puts into a fault.",
    "On: one short glow at most, then dark. Idling draws about {idle_current}. A lamp that goes on glowing has a fault behind it: off, discharge, look for it.",
    "A fault draws {cold_limit} for a tenth of a second, then {hot_limit}.",
    "Only when it stays dark through a minute, and again after a restart: without the lamps, at a tenth of the load.",
)

word("limited_rating", "A", r"I_\mathrm{rat}", "Lasting current that the stage behind the limiter stands.", 80)
word("limited_pulse_rating", "A", r"I_\mathrm{SOA}", "Pulse that the stage behind the limiter stands.", 400)
word("bank_energy", "J", r"E_\mathrm{bank}", "Energy in the bulk capacitors.", 3.5)
word("running_current", "A", r"I_\mathrm{run}", "Current that the whole draws at its corners, idling among them.", 0.4)
