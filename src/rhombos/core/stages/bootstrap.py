"""High-side supply by bootstrap (3.4), on high-frequency legs; the bound without iteration."""

import numpy as np

from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.numeric import highest, lowest, nearest_in
from rhombos.core.stages.gate_drive import BAL
from rhombos.core.vocabulary import word

bootstrap = Stage("bootstrap", "Bootstrap", path=False, telling="{bootstrap_capacitor}")


bootstrap.give("bootstrap_diode_voltage", 1.0, "V", r"V_{F,b}", 0, 3, "Forward voltage of the bootstrap diode.", "Bootstrap diode drop")
bootstrap.give("low_side_drop", 0.3, "V", r"V_\mathrm{low}", 0, 10, "Drop of the low-side switch while the capacitor is refreshed.", "Low-side drop")
bootstrap.give(
    "lockout_voltage",
    8.7,
    "V",
    r"V_\mathrm{UVLO}",
    3,
    15,
    "Highest voltage at which the driver's undervoltage lock-out may still act.",
    "Undervoltage lock-out",
)
bootstrap.give("level_shift_charge", 5e-9, "C", r"Q_{ls}", 0, 1e-07, "Charge that the level shifter takes per cycle.", "Level-shifter charge")
bootstrap.give("bootstrap_recovery_charge", 10e-9, "C", r"Q_{rr,b}", 0, 1e-06, "Recovery charge of the bootstrap diode.", "Diode recovery charge")
bootstrap.give("high_side_current", 300e-6, "A", r"I_q", 0, 0.01, "Supply current of the high side and leakage.", "High-side supply current")
bootstrap.give("gate_pull_down", 10e3, "Ω", r"R_{GS}", 1000.0, 10000000.0, "Gate-source pull-down of one gate.", "Gate pull-down")
bootstrap.give("bootstrap_resistor", 4.7, "Ω", r"R_\mathrm{boot}", 0.1, 100, "Resistor in series with the bootstrap diode.", "Bootstrap resistor")
bootstrap.give("capacitance_derating", 1.6, "", r"k_C", 1, 5, "Nominal over effective capacitance: tolerance and DC bias of a ceramic.", "Capacitor derating")


@bootstrap.build(unit="V", symbol="V_0", tex=r"\min({gate_on_voltage})-{bootstrap_diode_voltage}", source=BAL, title="Full bootstrap voltage")
def full_voltage(gate_on_voltage, bootstrap_diode_voltage):
    """Voltage of the freshly charged capacitor at the lowest gate supply."""
    return lowest(gate_on_voltage) - bootstrap_diode_voltage


@bootstrap.build(
    unit="V",
    symbol=r"\Delta V",
    tex=r"{full_voltage}-{low_side_drop}-({lockout_voltage}+1\,\mathrm{V})",
    source=BAL,
    title="Droop allowed",
    empirical=True,
    example=({"full_voltage": 11, "low_side_drop": 0.3, "lockout_voltage": 8.7}, 1.0),
)
def allowed_droop(full_voltage, low_side_drop, lockout_voltage):
    """Droop that leaves one volt above the lock-out."""
    return full_voltage - low_side_drop - (lockout_voltage + 1)


@bootstrap.build(
    unit="s", symbol=r"t_\mathrm{on,max}", tex=r"\frac{1}{gate_frequency}", source="bound: a whole carrier period", title="Longest high-side on-time"
)
def longest_on_time(gate_frequency):
    """Longest time without refresh on a high-frequency leg: one carrier period."""
    return 1 / gate_frequency


@bootstrap.build(
    unit="C",
    symbol=r"Q_\mathrm{cycle}",
    source=BAL,
    title="Charge per cycle",
    tex=r"{switch_quantity}{switch_gate_charge}+{level_shift_charge}+\left({high_side_current}+\frac{{switch_quantity}{full_voltage}}{gate_pull_down}\right){longest_on_time}",
    example=(
        {
            "switch_quantity": 1,
            "switch_gate_charge": 60e-9,
            "level_shift_charge": 5e-9,
            "high_side_current": 300e-6,
            "full_voltage": 11,
            "gate_pull_down": 10e3,
            "longest_on_time": 50e-6,
        },
        135e-9,
    ),
)
def cycle_charge(switch_quantity, switch_gate_charge, level_shift_charge, high_side_current, full_voltage, gate_pull_down, longest_on_time):
    """Charge that one carrier cycle takes from the capacitor, at most."""
    return switch_quantity * switch_gate_charge + level_shift_charge + (high_side_current + full_voltage * switch_quantity / gate_pull_down) * longest_on_time


@bootstrap.build(unit="C", symbol="Q", tex=r"{cycle_charge}+{bootstrap_recovery_charge}", source=BAL, title="Charge per on-time")
def on_time_charge(cycle_charge, bootstrap_recovery_charge):
    """Charge of one on-time with the diode's recovery."""
    return cycle_charge + bootstrap_recovery_charge


@bootstrap.build(
    unit="F",
    symbol=r"C_\mathrm{need}",
    source=BAL,
    title="Effective capacitance needed",
    tex=r"\max\left(\frac{2\,{on_time_charge}}{allowed_droop},\,\frac{10\,{switch_quantity}{switch_gate_charge}}{\max({gate_on_voltage})}\right)",
    example=({"on_time_charge": 145e-9, "allowed_droop": 1.0, "switch_quantity": 1, "switch_gate_charge": 60e-9, "gate_on_voltage": 12}, 290e-9),
)
def needed_capacitance(on_time_charge, allowed_droop, switch_quantity, switch_gate_charge, gate_on_voltage):
    """Effective capacitance: twice the charge over the droop, or ten times the gates'."""
    return np.maximum(2 * on_time_charge / allowed_droop, 10 * switch_quantity * switch_gate_charge / highest(gate_on_voltage))


@bootstrap.build(
    unit="F",
    symbol=r"C_\mathrm{boot}",
    tex=r"\mathrm{E6}\left({capacitance_derating}\,{needed_capacitance}\right)",
    source=BAL,
    safe="up",
    example=({"capacitance_derating": 1.6, "needed_capacitance": 290e-9}, 0.47e-6),
)
def bootstrap_capacitor(capacitance_derating, needed_capacitance):
    """Nominal capacitor to order, next higher preferred value."""
    return nearest_in("E6", "up")(capacitance_derating * needed_capacitance)


@bootstrap.build(
    unit="V",
    symbol=r"V_{C,\mathrm{rat}}",
    tex=r"1.5\,\max({gate_on_voltage})",
    source=BAL,
    title="Voltage rating needed",
    example=({"gate_on_voltage": 12}, 18),
)
def capacitor_voltage_rating(gate_on_voltage):
    """Voltage rating of the bootstrap capacitor."""
    return 1.5 * highest(gate_on_voltage)


@bootstrap.build(unit="s", symbol=r"t_\mathrm{low,min}", tex=r"\frac{{cycle_charge}{bootstrap_resistor}}{allowed_droop}", source=BAL, title="Shortest refresh")
def minimum_low_time(cycle_charge, bootstrap_resistor, allowed_droop):
    """Low-side time that returns the charge of a cycle: bound without iteration."""
    return cycle_charge * bootstrap_resistor / allowed_droop


@bootstrap.build(
    unit="s",
    symbol=r"t_\mathrm{first}",
    tex=r"4.6\,{bootstrap_resistor}{bootstrap_capacitor}",
    source=BAL,
    title="First charge",
    example=({"bootstrap_resistor": 4.7, "bootstrap_capacitor": 0.68e-6}, 14.70e-6),
)
def first_charge_time(bootstrap_resistor, bootstrap_capacitor):
    """Low-side time before the first high-side pulse, to 1 %."""
    return 4.6 * bootstrap_resistor * bootstrap_capacitor


@bootstrap.build(
    unit="V",
    symbol=r"V_{RRM}",
    tex=r"1.25\,(\max({input_voltage})+\max({gate_on_voltage}))",
    source=BAL,
    title="Diode voltage rating needed",
    example=({"input_voltage": 388, "gate_on_voltage": 12}, 500),
)
def diode_voltage_rating(input_voltage, gate_on_voltage):
    """Reverse voltage rating of the bootstrap diode (recovery within 100 ns)."""
    return 1.25 * (highest(input_voltage) + highest(gate_on_voltage))


@bootstrap.build(
    unit="V",
    symbol=r"V_\mathrm{need}",
    tex=r"{lockout_voltage}+{low_side_drop}+1\,\mathrm{V}",
    source=BAL,
    title="Supply needed",
    empirical=True,
    example=({"lockout_voltage": 8.7, "low_side_drop": 0.3}, 10),
)
def needed_supply(lockout_voltage, low_side_drop):
    """Capacitor voltage below which no droop is left."""
    return lockout_voltage + low_side_drop + 1


@bootstrap.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    tex=r"{gate_on_voltage}\,{high_side_current}\,{switch_positions}/2",
    source="high-side supply current",
    title="Loss",
    example=({"gate_on_voltage": 12, "high_side_current": 3e-4, "switch_positions": 4}, 7.2e-3),
)
def loss(gate_on_voltage, high_side_current, switch_positions):
    """Supply of the high sides (the gates' own charge is counted with the gate drive)."""
    return gate_on_voltage * high_side_current * switch_positions / 2


bootstrap.check(
    "droop",
    title="Bootstrap supply",
    demand="needed_supply",
    capability="full_voltage",
    fail=1.0,
    hold=1.05,
    harm="equipment",
    sentence="Lock-out and low-side drop need {demand}; the capacitor is charged to {capability}.",
    why="A starved high side switches half open and burns.",
    remedies=(Move("gate_supply_voltage", "up", 2.0), Move("lockout_voltage", "down", 2.0)),
)
word("minimum_low_time", "s", r"t_\mathrm{low,min}", "Shortest low-side time that refreshes the bootstrap.", 0.6e-6)
