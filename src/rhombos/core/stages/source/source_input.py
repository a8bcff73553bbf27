"""Input, second part: bulk capacitors, losses, their judgements (2.3)."""

from rhombos.core.graph.declare import Move, every
from rhombos.core.parts.columns import CAPACITOR
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.stages.source.source_input_line import source_input
from rhombos.core.vocabulary import word

RIPPLE = "charge balance of rectangular pulses"

source_input.give(
    "bulk_ripple_share", 0.02, "", r"\delta_\mathrm{bulk}", 0.001, 0.2, "Ripple allowed on the bulk capacitors, of the source voltage.", "Bulk ripple allowed"
)

source_input.give(
    "cold_factor",
    7.0,
    "",
    r"k_\mathrm{cold}",
    1,
    20,
    "Series resistance of an electrolytic at −20 °C over warm (5 to 10) [judgement].",
    "Cold factor of the ESR",
    judgement=True,
)

source_input.give(
    "cold_ripple_share",
    0.1,
    "",
    r"\delta_\mathrm{cold}",
    0.005,
    0.5,
    "Ripple allowed on the cold bulk capacitors, of the source voltage [judgement].",
    "Cold bulk ripple allowed",
    judgement=True,
)


@source_input.operation(unit="A", symbol=r"I_{C,rms}", source="surge left out", title="Bulk capacitor current", tex=r"(1-{surge})\,{drawn_ripple_current}")
def bulk_current(surge, drawn_ripple_current):
    """Rms ripple current of the bulk capacitors where it lasts: what the converter draws less its mean."""
    return (1 - surge) * drawn_ripple_current


@source_input.operation(
    unit="F", symbol=r"C_\mathrm{need}", source=RIPPLE, title="Bulk capacitance needed", tex=r"\frac{drawn_ripple_charge}{{bulk_ripple_share}\,{input_voltage}}"
)
def needed_bulk_capacitance(drawn_ripple_charge, bulk_ripple_share, input_voltage):
    """Bulk capacitance that keeps the ripple small in the crest of the output's power."""
    return drawn_ripple_charge / (bulk_ripple_share * input_voltage)


@source_input.operation(unit="A", symbol=r"\hat I_\mathrm{pk}", source="surge left out", title="Step of the current", tex=r"(1-{surge})\,{drawn_step}")
def lasting_pulse_height(surge, drawn_step):
    """Step of the current that the converter draws, in the crest of the output's power, at the corners that last."""
    return (1 - surge) * drawn_step


source_input.pick(
    "bulk",
    "bulk",
    CAPACITOR,
    title="Bulk capacitor",
    quantities=(1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 20, 24),
    source=RIPPLE,
    needs=("bulk_voltage", "bulk_ripple", "bulk_capacitance", "bulk_resistance", "bulk_cold", "line_damped"),
    sentence="Cheapest bulk capacitors in parallel whose voltage, ripple current, capacitance and ESR, warm and cold, suit, and that damp the source line.",
)


@source_input.operation(unit="V", symbol=r"\Delta V_C", source=RIPPLE, title="Bulk ripple", tex=r"(1-{surge})\frac{drawn_ripple_charge}{bank_capacitance}")
def bulk_ripple(surge, drawn_ripple_charge, bank_capacitance):
    """Peak-to-peak ripple of the bulk capacitors by their charge, at the corners that last."""
    return (1 - surge) * drawn_ripple_charge / bank_capacitance


@source_input.operation(
    unit="V",
    symbol=r"\Delta V_\mathrm{allow}",
    source="share of the source voltage",
    title="Bulk ripple allowed, volts",
    tex=r"{bulk_ripple_share}\,{input_voltage}",
)
def allowed_bulk_ripple(bulk_ripple_share, input_voltage):
    """Ripple by charge that is allowed."""
    return bulk_ripple_share * input_voltage


@source_input.operation(unit="V", symbol=r"\Delta V_\mathrm{ESR}", source="Ohm's law", title="Ripple by ESR", tex=r"{lasting_pulse_height}\,{bank_resistance}")
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
    unit="V",
    symbol=r"\Delta V_\mathrm{cold,allow}",
    source="share of the source voltage",
    title="Cold ripple allowed, volts",
    tex=r"{cold_ripple_share}\,{input_voltage}",
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
    grows=BY_DRAWN,
    tex=r"{drawn_ripple_current}^2\,{bank_resistance}",
    example=({"drawn_ripple_current": 20, "bank_resistance": 5e-3}, 2.0),
)
def loss(drawn_ripple_current, bank_resistance):
    """Loss in the series resistance of the bulk capacitors."""
    return drawn_ripple_current**2 * bank_resistance


@source_input.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the battery at the converter's terminals."""
    return output_power + losses


@source_input.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{fuse_price}+{bulk_quantity}\,{bulk_price}+{cable_price}")
def cost(fuse_price, bulk_quantity, bulk_price, cable_price):
    """Cost of fuse, capacitors and cable."""
    return fuse_price + bulk_quantity * bulk_price + cable_price


@source_input.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{fuse_mass}+{bulk_quantity}\,{bulk_mass}+{cable_mass}")
def mass(fuse_mass, bulk_quantity, bulk_mass, cable_mass):
    """Mass of fuse, capacitors and the cable's copper."""
    return fuse_mass + bulk_quantity * bulk_mass + cable_mass


@source_input.build(unit="", symbol="n", source="count", title="Parts", tex=r"{bulk_quantity}+2", example=({"bulk_quantity": 6}, 8))
def part_count(bulk_quantity):
    """Capacitors, fuse and cable."""
    return bulk_quantity + 2


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
    remedies=(Move("bulk_quantity", "up", 4.0), Move("cold_factor", "down", 2.0, "world")),
)

for _name, _unit, _symbol, _text, _alone in (
    ("drawn_ripple_current", "A", r"I_{in,\sim}", "Rms ripple of the current that the converter draws, at its switching frequency.", 17),
    ("drawn_ripple_charge", "C", r"Q_{in,\sim}", "Charge that the converter's ripple takes from the bulk capacitors and gives back.", 120e-6),
    ("drawn_step", "A", r"\Delta I_{in}", "Step of the current that the converter draws, in the crest of the output's power.", 60),
    ("bank_capacitance", "F", r"C_\mathrm{bank}", "Capacitance of the input bank.", 4e-3),
    ("bank_resistance", "Ω", r"\mathrm{ESR}_\mathrm{bank}", "Series resistance of the input bank.", 5e-3),
):
    word(_name, _unit, _symbol, _text, _alone)

source_input.order("Battery cable", "{cable_area}", "{cable_length} each way, lugs crimped", price="cable_price")

__all__ = ["source_input"]
