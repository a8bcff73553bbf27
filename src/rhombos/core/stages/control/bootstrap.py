"""High-side supply by bootstrap (3.4), on high-frequency legs; the law of its repetition without iteration."""

import numpy as np

from rhombos.core.formulas.numeric import highest, known, lowest, nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.stages.control.gate_levels import BAL
from rhombos.core.vocabulary import word

bootstrap = Stage("bootstrap", "Bootstrap", path=False, telling="{bootstrap_capacitor}")
bootstrap.hazard("dc_voltage", "input_voltage")


bootstrap.give("bootstrap_diode_voltage", 1.0, "V", r"V_{F,b}", 0, 3, "Forward voltage of the bootstrap diode.", "Bootstrap diode drop")
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
bootstrap.give(
    "least_resistor", 1.0, "Ω", r"R_{\mathrm{boot},\min}", 0.1, 100, "Least resistor that the bootstrap diode's peak current allows.", "Least resistor"
)
bootstrap.give(
    "usual_resistor",
    4.7,
    "Ω",
    r"R_{\mathrm{boot},0}",
    1.0,
    100,
    "Resistor in series with the bootstrap diode where the refresh leaves the choice.",
    "Usual resistor",
)
bootstrap.give(
    "refresh_share",
    0.05,
    "",
    r"k_\mathrm{ref}",
    0.001,
    0.3,
    "Part of a carrier period that the refresh may take: twice that is lost to modulation [judgement].",
    "Refresh allowed",
    judgement=True,
)
bootstrap.give(
    "bootstrap_price",
    0.5,
    "credit",
    r"c_b",
    0,
    50,
    "Price of diode, resistor and capacitor of one high side [judgement].",
    "Price of one bootstrap",
    judgement=True,
)
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
    """Droop that leaves one volt above the lock-out, the low-side switch's own drop taken off."""
    droop = full_voltage - low_side_drop - (lockout_voltage + 1)
    return known(
        droop > 0,
        droop,
        "no droop is left: charged to {full} V, less {low} V of the low-side switch, against {lockout} V of lock-out and 1 V",
        full=full_voltage,
        low=low_side_drop,
        lockout=lockout_voltage,
    )


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
    tex=r"{switch_quantity}{gate_charge}+{level_shift_charge}+\left({high_side_current}+\frac{{switch_quantity}{full_voltage}}{pull_down}\right){longest_on_time}",
    example=(
        {
            "switch_quantity": 1,
            "gate_charge": 60e-9,
            "level_shift_charge": 5e-9,
            "high_side_current": 300e-6,
            "full_voltage": 11,
            "pull_down": 10e3,
            "longest_on_time": 50e-6,
        },
        135e-9,
    ),
)
def cycle_charge(switch_quantity, gate_charge, level_shift_charge, high_side_current, full_voltage, pull_down, longest_on_time):
    """Charge that one carrier cycle takes from the capacitor, at most."""
    return switch_quantity * gate_charge + level_shift_charge + (high_side_current + full_voltage * switch_quantity / pull_down) * longest_on_time


@bootstrap.build(unit="C", symbol="Q", tex=r"{cycle_charge}+{bootstrap_recovery_charge}", source=BAL, title="Charge per on-time")
def on_time_charge(cycle_charge, bootstrap_recovery_charge):
    """Charge of one on-time with the diode's recovery."""
    return cycle_charge + bootstrap_recovery_charge


@bootstrap.build(
    unit="F",
    symbol=r"C_\mathrm{need}",
    source=BAL,
    title="Effective capacitance needed",
    tex=r"\begin{gathered}\max\left(\begin{cases}\frac{2\,{on_time_charge}}{\max(d,\,0.02\,{full_voltage})}&d>0\\0&\text{else}\end{cases},\;\frac{10\,{switch_quantity}\,{gate_charge}}{\max({gate_on_voltage})}\right)\\d={full_voltage}-{needed_supply}\end{gathered}",
    example=({"on_time_charge": 145e-9, "full_voltage": 11, "needed_supply": 10, "switch_quantity": 1, "gate_charge": 60e-9, "gate_on_voltage": 12}, 290e-9),
)
def needed_capacitance(on_time_charge, full_voltage, needed_supply, switch_quantity, gate_charge, gate_on_voltage):
    """Effective capacitance: twice the charge over the droop, at least ten times the gates'; without droop only that."""
    droop = full_voltage - needed_supply
    by_droop = np.where(droop > 0 * droop, 2 * on_time_charge / np.maximum(droop, 0.02 * full_voltage), 0 * on_time_charge / full_voltage)
    return np.maximum(by_droop, 10 * switch_quantity * gate_charge / highest(gate_on_voltage))


@bootstrap.build(
    unit="F",
    symbol=r"C_\mathrm{boot}",
    tex=r"\mathrm{E6}_\uparrow\left({capacitance_derating}\,{needed_capacitance}\right)",
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


def _spent(cycle_charge, capacitance, full_voltage, needed_supply):
    """Part of the droop that one cycle takes; all of it where there is none."""
    droop = full_voltage - needed_supply
    return np.where(droop > 0 * droop, cycle_charge / (capacitance * np.maximum(droop, 1e-9 * full_voltage)), 1.0)


@bootstrap.build(
    unit="Ω",
    symbol=r"R_\mathrm{boot}",
    source="charge taken and returned in one cycle, repeating: exact",
    title="Bootstrap resistor",
    safe="down",
    tex=r"\begin{gathered}\mathrm{E12}_\downarrow\left(\max\left(\min({usual_resistor},\,R),\,{least_resistor}\right)\right)\\R=\begin{cases}-\frac{allowed_refresh}{C\,\ln(1-u)}&u<1\\0&\text{else}\end{cases}\\u=\begin{cases}{cycle_charge}/(C\,d)&d>0\\1&\text{else}\end{cases}\\C={bootstrap_capacitor}/{capacitance_derating}\\d={full_voltage}-{needed_supply}\end{gathered}",
    example=(
        {
            "usual_resistor": 4.7,
            "least_resistor": 1.0,
            "allowed_refresh": 0.5e-6,
            "bootstrap_capacitor": 0.48e-6,
            "capacitance_derating": 1.6,
            "cycle_charge": 150e-9,
            "full_voltage": 11,
            "needed_supply": 10,
        },
        2.2,
    ),
)
def bootstrap_resistor(usual_resistor, least_resistor, allowed_refresh, bootstrap_capacitor, capacitance_derating, cycle_charge, full_voltage, needed_supply):
    """Resistor in series with the bootstrap diode: the usual one, or what still returns a cycle's charge in the refresh allowed; never below what the diode's peak current asks for."""
    capacitance = bootstrap_capacitor / capacitance_derating
    spent = _spent(cycle_charge, capacitance, full_voltage, needed_supply)
    most = allowed_refresh / (-capacitance * np.log(np.maximum(1 - spent, 1e-9)))
    wanted = np.minimum(usual_resistor, np.where(spent < 1, most, 0 * most))
    return nearest_in("E12", "down")(np.maximum(wanted, least_resistor))


@bootstrap.build(
    unit="s",
    symbol=r"t_\mathrm{low,min}",
    tex=r"\begin{gathered}-{bootstrap_resistor}\,C\,\ln\left(1-\frac{cycle_charge}{C\,{allowed_droop}}\right)\\C=\frac{bootstrap_capacitor}{capacitance_derating}\end{gathered}",
    source="charge taken and returned in one cycle, repeating: exact",
    title="Shortest refresh",
    example=(
        {"bootstrap_resistor": 4.7, "bootstrap_capacitor": 0.48e-6, "capacitance_derating": 1.6, "cycle_charge": 150e-9, "allowed_droop": 1.0},
        0.97723e-6,
    ),
)
def minimum_low_time(bootstrap_resistor, bootstrap_capacitor, capacitance_derating, cycle_charge, allowed_droop):
    """Low-side time that returns the charge of a cycle at the allowed droop, where it repeats."""
    capacitance = bootstrap_capacitor / capacitance_derating
    left = 1 - cycle_charge / (capacitance * allowed_droop)
    return known(
        left > 0,
        -bootstrap_resistor * capacitance * np.log(np.maximum(left, 1e-9 + 0 * left)),
        "the capacitor of {farads} F falls by more than the droop in one cycle: no refresh time is enough",
        farads=capacitance,
    )


@bootstrap.build(
    unit="s",
    symbol=r"t_\mathrm{ref}",
    tex=r"\frac{refresh_share}{gate_frequency}",
    source="[judgement] share of a carrier period",
    title="Refresh allowed, seconds",
)
def allowed_refresh(refresh_share, gate_frequency):
    """Longest refresh that leaves the modulation its room."""
    return refresh_share / gate_frequency


@bootstrap.build(
    unit="s",
    symbol=r"t_\mathrm{low}",
    tex=r"\begin{gathered}\begin{cases}\min(t,\,{allowed_refresh})&u<1\\{allowed_refresh}&\text{else}\end{cases}\\t=-\max({bootstrap_resistor},\,{usual_resistor})\,C\,\ln(1-u)\\u=\begin{cases}{cycle_charge}/(C\,d)&d>0\\1&\text{else}\end{cases}\\C={bootstrap_capacitor}/{capacitance_derating}\\d={full_voltage}-{needed_supply}\end{gathered}",
    source="the shortest refresh, at most what is allowed: beyond that the judgement fails, the pulses are no shorter",
    title="Refresh counted",
    example=(
        {
            "bootstrap_resistor": 3.3,
            "usual_resistor": 4.7,
            "bootstrap_capacitor": 0.48e-6,
            "capacitance_derating": 1.6,
            "cycle_charge": 150e-9,
            "full_voltage": 11,
            "needed_supply": 10,
            "allowed_refresh": 2.5e-6,
        },
        0.97723e-6,
    ),
)
def counted_low_time(bootstrap_resistor, usual_resistor, bootstrap_capacitor, capacitance_derating, cycle_charge, full_voltage, needed_supply, allowed_refresh):
    """Refresh time that limits the modulation: never more than is allowed, so a starved bootstrap fails its own judgement and not the whole.

    That of the resistor as it is wanted: the preferred value below it takes less. So whether it is the next lower one does
    not ask for another set-point.
    """
    capacitance = bootstrap_capacitor / capacitance_derating
    spent = _spent(cycle_charge, capacitance, full_voltage, needed_supply)
    time = -np.maximum(bootstrap_resistor, usual_resistor) * capacitance * np.log(np.maximum(1 - spent, 1e-9))
    return np.where(spent < 1, np.minimum(time, allowed_refresh), allowed_refresh)


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


@bootstrap.build(
    unit="credit",
    symbol="c",
    source="[judgement] small parts",
    title="Cost",
    tex=r"\frac{{switch_positions}\,{bootstrap_price}}{2}",
    example=({"switch_positions": 4, "bootstrap_price": 0.5}, 1.0),
)
def cost(switch_positions, bootstrap_price):
    """Cost of the bootstraps, one for each high side."""
    return switch_positions * bootstrap_price / 2


@bootstrap.build(unit="", symbol="n", source="count", title="Parts", tex=r"\frac{3\,{switch_positions}}{2}", example=({"switch_positions": 4}, 6))
def part_count(switch_positions):
    """Diode, resistor and capacitor for each high side."""
    return 3 * switch_positions / 2


bootstrap.check(
    "droop",
    title="Bootstrap supply",
    demand="needed_supply",
    capability="full_voltage",
    fail=1.0,
    hold=1.03,  # a third of a volt of droop: with less the capacitor grows without bound
    harm="equipment",
    sentence="Lock-out, one volt of reserve and the low-side switch's drop need {demand}; the capacitor is charged to {capability}.",
    why="A starved high side switches half open and burns.",
    remedies=(Move("gate_supply_voltage", "up", 2.0), Move("lockout_voltage", "down", 2.0, "world")),
)
bootstrap.check(
    "refresh",
    title="Bootstrap refresh",
    demand="minimum_low_time",
    capability="allowed_refresh",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="To be refreshed the capacitor needs {demand} in every carrier cycle; {capability} is allowed.",
    why="What the refresh takes is lost to the modulation; what it does not get, the high side lacks.",
    remedies=(Move("bootstrap_resistor", "down", 5.0), Move("gate_supply_voltage", "up", 2.0)),
)
word("pull_down", "Ω", r"R_{GS}", "Gate-source pull-down of one gate; it may be not fitted.", 10e3)
word("counted_low_time", "s", r"t_\mathrm{low}", "Low-side time that refreshes the bootstrap.", 0.6e-6)

HIGH_SIDES = ("switch_positions", 0.5)
bootstrap.order("Bootstrap capacitor", "{bootstrap_capacitor}", "ceramic X7R, 25 V", count=HIGH_SIDES, price=("bootstrap_price", 0.2))
bootstrap.order("Bootstrap resistor", "{bootstrap_resistor}", "stands the first charge", count=HIGH_SIDES, price=("bootstrap_price", 0.1))
bootstrap.order(
    "Bootstrap diode", "ultra-fast", "above {input_voltage}, {bootstrap_recovery_charge} recovered", count=HIGH_SIDES, price=("bootstrap_price", 0.7)
)

bootstrap.trip("Driver's undervoltage lock-out", "lockout_voltage", after="at once", resets="by itself, when the bootstrap is charged again")
