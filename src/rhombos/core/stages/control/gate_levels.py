"""Gate drive of the host's switches, first part: levels, resistors, edges, driver current (3.3)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, like, lowest
from rhombos.core.graph.declare import Option, Stage
from rhombos.core.stages.control import gating
from rhombos.core.vocabulary import word

BAL = "Balogh, Design and Application Guide for High Speed MOSFET Gate Drive Circuits"

gate_drive = Stage("gate_drive", "Gate drive", path=False, telling="{driver_peak_current}")

gate_drive.hazard("dc_voltage", "input_voltage")

gate_drive.choice(
    "gate_supply",
    {
        "automatic": Option("regulated, boosted where the source is too low", {"follows_source": 0, "may_boost": 1}),
        "regulated": Option("regulated supply", {"follows_source": 0, "may_boost": 0}),
        "source": Option("straight from the source", {"follows_source": 1, "may_boost": 0}),
    },
    {
        "follows_source": ("", r"\phi", "1 where the gate supply follows the source voltage."),
        "may_boost": ("", r"\phi_b", "1 where a boost converter makes the gate supply if the source cannot."),
    },
    default="automatic",
    sentence="Where the gates' supply comes from.",
)

gate_drive.give("gate_supply_voltage", 15.0, "V", r"V_\mathrm{reg}", 4, 25, "Voltage of the regulated gate supply.", "Regulated gate supply")

gate_drive.give(
    "gate_headroom",
    1.5,
    "V",
    r"V_\mathrm{head}",
    0,
    6,
    "Volts that regulator and driver need: the gate gets no more than the source less this.",
    "Lost in regulator and driver",
)

gate_drive.give("driver_resistance", 0.8, "Ω", r"R_\mathrm{drv}", 0, 100, "Output resistance of the driver, on and off.", "Driver resistance")

gate_drive.give("driver_current_limit", 9.0, "A", r"I_\mathrm{drv,max}", 0.01, 50, "Peak current that the driver can give.", "Driver's peak current")

gate_drive.give(
    "wanted_on_plateau",
    40e-9,
    "s",
    r"t_\mathrm{p,on}",
    1e-09,
    5e-06,
    "Wanted duration of the turn-on plateau; slower edges radiate less and lose more.",
    "Wanted turn-on plateau",
)

gate_drive.give("wanted_off_plateau", 24e-9, "s", r"t_\mathrm{p,off}", 1e-09, 5e-06, "Wanted duration of the turn-off plateau.", "Wanted turn-off plateau")


@gate_drive.build(
    unit="",
    symbol=r"\beta",
    source="a supply above or near the source: boost converter",
    title="Boosted gate supply",
    tex=r"\begin{cases}{may_boost}&\min({terminal_voltage})-{gate_headroom}<{gate_supply_voltage}\\0&\text{else}\end{cases}",
    example=({"may_boost": 1, "terminal_voltage": 10.8, "gate_headroom": 1.5, "gate_supply_voltage": 15}, 1),
    safe="up",
)
def boosted(may_boost, terminal_voltage, gate_headroom, gate_supply_voltage):
    """1 where a boost converter makes the gate supply: at its lowest the source does not give it through a regulator."""
    return np.where(lowest(terminal_voltage) - gate_headroom < gate_supply_voltage, may_boost, 0 * may_boost)


@gate_drive.operation(
    unit="V",
    symbol=r"V_\mathrm{on}",
    source=BAL,
    title="Gate voltage, on",
    tex=r"\begin{cases}V&{follows_source}=1\\\min({gate_supply_voltage},\,\max(V,\,{boosted}\,{gate_supply_voltage}))&\text{else}\end{cases}\quad V={terminal_voltage}-{gate_headroom}",
    example=({"follows_source": 0, "boosted": 0, "terminal_voltage": 24, "gate_headroom": 1.5, "gate_supply_voltage": 12}, 12),
)
def gate_on_voltage(follows_source, boosted, terminal_voltage, gate_headroom, gate_supply_voltage):
    """Level that turns the gate on, over the whole source window: what a regulator leaves of the source, or a boost converter makes up."""
    most = terminal_voltage - gate_headroom
    return np.where(follows_source > 0, most, np.minimum(gate_supply_voltage, np.maximum(most, boosted * gate_supply_voltage)))


@gate_drive.build(unit="V", symbol=r"V_\mathrm{on,max}", tex=r"\max({gate_on_voltage})", source=BAL, title="Highest gate voltage")
def highest_gate_voltage(gate_on_voltage):
    """Highest gate voltage over the source window."""
    return highest(gate_on_voltage)


gate_drive.rename(gate_voltage_limit="switch_gate_rated_voltage")


@gate_drive.operation(
    unit="V",
    symbol=r"V_\mathrm{pl}",
    tex=r"{switch_threshold_voltage}+\frac{switched_current}{{switch_quantity}\,{switch_transconductance}}",
    source=BAL,
    title="Plateau voltage",
    example=({"switch_threshold_voltage": 3, "switched_current": 40, "switch_quantity": 2, "switch_transconductance": 80}, 3.25),
)
def plateau_voltage(switch_threshold_voltage, switched_current, switch_quantity, switch_transconductance):
    """Gate plateau at the current that each device switches."""
    return gating.plateau_voltage(switch_threshold_voltage, switched_current / switch_quantity, switch_transconductance)


@gate_drive.build(
    unit="Ω",
    symbol=r"R_\mathrm{ext,min}",
    source=f"{BAL}; a tenth of the driver's current is left as reserve",
    title="Least gate resistor for the driver",
    tex=r"{switch_quantity}\left(\frac{1.1\,{highest_gate_voltage}}{driver_current_limit}-{driver_resistance}\right)-{switch_internal_gate_resistance}",
    example=(
        {"switch_quantity": 3, "highest_gate_voltage": 15, "driver_current_limit": 9, "driver_resistance": 0.8, "switch_internal_gate_resistance": 1.4},
        1.7,
    ),
)
def least_gate_resistor(switch_quantity, highest_gate_voltage, driver_current_limit, driver_resistance, switch_internal_gate_resistance):
    """External resistor of each gate below which they ask for more than the driver gives; negative where any will do."""
    return switch_quantity * (1.1 * highest_gate_voltage / driver_current_limit - driver_resistance) - switch_internal_gate_resistance


gate_drive.give("threshold_fall", 6e-3, "V/K", r"\kappa_{th}", 0, 0.02, "Fall of the gate threshold with temperature.", "Fall of the threshold")


@gate_drive.build(
    unit="Ω",
    symbol=r"R_{\mathrm{ext},M}",
    source=f"{BAL}; dV/dt by the other switch's plateau, threshold at the hottest chip allowed",
    title="Least gate resistor for a quiet neighbour",
    tex=r"\begin{gathered}\frac{1.05\,{gate_path_off}\max({gate_on_voltage}-{plateau_voltage})}{v}-{switch_quantity}\,{driver_resistance}-{switch_internal_gate_resistance}\\"
    r"v=\max\left({switch_threshold_voltage}-{threshold_fall}\left({switch_maximum_temperature}-25\,^\circ\mathrm{C}\right),\,0.1\,{switch_threshold_voltage}\right)\end{gathered}",
    example=(
        {
            "gate_path_off": 5,
            "gate_on_voltage": 15,
            "plateau_voltage": 5,
            "switch_threshold_voltage": 3,
            "threshold_fall": 6e-3,
            "switch_maximum_temperature": 423.15,
            "switch_quantity": 1,
            "driver_resistance": 0.8,
            "switch_internal_gate_resistance": 1.4,
        },
        21.13333,
    ),
)
def quiet_gate_resistor(
    gate_path_off,
    gate_on_voltage,
    plateau_voltage,
    switch_threshold_voltage,
    threshold_fall,
    switch_maximum_temperature,
    switch_quantity,
    driver_resistance,
    switch_internal_gate_resistance,
):
    """External turn-on resistor below which the drain's rise opens the other switch, held off through its own resistor; a twentieth in reserve."""
    fallen = switch_threshold_voltage - threshold_fall * (switch_maximum_temperature - like(298.15, switch_maximum_temperature))
    hot = np.maximum(fallen, 0.1 * switch_threshold_voltage)
    whole = 1.05 * gate_path_off * highest(gate_on_voltage - plateau_voltage) / hot
    return whole - switch_quantity * driver_resistance - switch_internal_gate_resistance


@gate_drive.build(
    unit="Ω",
    symbol=r"R_\mathrm{ext,on}",
    source=BAL,
    title="Gate resistor, on",
    safe="up",
    tex=r"\max\left(\mathrm{E24}_\uparrow\left(\max({least_gate_resistor},{quiet_gate_resistor},1\,\Omega)\right),\;\mathrm{E24}\!\left(\max\left(\frac{{wanted_on_plateau}\min({gate_on_voltage}-{plateau_voltage})}{switch_gate_drain_charge}-{switch_quantity}{driver_resistance}-{switch_internal_gate_resistance},\,1\,\Omega\right)\right)\right)",
    example=(
        {
            "wanted_on_plateau": 40e-9,
            "gate_on_voltage": 12,
            "plateau_voltage": 4,
            "switch_gate_drain_charge": 20e-9,
            "switch_quantity": 2,
            "driver_resistance": 0.8,
            "switch_internal_gate_resistance": 1.4,
            "least_gate_resistor": -1,
            "quiet_gate_resistor": 5,
        },
        13,
    ),
)
def gate_resistor_on(
    wanted_on_plateau,
    gate_on_voltage,
    plateau_voltage,
    switch_gate_drain_charge,
    switch_quantity,
    driver_resistance,
    switch_internal_gate_resistance,
    least_gate_resistor,
    quiet_gate_resistor,
):
    """External gate resistor of each device for turn-on, from the wanted plateau; never below what the driver can feed and what leaves the other switch off."""
    volts = gate_on_voltage - plateau_voltage
    wanted = gating.external(wanted_on_plateau, lowest(volts), switch_gate_drain_charge, switch_quantity, driver_resistance, switch_internal_gate_resistance)
    return gating.fed(wanted, np.maximum(least_gate_resistor, quiet_gate_resistor))


@gate_drive.build(
    unit="Ω",
    symbol=r"R_\mathrm{ext,off}",
    source=BAL,
    title="Gate resistor, off",
    safe="down",
    tex=r"\max\left(\mathrm{E24}_\uparrow\left(\max({least_gate_resistor},1\,\Omega)\right),\;\mathrm{E24}\!\left(\max\left(\frac{{wanted_off_plateau}\,{switch_threshold_voltage}}{switch_gate_drain_charge}-{switch_quantity}{driver_resistance}-{switch_internal_gate_resistance},\,1\,\Omega\right)\right)\right)",
    example=(
        {
            "wanted_off_plateau": 100e-9,
            "switch_threshold_voltage": 3,
            "switch_gate_drain_charge": 20e-9,
            "switch_quantity": 2,
            "driver_resistance": 0.8,
            "switch_internal_gate_resistance": 1.4,
            "least_gate_resistor": 11.2,
        },
        12,
    ),
)
def gate_resistor_off(
    wanted_off_plateau,
    switch_threshold_voltage,
    switch_gate_drain_charge,
    switch_quantity,
    driver_resistance,
    switch_internal_gate_resistance,
    least_gate_resistor,
):
    """External gate resistor of each device for turn-off, judged at the threshold (the plateau of a small current); never below what the driver can feed."""
    wanted = gating.external(
        wanted_off_plateau, switch_threshold_voltage, switch_gate_drain_charge, switch_quantity, driver_resistance, switch_internal_gate_resistance
    )
    return gating.fed(wanted, least_gate_resistor)


@gate_drive.build(
    unit="Ω",
    symbol=r"R_\mathrm{on}",
    tex=r"{switch_quantity}\,{driver_resistance}+{gate_resistor_on}+{switch_internal_gate_resistance}",
    source=BAL,
    title="Whole gate resistance, on",
)
def gate_path_on(switch_quantity, driver_resistance, gate_resistor_on, switch_internal_gate_resistance):
    """Whole resistance that one gate sees at turn-on."""
    return switch_quantity * driver_resistance + gate_resistor_on + switch_internal_gate_resistance


@gate_drive.build(
    unit="Ω",
    symbol=r"R_\mathrm{off}",
    tex=r"{switch_quantity}\,{driver_resistance}+{gate_resistor_off}+{switch_internal_gate_resistance}",
    source=BAL,
    title="Whole gate resistance, off",
)
def gate_path_off(switch_quantity, driver_resistance, gate_resistor_off, switch_internal_gate_resistance):
    """Whole resistance that one gate sees at turn-off."""
    return switch_quantity * driver_resistance + gate_resistor_off + switch_internal_gate_resistance


@gate_drive.operation(
    unit="s",
    symbol=r"t_\mathrm{on}",
    source=BAL,
    title="Turn-on edge",
    start=30e-9,
    tex=r"\begin{gathered}{gate_path_on}\left({switch_input_capacitance}\ln\frac{{gate_on_voltage}-{switch_threshold_voltage}}{\Delta}+\frac{switch_gate_drain_charge}{\Delta}\right)\\\Delta=\max({gate_on_voltage}-{plateau_voltage},\,0.02\,{gate_on_voltage})\end{gathered}",
    example=(
        {
            "gate_path_on": 10,
            "switch_input_capacitance": 3e-9,
            "gate_on_voltage": 12,
            "switch_threshold_voltage": 3,
            "plateau_voltage": 4,
            "switch_gate_drain_charge": 20e-9,
        },
        28.533e-9,
    ),
)
def turn_on_time(gate_path_on, switch_input_capacitance, gate_on_voltage, switch_threshold_voltage, plateau_voltage, switch_gate_drain_charge):
    """Current rise and voltage fall: the time that costs loss at turn-on."""
    return gating.on_time(gate_path_on, switch_input_capacitance, switch_gate_drain_charge, gate_on_voltage, switch_threshold_voltage, plateau_voltage)


@gate_drive.operation(
    unit="s",
    symbol=r"t_\mathrm{off}",
    source=BAL,
    title="Turn-off edge",
    start=30e-9,
    tex=r"\frac{{switch_gate_drain_charge}{gate_path_off}}{plateau_voltage}+{gate_path_off}{switch_input_capacitance}\ln\frac{plateau_voltage}{switch_threshold_voltage}",
    example=(
        {"gate_path_off": 10, "switch_input_capacitance": 3e-9, "switch_threshold_voltage": 3, "plateau_voltage": 4, "switch_gate_drain_charge": 20e-9},
        58.630e-9,
    ),
)
def turn_off_time(gate_path_off, switch_input_capacitance, switch_threshold_voltage, plateau_voltage, switch_gate_drain_charge):
    """Voltage rise and current fall: the time that costs loss at turn-off (gate driven to zero)."""
    return gating.off_time(gate_path_off, switch_input_capacitance, switch_gate_drain_charge, 0 * plateau_voltage, switch_threshold_voltage, plateau_voltage)


@gate_drive.operation(
    unit="A",
    symbol=r"I_\mathrm{drv}",
    source=BAL,
    title="Driver's peak current needed",
    tex=r"\frac{gate_on_voltage}{{driver_resistance}+\left(\min({gate_resistor_on},{gate_resistor_off})+{switch_internal_gate_resistance}\right)/{switch_quantity}}",
    example=(
        {
            "gate_on_voltage": 12,
            "driver_resistance": 0.8,
            "gate_resistor_on": 6,
            "gate_resistor_off": 2,
            "switch_internal_gate_resistance": 1.4,
            "switch_quantity": 2,
        },
        4.8,
    ),
)
def driver_peak_current(gate_on_voltage, driver_resistance, gate_resistor_on, gate_resistor_off, switch_internal_gate_resistance, switch_quantity):
    """Peak current of the driver into all gates on it, the stronger of the two edges."""
    return gate_on_voltage / (driver_resistance + (np.minimum(gate_resistor_on, gate_resistor_off) + switch_internal_gate_resistance) / switch_quantity)


word("wanted_on_plateau", "s", r"t_\mathrm{p,on}", "Wanted duration of the turn-on plateau.", 40e-9)
word("wanted_off_plateau", "s", r"t_\mathrm{p,off}", "Wanted duration of the turn-off plateau.", 30e-9)
word("driver_resistance", "Ω", r"R_\mathrm{drv}", "Output resistance of the driver, on and off.", 0.8)
