"""Turn-off snubber and half-bridge clamp: a capacitor takes the current that the switch lets go of (6.1, 6.3; 16, H20)."""

import numpy as np

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Plot, Seen, Series

FALLING = "the switch's current falls in a line, the capacitor takes the rest"
STRAY = "energy of the stray inductance into a capacitor that stands at the rail"

turn_off_snubber = Stage("turn_off_snubber", "Turn-off snubber", path=False, telling="{snubber_loss}")
half_bridge_clamp = Stage("half_bridge_clamp", "Half-bridge clamp", path=False, telling="{overshoot}")
for _stage in (turn_off_snubber, half_bridge_clamp):
    _stage.give("rail_voltage", 380.0, "V", "V", 1, 1e4, "Rail that the switch blocks.", "Rail")
    _stage.give("switched_current", 10.0, "A", "I", 1e-3, 1e4, "Current that is switched off.", "Current")
    _stage.give("snubber_frequency", 40e3, "Hz", "f", 1, 1e7, "How often.", "Frequency")
    _stage.give("diode_drop", 1.0, "V", r"V_F", 0.05, 5, "Forward voltage of the diodes.", "Forward voltage")
turn_off_snubber.hazard("pulsed_voltage", "rail_voltage")
half_bridge_clamp.hazard("dc_voltage", "rail_voltage")
turn_off_snubber.give("fall_time", 60e-9, "s", r"t_f", 1e-10, 1e-3, "Time in which the switch's current falls.", "Fall time")
turn_off_snubber.give("least_on_time", 2e-6, "s", r"t_\mathrm{on,min}", 1e-9, 1, "Shortest time that the switch is on.", "Shortest on-time")
turn_off_snubber.give(
    "extra_current", 10.0, "A", r"I_\mathrm{extra}", 1e-3, 1e4, "Current that the switch may carry in addition at turn-on.", "Extra current allowed"
)
turn_off_snubber.give(
    "snubber_share", 1.0, "", r"k_\mathrm{want}", 0.05, 20, "Capacitor over that which is full when the current is gone.", "Capacitor, relative"
)
turn_off_snubber.give("switch_resistance", 0.1, "Ω", r"R_\mathrm{on}", 1e-4, 10, "On-resistance of the switch.", "Switch resistance")


@turn_off_snubber.build(
    unit="F",
    symbol="C",
    source=FALLING,
    title="Snubber capacitor",
    safe="up",
    tex=r"\mathrm{E6}\left({snubber_share}\,\frac{{switched_current}\,{fall_time}}{2\,{rail_voltage}}\right)",
    example=({"snubber_share": 1, "switched_current": 10, "fall_time": 60e-9, "rail_voltage": 380}, 680e-12),
)
def snubber_capacitor(snubber_share, switched_current, fall_time, rail_voltage):
    """Capacitor that has reached the rail, times its share, just when the switch's current is gone."""
    return nearest_in("E6")(snubber_share * switched_current * fall_time / (2 * rail_voltage))


@turn_off_snubber.build(
    unit="",
    symbol="k",
    source=FALLING,
    title="Capacitor over the full one",
    tex=r"\frac{2\,{snubber_capacitor}\,{rail_voltage}}{{switched_current}\,{fall_time}}",
    example=({"snubber_capacitor": 680e-12, "rail_voltage": 380, "switched_current": 10, "fall_time": 60e-9}, 0.86133),
)
def snubber_ratio(snubber_capacitor, rail_voltage, switched_current, fall_time):
    """One where the capacitor reaches the rail as the current ends."""
    return 2 * snubber_capacitor * rail_voltage / (switched_current * fall_time)


@turn_off_snubber.build(
    unit="J",
    symbol=r"W_\mathrm{off}",
    source=FALLING,
    title="Turn-off energy",
    tex=r"{rail_voltage}\,{switched_current}\,{fall_time}\begin{cases}\tfrac12-\tfrac23\sqrt{{snubber_ratio}}+\tfrac14{snubber_ratio}&{snubber_ratio}\le1\\\frac{1}{12\,{snubber_ratio}}&\text{else}\end{cases}",
    example=({"rail_voltage": 380, "switched_current": 10, "fall_time": 60e-9, "snubber_ratio": 1.0}, 19e-6),
)
def off_energy(rail_voltage, switched_current, fall_time, snubber_ratio):
    """What the switch still burns at turn-off; without a capacitor ½·V·I·t_f."""
    under = 0.5 - 2 / 3 * np.sqrt(snubber_ratio) + snubber_ratio / 4
    return rail_voltage * switched_current * fall_time * np.where(snubber_ratio <= 1, under, 1 / (12 * snubber_ratio))


@turn_off_snubber.build(
    unit="Ω",
    symbol="R",
    source="not more than the extra current, empty within the shortest on-time",
    title="Snubber resistor",
    safe="up",
    tex=r"\mathrm{E24}_\uparrow\left(\frac{rail_voltage}{extra_current}\right)",
    example=({"rail_voltage": 380, "extra_current": 10}, 39.0),
)
def snubber_resistor(rail_voltage, extra_current):
    """Resistor that keeps the discharge below the extra current."""
    return nearest_in("E24", "up")(rail_voltage / extra_current)


@turn_off_snubber.build(
    unit="s",
    symbol=r"3RC",
    source="three time constants",
    title="Time to discharge",
    tex=r"3\,{snubber_resistor}\,{snubber_capacitor}",
    example=({"snubber_resistor": 39, "snubber_capacitor": 680e-12}, 79.56e-9),
)
def discharge_needed(snubber_resistor, snubber_capacitor):
    """How long the switch must be on for the capacitor to be ready again."""
    return 3 * snubber_resistor * snubber_capacitor


@turn_off_snubber.build(
    unit="W",
    symbol=r"P_C",
    source="energy of a capacitor that is emptied through a resistor",
    title="Loss of the snubber",
    tex=r"\tfrac12{snubber_capacitor}\,{rail_voltage}^2\,{snubber_frequency}",
    example=({"snubber_capacitor": 680e-12, "rail_voltage": 380, "snubber_frequency": 40e3}, 1.96384),
)
def snubber_loss(snubber_capacitor, rail_voltage, snubber_frequency):
    """Burnt in resistor and switch, whatever the current."""
    return snubber_capacitor * rail_voltage**2 / 2 * snubber_frequency


@turn_off_snubber.build(unit="W", symbol=r"P_\mathrm{sum}", source="sum", title="Snubber and turn-off", tex=r"{snubber_loss}+{off_energy}\,{snubber_frequency}")
def all_loss(snubber_loss, off_energy, snubber_frequency):
    """What turn-off costs with this capacitor."""
    return snubber_loss + off_energy * snubber_frequency


@turn_off_snubber.build(
    unit="W",
    symbol=r"P_0",
    source=FALLING,
    title="Turn-off without it",
    tex=r"\tfrac12{rail_voltage}\,{switched_current}\,{fall_time}\,{snubber_frequency}",
    example=({"rail_voltage": 380, "switched_current": 10, "fall_time": 60e-9, "snubber_frequency": 40e3}, 4.56),
)
def bare_loss(rail_voltage, switched_current, fall_time, snubber_frequency):
    """What turn-off costs with no capacitor."""
    return rail_voltage * switched_current * fall_time / 2 * snubber_frequency


turn_off_snubber.check(
    "ready",
    title="Empty before the next turn-off",
    demand="discharge_needed",
    capability="least_on_time",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="It needs {demand} to discharge; the shortest on-time is {capability}.",
    why="A capacitor that is still charged does nothing at the next turn-off.",
    remedies=(Move("snubber_share", "down", 10.0), Move("extra_current", "up", 4.0)),
)
turn_off_snubber.check(
    "worth",
    title="Costs less than it saves",
    demand="all_loss",
    capability="bare_loss",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="With it turn-off costs {demand}; without it {capability}.",
    why="A capacitor far beyond the full one only moves the heat, and adds some.",
    remedies=(Move("snubber_share", "down", 10.0),),
)


@turn_off_snubber.picture("Loss over the capacitor")
def over_capacitor(seen: Seen) -> Plot:
    """Turn-off, snubber and their sum over the capacitor: the least is near the full one."""
    v, i, t, f = (seen.at(n) for n in ("rail_voltage", "switched_current", "fall_time", "snubber_frequency"))
    k = np.geomspace(0.02, 5, 60)
    off = v * i * t * f * np.where(k <= 1, 0.5 - 2 / 3 * np.sqrt(k) + k / 4, 1 / (12 * k))
    loss = k * i * t / (2 * v) * v**2 / 2 * f
    capacitance = k * i * t / (2 * v)
    return Plot(
        "capacitor",
        "F",
        "W",
        [Series("both", capacitance, off + loss), Series("switch", capacitance, off, "slate"), Series("snubber", capacitance, loss, "slate", dashed=True)],
        y_from=0.0,
        log=True,
    )


turn_off_snubber.draw(
    Schematic(
        (
            Part("current", "load", (0, 5), (0, 0), ("switched_current",), "Load current", neighbour=True),
            Part("switch", "switch", (3, 0), (3, 5), ("switch_resistance",)),
            Part("diode", "snubber_diode", (6, 0), (6, 2.5), (0.05,), "Snubber diode", forward="diode_drop"),
            Part("resistor", "resistor", (9, 0), (9, 2.5), ("snubber_resistor",), "Snubber resistor", checks=("ready",)),
            Part("capacitor", "capacitor", (6, 2.5), (6, 5), ("snubber_capacitor",), "Snubber capacitor", checks=("worth",)),
            Part("diode", "freewheel", (12, 0), (12, 2.5), (0.05,), "Load's diode", forward="diode_drop", neighbour=True),
            Part("source", "rail", (12, 2.5), (12, 5), ("rail_voltage",), neighbour=True),
        ),
        (((0, 0), (12, 0)), ((0, 5), (12, 5)), ((6, 2.5), (9, 2.5))),
        ((0, 5),),
        {"drain": (3, 0), "capacitor": (6, 2.5)},
    )
)


@turn_off_snubber.look("Over a period", "v drain", "v capacitor", "i resistor", "i switch")
def snubbed(seen: Seen) -> Course:
    """On for half of the period, off for the rest; the switch lets go at once."""
    seconds = 1 / seen.at("snubber_frequency")
    return Course(seconds, (Event(0.0, {"switch": True}), Event(seconds / 2, {"switch": False})))


half_bridge_clamp.give("stray_inductance", 60e-9, "H", r"L_\mathrm{stray}", 1e-10, 1e-3, "Stray inductance between rail and switches.", "Stray inductance")
half_bridge_clamp.give("overshoot_allowed", 40.0, "V", r"\Delta V_\mathrm{max}", 0.1, 1e4, "Overshoot that is allowed.", "Overshoot allowed")


@half_bridge_clamp.build(
    unit="F",
    symbol="C",
    source=STRAY,
    title="Clamp capacitor",
    safe="up",
    tex=r"\mathrm{E6}_\uparrow\left({stray_inductance}\left(\frac{switched_current}{overshoot_allowed}\right)^2\right)",
    example=({"stray_inductance": 60e-9, "switched_current": 10, "overshoot_allowed": 40}, 4.7e-9),
)
def bridge_capacitor(stray_inductance, switched_current, overshoot_allowed):
    """Capacitor that keeps the overshoot."""
    return nearest_in("E6", "up")(stray_inductance * (switched_current / overshoot_allowed) ** 2)


@half_bridge_clamp.build(
    unit="V", symbol=r"\Delta V", source=STRAY, title="Overshoot", tex=r"{switched_current}\sqrt{\frac{stray_inductance}{bridge_capacitor}}"
)
def overshoot(switched_current, stray_inductance, bridge_capacitor):
    """By how much the capacitor rises above the rail."""
    return switched_current * np.sqrt(stray_inductance / bridge_capacitor)


@half_bridge_clamp.build(
    unit="Ω",
    symbol="R",
    source="back at the rail within a third of the period",
    title="Return resistor",
    safe="down",
    tex=r"\mathrm{E24}_\downarrow\left(\frac{1}{3\,{snubber_frequency}\,{bridge_capacitor}}\right)",
    example=({"snubber_frequency": 40e3, "bridge_capacitor": 4.7e-9}, 1.6e3),
)
def return_resistor(snubber_frequency, bridge_capacitor):
    """Resistor through which the capacitor goes back to the rail."""
    return nearest_in("E24", "down")(1 / (3 * snubber_frequency * bridge_capacitor))


@half_bridge_clamp.build(unit="s", symbol="RC", source="time constant", title="Return's time constant", tex=r"{return_resistor}\,{bridge_capacitor}")
def return_time(return_resistor, bridge_capacitor):
    """Time constant of the way back."""
    return return_resistor * bridge_capacitor


@half_bridge_clamp.build(
    unit="s",
    symbol=r"T/3",
    source="a third of the period",
    title="A third of the period",
    tex=r"\frac{1}{3\,{snubber_frequency}}",
    example=({"snubber_frequency": 40e3}, 8.333e-6),
)
def third_of_period(snubber_frequency):
    """With the whole period as time constant the overshoots stack to 1.58 times one."""
    return 1 / (3 * snubber_frequency)


@half_bridge_clamp.build(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source=STRAY,
    title="Loss",
    tex=r"\tfrac12{stray_inductance}\,{switched_current}^2\,{snubber_frequency}",
    example=({"stray_inductance": 60e-9, "switched_current": 10, "snubber_frequency": 40e3}, 0.12),
)
def stray_loss(stray_inductance, switched_current, snubber_frequency):
    """Only what the stray inductance held: the capacitor is not emptied."""
    return stray_inductance * switched_current**2 / 2 * snubber_frequency


half_bridge_clamp.check(
    "overshoot",
    title="Overshoot",
    demand="overshoot",
    capability="overshoot_allowed",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The clamp rises by {demand}; {capability} is allowed.",
    why="What is above the rail stands across the switches.",
    remedies=(Move("stray_inductance", "down", 10.0), Move("bridge_capacitor", "up", 10.0)),
)
half_bridge_clamp.check(
    "returns",
    title="Back at the rail in time",
    demand="return_time",
    capability="third_of_period",
    fail=0.334,
    hold=1.0,
    harm="equipment",
    sentence="The way back has a time constant of {demand}; a third of the period is {capability}.",
    why="What is left of one overshoot is added to the next.",
    remedies=(Move("return_resistor", "down", 10.0),),
)

half_bridge_clamp.draw(
    Schematic(
        (
            Part("source", "rail", (0, 0), (0, 5), ("rail_voltage",), neighbour=True),
            Part("inductor", "stray", (2, 0), (5, 0), ("stray_inductance",), "Stray inductance", neighbour=True),
            Part("resistor", "return", (2, -2.5), (11, -2.5), ("return_resistor",), "Return resistor", checks=("returns",)),
            Part("diode", "diode", (8, 0), (11, 0), (0.02,), forward="diode_drop"),
            Part("capacitor", "capacitor", (11, 0), (11, 5), ("bridge_capacitor",), "Clamp capacitor", checks=("overshoot",)),
            Part("diode", "freewheel", (5, 5), (5, 0), (0.02,), "Other diode", forward="diode_drop", neighbour=True),
            Part("current", "load", (8, 0), (8, 5), ("switched_current",), "Load current", neighbour=True),
        ),
        (((0, 0), (2, 0)), ((2, 0), (2, -2.5)), ((5, 0), (8, 0)), ((11, -2.5), (11, 0)), ((0, 5), (11, 5))),
        ((0, 5),),
        {"rail": (0, 0), "node": (5, 0), "clamp": (11, 0)},
    )
)


@half_bridge_clamp.look("Over a period", "v clamp", "v node", "i diode", "i stray")
def clamped(seen: Seen) -> Course:
    """The load draws its current for half of the period and is let go."""
    seconds = 1 / seen.at("snubber_frequency")
    return Course(seconds, (Event(0.0, {}, {"load": seen.at("switched_current")}), Event(seconds / 2, {}, {"load": 0.0})))
