"""Six ways to drive a gate side by side, and whether each does it here (3.3; 16, H11, H13)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, lowest
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.stages.control.gate_levels import BAL
from rhombos.core.vocabulary import word

driver_schools = Stage("driver_schools", "Driver", path=False, telling="{driver_school}")
driver_schools.hazard("dc_voltage", "input_voltage")

SCHOOLS = {
    "driver_chip": "driver chip",
    "direct": "controller's own output",
    "follower": "complementary follower",
    "optocoupler": "optocoupler with pull-up",
    "gate_transformer": "gate transformer",
    "level_shift": "discrete level shift",
}
driver_schools.choice(
    "driver_school",
    {name: Option(title, {f"takes_{other}": float(other == name) for other in SCHOOLS}) for name, title in SCHOOLS.items()},
    {f"takes_{name}": ("", rf"\sigma_{{{k + 1}}}", f"1 where the gates are driven by this: {title}.") for k, (name, title) in enumerate(SCHOOLS.items())},
    default="driver_chip",
    sentence="What drives the gates.",
    title="Driver",
)

driver_schools.give("controller_peak", 0.2, "A", r"I_\mathrm{ctl}", 1e-3, 5, "Peak current of the controller's own output.", "Controller's peak current")
driver_schools.give(
    "controller_drop",
    2.5,
    "V",
    r"V_\mathrm{ctl}",
    0,
    5,
    "What a bipolar output leaves of the supply at the gate (1.5 to 2.5 V).",
    "Lost in the controller's output",
)
driver_schools.give("follower_gain", 60.0, "", r"\beta", 10, 500, "Least current gain of the follower's transistors at the peak.", "Gain of the follower")
driver_schools.give("base_drop", 0.8, "V", r"V_{BE}", 0.5, 1.5, "Base-emitter voltage of the follower.", "Base-emitter voltage")
driver_schools.give("low_output", 0.2, "V", r"V_{OL}", 0, 2, "Controller's output, low.", "Controller's output, low")
driver_schools.give("pull_up", 1e3, "Ω", r"R_\mathrm{pu}", 10, 1e6, "Pull-up behind an optocoupler.", "Pull-up of the optocoupler")
driver_schools.give(
    "edge_budget",
    2.0,
    "W",
    r"P_\mathrm{edge}",
    0.01,
    100,
    "Heat that slow edges may make in a position [judgement].",
    "Heat of slow edges allowed",
    judgement=True,
)
driver_schools.give(
    "drive_turns",
    1.0,
    "",
    r"N_g/N_d",
    0.05,
    20,
    "Turns of the gate winding over those of the driven one, whole winding to whole winding.",
    "Gate over drive turns",
)
driver_schools.give(
    "drive_leakage", 200e-9, "H", r"L_{lk}", 1e-9, 1e-4, "Leakage of the gate transformer, seen from a gate.", "Leakage of the gate transformer"
)
driver_schools.give("shift_resistor", 1e3, "Ω", "R_p", 10, 1e6, "Pull-up of a discrete level shift.", "Pull-up of the level shift")


@driver_schools.build(
    unit="A",
    symbol=r"I_\mathrm{edge}",
    source=BAL,
    title="Current of the edges",
    tex=r"{switch_quantity}\max\left(\frac{{gate_on_voltage}-{plateau_voltage}}{gate_path_on},\,\frac{plateau_voltage}{gate_path_off}\right)",
    example=({"switch_quantity": 2, "gate_on_voltage": 13, "plateau_voltage": 5, "gate_path_on": 20, "gate_path_off": 5}, 2.0),
)
def edge_current(switch_quantity, gate_on_voltage, plateau_voltage, gate_path_on, gate_path_off):
    """Current into all gates, or out of them, that moves their plateaus' charge in the time that the sheet counts with: what a driver must be good for."""
    return switch_quantity * highest(np.maximum((gate_on_voltage - plateau_voltage) / gate_path_on, plateau_voltage / gate_path_off))


@driver_schools.build(
    unit="",
    symbol=r"m_\mathrm{ctl}",
    source=BAL,
    title="Controller alone reaches",
    tex=r"\min\left(\frac{controller_peak}{edge_current},\,\frac{\min({gate_on_voltage})-{controller_drop}}{\max({fully_on_voltage})}\right)",
    example=({"controller_peak": 0.2, "edge_current": 1.0, "gate_on_voltage": 13, "controller_drop": 2.5, "fully_on_voltage": 10}, 0.2),
)
def direct_margin(controller_peak, edge_current, gate_on_voltage, controller_drop, fully_on_voltage):
    """Controller's peak current over what the edge asks, or its level over fully on, whichever is less."""
    return np.minimum(controller_peak / edge_current, (lowest(gate_on_voltage) - controller_drop) / highest(fully_on_voltage))


@driver_schools.build(
    unit="V", symbol=r"V_{th,\mathrm{hot}}", source="the gate's own threshold over the corners", title="Threshold, hottest", tex=r"\min({threshold_when_hot})"
)
def hot_threshold(threshold_when_hot):
    """Gate threshold at the hottest junction: what is off cold may be half on hot."""
    return lowest(threshold_when_hot)


@driver_schools.build(
    unit="",
    symbol=r"m_\mathrm{ef}",
    source=BAL,
    title="Follower reaches",
    tex=r"\min\left(\frac{{follower_gain}\,{controller_peak}}{edge_current},\,\frac{\min({gate_on_voltage})-{controller_drop}-{base_drop}}{\max({fully_on_voltage})},\,\frac{0.6\,{hot_threshold}}{{low_output}+{base_drop}}\right)",
    example=(
        {
            "follower_gain": 60,
            "controller_peak": 0.2,
            "edge_current": 1.0,
            "gate_on_voltage": 15,
            "controller_drop": 1,
            "base_drop": 0.8,
            "fully_on_voltage": 10,
            "hot_threshold": 2.4,
            "low_output": 0.2,
        },
        1.32,
    ),
)
def follower_margin(follower_gain, controller_peak, edge_current, gate_on_voltage, controller_drop, base_drop, fully_on_voltage, hot_threshold, low_output):
    """Least of: its peak current over the edge's, its high level over fully on, six tenths of the hot threshold over its low level."""
    level = (lowest(gate_on_voltage) - controller_drop - base_drop) / highest(fully_on_voltage)
    return np.minimum(np.minimum(follower_gain * controller_peak / edge_current, level), 0.6 * hot_threshold / (low_output + base_drop))


@driver_schools.build(
    unit="",
    symbol=r"m_\mathrm{drv}",
    source=BAL,
    title="Driver chip reaches",
    tex=r"\min\left(\frac{driver_current_limit}{edge_current},\,\frac{\min({gate_on_voltage})}{\max({fully_on_voltage})}\right)",
    example=({"driver_current_limit": 9, "edge_current": 4, "gate_on_voltage": 15, "fully_on_voltage": 10}, 1.5),
)
def chip_margin(driver_current_limit, edge_current, gate_on_voltage, fully_on_voltage):
    """Driver's peak current over what the edge asks, or its level over fully on."""
    return np.minimum(driver_current_limit / edge_current, lowest(gate_on_voltage) / highest(fully_on_voltage))


@driver_schools.build(
    unit="s",
    symbol=r"t_\mathrm{opto}",
    source=BAL,
    title="Edge behind an optocoupler",
    tex=r"2.2\,{pull_up}\,{switch_quantity}\,{switch_input_capacitance}+\frac{{switch_quantity}\,{switch_gate_drain_charge}\,{pull_up}}{\max(\min({gate_on_voltage}-{plateau_voltage}),\,0.02\min({gate_on_voltage}))}",
    example=(
        {
            "pull_up": 1e3,
            "switch_quantity": 1,
            "switch_input_capacitance": 2e-9,
            "switch_gate_drain_charge": 20e-9,
            "gate_on_voltage": 12,
            "plateau_voltage": 4,
        },
        6.9e-6,
    ),
)
def opto_edge(pull_up, switch_quantity, switch_input_capacitance, switch_gate_drain_charge, gate_on_voltage, plateau_voltage):
    """Turn-on of the gates through the pull-up alone."""
    room = np.maximum(lowest(gate_on_voltage - plateau_voltage), 0.02 * lowest(gate_on_voltage))
    return 2.2 * pull_up * switch_quantity * switch_input_capacitance + switch_quantity * switch_gate_drain_charge * pull_up / room


@driver_schools.build(
    unit="W",
    symbol=r"P_\mathrm{opto}",
    source="crossing loss of a slow edge",
    title="Heat of an optocoupler's edge",
    tex=r"\tfrac12\max({input_voltage})\max({switched_current})\,{opto_edge}\,{gate_frequency}",
    example=({"input_voltage": 28, "switched_current": 50, "opto_edge": 7e-6, "gate_frequency": 40e3}, 196),
)
def opto_loss(input_voltage, switched_current, opto_edge, gate_frequency):
    """Crossing loss of one edge a period at the highest voltage and current: nothing at 50 Hz, a stove at 20 kHz."""
    return highest(input_voltage) * highest(switched_current) * opto_edge * gate_frequency / 2


@driver_schools.build(
    unit="", symbol=r"m_\mathrm{opto}", source="[judgement] heat of slow edges", title="Optocoupler reaches", tex=r"\frac{edge_budget}{opto_loss}"
)
def opto_margin(edge_budget, opto_loss):
    """Heat that slow edges may make over what they would."""
    return edge_budget / opto_loss


@driver_schools.build(
    unit="s",
    symbol=r"t_\mathrm{gt}",
    source="a quarter of the ring of leakage and gate",
    title="Edge of a gate transformer",
    tex=r"\frac{\pi}{2}\sqrt{{drive_leakage}\,{switch_quantity}\,{switch_input_capacitance}}",
    example=({"drive_leakage": 200e-9, "switch_quantity": 1, "switch_input_capacitance": 2e-9}, 31.4159e-9),
)
def transformer_edge(drive_leakage, switch_quantity, switch_input_capacitance):
    """Rise of the gates behind the gate transformer's leakage."""
    return np.pi / 2 * np.sqrt(drive_leakage * switch_quantity * switch_input_capacitance)


@driver_schools.build(
    unit="Ω",
    symbol=r"R_{g,\mathrm{gt}}",
    source="critical damping",
    title="Damping of a gate transformer",
    tex=r"2\sqrt{\frac{drive_leakage}{{switch_quantity}\,{switch_input_capacitance}}}",
    example=({"drive_leakage": 200e-9, "switch_quantity": 1, "switch_input_capacitance": 2e-9}, 20),
)
def transformer_damping(drive_leakage, switch_quantity, switch_input_capacitance):
    """Least gate resistor that keeps the leakage from ringing with the gates."""
    return 2 * np.sqrt(drive_leakage / (switch_quantity * switch_input_capacitance))


@driver_schools.build(
    unit="",
    symbol=r"m_\mathrm{gt}",
    source=BAL,
    title="Gate transformer reaches",
    tex=r"\min\left(\frac{{drive_turns}\min({gate_on_voltage})}{\max({fully_on_voltage})},\,\frac{switch_gate_rated_voltage}{1.25\,{drive_turns}\max({gate_on_voltage})},\,\frac{wanted_on_plateau}{transformer_edge}\right)",
    example=(
        {
            "drive_turns": 1,
            "gate_on_voltage": 14,
            "fully_on_voltage": 10,
            "switch_gate_rated_voltage": 20,
            "wanted_on_plateau": 50e-9,
            "transformer_edge": 31e-9,
        },
        1.142857,
    ),
)
def transformer_margin(drive_turns, gate_on_voltage, fully_on_voltage, switch_gate_rated_voltage, wanted_on_plateau, transformer_edge):
    """Least of: its level over fully on, the gate's rating over 1.25 of the level, the wanted edge over its own."""
    level, rating = (
        drive_turns * lowest(gate_on_voltage) / highest(fully_on_voltage),
        switch_gate_rated_voltage / (1.25 * drive_turns * highest(gate_on_voltage)),
    )
    return np.minimum(np.minimum(level, rating), wanted_on_plateau / transformer_edge)


@driver_schools.build(
    unit="s",
    symbol=r"t_\mathrm{ls}",
    source=BAL,
    title="Edge of a level shift",
    tex=r"{shift_resistor}\,{switch_quantity}\left({switch_input_capacitance}\ln\frac{\min({gate_on_voltage})-{switch_threshold_voltage}}{\Delta}+\frac{switch_gate_drain_charge}{\Delta}\right)\quad \Delta=\max(\min({gate_on_voltage}-{plateau_voltage}),\,0.02\min({gate_on_voltage}))",
    example=(
        {
            "shift_resistor": 1e3,
            "switch_quantity": 1,
            "switch_input_capacitance": 2e-9,
            "gate_on_voltage": 12,
            "switch_threshold_voltage": 3,
            "plateau_voltage": 4,
            "switch_gate_drain_charge": 20e-9,
        },
        2.73557e-6,
    ),
)
def shift_edge(shift_resistor, switch_quantity, switch_input_capacitance, gate_on_voltage, switch_threshold_voltage, plateau_voltage, switch_gate_drain_charge):
    """Turn-on of the gates through the pull-up of a level shift."""
    room = np.maximum(lowest(gate_on_voltage - plateau_voltage), 0.02 * lowest(gate_on_voltage))
    charging = switch_input_capacitance * np.log((lowest(gate_on_voltage) - switch_threshold_voltage) / room)
    return shift_resistor * switch_quantity * (charging + switch_gate_drain_charge / room)


@driver_schools.build(
    unit="",
    symbol=r"m_\mathrm{ls}",
    source=BAL,
    title="Level shift reaches",
    tex=r"\frac{available_dead_time}{1.5\,{shift_edge}}",
    example=({"available_dead_time": 3e-6, "shift_edge": 1e-6}, 2),
)
def shift_margin(available_dead_time, shift_edge):
    """Dead time over one and a half of its edge: the pull-up must have let go, or have come on, within it."""
    return available_dead_time / (1.5 * shift_edge)


@driver_schools.build(
    unit="",
    symbol="m",
    source="the school that is taken",
    title="Driver taken reaches",
    tex=r"{takes_driver_chip}{chip_margin}+{takes_direct}{direct_margin}+{takes_follower}{follower_margin}+{takes_optocoupler}{opto_margin}+{takes_gate_transformer}{transformer_margin}+{takes_level_shift}{shift_margin}",
)
def school_margin(
    takes_driver_chip,
    chip_margin,
    takes_direct,
    direct_margin,
    takes_follower,
    follower_margin,
    takes_optocoupler,
    opto_margin,
    takes_gate_transformer,
    transformer_margin,
    takes_level_shift,
    shift_margin,
):
    """What the driver taken gives over what the gates ask."""
    fast = takes_driver_chip * chip_margin + takes_direct * direct_margin + takes_follower * follower_margin
    return fast + takes_optocoupler * opto_margin + takes_gate_transformer * transformer_margin + takes_level_shift * shift_margin


driver_schools.give("asked", 1.0, "", "1", 1, 1, "What is asked of it.", "Asked")
driver_schools.check(
    "school",
    title="Driver taken does it",
    demand="asked",
    capability="school_margin",
    fail=1.0,
    hold=1.0,  # the reserve is in what each is asked for
    harm="equipment",
    sentence="The driver taken gives {capability} times what these gates ask; the table tells which others would do.",
    why="Slow edges and half-open gates end as heat in the switches.",
    remedies=(Move("wanted_off_plateau", "up", 4.0), Move("wanted_on_plateau", "up", 4.0), Move("driver_current_limit", "up", 3.0)),
)

for _name, _unit, _symbol, _text, _alone in (
    ("plateau_voltage", "V", r"V_\mathrm{pl}", "Gate plateau at the current switched.", 4),
    ("fully_on_voltage", "V", r"V_\mathrm{full}", "Gate voltage at which a switch is fully on.", 10),
    ("driver_current_limit", "A", r"I_\mathrm{drv,max}", "Peak current that the driver chip gives.", 9),
    ("gate_path_on", "Ω", r"R_\mathrm{on}", "Whole resistance that one gate sees at turn-on.", 18),
    ("gate_path_off", "Ω", r"R_\mathrm{off}", "Whole resistance that one gate sees at turn-off.", 5),
    ("threshold_when_hot", "V", r"V_{th,\mathrm{hot}}", "Gate threshold at the junction's temperature.", 2.5),
):
    word(_name, _unit, _symbol, _text, _alone)
