"""Soft start of the front end: ramp, charging of the link by the limit that acts, flux of the first pulse (3.2)."""

import numpy as np

from rhombos.core.formulas.numeric import known, nearest_in
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Mark, Plot, Seen, Series
from rhombos.core.units import show
from rhombos.core.vocabulary import word

CHARGING = "link charged by a constant current (choke and peak limit) or by a constant power (limit of the input)"

soft_start = Stage("soft_start", "Soft start", path=False, telling="{ramp_time}")
soft_start.choice(
    "ramp_kind",
    {"current": Option("current source", {"by_current": 1}), "resistor": Option("R-C", {"by_current": 0})},
    {"by_current": ("", r"\sigma_i", "1 where a current charges the capacitor.")},
    default="current",
    sentence="What makes the ramp.",
    title="Ramp",
)
soft_start.choice(
    "acting_limit",
    {"peak": Option("peak current", {"by_power": 0}), "input": Option("input power", {"by_power": 1})},
    {"by_power": ("", r"\sigma_P", "1 where the input's power limits the charging.")},
    default="peak",
    sentence="Which limit acts while the link is charged.",
    title="Limit that acts",
)
soft_start.choice(
    "start_load",
    {"none": Option("none", {"loaded_share": 0}), "half": Option("half", {"loaded_share": 0.5}), "full": Option("full", {"loaded_share": 1})},
    {"loaded_share": ("", r"x_0", "Load during the ramp, of the full.")},
    default="none",
    sentence="What the link has to feed while it is being charged.",
    title="Load during the ramp",
)
soft_start.give("ramp_voltage", 3.0, "V", r"\Delta V", 0.1, 15, "Swing of the ramp from first pulse to full duty.", "Swing of the ramp")
soft_start.give("ramp_supply", 5.0, "V", "V", 0.5, 30, "Voltage that the R-C is charged from.", "Voltage of the R-C")
soft_start.give("ramp_current", 10e-6, "A", r"I_{ss}", 1e-7, 0.01, "Current of the pin.", "Current of the pin")
soft_start.give("ramp_resistor", 100e3, "Ω", "R", 100, 1e8, "Resistor of the R-C.", "Resistor of the R-C")
soft_start.give("start_input_share", 1.0, "", r"k_P", 0.1, 5, "Input power limit over the brief's watts.", "Input limit")
soft_start.give("ramp_reserve", 1.5, "", r"k_r", 1, 20, "Ramp over the charging time [judgement].", "Ramp over charging", judgement=True)


@soft_start.build(
    unit="A",
    symbol=r"I_\mathrm{spare}",
    source=CHARGING,
    title="Current that charges the link",
    tex=r"\frac{front_trip_level}{1.25\,{turns_ratio}}-{loaded_share}\frac{rated_active_power}{link_setpoint}",
    example=({"front_trip_level": 100, "turns_ratio": 20, "loaded_share": 0.5, "rated_active_power": 800, "link_setpoint": 400}, 3.0),
)
def charging_current(front_trip_level, turns_ratio, loaded_share, rated_active_power, link_setpoint):
    """What the limit leaves on the link's side after the load: the mean below a peak limit is about its level over 1.25."""
    return front_trip_level / (1.25 * turns_ratio) - loaded_share * rated_active_power / link_setpoint


@soft_start.build(
    unit="W", symbol=r"P_\mathrm{spare}", source=CHARGING, title="Power that charges the link", tex=r"{rated_active_power}({start_input_share}-{loaded_share})"
)
def charging_power(rated_active_power, start_input_share, loaded_share):
    """What the input's limit leaves after the load."""
    return rated_active_power * (start_input_share - loaded_share)


@soft_start.build(
    unit="s",
    symbol=r"t_\mathrm{link}",
    source=CHARGING,
    title="Charging of the link",
    tex=r"\begin{cases}\frac{{link_capacitance}\,{link_setpoint}^2}{2\,{charging_power}}&{by_power}=1\\\frac{{link_capacitance}\,{link_setpoint}}{charging_current}&\text{else}\end{cases}",
    example=({"link_capacitance": 470e-6, "link_setpoint": 380, "charging_power": 800, "by_power": 1, "charging_current": 4}, 42.4175e-3),
)
def link_charging_time(link_capacitance, link_setpoint, charging_power, by_power, charging_current):
    """Time that the link takes to its set-point by the limit that acts; with no difference left it never gets there."""
    by_watts = link_capacitance * link_setpoint**2 / (2 * charging_power)
    value = np.where(by_power > 0, by_watts, link_capacitance * link_setpoint / charging_current)
    left = np.where(by_power > 0, charging_power / link_setpoint, charging_current)
    return known(left > 0 * left, value, "the load takes all that the limit leaves: the link never rises; start without load")


@soft_start.build(
    unit="F",
    symbol=r"C_{ss}",
    source="ramp of a pin: t = C·ΔV/I; of an R-C: t = −R·C·ln(1 − ΔV/V)",
    title="Soft-start capacitor",
    decided=True,
    tex=r"\mathrm{E6}_\uparrow\left(\begin{cases}\frac{{ramp_reserve}\,{link_charging_time}\,{ramp_current}}{ramp_voltage}&{by_current}=1\\\frac{{ramp_reserve}\,{link_charging_time}}{-{ramp_resistor}\ln(1-{ramp_voltage}/{ramp_supply})}&\text{else}\end{cases}\right)",
    example=(
        {"ramp_reserve": 1.5, "link_charging_time": 40e-3, "ramp_current": 10e-6, "ramp_voltage": 3, "by_current": 1, "ramp_resistor": 100e3, "ramp_supply": 5},
        220e-9,
    ),
)
def soft_start_capacitor(ramp_reserve, link_charging_time, ramp_current, ramp_voltage, by_current, ramp_resistor, ramp_supply):
    """Capacitor of the ramp, next higher preferred value: the ramp is to last longer than the link's charging."""
    wanted = ramp_reserve * link_charging_time
    charged = wanted / (-ramp_resistor * np.log(1 - ramp_voltage / ramp_supply))
    return nearest_in("E6", "up")(np.where(by_current > 0, wanted * ramp_current / ramp_voltage, charged))


@soft_start.build(
    unit="s",
    symbol=r"t_{ss}",
    source="ramp of a pin: t = C·ΔV/I; of an R-C: t = −R·C·ln(1 − ΔV/V)",
    title="Ramp",
    tex=r"\begin{cases}\frac{{soft_start_capacitor}\,{ramp_voltage}}{ramp_current}&{by_current}=1\\-{ramp_resistor}\,{soft_start_capacitor}\ln(1-{ramp_voltage}/{ramp_supply})&\text{else}\end{cases}",
    example=({"soft_start_capacitor": 220e-9, "ramp_voltage": 3, "ramp_current": 10e-6, "by_current": 1, "ramp_resistor": 100e3, "ramp_supply": 5}, 66e-3),
)
def ramp_time(soft_start_capacitor, ramp_voltage, ramp_current, by_current, ramp_resistor, ramp_supply):
    """Time of the ramp from the first pulse to full duty."""
    charged = -ramp_resistor * soft_start_capacitor * np.log(1 - ramp_voltage / ramp_supply)
    return np.where(by_current > 0, soft_start_capacitor * ramp_voltage / ramp_current, charged)


@soft_start.build(
    unit="",
    symbol=r"D_1",
    source="ramp: duty grows evenly with time",
    title="Duty of the first pulses",
    tex=r"\frac{1}{{ramp_time}\,{switching_frequency}}",
    example=({"ramp_time": 50e-3, "switching_frequency": 40e3}, 0.0005),
)
def first_duty(ramp_time, switching_frequency):
    """Duty that the ramp has reached after one period: so small is the first pulse's flux beside the full one."""
    return 1 / (ramp_time * switching_frequency)


@soft_start.build(
    unit="T",
    symbol=r"B_1",
    source="first pulse from no flux: twice its share of the full swing",
    title="Flux of the first pulse",
    tex=r"2\,{first_duty}\,{full_duty_flux}",
    example=({"first_duty": 0.0005, "full_duty_flux": 0.2}, 0.0002),
)
def ramped_first_flux(first_duty, full_duty_flux):
    """Flux of the first pulse with the ramp, from nothing instead of from the other side."""
    return 2 * first_duty * full_duty_flux


soft_start.check(
    "longer",
    title="Ramp longer than the charging",
    demand="link_charging_time",
    capability="ramp_time",
    fail=1.0,
    hold=1.2,
    harm="equipment",
    sentence="The link takes {demand} to charge; the ramp lasts {capability}.",
    why="A shorter ramp runs the front end into its limit at every start.",
    remedies=(Move("soft_start_capacitor", "up", 20.0), Move("ramp_current", "down", 10.0)),
)
soft_start.check(
    "first_pulse",
    title="First pulse's flux",
    demand="ramped_first_flux",
    capability="flux_limit",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="The first pulse drives the core to {demand}; its limit is {capability}.",
    why="A full first pulse from no flux swings twice as far and saturates.",
    remedies=(Move("soft_start_capacitor", "up", 20.0),),
)
soft_start.procedure(
    "Soft start",
    "No load, the bridge's drivers awake and off. From the first pulse to full duty take {ramp_time}; the link arrives after {link_charging_time} by the limit.",
    "Start once with the limit's reading on the scope: it must not act. Then never restart by itself into a fault.",
)


@soft_start.picture("Link and ramp", "link_capacitance", "link_setpoint")
def rising(seen: Seen) -> Plot:
    """How the link rises by its limit, and how the ramp lets it."""
    charging, ramp, setpoint = seen.at("link_charging_time"), seen.at("ramp_time"), seen.at("link_setpoint")
    time = np.linspace(0, 1.2 * max(charging, ramp), 90)
    free = np.minimum(time / charging, 1.0)
    by_limit = setpoint * (np.sqrt(free) if seen.at("by_power") > 0 else free)
    by_ramp = setpoint * np.minimum(time / ramp, 1.0)
    note = f"The ramp is the slower of the two where it lies lower: {show(ramp, 's', 3)} against {show(charging, 's', 3)}."
    series = [Series("by the limit", time, by_limit, "slate", dashed=True), Series("by the ramp", time, by_ramp)]
    return Plot("time", "s", "V", series, marks=[Mark("set-point", ramp, setpoint)], y_from=0.0, note=note)


word("front_trip_level", "A", r"I_\mathrm{trip}", "Level of the front end's current limit.", 100)
word("full_duty_flux", "T", r"\hat B_\mathrm{full}", "Flux at full duty.", 0.2)
word("flux_limit", "T", r"B_\mathrm{lim}", "Flux that the core may reach.", 0.25)

__all__ = ["soft_start"]
