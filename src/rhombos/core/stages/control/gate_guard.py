"""Gate drive, third part: heat of the gate resistors, the Miller current, a gate that only its pull-down discharges (3.3; 15.2 no. 10)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, like, next_of
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.control.gate_drive import gate_drive
from rhombos.core.stages.control.gate_levels import BAL
from rhombos.core.units import NOT_FITTED
from rhombos.core.vocabulary import word

RESISTOR_WATTS = (0.1, 0.125, 0.25, 0.5, 1.0, 2.0, 3.0, 5.0)
"""Watts that small resistors are sold for."""

gate_drive.choice(
    "turned_off_by",
    {"driver": Option("by the driver", {"by_pull_down": 0}), "pull_down": Option("by the pull-down only", {"by_pull_down": 1})},
    {"by_pull_down": ("", r"\sigma_\mathrm{pd}", "1 where nothing but the pull-down discharges the gate.")},
    default="driver",
    sentence="What discharges the gate when it is to go off.",
    title="Turned off",
)
gate_drive.give(
    "pull_down",
    10e3,
    "Ω",
    r"R_{GS}",
    1e3,
    NOT_FITTED["Ω"],
    "Gate-source pull-down of each gate (4.7 to 22 kΩ): never floating, or not fitted where the driver has its own.",
    "Pull-down of a gate",
)


@gate_drive.operation(
    unit="W",
    symbol=r"P_\mathrm{ext}",
    source=BAL,
    title="Heat of a gate resistor",
    tex=r"{drive_charge}\,{gate_on_voltage}\,{gate_frequency}\,\max\left(\frac{gate_resistor_on}{gate_path_on},\,\frac{gate_resistor_off}{gate_path_off}\right)",
    example=(
        {
            "drive_charge": 100e-9,
            "gate_on_voltage": 15,
            "gate_frequency": 40e3,
            "gate_resistor_on": 8,
            "gate_path_on": 10,
            "gate_resistor_off": 3,
            "gate_path_off": 5,
        },
        0.048,
    ),
)
def gate_resistor_loss(drive_charge, gate_on_voltage, gate_frequency, gate_resistor_on, gate_path_on, gate_resistor_off, gate_path_off):
    """Heat of the hotter of one gate's two resistors: the gate's power in proportion to its share of the path, all of it counted to one edge."""
    return drive_charge * gate_on_voltage * gate_frequency * np.maximum(gate_resistor_on / gate_path_on, gate_resistor_off / gate_path_off)


@gate_drive.build(
    unit="W",
    symbol=r"P_{R,\mathrm{rat}}",
    source="twice what it takes, as resistors are sold",
    title="Watts of a gate resistor",
    decided=True,
    empirical=True,
    tex=r"\operatorname{watts}_\uparrow\left(2\max({gate_resistor_loss})\right)",
    example=({"gate_resistor_loss": 0.06}, 0.125),
)
def gate_resistor_watts(gate_resistor_loss):
    """Power that one gate resistor is rated for."""
    return next_of(RESISTOR_WATTS, 2 * highest(gate_resistor_loss))


@gate_drive.build(
    unit="W",
    symbol=r"P_{R,\mathrm{may}}",
    source="rated at least twice over",
    title="Heat of a gate resistor allowed",
    tex=r"\frac{gate_resistor_watts}{2}",
    example=({"gate_resistor_watts": 0.25}, 0.125),
)
def allowed_gate_resistor_loss(gate_resistor_watts):
    """Half of what a gate resistor is rated for."""
    return gate_resistor_watts / 2


@gate_drive.operation(
    unit="V",
    symbol=r"V_M",
    source=f"{BAL}; dV/dt by the other switch's plateau: C_gd·dV/dt = Q_gd/t_p,on",
    title="Miller step at a gate that is off",
    tex=r"\frac{{gate_path_off}\,({gate_on_voltage}-{plateau_voltage})}{gate_path_on}",
    example=({"gate_path_off": 5, "gate_on_voltage": 15, "plateau_voltage": 5, "gate_path_on": 20}, 2.5),
)
def miller_step(gate_path_off, gate_on_voltage, plateau_voltage, gate_path_on):
    """Volts that the drain's rise drives onto a gate held off: (dV/dt)·C_gd·R_off with the dV/dt of an equal switch turning on."""
    return gate_path_off * (gate_on_voltage - plateau_voltage) / gate_path_on


@gate_drive.operation(
    unit="V",
    symbol=r"V_{th,\mathrm{hot}}",
    source="threshold falls with temperature",
    title="Threshold, hot",
    tex=r"\max\left({switch_threshold_voltage}-{threshold_fall}\left({junction_temperature}-25\,^\circ\mathrm{C}\right),\,0.1\,{switch_threshold_voltage}\right)",
    example=({"switch_threshold_voltage": 3, "threshold_fall": 6e-3, "junction_temperature": 398.15}, 2.4),
)
def threshold_when_hot(switch_threshold_voltage, threshold_fall, junction_temperature):
    """Gate threshold at the junction's temperature of the corner."""
    fallen = switch_threshold_voltage - threshold_fall * (junction_temperature - like(298.15, junction_temperature))
    return np.maximum(fallen, 0.1 * switch_threshold_voltage)


@gate_drive.build(
    unit="s",
    symbol=r"t_\mathrm{pd}",
    source=BAL,
    title="Off by the pull-down takes",
    tex=r"\max\left({pull_down}\left({switch_input_capacitance}\ln\frac{gate_on_voltage}{switch_threshold_voltage}+\frac{switch_gate_drain_charge}{plateau_voltage}\right)\right)",
    example=(
        {
            "pull_down": 10e3,
            "switch_input_capacitance": 2e-9,
            "gate_on_voltage": 12,
            "switch_threshold_voltage": 3,
            "switch_gate_drain_charge": 20e-9,
            "plateau_voltage": 4,
        },
        77.7259e-6,
    ),
)
def pull_down_time(pull_down, switch_input_capacitance, gate_on_voltage, switch_threshold_voltage, switch_gate_drain_charge, plateau_voltage):
    """Delay, plateau and fall of a gate that only its pull-down discharges: several time constants and the plateau."""
    falling = switch_input_capacitance * np.log(gate_on_voltage / switch_threshold_voltage)
    return highest(pull_down * (falling + switch_gate_drain_charge / plateau_voltage))


@gate_drive.build(unit="s", symbol=r"t_\mathrm{pd,ask}", source=BAL, title="Dead time for the pull-down", tex=r"{by_pull_down}\,{pull_down_time}")
def asked_pull_down_time(by_pull_down, pull_down_time):
    """Dead time that a pull-down asks for, where nothing else discharges the gate."""
    return by_pull_down * pull_down_time


gate_drive.check(
    "miller",
    title="Gate stays off",
    demand="miller_step",
    capability="threshold_when_hot",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The other switch's turn-on drives {demand} onto a gate that is off; hot it opens at {capability}.",
    why="A gate lifted over its threshold shorts the leg at every edge.",
    remedies=(Move("wanted_on_plateau", "up", 4.0), Move("wanted_off_plateau", "down", 3.0), Move("gate_resistor_on", "up", 4.0)),
)
gate_drive.check(
    "resistor_heat",
    title="Heat of the gate resistors",
    demand="gate_resistor_loss",
    capability="allowed_gate_resistor_loss",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="A gate resistor takes {demand}; {capability} is half its rating.",
    why="All of the gate's power ends in driver and resistors.",
    remedies=(Move("gate_resistor_watts", "up", 8.0),),
)
gate_drive.check(
    "pull_down",
    title="Pull-down within the dead time",
    demand="asked_pull_down_time",
    capability="available_dead_time",
    fail=1.0,
    hold=1.2,
    harm="equipment",
    sentence="By its pull-down alone a gate takes {demand} to go off; the dead time is {capability}.",
    why="Until the gate is empty both sides are on together.",
    remedies=(Move("pull_down", "down", 10.0),),
    no_demand="The driver discharges the gate.",
)

word("junction_temperature", "K_abs", "T_j", "Junction temperature.", 380)
word("switch_maximum_temperature", "K_abs", r"T_{j,\mathrm{max}}", "Highest junction temperature of the part.", 423.15)

__all__ = ["gate_drive"]
