"""The resonant, current-fed push-pull: zero-voltage driver of a lamp or of a high-voltage winding (3.1 F; 16, H10; 15.2 no. 17)."""

import numpy as np

from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Plot, Seen, Series

RESONANCE = "resonance of the whole primary with the capacitor across it; a feed choke makes the source a current"

resonant_driver = Stage("resonant_driver", "Resonant driver", path=False, telling="{resonant_frequency}")
resonant_driver.hazard("pulsed_voltage", "resonant_secondary")
resonant_driver.choice(
    "measured_as",
    {"whole": Option("whole primary, end to end", {"half_measured": 0}), "half": Option("one half", {"half_measured": 1})},
    {"half_measured": ("", r"\sigma_h", "1 where the inductance was measured on one half.")},
    default="whole",
    sentence="On which winding the inductance was measured.",
    title="Inductance of",
)
resonant_driver.give("resonant_source", 24.0, "V", r"V_\mathrm{in}", 1, 400, "Voltage that feeds it.", "Source")
resonant_driver.give("measured_inductance", 60e-6, "H", "L", 1e-8, 1, "Inductance as it was measured.", "Inductance measured")
resonant_driver.give("resonant_capacitor", 220e-9, "F", "C_r", 1e-10, 1e-3, "Capacitor across the whole primary.", "Capacitor")
resonant_driver.give("feed_choke", 1e-3, "H", r"L_f", 1e-7, 1, "Choke between source and centre tap.", "Feed choke")
resonant_driver.give("resonant_ratio", 40.0, "", r"N_s/N_h", 0.01, 10000, "Secondary turns over those of one primary half.", "Secondary over one half")
resonant_driver.give("resonant_rating", 150.0, "V", r"V_\mathrm{sw}", 5, 2000, "Voltage that each switch stands.", "Switches stand")
resonant_driver.give(
    "choke_wanted", 10.0, "", r"k_f", 1, 100, "Feed choke over a quarter of the primary [judgement].", "Choke over a quarter of the primary", judgement=True
)
resonant_driver.give("supply_limit", 4.0, "A", r"I_\mathrm{lim}", 0.01, 500, "Current limit of the supply: the circuit itself has none.", "Limit of the supply")
resonant_driver.give("resonant_power", 50.0, "W", "P", 0.1, 1e5, "Power that it is to give.", "Power")


@resonant_driver.build(
    unit="H",
    symbol="L_p",
    source="turns squared: the whole has four times the inductance of a half",
    title="Whole primary",
    tex=r"{measured_inductance}(1+3\,{half_measured})",
    example=({"measured_inductance": 15e-6, "half_measured": 1}, 60e-6),
)
def whole_inductance(measured_inductance, half_measured):
    """Inductance of the whole primary, end to end: what the capacitor stands across."""
    return measured_inductance * (1 + 3 * half_measured)


@resonant_driver.build(
    unit="Hz",
    symbol="f",
    source=RESONANCE,
    title="Frequency",
    tex=r"\frac{1}{2\pi\sqrt{{whole_inductance}\,{resonant_capacitor}}}",
    example=({"whole_inductance": 60e-6, "resonant_capacitor": 220e-9}, 43806),
)
def resonant_frequency(whole_inductance, resonant_capacitor):
    """Frequency, without load; one half's inductance in its place would give twice of it."""
    return 1 / (2 * np.pi * np.sqrt(whole_inductance * resonant_capacitor))


@resonant_driver.build(
    unit="V",
    symbol=r"\hat V_\mathrm{off}",
    source="mean of the centre tap is the source: half a sine of π/2 its height on one half, twice on both",
    title="Peak across the off switch",
    tex=r"\pi\,{resonant_source}",
    example=({"resonant_source": 24}, 75.398),
)
def off_peak(resonant_source):
    """Peak across the switch that is off."""
    return np.pi * resonant_source


@resonant_driver.build(
    unit="V",
    symbol=r"\hat V_s",
    source=RESONANCE,
    title="Peak of the secondary",
    tex=r"\frac{\pi}{2}\,{resonant_source}\,{resonant_ratio}",
    example=({"resonant_source": 24, "resonant_ratio": 40}, 1508),
)
def resonant_secondary(resonant_source, resonant_ratio):
    """Peak of the secondary; twice the primary turns give half of it."""
    return np.pi / 2 * resonant_source * resonant_ratio


@resonant_driver.build(
    unit="Ω",
    symbol="Z_0",
    source=RESONANCE,
    title="Characteristic impedance",
    tex=r"\sqrt{\frac{whole_inductance}{resonant_capacitor}}",
    example=({"whole_inductance": 60e-6, "resonant_capacitor": 220e-9}, 16.514),
)
def tank_impedance(whole_inductance, resonant_capacitor):
    """Impedance of primary and capacitor at their resonance."""
    return np.sqrt(whole_inductance / resonant_capacitor)


@resonant_driver.build(unit="A", symbol=r"\hat I_r", source=RESONANCE, title="Tank current, peak", tex=r"\frac{off_peak}{tank_impedance}")
def tank_current(off_peak, tank_impedance):
    """Peak of the current that swings between primary and capacitor: the capacitor's rating."""
    return off_peak / tank_impedance


@resonant_driver.build(
    unit="H",
    symbol=r"L_{f,\mathrm{need}}",
    source="[judgement] ten times what the centre tap sees",
    title="Feed choke needed",
    tex=r"{choke_wanted}\,\frac{whole_inductance}{4}",
    example=({"choke_wanted": 10, "whole_inductance": 60e-6}, 150e-6),
)
def needed_feed_choke(choke_wanted, whole_inductance):
    """Choke that makes the source a current."""
    return choke_wanted * whole_inductance / 4


@resonant_driver.build(unit="A", symbol=r"I_\mathrm{in}", source="power over voltage", title="Input current", tex=r"\frac{resonant_power}{resonant_source}")
def resonant_input(resonant_power, resonant_source):
    """Mean input current at the power wanted."""
    return resonant_power / resonant_source


resonant_driver.check(
    "off_voltage",
    title="Switches stand the resonance",
    demand="off_peak",
    capability="resonant_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The off switch sees {demand}; it stands {capability}.",
    why="Three times the source, not twice: a switch for twice fails at once.",
    remedies=(Move("resonant_rating", "up", 4.0), Move("resonant_source", "down", 2.0)),
)
resonant_driver.check(
    "choke",
    title="Feed choke",
    demand="needed_feed_choke",
    capability="feed_choke",
    fail=0.3,
    hold=1.0,
    harm="equipment",
    sentence="The feed choke should have {demand}; it has {capability}.",
    why="Without it both switches short the source through the tank.",
    remedies=(Move("feed_choke", "up", 20.0),),
)
resonant_driver.check(
    "limit",
    title="Supply limits the current",
    demand="supply_limit",
    capability="limit_allowed",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The supply's limit is {demand}; {capability} is twice what the power wanted draws.",
    why="Nothing in this circuit limits its current: a stalled start burns both switches.",
    remedies=(Move("supply_limit", "down", 20.0),),
)


@resonant_driver.build(
    unit="A", symbol=r"2\,I_\mathrm{in}", source="[judgement] twice", title="Limit allowed", tex=r"2\,{resonant_input}", example=({"resonant_input": 2.5}, 5.0)
)
def limit_allowed(resonant_input):
    """Greatest useful limit of the supply."""
    return 2 * resonant_input


@resonant_driver.picture("Both drains over a period")
def drains(seen: Seen) -> Plot:
    """Half sines in turn: each switch turns on and off where its voltage is nothing."""
    period, peak = 1 / seen.at("resonant_frequency"), seen.at("off_peak")
    time = np.linspace(0, period, 81)
    wave = peak * np.sin(2 * np.pi * time / period)
    return Plot("time", "s", "V", [Series("first drain", time, np.maximum(wave, 0)), Series("second drain", time, np.maximum(-wave, 0), "slate")], y_from=0.0)
