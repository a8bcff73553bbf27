"""Gate drive, second part: charge, power, delays, dead time, judgements (3.2, 3.3)."""

import numpy as np

from rhombos.core.formulas.numeric import highest
from rhombos.core.graph.declare import Move
from rhombos.core.stages.control import gating
from rhombos.core.stages.control.gate_levels import BAL, gate_drive
from rhombos.core.vocabulary import word


@gate_drive.operation(
    unit="F",
    symbol=r"C_\mathrm{above}",
    source="the part's own charge curve: up to the plateau by C_iss, then Q_gd, then the rest",
    title="Gate capacitance above the plateau",
    tex=r"\frac{\max({switch_gate_charge}-{switch_gate_drain_charge}-{switch_input_capacitance}\,{plateau_voltage},\,0)}{\max({switch_charge_voltage}-{plateau_voltage},\,0.02\,{switch_charge_voltage})}",
    example=(
        {"switch_gate_charge": 100e-9, "switch_gate_drain_charge": 20e-9, "switch_input_capacitance": 5e-9, "plateau_voltage": 4, "switch_charge_voltage": 10},
        10e-9,
    ),
)
def capacitance_above(switch_gate_charge, switch_gate_drain_charge, switch_input_capacitance, plateau_voltage, switch_charge_voltage):
    """Capacitance that acts between the plateau and the full gate voltage."""
    return gating.capacitance_above(switch_gate_charge, switch_gate_drain_charge, switch_input_capacitance, switch_charge_voltage, plateau_voltage)


@gate_drive.operation(
    unit="C",
    symbol=r"Q_\mathrm{drive}",
    source=BAL,
    title="Gate charge at this gate voltage",
    tex=r"{switch_gate_charge}+{capacitance_above}\,({gate_on_voltage}-{switch_charge_voltage})",
)
def drive_charge(switch_gate_charge, capacitance_above, gate_on_voltage, switch_charge_voltage):
    """Charge of one gate for the voltage that it is driven to; the data sheet states it for another."""
    return switch_gate_charge + capacitance_above * (gate_on_voltage - switch_charge_voltage)


@gate_drive.build(unit="C", symbol=r"\hat Q_\mathrm{drive}", source="highest over the corners", title="Highest gate charge", tex=r"\max({drive_charge})")
def gate_charge(drive_charge):
    """Highest charge of one gate over the source window."""
    return highest(drive_charge)


gate_drive.give(
    "boost_efficiency", 0.8, "", r"\eta_b", 0.3, 0.98, "Efficiency of the boosted supply [judgement].", "Efficiency of the boosted supply", judgement=True
)
gate_drive.give("boost_rating", 5.0, "W", r"P_{b,\mathrm{rat}}", 0.01, 100, "Power that the boosted supply gives for good.", "Rating of the boosted supply")
gate_drive.give(
    "boost_price", 2.4, "credit", r"c_b", 0, 100, "Price of controller, choke, diode and capacitors [judgement].", "Price of the boosted supply", judgement=True
)


@gate_drive.operation(
    unit="A",
    symbol=r"I_\mathrm{gate}",
    source=BAL,
    title="Gate supply current",
    tex=r"{switch_positions}\,{switch_quantity}\,{drive_charge}\,{gate_frequency}",
    example=({"switch_positions": 2, "switch_quantity": 2, "drive_charge": 100e-9, "gate_frequency": 40e3}, 0.016),
)
def gate_current(switch_positions, switch_quantity, drive_charge, gate_frequency):
    """Mean current that all gates of the stage take: charge times frequency."""
    return switch_positions * switch_quantity * drive_charge * gate_frequency


@gate_drive.operation(
    unit="W",
    symbol=r"P_\mathrm{gate}",
    source=BAL,
    title="Loss",
    start=1.0,
    tex=r"{gate_current}\begin{cases}{gate_supply_voltage}/{boost_efficiency}&{boosted}=1\\{terminal_voltage}&\text{else}\end{cases}",
    example=({"gate_current": 16e-3, "boosted": 0, "gate_supply_voltage": 15, "boost_efficiency": 0.8, "terminal_voltage": 24}, 0.384),
)
def loss(gate_current, boosted, gate_supply_voltage, boost_efficiency, terminal_voltage):
    """Power that the gates take from the source: through a linear regulator at the source's voltage, or through the boost converter."""
    return gate_current * np.where(boosted > 0, gate_supply_voltage / boost_efficiency, terminal_voltage)


@gate_drive.operation(
    unit="W",
    symbol=r"P_\mathrm{boost}",
    source="power of a supply",
    title="Power of the boosted supply",
    tex=r"{boosted}\,{gate_current}\,{gate_supply_voltage}",
    example=({"boosted": 1, "gate_current": 16e-3, "gate_supply_voltage": 15}, 0.24),
)
def boost_power(boosted, gate_current, gate_supply_voltage):
    """Power that the boost converter gives to the gates; none where there is none."""
    return boosted * gate_current * gate_supply_voltage


gate_drive.give(
    "driver_price", 1.1, "credit", r"c_\mathrm{drv}", 0, 100, "Price of the driver of one position [judgement].", "Price of a driver", judgement=True
)

gate_drive.give(
    "gate_parts_price", 0.12, "credit", r"c_g", 0, 20, "Price of the resistors of one gate [judgement].", "Price of a gate's resistors", judgement=True
)


@gate_drive.build(
    unit="credit",
    symbol="c",
    source="[judgement] drivers and small parts",
    title="Cost",
    tex=r"{switch_positions}\left({driver_price}+{switch_quantity}\,{gate_parts_price}\right)+{boosted}\,{boost_price}",
)
def cost(switch_positions, driver_price, switch_quantity, gate_parts_price, boosted, boost_price):
    """Cost of drivers and gate resistors, and of the boosted supply where there is one."""
    return switch_positions * (driver_price + switch_quantity * gate_parts_price) + boosted * boost_price


@gate_drive.build(
    unit="",
    symbol="n",
    source="count",
    title="Parts",
    tex=r"{switch_positions}\,(1+3\,{switch_quantity})+5\,{boosted}",
    example=({"switch_positions": 2, "switch_quantity": 2, "boosted": 1}, 19),
)
def part_count(switch_positions, switch_quantity, boosted):
    """A driver for each position; resistors on, off and pull-down for each gate; controller, choke, diode and two capacitors of a boosted supply."""
    return switch_positions * (1 + 3 * switch_quantity) + 5 * boosted


@gate_drive.operation(
    unit="s",
    symbol=r"t_\mathrm{d,off}",
    source=BAL,
    title="Turn-off delay",
    tex=r"{gate_path_off}\,{capacitance_above}\ln\frac{gate_on_voltage}{plateau_voltage}",
    example=({"gate_path_off": 10, "capacitance_above": 6e-9, "gate_on_voltage": 12, "plateau_voltage": 4}, 65.917e-9),
)
def turn_off_delay(gate_path_off, capacitance_above, gate_on_voltage, plateau_voltage):
    """Delay before the turn-off edge: the gate falls from its level to the plateau with the capacitance that acts there."""
    return gate_path_off * capacitance_above * np.log(gate_on_voltage / plateau_voltage)


@gate_drive.operation(
    unit="s",
    symbol=r"t_\mathrm{d,on}",
    source=BAL,
    title="Turn-on delay",
    tex=r"{gate_path_on}{switch_input_capacitance}\ln\frac{gate_on_voltage}{{gate_on_voltage}-{switch_threshold_voltage}}",
    example=({"gate_path_on": 10, "switch_input_capacitance": 3e-9, "gate_on_voltage": 12, "switch_threshold_voltage": 3}, 8.6305e-9),
)
def turn_on_delay(gate_path_on, switch_input_capacitance, gate_on_voltage, switch_threshold_voltage):
    """Delay before the turn-on edge."""
    return gate_path_on * switch_input_capacitance * np.log(gate_on_voltage / (gate_on_voltage - switch_threshold_voltage))


gate_drive.give("driver_mismatch", 30e-9, "s", r"t_\mathrm{mis}", 0, 1e-06, "Difference of the two drivers' propagation delays.", "Driver mismatch")

gate_drive.give(
    "dead_time_margin",
    50e-9,
    "s",
    r"t_\mathrm{m}",
    0,
    1e-06,
    "Least margin on the dead time; a fifth of the rest where that is more.",
    "Least dead-time margin",
)


@gate_drive.operation(
    unit="s",
    symbol=r"t_\mathrm{dead,min}",
    source="handbook of gate timing: off delay and edge less on delay",
    title="Dead time needed",
    tex=r"\begin{gathered}t+\max({dead_time_margin},\,t/5)\\t={turn_off_delay}+{turn_off_time}-{turn_on_delay}+{driver_mismatch}\end{gathered}",
    example=({"turn_off_delay": 33e-9, "turn_off_time": 59e-9, "turn_on_delay": 9e-9, "driver_mismatch": 30e-9, "dead_time_margin": 50e-9}, 163e-9),
)
def needed_dead_time(turn_off_delay, turn_off_time, turn_on_delay, driver_mismatch, dead_time_margin):
    """Dead time that keeps the two switches from conducting together."""
    rest = turn_off_delay + turn_off_time - turn_on_delay + driver_mismatch
    return rest + np.maximum(dead_time_margin, rest / 5)


@gate_drive.operation(
    unit="V",
    symbol=r"V_\mathrm{full}",
    tex=r"\max({plateau_voltage}+3\,\mathrm{V},\;{switch_full_on_voltage})",
    source=BAL,
    title="Gate voltage for fully on",
    empirical=True,
    example=({"plateau_voltage": 4, "switch_full_on_voltage": 10}, 10),
)
def fully_on_voltage(plateau_voltage, switch_full_on_voltage):
    """Gate voltage at which the device is fully on at its peak current: 3 V above the plateau, and what its on-resistance is stated for."""
    return np.maximum(plateau_voltage + 3, switch_full_on_voltage)


gate_drive.check(
    "gate_window",
    title="Gate rating",
    demand="highest_gate_voltage",
    capability="gate_voltage_limit",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The gate sees up to {demand}; it stands {capability}.",
    why="Above its rating the gate oxide is punctured and the switch fails short.",
    remedies=(Move("gate_supply_voltage", "down", 2.0),),
)

gate_drive.check(
    "fully_on",
    title="Fully on",
    demand="fully_on_voltage",
    capability="gate_on_voltage",
    fail=1.0,
    hold=1.0,  # the reserve is in the 3 V above the plateau
    harm="equipment",
    sentence="Fully on needs {demand} at the gate; it gets {capability}.",
    why="A half-open switch loses many times its rated loss.",
    remedies=(Move("gate_supply_voltage", "up", 2.0),),
)

gate_drive.check(
    "boosted_supply",
    title="Boosted supply",
    demand="boost_power",
    capability="boost_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The gates take {demand} from the boosted supply; it gives {capability}.",
    why="A gate supply that sags leaves the switches half open.",
    remedies=(Move("boost_rating", "up", 5.0),),
)

gate_drive.check(
    "driver_current",
    title="Driver current",
    demand="driver_peak_current",
    capability="driver_current_limit",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The gates ask for {demand} peak; the driver gives {capability}.",
    why="A short driver makes slow edges and hot switches.",
    remedies=(Move("wanted_off_plateau", "up", 4.0), Move("wanted_on_plateau", "up", 4.0), Move("driver_current_limit", "up", 3.0)),
)

gate_drive.check(
    "dead_time",
    title="Dead time",
    demand="needed_dead_time",
    capability="available_dead_time",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The switches need {demand} between them; they get {capability}.",
    why="Both on at once short the supply through the switches or the winding.",
    remedies=(Move("wanted_off_plateau", "down", 4.0),),
)

for _name, _unit, _symbol, _text, _alone in (
    ("switch_gate_rated_voltage", "V", r"V_{GS,max}", "Highest allowed gate-source voltage.", 20),
    ("switch_threshold_voltage", "V", r"V_{th}", "Gate threshold voltage.", 3),
    ("switch_transconductance", "S", r"g_{fs}", "Forward transconductance.", 100),
    ("switch_quantity", "", "n", "Switches in parallel.", 1),
    ("switch_gate_drain_charge", "C", r"Q_{gd}", "Gate-drain charge.", 20e-9),
    ("switch_internal_gate_resistance", "Ω", r"R_{g,int}", "Internal gate resistance.", 1.5),
    ("switch_input_capacitance", "F", r"C_{iss}", "Input capacitance.", 4e-9),
    ("switch_gate_charge", "C", r"Q_g", "Total gate charge.", 80e-9),
    ("switch_charge_voltage", "V", r"V_Q", "Gate voltage that the gate charge is stated for.", 10),
    ("switch_full_on_voltage", "V", r"V_{R}", "Gate voltage that the on-resistance is stated for.", 10),
    ("gate_charge", "C", r"\hat Q_\mathrm{drive}", "Highest charge of one gate.", 90e-9),
    ("switch_positions", "", r"n_{sw}", "Switch positions of the stage.", 2),
    ("switched_current", "A", r"I_\mathrm{sw}", "Current that one position switches.", 40),
    ("gate_frequency", "Hz", r"f_\mathrm{sw}", "Frequency that one switch sees.", 40e3),
    ("available_dead_time", "s", r"t_\mathrm{dead}", "Dead time that the timing leaves.", 500e-9),
    ("gate_on_voltage", "V", r"V_\mathrm{on}", "Level that turns the gate on.", 12),
    ("turn_on_time", "s", r"t_\mathrm{on}", "Turn-on edge.", 30e-9),
    ("turn_off_time", "s", r"t_\mathrm{off}", "Turn-off edge.", 30e-9),
):
    word(_name, _unit, _symbol, _text, _alone)

GATES = ("switch_positions", "switch_quantity")
gate_drive.order("Gate driver", "{driver_peak_current} peak", "one for each position", count=("switch_positions",), price="driver_price")
gate_drive.order("Gate resistor, on", "{gate_resistor_on}", "one for each device", count=GATES, price=("gate_parts_price", 0.4))
gate_drive.order("Gate resistor, off", "{gate_resistor_off}", "one for each device, with its diode", count=GATES, price=("gate_parts_price", 0.5))
gate_drive.order("Boosted gate supply", "{gate_supply_voltage}", "{boost_power} of {boost_rating}", count=("boosted",), price="boost_price")
gate_drive.order("Gate pull-down", "{pull_down}", "one for each device, at its legs", count=GATES, price=("gate_parts_price", 0.1))

__all__ = ["gate_drive"]
