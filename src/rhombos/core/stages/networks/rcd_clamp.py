"""The dissipative clamp: diode, capacitor and resistor take what the leakage inductance holds at turn-off (6.1, 6.3)."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen

ENERGY = "energy of the leakage, and what the winding adds while its current falls"

rcd_clamp = Stage("rcd_clamp", "RCD clamp", path=False, telling="{settled_clamp}")
rcd_clamp.hazard("dc_voltage", "settled_clamp")
rcd_clamp.give("leakage_inductance", 0.4e-6, "H", r"L_\mathrm{lk}", 1e-10, 1, "Leakage inductance that the switch interrupts.", "Leakage")
rcd_clamp.give("end_current", 40.0, "A", r"\hat I", 1e-3, 1e4, "Current at the end of the pulse, not that of its flat top.", "Current at turn-off")
rcd_clamp.give("clamp_frequency", 40e3, "Hz", "f", 1, 1e7, "How often it is interrupted.", "Frequency")
rcd_clamp.give("rail_voltage", 24.0, "V", r"V_\mathrm{in}", 0.1, 1e4, "Rail that drives the current, and to which resistor and capacitor return.", "Rail")
rcd_clamp.give("held_voltage", 24.0, "V", r"V_r", 0.0, 1e4, "What the winding still holds after turn-off, from the same rail.", "Winding holds")
rcd_clamp.give("wanted_clamp", 48.0, "V", r"V_c", 0.1, 1e4, "Level of the clamp that is wanted, from the rail.", "Level wanted")
rcd_clamp.give("clamp_ripple", 0.05, "", r"\delta_c", 1e-3, 0.5, "Ripple allowed on the clamp capacitor, of its level.", "Ripple allowed")
rcd_clamp.give("switch_rating", 100.0, "V", r"V_{DSS}", 1, 1e4, "Voltage that the switch stands.", "Switch stands")
rcd_clamp.give("diode_drop", 0.8, "V", r"V_F", 0.05, 5, "Forward voltage of the diode.", "Forward voltage")
rcd_clamp.give("switch_resistance", 0.004, "Ω", r"R_\mathrm{on}", 1e-5, 10, "On-resistance of the switch.", "Switch resistance")


@rcd_clamp.build(
    unit="W",
    symbol="E",
    source=ENERGY,
    title="Power of the leakage",
    tex=r"\tfrac12{leakage_inductance}\,{end_current}^2\,{clamp_frequency}",
    example=({"leakage_inductance": 0.4e-6, "end_current": 40, "clamp_frequency": 40e3}, 12.8),
)
def leakage_power(leakage_inductance, end_current, clamp_frequency):
    """What the leakage inductance holds, every time."""
    return leakage_inductance * end_current**2 / 2 * clamp_frequency


@rcd_clamp.build(
    unit="Ω",
    symbol="R",
    source=ENERGY,
    title="Clamp resistor",
    safe="down",
    tex=r"\mathrm{E24}_\downarrow\left(\frac{{wanted_clamp}\,\max({wanted_clamp}-{held_voltage},\,0.01\,{wanted_clamp})}{leakage_power}\right)",
    example=({"wanted_clamp": 48, "held_voltage": 24, "leakage_power": 12.8}, 82.0),
)
def clamp_resistor(wanted_clamp, held_voltage, leakage_power):
    """Resistor at which the clamp settles at the wanted level or below: V_c²/R = P, the power with V_c/(V_c − V_r) in it."""
    return nearest_in("E24", "down")(wanted_clamp * np.maximum(wanted_clamp - held_voltage, 0.01 * wanted_clamp) / leakage_power)


@rcd_clamp.build(
    unit="F",
    symbol="C",
    source="discharge through the resistor over a period",
    title="Clamp capacitor",
    safe="up",
    tex=r"\mathrm{E6}_\uparrow\left(\frac{1}{{clamp_ripple}\,{clamp_resistor}\,{clamp_frequency}}\right)",
    example=({"clamp_ripple": 0.05, "clamp_resistor": 82, "clamp_frequency": 40e3}, 6.8e-6),
)
def clamp_capacitor(clamp_ripple, clamp_resistor, clamp_frequency):
    """Capacitor that keeps the ripple to its share."""
    return nearest_in("E6", "up")(1 / (clamp_ripple * clamp_resistor * clamp_frequency))


@rcd_clamp.build(
    unit="V",
    symbol=r"V_{c,\mathrm{set}}",
    source=ENERGY,
    title="Settles at",
    tex=r"\tfrac12\left({held_voltage}+\sqrt{{held_voltage}^2+4\,{leakage_power}\,{clamp_resistor}}\right)",
    example=({"held_voltage": 24, "leakage_power": 12.8, "clamp_resistor": 82}, 46.5475),
)
def settled_clamp(held_voltage, leakage_power, clamp_resistor):
    """Level at which the resistor burns what comes in; never below what the winding holds."""
    return (held_voltage + np.sqrt(held_voltage**2 + 4 * leakage_power * clamp_resistor)) / 2


@rcd_clamp.build(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Ohm's law",
    title="Clamp loss",
    tex=r"\frac{{settled_clamp}^2}{clamp_resistor}",
    example=({"settled_clamp": 46.5, "clamp_resistor": 82}, 26.369),
)
def clamp_loss(settled_clamp, clamp_resistor):
    """Heat of the resistor."""
    return settled_clamp**2 / clamp_resistor


@rcd_clamp.build(
    unit="V",
    symbol=r"\hat V_{DS}",
    source="rail, level, half of its ripple and the diode",
    title="Peak across the switch",
    tex=r"{rail_voltage}+{settled_clamp}\left(1+\frac{1}{2\,{clamp_resistor}\,{clamp_capacitor}\,{clamp_frequency}}\right)+{diode_drop}",
    example=({"rail_voltage": 24, "settled_clamp": 46.5, "clamp_resistor": 82, "clamp_capacitor": 6.8e-6, "clamp_frequency": 40e3, "diode_drop": 0.8}, 72.342),
)
def switch_peak(rail_voltage, settled_clamp, clamp_resistor, clamp_capacitor, clamp_frequency, diode_drop):
    """Highest voltage across the switch that is off."""
    return rail_voltage + settled_clamp * (1 + 1 / (2 * clamp_resistor * clamp_capacitor * clamp_frequency)) + diode_drop


rcd_clamp.check(
    "guard",
    title="Switch stands the clamp",
    demand="switch_peak",
    capability="switch_rating",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The off switch sees {demand}; it stands {capability}.",
    why="What the clamp does not hold is burnt in the switch's avalanche.",
    remedies=(Move("wanted_clamp", "down", 2.0), Move("switch_rating", "up", 3.0)),
)
rcd_clamp.check(
    "above_held",
    title="Clamp above the winding",
    demand="held_voltage",
    capability="wanted_clamp",
    fail=1.0,
    hold=1.2,
    harm="equipment",
    sentence="The winding holds {demand}; the clamp is wanted at {capability}.",
    why="Near the winding's own voltage the clamp takes the load's power as well as the leakage's.",
    remedies=(Move("wanted_clamp", "up", 3.0),),
)

rcd_clamp.draw(
    Schematic(
        (
            Part("source", "winding", (0, 0), (0, 5), ("rail_voltage",), "Rail, then winding", neighbour=True),
            Part("inductor", "leakage", (0, 0), (4, 0), ("leakage_inductance",), neighbour=True),
            Part("switch", "switch", (4, 0), (4, 5), ("switch_resistance",), checks=("guard",)),
            Part("diode", "diode", (4, 0), (8, 0), (0.002,), forward="diode_drop"),
            Part("capacitor", "capacitor", (8, 0), (8, 5), ("clamp_capacitor",), "Clamp capacitor"),
            Part("resistor", "resistor", (11, 0), (11, 5), ("clamp_resistor",), "Clamp resistor", checks=("guard", "above_held")),
        ),
        (((8, 0), (11, 0)), ((0, 5), (11, 5))),
        ((0, 5),),
        {"drain": (4, 0), "clamp": (11, 0)},
    )
)


@rcd_clamp.look("Over a period", "v drain", "v clamp", "i diode", "i leakage")
def period(seen: Seen) -> Course:
    """The switch on until the leakage carries the current, then off; all volts are from the rail, which drives the current and then is the winding's."""
    seconds = 1 / seen.at("clamp_frequency")
    on = min(seen.at("leakage_inductance") * seen.at("end_current") / seen.at("rail_voltage"), 0.9 * seconds)
    held = max(seen.at("held_voltage"), 1e-6)
    return Course(seconds, (Event(0.0, {"switch": True}, {"winding": seen.at("rail_voltage")}), Event(on, {"switch": False}, {"winding": held})))
