"""What hangs on a controller's pins: lamps, optocouplers, relays; currents per pin and per package (15.2 no. 11)."""

import numpy as np

from rhombos.core.formulas.numeric import like, nearest_in
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Seen, Table, Way
from rhombos.core.units import show

PINS = "Ohm's law at each pin; the sum for the package; a relay by a transistor with its flywheel"

controller_pins = Stage("controller_pins", "Controller pins", path=False, telling="{package_current}")
controller_pins.choice(
    "coil_suppression",
    {
        "diode": Option("diode across the coil", {"clamped_at": 0.7}),
        "zener": Option("zener clamp of 24 V", {"clamped_at": 24.7}),
        "none": Option("none", {"clamped_at": 400.0}),
    },
    {"clamped_at": ("V", r"V_z", "Voltage that the coil swings to beyond its supply when it is let go.")},
    default="diode",
    sentence="What takes the coil's energy when it is switched off.",
)
controller_pins.choice(
    "reset_state",
    {"floating": Option("inputs, floating", {"outputs_float": 1}), "low": Option("low", {"outputs_float": 0})},
    {"outputs_float": ("", r"\sigma_z", "1 where the outputs float while the controller is in reset.")},
    default="floating",
    sentence="What the outputs do while the controller is in reset.",
)
controller_pins.choice(
    "gate_pull",
    {"fitted": Option("pull-downs fitted", {"pulled": 1}), "missing": Option("none", {"pulled": 0})},
    {"pulled": ("", r"\sigma_p", "1 where each driver input is pulled down.")},
    default="fitted",
    sentence="Whether the drivers' inputs are pulled down by resistors.",
)
controller_pins.give("logic_voltage", 5.0, "V", r"V_{cc}", 1.5, 15, "Supply of the controller.", "Logic supply")
controller_pins.give("pin_limit", 20e-3, "A", r"I_\mathrm{pin}", 1e-4, 0.2, "Current that one pin gives for good.", "Limit of a pin")
controller_pins.give("package_limit", 100e-3, "A", r"I_\mathrm{pack}", 1e-3, 2, "Current of all pins together.", "Limit of the package")
controller_pins.give("lamp_count", 4.0, "", r"n_1", 0, 64, "Indicator lamps.", whole=True)
controller_pins.give("lamp_wanted", 4e-3, "A", "I_1", 1e-4, 0.05, "Current of each lamp.", "Current of a lamp")
controller_pins.give("lamp_drop", 2.0, "V", "V_1", 1, 4, "Drop of a lamp.", "Drop of a lamp")
controller_pins.give("opto_count", 3.0, "", r"n_2", 0, 64, "Optocouplers driven.", whole=True)
controller_pins.give("opto_load", 1e-3, "A", r"I_C", 1e-5, 0.1, "Current that each optocoupler's transistor must pull.", "Load of an optocoupler")
controller_pins.give("opto_ratio", 0.5, "", r"\mathrm{CTR}", 0.02, 20, "Least transfer ratio, new.", "Transfer ratio, new")
controller_pins.give(
    "opto_aged", 0.5, "", r"k_\mathrm{age}", 0.1, 1, "What is left of it at the end of life [judgement].", "Left at end of life", judgement=True
)
controller_pins.give("opto_drop", 1.2, "V", "V_2", 0.8, 2, "Drop of an optocoupler's diode.", "Drop of an optocoupler")
controller_pins.give("coil_supply", 12.0, "V", r"V_\mathrm{coil}", 3, 60, "Supply of the relay's coil.", "Supply of the coil")
controller_pins.give("coil_current", 80e-3, "A", r"I_\mathrm{coil}", 1e-3, 5, "Current of the coil.", "Current of the coil")
controller_pins.give("relay_gain", 100.0, "", r"\beta", 10, 2000, "Gain of the relay's transistor.", "Gain of the relay's transistor")
controller_pins.give("overdrive", 3.0, "", r"k_B", 1, 20, "Base current over the least [judgement].", "Overdrive", judgement=True)
controller_pins.give("transistor_rating", 60.0, "V", r"V_{CE}", 10, 600, "Voltage that the relay's transistor stands.", "Relay's transistor stands")


@controller_pins.build(
    unit="Ω",
    symbol="R_1",
    source=PINS,
    title="Resistor of a lamp",
    decided=True,
    tex=r"\mathrm{E12}_\uparrow\left(\frac{{logic_voltage}-{lamp_drop}}{lamp_wanted}\right)",
    example=({"logic_voltage": 5, "lamp_drop": 2, "lamp_wanted": 4e-3}, 820),
)
def lamp_resistor(logic_voltage, lamp_drop, lamp_wanted):
    """Series resistor of each lamp, next higher preferred value."""
    return nearest_in("E12", "up")((logic_voltage - lamp_drop) / lamp_wanted)


@controller_pins.build(unit="A", symbol=r"I_{1}'", source=PINS, title="Lamp draws", tex=r"\frac{{logic_voltage}-{lamp_drop}}{lamp_resistor}")
def lamp_current(logic_voltage, lamp_drop, lamp_resistor):
    """Current of a lamp with its resistor."""
    return (logic_voltage - lamp_drop) / lamp_resistor


@controller_pins.build(
    unit="A",
    symbol=r"I_{2,\mathrm{need}}",
    source="transfer ratio at its end of life",
    title="Optocoupler needs",
    tex=r"\frac{opto_load}{{opto_ratio}\,{opto_aged}}",
)
def opto_needed(opto_load, opto_ratio, opto_aged):
    """Current that an optocoupler's diode needs when it is old."""
    return opto_load / (opto_ratio * opto_aged)


@controller_pins.build(
    unit="Ω",
    symbol="R_2",
    source=PINS,
    title="Resistor of an optocoupler",
    decided=True,
    tex=r"\mathrm{E12}_\downarrow\left(\frac{{logic_voltage}-{opto_drop}}{opto_needed}\right)",
    example=({"logic_voltage": 5, "opto_drop": 1.2, "opto_needed": 4e-3}, 820),
)
def opto_resistor(logic_voltage, opto_drop, opto_needed):
    """Series resistor of an optocoupler, next lower preferred value."""
    return nearest_in("E12", "down")((logic_voltage - opto_drop) / opto_needed)


@controller_pins.build(unit="A", symbol=r"I_2'", source=PINS, title="Optocoupler draws", tex=r"\frac{{logic_voltage}-{opto_drop}}{opto_resistor}")
def opto_current(logic_voltage, opto_drop, opto_resistor):
    """Current of an optocoupler with its resistor."""
    return (logic_voltage - opto_drop) / opto_resistor


@controller_pins.build(
    unit="A", symbol=r"I_B", source=PINS, title="Base current of the relay's transistor", tex=r"{overdrive}\,\frac{coil_current}{relay_gain}"
)
def base_current(overdrive, coil_current, relay_gain):
    """Base current that saturates the relay's transistor for certain."""
    return overdrive * coil_current / relay_gain


@controller_pins.build(
    unit="Ω",
    symbol="R_B",
    source=PINS,
    title="Base resistor",
    decided=True,
    tex=r"\mathrm{E12}_\downarrow\left(\frac{{logic_voltage}-0.7\,\mathrm{V}}{base_current}\right)",
    example=({"logic_voltage": 5, "base_current": 2.4e-3}, 1500),
)
def base_resistor(logic_voltage, base_current):
    """Resistor of the relay's base, next lower preferred value."""
    return nearest_in("E12", "down")((logic_voltage - like(0.7, logic_voltage)) / base_current)


@controller_pins.build(
    unit="A",
    symbol=r"\hat I_\mathrm{pin}",
    source=PINS,
    title="Most on one pin",
    tex=r"\max\left({lamp_current},\,{opto_current},\,\frac{{logic_voltage}-0.7\,\mathrm{V}}{base_resistor}\right)",
    example=({"lamp_current": 4e-3, "opto_current": 5e-3, "logic_voltage": 5, "base_resistor": 1500}, 5e-3),
)
def pin_current(lamp_current, opto_current, logic_voltage, base_resistor):
    """Highest current of any pin."""
    return np.maximum(np.maximum(lamp_current, opto_current), (logic_voltage - like(0.7, logic_voltage)) / base_resistor)


@controller_pins.build(
    unit="A",
    symbol=r"\Sigma I",
    source=PINS,
    title="All pins together",
    tex=r"{lamp_count}\,{lamp_current}+{opto_count}\,{opto_current}+\frac{{logic_voltage}-0.7\,\mathrm{V}}{base_resistor}",
    example=({"lamp_count": 4, "lamp_current": 4e-3, "opto_count": 3, "opto_current": 5e-3, "logic_voltage": 5, "base_resistor": 1500}, 33.8667e-3),
)
def package_current(lamp_count, lamp_current, opto_count, opto_current, logic_voltage, base_resistor):
    """Current of the package with everything on."""
    return lamp_count * lamp_current + opto_count * opto_current + (logic_voltage - like(0.7, logic_voltage)) / base_resistor


@controller_pins.build(unit="V", symbol=r"V_{C}", source=PINS, title="Relay's transistor sees", tex=r"{coil_supply}+{clamped_at}")
def coil_peak(coil_supply, clamped_at):
    """Voltage of the relay's transistor when the coil is let go."""
    return coil_supply + clamped_at


controller_pins.give("float_allowed", 0.5, "", r"\sigma_0", 0.5, 0.5, "No driver input may float; half stands between no and yes.", "Floating inputs allowed")


@controller_pins.build(unit="", symbol=r"\sigma_\mathrm{float}", source="reset", title="Driver inputs float", tex=r"{outputs_float}(1-{pulled})")
def floats(outputs_float, pulled):
    """1 where the drivers' inputs float while the controller is in reset."""
    return outputs_float * (1 - pulled)


controller_pins.check(
    "pin",
    title="Current of a pin",
    demand="pin_current",
    capability="pin_limit",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="A pin gives {demand}; it may give {capability}.",
    why="An overloaded pin sags, then dies.",
    remedies=(Move("lamp_wanted", "down", 10.0), Move("relay_gain", "up", 5.0), Move("opto_ratio", "up", 5.0)),
)
controller_pins.check(
    "package",
    title="Current of the package",
    demand="package_current",
    capability="package_limit",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="All pins together give {demand}; the package may give {capability}.",
    why="Each pin may be within its limit and the supply pin beyond it.",
    remedies=(Move("lamp_wanted", "down", 10.0), Move("opto_ratio", "up", 5.0)),
)
controller_pins.check(
    "relay",
    title="Relay's transistor stands the coil",
    demand="coil_peak",
    capability="transistor_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Letting the coil go swings the transistor to {demand}; it stands {capability}.",
    why="Without a clamp the coil makes hundreds of volts.",
    remedies=(Move("transistor_rating", "up", 10.0),),
)
controller_pins.check(
    "reset",
    title="Quiet in reset",
    demand="floats",
    capability="float_allowed",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="In reset the drivers' inputs float ({demand}): a bridge may switch as it likes.",
    why="Between power and the first line of the program the outputs are inputs.",
    no_demand="The drivers' inputs are held low in reset.",
)


@controller_pins.picture("What hangs on the pins")
def pins(seen: Seen) -> Table:
    """Each kind with its resistor and current."""
    rows = [
        ("lamp", seen.at("lamp_count"), "lamp_resistor", seen.at("lamp_current")),
        ("optocoupler", seen.at("opto_count"), "opto_resistor", seen.at("opto_current")),
        ("relay's base", 1.0, "base_resistor", seen.at("base_current")),
    ]
    limit = seen.at("pin_limit")

    def told(amperes: float) -> str:
        return "holds" if 1.25 * amperes <= limit else "tight" if amperes <= limit else "fails"

    return Table(
        ["Load", "How many", "Resistor", "Each draws"],
        [Way([name, f"{count:.0f}", show(seen.at(r), "Ω", 3), show(a, "A", 3)], told(a)) for name, count, r, a in rows],  # type: ignore[arg-type]
        f"Together {show(seen.at('package_current'), 'A', 3)} of {show(seen.at('package_limit'), 'A', 3)}. Without a resistor a lamp or an optocoupler takes whatever the pin gives.",
    )
