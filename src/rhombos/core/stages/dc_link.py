"""The DC link: window, capacitor, ripple, stored energy, discharge (6.4, 8.1, 2.5)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting, lowest, nearest_in, up_to_step
from rhombos.core.parts.columns import CAPACITOR
from rhombos.core.vocabulary import word

EM = "Erickson & Maksimović, Fundamentals of Power Electronics"
MUR = "Mohan, Undeland & Robbins, Power Electronics"
WINDOW = "link window: peak needed over modulation limit, ripple and tolerance"

dc_link = Stage("dc_link", "DC link", telling="{link_setpoint} · {capacitor}", caution="link")


dc_link.give("link_tolerance", 0.01, "", r"\delta_\mathrm{link}", 0, 0.1, "Tolerance of the link's set-point, as a fraction.", "Set-point tolerance")
dc_link.give("setpoint_step", 5.0, "V", r"V_\mathrm{step}", 0.5, 50, "The set-point goes up to the next multiple of this.", "Step of the set-point")
dc_link.give(
    "ripple_fraction",
    0.05,
    "",
    r"\rho_\mathrm{link}",
    0.005,
    0.3,
    "Peak-to-peak double-frequency ripple over the link voltage, at full load.",
    "Link ripple wanted",
)
dc_link.give("returned_energy", 1.0, "J", r"E_\mathrm{ret}", 0, 1000, "Energy that a load may return into the link at once.", "Returned energy")
dc_link.give("discharge_time_wanted", 60.0, "s", r"t_{60}", 0.2, 600, "Time within which the link should fall to 60 V after switch-off.", "Time to 60 V")
dc_link.give("capacitance_tolerance", 0.2, "", r"\delta_C", 0, 0.5, "How far the link capacitance may stand high.", "Capacitor tolerance")
dc_link.give(
    "low_frequency_factor",
    1.0,
    "",
    r"k_{2f}",
    0.3,
    2,
    "Frequency factor of the capacitor's ripple rating at twice the output frequency.",
    "Ripple factor at twice the output frequency",
)
dc_link.give(
    "high_frequency_factor", 1.4, "", r"k_{sw}", 0.3, 3, "Frequency factor of the capacitor's ripple rating at the carrier.", "Ripple factor at the carrier"
)


@dc_link.build(
    unit="V",
    symbol=r"V_\mathrm{set}",
    source=WINDOW,
    title="Link set-point",
    start=370.0,
    safe="up",
    tex=r"\left\lceil\max\frac{{setpoint_peak_demand}+{modulation_limit}\,{link_ripple}/2}{{modulation_limit}(1-{link_tolerance})-{dead_time_share}}\right\rceil_{setpoint_step}",
    example=(
        {"setpoint_peak_demand": 330, "modulation_limit": 0.95, "link_ripple": 18, "link_tolerance": 0.01, "dead_time_share": 0.02, "setpoint_step": 5},
        370,
    ),
)
def link_setpoint(setpoint_peak_demand, modulation_limit, link_ripple, link_tolerance, dead_time_share, setpoint_step):
    """The least set-point that the output needs at every corner, up to the next step.

    V_need grows with the link itself by the dead time's share k, so V_set·(M_max·(1 − δ) − k) ≥ V_fixed + M_max·ΔV/2.
    """
    needed = (setpoint_peak_demand + modulation_limit * link_ripple / 2) / (modulation_limit * (1 - link_tolerance) - dead_time_share)
    return up_to_step(highest(needed), setpoint_step)


@dc_link.operation(unit="V", symbol=r"V_\mathrm{link}", source="joint", title="Link voltage", tex=r"{input_voltage}")
def link_voltage(input_voltage):
    """Mean link voltage."""
    return input_voltage


@dc_link.operation(unit="V", symbol=r"V_\mathrm{link}", source="joint", title="Output voltage", tex=r"{input_voltage}")
def output_voltage(input_voltage):
    """Voltage handed to the bridge."""
    return input_voltage


@dc_link.pick("capacitor", "link", CAPACITOR, title="Link capacitor", quantities=(1, 2, 3, 4, 6), source=EM)
def capacitor(
    part,
    link_setpoint,
    link_tolerance,
    ripple_fraction,
    returned_energy,
    bridge_apparent_power,
    output_frequency,
    low_frequency_current,
    switching_ripple_current,
    low_frequency_factor,
    high_frequency_factor,
):
    """Cheapest capacitors in parallel whose voltage, ripple current and capacitance suit."""
    n = part.quantity
    capacitance = n * part.capacitance
    ripple = highest_lasting(bridge_apparent_power) / (2 * np.pi * output_frequency * capacitance * link_setpoint)
    high = link_setpoint * (1 + link_tolerance)
    surge_ripple = highest(bridge_apparent_power) / (2 * np.pi * output_frequency * capacitance * link_setpoint)
    top = np.sqrt(high**2 + 2 * returned_energy / capacitance) + surge_ripple / 2
    current = np.sqrt((low_frequency_current / low_frequency_factor) ** 2 + (switching_ripple_current / high_frequency_factor) ** 2)
    return [
        Need("rated voltage with guard", part.rated_voltage, 1.15 * top, "V"),
        Need("ripple", ripple_fraction * link_setpoint, ripple, "V"),
        Need("ripple current", n * part.rated_ripple_current, 1.25 * highest_lasting(current), "A"),
    ]


@dc_link.build(
    unit="F", symbol=r"C_\mathrm{link}", source="capacitors in parallel", title="Link capacitance", tex=r"{capacitor_quantity}\,{capacitor_capacitance}"
)
def link_capacitance(capacitor_quantity, capacitor_capacitance):
    """Capacitance of the link."""
    return capacitor_quantity * capacitor_capacitance


@dc_link.operation(
    unit="V",
    symbol=r"\Delta V_{pp}",
    source=EM,
    title="Link ripple",
    start=15.0,
    tex=r"\frac{bridge_apparent_power}{2\pi\,{output_frequency}\,{link_capacitance}\,{link_voltage}}",
    example=({"bridge_apparent_power": 1000, "output_frequency": 50, "link_capacitance": 470e-6, "link_voltage": 360}, 18.8126),
)
def link_ripple(bridge_apparent_power, output_frequency, link_capacitance, link_voltage):
    """Peak-to-peak ripple at twice the output frequency."""
    return bridge_apparent_power / (2 * np.pi * output_frequency * link_capacitance * link_voltage)


@dc_link.operation(
    unit="V",
    symbol=r"V_\mathrm{link,lo}",
    source=WINDOW,
    title="Lowest valley",
    tex=r"\min({link_setpoint}(1-{link_tolerance}),\,{link_voltage})-\frac{link_ripple}{2}",
    example=({"link_setpoint": 360, "link_tolerance": 0, "link_voltage": 360, "link_ripple": 18.8126}, 350.594),
)
def link_valley(link_setpoint, link_tolerance, link_voltage, link_ripple):
    """Lowest valley of the link at the corner: set-point less tolerance, or what is reached, less half the ripple."""
    return np.minimum(link_setpoint * (1 - link_tolerance), link_voltage) - link_ripple / 2


@dc_link.operation(
    unit="V",
    symbol=r"V_\mathrm{link,hi}",
    source=WINDOW,
    title="Highest crest",
    tex=r"\sqrt{({link_setpoint}(1+{link_tolerance}))^2+\frac{2\,{returned_energy}}{link_capacitance}}+\frac{link_ripple}{2}",
    example=({"link_setpoint": 380, "link_tolerance": 0.01, "returned_energy": 1, "link_capacitance": 470e-6, "link_ripple": 18}, 398.304),
)
def link_crest(link_setpoint, link_tolerance, returned_energy, link_capacitance, link_ripple):
    """Highest crest of the link: set-point with tolerance, returned energy, half the ripple.

    Without load the duty shortens below the choke's boundary, so a regulated link does not rise.
    """
    return np.sqrt((link_setpoint * (1 + link_tolerance)) ** 2 + 2 * returned_energy / link_capacitance) + link_ripple / 2


@dc_link.build(unit="V", symbol=r"\hat V_\mathrm{link}", source=WINDOW, title="Highest link crest", tex=r"\max({link_crest})")
def highest_link(link_crest):
    """Highest crest of the link over all corners."""
    return highest(link_crest)


@dc_link.build(unit="V", symbol=r"\check V_\mathrm{link}", source=WINDOW, title="Lowest link valley", tex=r"\min({link_valley})")
def lowest_link(link_valley):
    """Lowest valley of the link over all corners."""
    return lowest(link_valley)


@dc_link.operation(
    unit="A",
    symbol=r"I_{2f}",
    source=EM,
    title="Double-frequency current",
    tex=r"\frac{bridge_apparent_power}{\sqrt2\,{link_voltage}}",
    example=({"bridge_apparent_power": 1000, "link_voltage": 380}, 1.8608),
)
def low_frequency_current(bridge_apparent_power, link_voltage):
    """Rms current at twice the output frequency in the link capacitor."""
    return bridge_apparent_power / (np.sqrt(2) * link_voltage)


@dc_link.operation(
    unit="A",
    symbol=r"I_\mathrm{sw}",
    source=MUR,
    title="Switching ripple current",
    start=1.0,
    tex=r"\begin{cases}\sqrt{{bridge_ripple_current}^2+{choke_ripple}^2/12}&\text{lasting}\\\sqrt{{bridge_ripple_current}^2+\left(\tfrac23{choke_ripple}-{link_current}\right){link_current}}&\text{with rests}\end{cases}",
    example=({"bridge_ripple_current": 1.5, "choke_ripple": 1.0, "link_current": 2.3}, 1.52753),
)
def switching_ripple_current(bridge_ripple_current, choke_ripple, link_current):
    """Rms carrier-frequency current in the link capacitor, from bridge and front end: what is not the choke's mean."""
    choke = np.where(link_current >= choke_ripple / 2, choke_ripple**2 / 12, 2 * link_current * choke_ripple / 3 - link_current**2)
    return np.sqrt(bridge_ripple_current**2 + choke)


@dc_link.operation(
    unit="A",
    symbol=r"I_{C,rms}",
    source=EM,
    title="Capacitor current, referred",
    tex=r"(1-{surge})\sqrt{\left(\frac{low_frequency_current}{low_frequency_factor}\right)^2+\left(\frac{switching_ripple_current}{high_frequency_factor}\right)^2}",
    example=({"surge": 0, "low_frequency_current": 1.86, "low_frequency_factor": 1, "switching_ripple_current": 1.53, "high_frequency_factor": 1.4}, 2.15707),
)
def capacitor_current(surge, low_frequency_current, low_frequency_factor, switching_ripple_current, high_frequency_factor):
    """Rms current of all link capacitors with the rating's frequency factors put in, where it lasts."""
    return (1 - surge) * np.sqrt((low_frequency_current / low_frequency_factor) ** 2 + (switching_ripple_current / high_frequency_factor) ** 2)


@dc_link.build(
    unit="A", symbol=r"I_{C,rat}", source="capacitors in parallel", title="Ripple current rating", tex=r"{capacitor_quantity}\,{capacitor_rated_ripple_current}"
)
def capacitor_current_rating(capacitor_quantity, capacitor_rated_ripple_current):
    """Ripple current rating of all link capacitors."""
    return capacitor_quantity * capacitor_rated_ripple_current


@dc_link.build(
    unit="J",
    symbol="E",
    source="field energy",
    title="Stored energy",
    tex=r"\tfrac12{link_capacitance}{highest_link}^2",
    example=({"link_capacitance": 470e-6, "highest_link": 400}, 37.6),
)
def stored_energy(link_capacitance, highest_link):
    """Energy in the link at its highest: above 10 J it is a hazard of its own."""
    return link_capacitance * highest_link**2 / 2


@dc_link.build(
    unit="Ω",
    symbol=r"R_\mathrm{bl}",
    source="RC discharge",
    title="Bleeder",
    safe="down",
    empirical=True,
    tex=r"\mathrm{E12}\left(\frac{discharge_time_wanted}{{link_capacitance}(1+{capacitance_tolerance})\ln({highest_link}/60\,\mathrm{V})}\right)",
    example=({"discharge_time_wanted": 60, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 56e3),
)
def bleeder(discharge_time_wanted, link_capacitance, capacitance_tolerance, highest_link):
    """Bleeder that brings the link to 60 V in time, capacitance at its high tolerance; next lower preferred value."""
    return nearest_in("E12", "down")(discharge_time_wanted / (link_capacitance * (1 + capacitance_tolerance) * np.log(highest_link / 60)))


@dc_link.build(
    unit="s",
    symbol=r"t_{60}",
    source="RC discharge",
    title="Time to 60 V",
    empirical=True,
    tex=r"{bleeder}\,{link_capacitance}(1+{capacitance_tolerance})\ln\frac{highest_link}{60\,\mathrm{V}}",
    example=({"bleeder": 56e3, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 59.917),
)
def discharge_time(bleeder, link_capacitance, capacitance_tolerance, highest_link):
    """Time to 60 V after switch-off by the bleeder. Measure; do not trust the bleeder."""
    return bleeder * link_capacitance * (1 + capacitance_tolerance) * np.log(highest_link / 60)


@dc_link.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    tex=r"\frac{{link_voltage}^2}{bleeder}+\left({low_frequency_current}^2+{switching_ripple_current}^2\right)\frac{capacitor_series_resistance}{capacitor_quantity}",
    example=(
        {
            "link_voltage": 380,
            "bleeder": 56e3,
            "low_frequency_current": 1.86,
            "switching_ripple_current": 1.5,
            "capacitor_series_resistance": 0.3,
            "capacitor_quantity": 1,
        },
        4.2915,
    ),
)
def loss(link_voltage, bleeder, low_frequency_current, switching_ripple_current, capacitor_series_resistance, capacitor_quantity):
    """Bleeder, and series resistance of the capacitors."""
    return link_voltage**2 / bleeder + (low_frequency_current**2 + switching_ripple_current**2) * capacitor_series_resistance / capacitor_quantity


@dc_link.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the rectifier."""
    return output_power + losses


@dc_link.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{capacitor_quantity}\,{capacitor_price}")
def cost(capacitor_quantity, capacitor_price):
    """Cost of the link capacitors."""
    return capacitor_quantity * capacitor_price


@dc_link.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{capacitor_quantity}\,{capacitor_mass}")
def mass(capacitor_quantity, capacitor_mass):
    """Mass of the link capacitors."""
    return capacitor_quantity * capacitor_mass


@dc_link.build(unit="", symbol="n", source="count", title="Parts", tex=r"{capacitor_quantity}+1")
def part_count(capacitor_quantity):
    """Capacitors and bleeder."""
    return capacitor_quantity + 1


@dc_link.operation(unit="V", symbol=r"V_\mathrm{lo,need}", source=WINDOW, title="Valley needed", tex=r"\frac{peak_voltage_needed}{modulation_limit}")
def needed_valley(peak_voltage_needed, modulation_limit):
    """Link valley that the output's peak needs within the modulation limit."""
    return peak_voltage_needed / modulation_limit


@dc_link.build(unit="s", symbol=r"t_{60,\mathrm{max}}", source="given", title="Time allowed", tex=r"{discharge_time_wanted}")
def allowed_discharge_time(discharge_time_wanted):
    """Longest time to 60 V."""
    return discharge_time_wanted


dc_link.check(
    "window_low",
    title="Link window, lower edge",
    demand="needed_valley",
    capability="link_valley",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The output's peak needs a valley of {demand}; the link's lowest is {capability}.",
    why="Below it the tops of the sine are clipped.",
    remedies=(Move("link_setpoint", "up", 1.2), Move("ripple_fraction", "down", 3.0), Move("secondary_turns", "up", 1.4)),
)
dc_link.check(
    "capacitor_voltage",
    title="Link capacitor voltage",
    demand="highest_link",
    capability="capacitor_rated_voltage",
    fail=1.0,
    hold=1.15,
    harm="people",
    sentence="The link rises to {demand}; the capacitor is rated {capability}.",
    why="An electrolytic above its rating vents or bursts.",
    remedies=(Move("returned_energy", "down", 20.0), Move("link_setpoint", "down", 1.2)),
)
dc_link.check(
    "capacitor_ripple",
    title="Link capacitor current",
    demand="capacitor_current",
    capability="capacitor_current_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} rms flow in capacitors rated {capability}.",
    why="Ripple heats the capacitor; its life halves with every ten kelvin.",
    remedies=(Move("capacitor_quantity", "up", 4.0),),
)
dc_link.check(
    "discharge",
    title="Discharge",
    demand="discharge_time",
    capability="allowed_discharge_time",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="After switch-off the link takes {demand} to fall to 60 V; {capability} is allowed.",
    why="Whoever opens the box touches what is left.",
    remedies=(Move("bleeder", "down", 5.0),),
)

for _name, _unit, _symbol, _text, _alone in (
    ("link_setpoint", "V", r"V_\mathrm{set}", "Set-point of the link.", 380),
    ("link_ripple", "V", r"\Delta V_{pp}", "Ripple of the link.", 16),
    ("highest_link", "V", r"\hat V_\mathrm{link}", "Highest crest of the link.", 398),
    ("link_valley", "V", r"V_\mathrm{link,lo}", "Lowest valley of the link.", 365),
    ("link_crest", "V", r"V_\mathrm{link,hi}", "Highest crest of the link.", 398),
    ("setpoint_peak_demand", "V", r"V_\mathrm{fix}", "Peak that the bridge must make, without the dead time's share.", 330),
    ("dead_time_share", "", r"k_d", "Share of the link that dead time takes.", 0.02),
    ("modulation_limit", "", r"M_\mathrm{max}", "Highest modulation index that the pulses allow.", 0.95),
    ("bridge_apparent_power", "VA", r"S_b", "Apparent power out of the bridge.", 900),
    ("bridge_ripple_current", "A", r"I_{b,sw}", "Carrier-frequency current that the bridge draws.", 1.5),
    ("peak_voltage_needed", "V", r"V_\mathrm{need}", "Peak that the bridge must make.", 345),
    ("link_capacitance", "F", r"C_\mathrm{link}", "Link capacitance.", 470e-6),
):
    word(_name, _unit, _symbol, _text, _alone)
