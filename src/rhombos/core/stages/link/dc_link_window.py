"""The DC link, first part: set-point, capacitor, ripple, window (6.4, 8.1)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, lowest, up_to_step
from rhombos.core.graph.declare import Stage
from rhombos.core.parts.columns import CAPACITOR
from rhombos.core.stages.sizes import BY_OUTPUT_VOLTAGE, BY_SHARE
from rhombos.core.vocabulary import word

EM = "Erickson & Maksimović, Fundamentals of Power Electronics"
MUR = "Mohan, Undeland & Robbins, Power Electronics"
WINDOW = "link window: peak needed over modulation limit, ripple and tolerance"

dc_link = Stage("dc_link", "DC link", telling="{link_setpoint} · {capacitor}")
dc_link.bus("dc", "link_voltage", "link_current")
dc_link.view(
    "scope",
    link_capacitance="link_capacitance",
    link_series_resistance="capacitor_series_resistance",
    link_quantity="capacitor_quantity",
    front_resistance="front_resistance",
    front_inductance="front_inductance",
)
dc_link.usual = {"input_voltage": 375.0}
for _kind, _figure in (("dc_voltage", "highest_link"), ("energy", "stored_energy"), ("discharge", "discharge_time")):
    dc_link.hazard(_kind, _figure)  # type: ignore[arg-type]


dc_link.give("link_tolerance", 0.01, "", r"\delta_\mathrm{link}", 0, 0.1, "Tolerance of the link's set-point, as a fraction.", "Set-point tolerance")
dc_link.give("setpoint_step", 5.0, "V", r"V_\mathrm{step}", 0.5, 50, "The set-point goes up to the next multiple of this.", "Step of the set-point")
dc_link.give(
    "ripple_fraction",
    0.08,
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
    grows=BY_OUTPUT_VOLTAGE,
    safe="up",
    tex=r"\begin{gathered}\left\lceil\max\frac{{setpoint_peak_demand}+\sqrt{{setpoint_peak_demand}^2+2\,a\,{modulation_limit}\,{link_ripple}\,{link_voltage}}}{2\,a}\right\rceil_{setpoint_step}\\a={modulation_limit}(1-{link_tolerance})-{dead_time_share}\end{gathered}",
    example=(
        {
            "setpoint_peak_demand": 330,
            "modulation_limit": 0.95,
            "link_ripple": 18,
            "link_voltage": 370,
            "link_tolerance": 0.01,
            "dead_time_share": 0.02,
            "setpoint_step": 5,
        },
        370,
    ),
)
def link_setpoint(setpoint_peak_demand, modulation_limit, link_ripple, link_voltage, link_tolerance, dead_time_share, setpoint_step):
    """The least set-point that the output needs at every corner, up to the next step.

    V_need grows with the link itself by the dead time's share k, and the ripple ΔV falls as the link rises (ΔV·V stays):
    V_set·(M_max·(1 − δ) − k) ≥ V_fixed + M_max·(ΔV·V)/(2·V_set), solved for V_set. Taken at the ripple that stands,
    two neighbouring steps could ask for one another.
    """
    slope = modulation_limit * (1 - link_tolerance) - dead_time_share
    needed = (setpoint_peak_demand + np.sqrt(setpoint_peak_demand**2 + 2 * slope * modulation_limit * link_ripple * link_voltage)) / (2 * slope)
    return up_to_step(highest(needed), setpoint_step)


dc_link.rename(link_voltage="input_voltage")


dc_link.rename(output_voltage="input_voltage")


dc_link.pick(
    "capacitor",
    "link",
    CAPACITOR,
    title="Link capacitor",
    quantities=(1, 2, 3, 4, 5, 6, 8),
    source=EM,
    needs=("capacitor_voltage", "ripple", "capacitor_ripple", "life"),
    sentence="Cheapest capacitors in parallel whose voltage, ripple, ripple current and life suit.",
)


@dc_link.build(
    unit="F", symbol=r"C_\mathrm{link}", source="capacitors in parallel", title="Link capacitance", tex=r"{capacitor_quantity}\,{capacitor_capacitance}"
)
def link_capacitance(capacitor_quantity, capacitor_capacitance):
    """Capacitance of the link."""
    return capacitor_quantity * capacitor_capacitance


@dc_link.operation(
    unit="",
    symbol=r"\kappa_{2f}",
    source="current divider of front end and link capacitor at twice the output frequency",
    title="Link's share of the double frequency",
    tex=r"\begin{gathered}1+\left(\sqrt{\frac{{front_resistance}^2+X_L^2}{{front_resistance}^2+(X_L-X_C)^2}}-1\right)\begin{cases}{choke_swing}/{unlimited_swing}&{unlimited_swing}>0\\0&\text{else}\end{cases}\\"
    r"X_L=4\pi\,{output_frequency}\,{front_inductance}\\X_C=\frac{1}{4\pi\,{output_frequency}\,{link_capacitance}}\end{gathered}",
    example=(
        {"front_resistance": 6.5, "output_frequency": 50, "front_inductance": 1.5e-3, "link_capacitance": 470e-6, "choke_swing": 1.0, "unlimited_swing": 1.0},
        0.94582,
    ),
)
def double_frequency_share(front_resistance, output_frequency, front_inductance, link_capacitance, choke_swing, unlimited_swing):
    """Double-frequency current in the link capacitor over that of the bridge: what the front end does not carry, as a phasor (it may exceed 1).

    Where rests of the choke hold the front end's swing back, the link takes the more.
    """
    inductive = 4 * np.pi * output_frequency * front_inductance
    capacitive = 1 / (4 * np.pi * output_frequency * link_capacitance)
    share = np.sqrt((front_resistance**2 + inductive**2) / (front_resistance**2 + (inductive - capacitive) ** 2))
    part = np.where(unlimited_swing > 0 * unlimited_swing, choke_swing / np.where(unlimited_swing > 0 * unlimited_swing, unlimited_swing, np.nan), 0.0)
    return 1 + (share - 1) * part


@dc_link.operation(
    unit="V",
    symbol=r"\Delta V_{pp}",
    source=EM,
    title="Link ripple",
    start=15.0,
    grows={**BY_OUTPUT_VOLTAGE, **BY_SHARE},
    tex=r"\frac{{bridge_apparent_power}\,{double_frequency_share}}{2\pi\,{output_frequency}\,{link_capacitance}\,{link_voltage}}",
    example=({"bridge_apparent_power": 1000, "double_frequency_share": 1, "output_frequency": 50, "link_capacitance": 470e-6, "link_voltage": 360}, 18.8126),
)
def link_ripple(bridge_apparent_power, double_frequency_share, output_frequency, link_capacitance, link_voltage):
    """Peak-to-peak ripple at twice the output frequency."""
    return bridge_apparent_power * double_frequency_share / (2 * np.pi * output_frequency * link_capacitance * link_voltage)


@dc_link.operation(unit="V", symbol=r"\Delta V_{pp,\mathrm{last}}", source="surge left out", title="Link ripple, lasting", tex=r"(1-{surge})\,{link_ripple}")
def lasting_ripple(surge, link_ripple):
    """Peak-to-peak ripple at the corners that last."""
    return (1 - surge) * link_ripple


@dc_link.build(
    unit="V", symbol=r"\Delta V_{pp,\mathrm{aim}}", source="share of the set-point", title="Link ripple aimed at", tex=r"{ripple_fraction}\,{link_setpoint}"
)
def aimed_ripple(ripple_fraction, link_setpoint):
    """Ripple at twice the output frequency that the link's capacitor is picked for."""
    return ripple_fraction * link_setpoint


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


@dc_link.operation(unit="V", symbol=r"V_\mathrm{lo,need}", source=WINDOW, title="Valley needed", tex=r"\frac{peak_voltage_needed}{modulation_limit}")
def needed_valley(peak_voltage_needed, modulation_limit):
    """Link valley that the output's peak needs within the modulation limit."""
    return peak_voltage_needed / modulation_limit


for _name, _unit, _symbol, _text, _alone in (
    ("front_inductance", "H", r"L_f", "Inductance of what feeds the link, as the link sees it at twice the output frequency.", 1.5e-3),
    ("feed_ripple_current", "A", r"I_{f,\sim}", "Rms ripple at its switching frequency of the current that feeds the link.", 0.3),
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
    ("peak_voltage_needed", "V", r"V_\mathrm{need}", "Peak that the bridge must make.", 338),
    ("stored_energy", "J", "E", "Energy in the link at its highest.", 37),
    ("discharge_time", "s", r"t_{60}", "Time to 60 V after switch-off.", 60),
    ("link_capacitance", "F", r"C_\mathrm{link}", "Link capacitance.", 470e-6),
):
    word(_name, _unit, _symbol, _text, _alone)
