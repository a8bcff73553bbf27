"""The control supply: what it feeds, by which school, its heat, and whether it holds through every corner (3.5; 16, H14)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, like, lowest, nearest_in
from rhombos.core.graph.declare import Move, Option, Stage, every
from rhombos.core.vocabulary import word

H14 = "schools of a control supply above or near the battery: linear, buck, boost, charge pump, auxiliary winding"
LINEAR, BUCK, BOOST, PUMP, WINDING = range(5)

control_supply = Stage("control_supply", "Control supply", path=False, telling="{control_voltage}")
control_supply.hazard("dc_voltage", "input_voltage")

control_supply.choice(
    "supply_kind",
    {
        "automatic": Option("what suits the battery", {"wanted_school": -1}),
        "linear": Option("linear regulator", {"wanted_school": LINEAR}),
        "buck": Option("buck converter", {"wanted_school": BUCK}),
        "boost": Option("boost converter", {"wanted_school": BOOST}),
        "pump": Option("charge pump", {"wanted_school": PUMP}),
        "winding": Option("auxiliary winding", {"wanted_school": WINDING}),
    },
    {"wanted_school": ("", r"s_\mathrm{want}", "The school that is asked for: 0 linear, 1 buck, 2 boost, 3 charge pump, 4 auxiliary winding; −1: what suits.")},
    default="automatic",
    sentence="What makes the control supply from the battery.",
    title="Kind of supply",
)
control_supply.choice(
    "fan",
    {
        "none": Option("none", {"fan_fitted": 0, "fan_on_rail": 0}),
        "rail": Option("on the control supply", {"fan_fitted": 1, "fan_on_rail": 1}),
        "battery": Option("on the battery", {"fan_fitted": 1, "fan_on_rail": 0}),
    },
    {"fan_fitted": ("", r"\sigma_f", "1 where there is a fan."), "fan_on_rail": ("", r"\sigma_r", "1 where the control supply feeds it.")},
    default="none",
    sentence="Where a fan is fed from.",
)

control_supply.give("control_voltage", 12.0, "V", r"V_\mathrm{ctl}", 3, 30, "Voltage of the control supply.", "Control voltage")
control_supply.give(
    "control_lockout", 8.5, "V", r"V_\mathrm{UVLO}", 2, 25, "Highest voltage at which the controller's lock-out may still act.", "Controller's lock-out"
)
control_supply.give("controller_current", 0.02, "A", r"I_\mathrm{c}", 0, 2, "Current of the controller.", "Controller")
control_supply.give("sense_current", 0.015, "A", r"I_\mathrm{s}", 0, 2, "Current of dividers, references and comparators.", "Sensing")
control_supply.give("lamp_current", 0.01, "A", r"I_\mathrm{lamp}", 0, 2, "Current of indicator lamps and optocouplers.", "Lamps and optocouplers")
control_supply.give("fan_power", 1.8, "W", r"P_\mathrm{fan}", 0, 100, "Power of the fan.", "Fan's power")
control_supply.give("fan_rating", 12.0, "V", r"V_\mathrm{fan}", 3, 60, "Voltage that the fan is made for.", "Fan's voltage")
control_supply.give("linear_drop", 1.5, "V", r"V_\mathrm{drop}", 0.1, 5, "Least drop of a linear regulator.", "Drop of a linear regulator")
control_supply.give("linear_rating", 35.0, "V", r"V_\mathrm{lin}", 5, 200, "Voltage that a linear regulator stands.", "Rating of a linear regulator")
control_supply.give("converter_rating", 150.0, "V", r"V_\mathrm{conv}", 5, 1000, "Voltage that a small converter stands.", "Rating of a converter")
control_supply.give(
    "linear_heat",
    2.0,
    "W",
    r"P_\mathrm{lin}",
    0.1,
    20,
    "Heat above which a buck takes the place of a linear regulator [judgement].",
    "Heat of a linear regulator",
    judgement=True,
)
control_supply.give(
    "linear_resistance",
    40.0,
    "K/W",
    r"R_\mathrm{lin}",
    1,
    200,
    "Thermal resistance of the regulator to the air inside [judgement].",
    "Regulator to air",
    judgement=True,
)
control_supply.give(
    "linear_junction", 398.15, "K_abs", r"T_\mathrm{lin}", 323.15, 473.15, "Junction that the regulator may reach.", "Junction of the regulator"
)
control_supply.give(
    "supply_efficiency", 0.82, "", r"\eta_\mathrm{ctl}", 0.3, 0.98, "Efficiency of a small converter [judgement].", "Efficiency of a converter", judgement=True
)
control_supply.give("pump_frequency", 100e3, "Hz", r"f_\mathrm{p}", 1e3, 1e7, "Frequency of a charge pump.", "Charge pump's frequency")
control_supply.give("pump_capacitor", 1e-6, "F", r"C_\mathrm{p}", 1e-9, 1e-3, "Flying capacitor of a charge pump.", "Charge pump's capacitor")
control_supply.give("pump_diode", 0.5, "V", r"V_{F,p}", 0, 1.5, "Drop of each of its diodes.", "Charge pump's diodes")
control_supply.give(
    "winding_share", 0.55, "", r"N_\mathrm{aux}/N_p", 0.01, 10, "Turns of the auxiliary winding over those of one primary half.", "Auxiliary turns over primary"
)
control_supply.give("dip_time", 5e-3, "s", r"t_\mathrm{dip}", 0, 1, "Longest dip of the battery that the control supply is to ride through.", "Longest dip")


@control_supply.build(
    unit="A",
    symbol=r"I_\mathrm{own}",
    source="sum of what is fed",
    title="Control current",
    tex=r"{controller_current}+{sense_current}+{lamp_current}+{fan_fitted}\,{fan_on_rail}\frac{fan_power}{control_voltage}",
    example=(
        {"controller_current": 0.02, "sense_current": 0.015, "lamp_current": 0.01, "fan_fitted": 1, "fan_on_rail": 1, "fan_power": 1.8, "control_voltage": 12},
        0.195,
    ),
)
def control_current(controller_current, sense_current, lamp_current, fan_fitted, fan_on_rail, fan_power, control_voltage):
    """Current of controller, sensing, lamps, and of a fan on the control supply; gates are counted with their own supply."""
    return controller_current + sense_current + lamp_current + fan_fitted * fan_on_rail * fan_power / control_voltage


@control_supply.build(
    unit="A", symbol=r"I_\mathrm{ctl}", source="sum of what is fed", title="Current of the supply, gates in it", tex=r"{control_current}+\max({gates})"
)
def supplied_current(control_current, gates=every("gate_current", "line-up")):
    """Highest current of the control supply where it feeds the gates as well: what its regulator is chosen for."""
    return control_current + highest(gates)


@control_supply.build(
    unit="W",
    symbol=r"P_\mathrm{lin,would}",
    source="linear regulator: drop times current",
    title="Heat a linear regulator would make",
    tex=r"\max({input_voltage}-{control_voltage},0)\,{supplied_current}",
    example=({"input_voltage": 29.2, "control_voltage": 12, "supplied_current": 0.08}, 1.376),
)
def linear_loss(input_voltage, control_voltage, supplied_current):
    """Heat of a linear regulator at the highest battery."""
    drop = highest(input_voltage) - control_voltage
    return np.maximum(drop, 0 * drop) * supplied_current


@control_supply.build(
    unit="",
    whole=True,
    low=0.0,
    high=4.0,
    symbol="s",
    source=H14,
    title="Supply taken",
    decided=True,
    tex=r"\begin{cases}{wanted_school}&{wanted_school}\ge0\\2&\min({input_voltage})<{control_voltage}+{linear_drop}\\1&{linear_loss}>{linear_heat}\\1&1.1\,{linear_loss}\,{linear_resistance}>{allowed_regulator_rise}\\1&1.1\max({input_voltage})>{linear_rating}\\0&\text{else}\end{cases}",
    example=(
        {
            "wanted_school": -1,
            "input_voltage": 23,
            "control_voltage": 12,
            "linear_drop": 1.5,
            "linear_loss": 1.9,
            "linear_heat": 2,
            "linear_resistance": 40,
            "allowed_regulator_rise": 80,
            "linear_rating": 35,
        },
        1,
    ),
)
def supply_school(
    wanted_school, input_voltage, control_voltage, linear_drop, linear_loss, linear_heat, linear_resistance, allowed_regulator_rise, linear_rating
):
    """0 linear, 1 buck, 2 boost, 3 charge pump, 4 auxiliary winding: what is asked for, or what the battery's ends suit."""
    warm = (linear_loss > linear_heat) | (1.1 * linear_loss * linear_resistance > allowed_regulator_rise)
    hot = np.where(warm | (1.1 * highest(input_voltage) > linear_rating), 1.0, 0.0)
    suits = np.where(lowest(input_voltage) < control_voltage + linear_drop, 2.0, hot)
    return np.where(wanted_school >= 0, wanted_school, suits)


@control_supply.operation(
    unit="V",
    symbol=r"V_\mathrm{rail}",
    source=H14,
    title="Control rail",
    tex=r"\min\left({control_voltage},\;\begin{cases}{input_voltage}-{linear_drop}&{supply_school}<1\\0.95\,{input_voltage}&{supply_school}<2\\{control_voltage}&{supply_school}<3\\2\,{input_voltage}-2\,{pump_diode}-\frac{supplied_current}{{pump_frequency}\,{pump_capacitor}}&{supply_school}<4\\{winding_share}\,{input_voltage}&\text{else}\end{cases}\right)",
    example=(
        {
            "control_voltage": 12,
            "input_voltage": 10,
            "linear_drop": 1.5,
            "supply_school": 0,
            "pump_diode": 0.5,
            "supplied_current": 0.1,
            "pump_frequency": 100e3,
            "pump_capacitor": 1e-6,
            "winding_share": 0.55,
        },
        8.5,
    ),
)
def control_rail(control_voltage, input_voltage, linear_drop, supply_school, pump_diode, supplied_current, pump_frequency, pump_capacitor, winding_share):
    """What the control supply holds: never above its set voltage, at a low battery what its school leaves of it."""
    pumped = 2 * input_voltage - 2 * pump_diode - supplied_current / (pump_frequency * pump_capacitor)
    higher = np.where(supply_school < 3, control_voltage, np.where(supply_school < 4, pumped, winding_share * input_voltage))
    return np.minimum(control_voltage, np.where(supply_school < 1, input_voltage - linear_drop, np.where(supply_school < 2, 0.95 * input_voltage, higher)))


@control_supply.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="power balance",
    title="Loss",
    tex=r"{control_current}\begin{cases}{input_voltage}&{supply_school}<1\\{control_rail}/{supply_efficiency}&\text{else}\end{cases}+{fan_fitted}(1-{fan_on_rail})\,{fan_power}+{hold_power}",
    example=(
        {
            "control_current": 0.05,
            "input_voltage": 24,
            "supply_school": 0,
            "control_rail": 12,
            "supply_efficiency": 0.8,
            "fan_fitted": 0,
            "fan_on_rail": 0,
            "fan_power": 1.8,
            "hold_power": 1.5,
        },
        2.7,
    ),
)
def loss(control_current, input_voltage, supply_school, control_rail, supply_efficiency, fan_fitted, fan_on_rail, fan_power, hold_power):
    """What the battery gives for control: the supply with its heat, a fan on the battery, the contactor's coil."""
    supplied = control_current * np.where(supply_school < 1, input_voltage, control_rail / supply_efficiency)
    return supplied + fan_fitted * (1 - fan_on_rail) * fan_power + hold_power


@control_supply.build(
    unit="K",
    symbol=r"\Delta T_\mathrm{lin}",
    source="heat times resistance",
    title="Rise of the regulator",
    tex=r"\begin{cases}{linear_loss}\,{linear_resistance}&{supply_school}<1\\0&\text{else}\end{cases}",
    example=({"linear_loss": 1.4, "linear_resistance": 40, "supply_school": 0}, 56),
)
def regulator_rise(linear_loss, linear_resistance, supply_school):
    """Rise of a linear regulator above the air inside; a converter's own parts are not hot."""
    rise = linear_loss * linear_resistance
    return np.where(supply_school < 1, rise, 0 * rise)


@control_supply.build(unit="K", symbol=r"\Delta T_\mathrm{may}", source="limit less air", title="Rise allowed", tex=r"{linear_junction}-{ambient_temperature}")
def allowed_regulator_rise(linear_junction, ambient_temperature):
    """What the regulator's junction may rise."""
    return linear_junction - ambient_temperature


@control_supply.build(
    unit="V",
    symbol=r"V_\mathrm{stands}",
    source=H14,
    title="Supply stands",
    tex=r"\begin{cases}{linear_rating}&{supply_school}<1\\{converter_rating}&\text{else}\end{cases}",
    example=({"linear_rating": 35, "converter_rating": 100, "supply_school": 0}, 35),
)
def supply_rating(linear_rating, converter_rating, supply_school):
    """Battery voltage that the supply taken stands."""
    return np.where(supply_school < 1, linear_rating, converter_rating)


@control_supply.build(
    unit="V",
    symbol=r"V_\mathrm{need}",
    source="lock-out and a volt",
    title="Rail needed",
    tex=r"{control_lockout}+1\,\mathrm{V}",
    example=({"control_lockout": 8.5}, 9.5),
)
def needed_rail(control_lockout):
    """Rail at which the controller is awake for certain."""
    return control_lockout + like(1.0, control_lockout)


@control_supply.build(
    unit="V",
    symbol=r"V_\mathrm{fan,max}",
    source="battery on charge",
    title="Fan sees",
    tex=r"{fan_fitted}\begin{cases}{control_voltage}&{fan_on_rail}=1\\\max({input_voltage})&\text{else}\end{cases}",
    example=({"fan_fitted": 1, "control_voltage": 12, "fan_on_rail": 0, "input_voltage": 29.2}, 29.2),
)
def fan_sees(fan_fitted, control_voltage, fan_on_rail, input_voltage):
    """Highest voltage at the fan."""
    return fan_fitted * np.where(fan_on_rail > 0, control_voltage, highest(input_voltage))


@control_supply.build(
    unit="F",
    symbol=r"C_\mathrm{ctl}",
    source="charge: C = I·t/ΔV",
    title="Hold-up capacitor",
    decided=True,
    tex=r"\mathrm{E6}_\uparrow\left(\frac{{supplied_current}\,{dip_time}}{\min({control_rail})-{control_lockout}}\right)",
    example=({"supplied_current": 0.1, "dip_time": 5e-3, "control_rail": 12, "control_lockout": 8.5}, 150e-6),
)
def hold_up_capacitor(supplied_current, dip_time, control_rail, control_lockout):
    """Capacitor behind a diode that carries the control supply through the longest dip; next higher preferred value."""
    return nearest_in("E6", "up")(supplied_current * dip_time / (lowest(control_rail) - control_lockout))


@control_supply.build(
    unit="s",
    symbol=r"t_\mathrm{hold}",
    source="charge: t = C·ΔV/I",
    title="Rides through",
    tex=r"\frac{{hold_up_capacitor}(\min({control_rail})-{control_lockout})}{supplied_current}",
    example=({"hold_up_capacitor": 150e-6, "control_rail": 12, "control_lockout": 8.5, "supplied_current": 0.1}, 5.25e-3),
)
def ridden_through(hold_up_capacitor, control_rail, control_lockout, supplied_current):
    """Dip of the battery that the hold-up capacitor carries the control supply through."""
    return hold_up_capacitor * (lowest(control_rail) - control_lockout) / supplied_current


control_supply.check(
    "rail",
    title="Control supply holds",
    demand="needed_rail",
    capability="control_rail",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The controller needs {demand}; the supply holds {capability}.",
    why="At its lock-out the controller stops with the load on, or its gates are half open.",
    remedies=(Move("control_lockout", "down", 2.0, "world"), Move("linear_drop", "down", 5.0, "world")),
)
control_supply.check(
    "heat",
    title="Regulator's heat",
    demand="regulator_rise",
    capability="allowed_regulator_rise",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The linear regulator rises by {demand}; {capability} is allowed.",
    why="A regulator without a sink that burns the battery's surplus shuts down on a warm day.",
    remedies=(Move("linear_resistance", "down", 5.0), Move("control_voltage", "up", 1.5)),
    no_demand="A converter makes the supply; little of it becomes heat.",
)
control_supply.check(
    "rating",
    title="Supply stands the battery",
    demand="highest_source_voltage",
    capability="supply_rating",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The battery stands at up to {demand}; the supply stands {capability}.",
    why="A regulator beyond its volts passes the battery to everything that it feeds.",
    remedies=(Move("converter_rating", "up", 3.0), Move("linear_rating", "up", 2.0)),
)
control_supply.check(
    "fan",
    title="Fan's voltage",
    demand="fan_sees",
    capability="fan_rating",
    fail=0.87,  # 15 % above its nominal is where a fan's life ends
    hold=0.99,
    harm="equipment",
    sentence="The fan sees up to {demand}; it is made for {capability}.",
    why="A 12 V fan on a pack that charges to 14.6 or 29 V burns.",
    remedies=(Move("fan_rating", "up", 2.5),),
    no_demand="There is no fan.",
)
control_supply.check(
    "ride_through",
    title="Rides through a dip",
    demand="dip_time",
    capability="ridden_through",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="A dip lasts {demand}; the hold-up capacitor carries {capability}.",
    why="One supply for power and drivers sags to the lock-out together with the load.",
    remedies=(Move("hold_up_capacitor", "up", 10.0),),
)

control_supply.give("linear_price", 0.8, "credit", "c_1", 0, 50, "Price of a linear regulator [judgement].", "Price of a linear regulator", judgement=True)
control_supply.give(
    "converter_price", 3.0, "credit", "c_2", 0, 100, "Price of a small converter or auxiliary winding [judgement].", "Price of a converter", judgement=True
)


@control_supply.build(
    unit="credit",
    symbol="c",
    source="[judgement] small parts",
    title="Cost",
    tex=r"\begin{cases}{linear_price}&{supply_school}<1\\{converter_price}&\text{else}\end{cases}",
    example=({"linear_price": 0.8, "converter_price": 3, "supply_school": 1}, 3),
)
def cost(linear_price, converter_price, supply_school):
    """Price of the control supply."""
    return np.where(supply_school < 1, linear_price, converter_price)


control_supply.give("part_count", 4.0, "", "n", 1, 100, "Regulator or converter, diode, two capacitors.", "Parts", whole=True)
control_supply.order(
    "Control supply", "{control_voltage}", "{supplied_current}, stands {supply_rating}; hold-up {hold_up_capacitor} behind a diode", price="cost"
)
control_supply.procedure(
    "Control supply first",
    "Power stage off, a bench supply limited to twice {supplied_current} in place of the battery. From nothing up: the rail must stand at {control_voltage}, and {control_current} flow.",
    "Turn down to the lowest battery: the rail must not fall below {needed_rail}. Turn up to {highest_source_voltage}: nothing may get hot within five minutes.",
    "Short dips of {dip_time} by a switch: the controller must not begin anew.",
    "Order of supervision, up: front end, drivers of the bridge, then the link loaded; down: the bridge stops before the front end, the front end before its gate supply.",
)

word("gate_current", "A", r"I_\mathrm{gate}", "Mean current that all gates of a stage take.", 0.02)
word("hold_power", "W", r"P_\mathrm{hold}", "Power that holds the contactor in.", 1.5)
