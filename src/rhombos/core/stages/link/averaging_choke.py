"""Rectifier, first part: link current, averaging choke, and the share of the output's double-frequency power that passes it (6.2, 6.5)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, highest_lasting, lowest, nearest_in
from rhombos.core.graph.declare import Stage
from rhombos.core.stages.link.divider import carried_by_front
from rhombos.core.stages.magnetics.choke import declare_choke
from rhombos.core.stages.sizes import BY_DRAWN_OUTPUT_CURRENT, BY_OUTPUT_CURRENT, BY_OUTPUT_RESISTANCE, BY_OUTPUT_VOLTAGE
from rhombos.core.vocabulary import word

EM = "Erickson & Maksimović, Fundamentals of Power Electronics"

LEAST_REST = 0.05
"""Share of the period without drive that the choke is sized for at least."""

rectifier = Stage("rectifier", "Rectifier", telling="{diode} · {choke_inductance}")
for _kind, _figure in (("dc_voltage", "highest_link"), ("energy", "stored_energy"), ("discharge", "discharge_time")):
    rectifier.hazard(_kind, _figure)  # type: ignore[arg-type]
rectifier.bus("dc", "output_voltage", "link_current")


rectifier.give(
    "choke_ripple_fraction", 0.4, "", r"\Delta_L", 0.05, 2, "Peak-to-peak ripple of the averaging choke over the rated link current.", "Choke ripple wanted"
)
rectifier.give(
    "choke_time_constant",
    4e-3,
    "s",
    r"\tau_\mathrm{ch}",
    1e-4,
    1,
    "Inductance over resistance of the averaging choke, hot: what its size and copper give [judgement].",
    "Choke L/R",
    judgement=True,
)


@rectifier.operation(unit="A", symbol=r"I_\mathrm{link}", source="I = P/V", title="Link current", tex=r"\frac{output_power}{output_voltage}")
def link_current(output_power, output_voltage):
    """Mean current delivered to the link."""
    return output_power / output_voltage


@rectifier.operation(
    unit="V",
    symbol=r"V_\mathrm{sec,need}",
    source="Kirchhoff",
    title="Secondary voltage needed",
    start=375.0,
    grows=BY_OUTPUT_VOLTAGE,
    tex=r"{link_setpoint}+2\,{diode_forward_voltage}+{link_current}\,({secondary_resistance}+{choke_resistance})",
    example=({"link_setpoint": 380, "diode_forward_voltage": 1.2, "link_current": 2.3, "secondary_resistance": 0.5, "choke_resistance": 0.35}, 384.355),
)
def secondary_voltage_needed(link_setpoint, diode_forward_voltage, link_current, secondary_resistance, choke_resistance):
    """Mean secondary voltage that the set-point asks for, drops added."""
    return link_setpoint + 2 * diode_forward_voltage + link_current * (secondary_resistance + choke_resistance)


@rectifier.operation(
    unit="V",
    symbol=r"V_\mathrm{reach}",
    source=EM,
    title="Link within reach",
    tex=r"\begin{gathered}{turns_ratio}\left({driven_voltage}\,{reachable_duty}-\frac{{pulse_power}\,{drive_resistance}}{driven_voltage}\right)\\-\,2{diode_forward_voltage}-{link_current}({secondary_resistance}+{choke_resistance})\end{gathered}",
    example=(
        {
            "turns_ratio": 19,
            "driven_voltage": 22,
            "reachable_duty": 0.92,
            "pulse_power": 900,
            "drive_resistance": 0.01,
            "diode_forward_voltage": 1.2,
            "link_current": 2.3,
            "secondary_resistance": 0.5,
            "choke_resistance": 0.35,
        },
        372.432,
    ),
)
def reachable_voltage(
    turns_ratio, driven_voltage, reachable_duty, pulse_power, drive_resistance, diode_forward_voltage, link_current, secondary_resistance, choke_resistance
):
    """Highest link that the front end reaches at the corner."""
    amplitude = turns_ratio * (driven_voltage * reachable_duty - pulse_power * drive_resistance / driven_voltage)
    return amplitude - 2 * diode_forward_voltage - link_current * (secondary_resistance + choke_resistance)


@rectifier.operation(
    unit="V",
    symbol=r"V_\mathrm{link}",
    start=370.0,
    grows=BY_OUTPUT_VOLTAGE,
    source="regulated: the lesser of set-point and reach",
    title="Link voltage",
    tex=r"\min({link_setpoint},{reachable_voltage})",
)
def output_voltage(link_setpoint, reachable_voltage):
    """Link voltage: the set-point, or what can be reached below it."""
    return np.minimum(link_setpoint, reachable_voltage)


@rectifier.build(
    unit="A",
    symbol=r"\Delta I_\mathrm{want}",
    source="share of the rated current",
    title="Ripple wanted",
    tex=r"{choke_ripple_fraction}\max_\mathrm{lasting}({link_current})",
)
def wanted_ripple(choke_ripple_fraction, link_current):
    """Ripple current to design the choke for."""
    return choke_ripple_fraction * highest_lasting(link_current)


@rectifier.build(
    unit="H",
    symbol=r"L_\mathrm{ch}",
    source=EM,
    title="Averaging choke",
    safe="up",
    start=2e-3,
    grows=BY_OUTPUT_RESISTANCE,
    tex=r"\mathrm{E24}_\uparrow\left(\frac{{link_setpoint}\,\max(1-\min({continuous_duty}),\,0.05)}{2\,{switching_frequency}\,{wanted_ripple}}\right)",
    example=({"link_setpoint": 380, "continuous_duty": 0.7, "switching_frequency": 40e3, "wanted_ripple": 1.0}, 1.5e-3),
)
def choke_inductance(link_setpoint, continuous_duty, switching_frequency, wanted_ripple):
    """Inductance that keeps the ripple at the highest source; in steps of a tenth (E24, upwards), as its tolerance: finer ones lead it and the losses around."""
    return nearest_in("E24", "up")(link_setpoint * np.maximum(1 - lowest(continuous_duty), LEAST_REST) / (2 * switching_frequency * wanted_ripple))


@rectifier.operation(
    unit="A",
    symbol=r"\Delta I_{pp}",
    start=0.45,
    grows=BY_OUTPUT_CURRENT,
    source=EM,
    title="Choke ripple",
    tex=r"\begin{gathered}\frac{\min(A,B)}{2\,{switching_frequency}\,{choke_inductance}}\\A={output_voltage}\,(1-{effective_duty})\\B=\max({secondary_amplitude}-{output_voltage},0)\,{effective_duty}\end{gathered}",
    example=({"output_voltage": 380, "effective_duty": 0.7, "switching_frequency": 40e3, "choke_inductance": 1.5e-3, "secondary_amplitude": 560}, 0.95),
)
def choke_ripple(output_voltage, effective_duty, switching_frequency, choke_inductance, secondary_amplitude):
    """Peak-to-peak ripple of the averaging choke: what it falls by in the rest, below the boundary what it rises by in the pulse."""
    falls, rises = output_voltage * (1 - effective_duty), (secondary_amplitude - output_voltage) * effective_duty
    return np.minimum(falls, np.maximum(rises, 0 * rises)) / (2 * switching_frequency * choke_inductance)


@rectifier.operation(
    unit="A",
    symbol=r"I_{f,\sim}",
    source="rms of a triangle, of triangles with rests below the boundary, less the mean",
    title="Ripple into the link",
    tex=r"\sqrt{\begin{cases}\tfrac1{12}{choke_ripple}^2&{link_current}\ge\tfrac12{choke_ripple}\\(\tfrac23{choke_ripple}-{link_current})\,{link_current}&\text{else}\end{cases}}",
    example=({"choke_ripple": 1.0, "link_current": 2.3}, 0.288675),
)
def feed_ripple_current(choke_ripple, link_current):
    """Rms ripple of the choke's current: what of it is not its mean."""
    return np.sqrt(np.where(link_current >= choke_ripple / 2, choke_ripple**2 / 12, 2 * link_current * choke_ripple / 3 - link_current**2))


rectifier.rename(front_inductance="choke_inductance")


@rectifier.operation(
    unit="Ω",
    symbol=r"R_f",
    source="averaged front end with its duty standing still: a regulator that crosses at a fifth of the output frequency does not follow",
    title="Output resistance of the front end",
    tex=r"{turns_ratio}^2\left({effective_duty}\,{drive_resistance}+2\,{switching_frequency}\,{leakage_inductance}\right)+{effective_duty}\,{secondary_resistance}+{choke_resistance}+({turns_ratio}\,{effective_duty})^2{source_resistance}",
    example=(
        {
            "turns_ratio": 20,
            "effective_duty": 0.8,
            "drive_resistance": 0.008,
            "switching_frequency": 40e3,
            "leakage_inductance": 30e-9,
            "secondary_resistance": 0.4,
            "choke_resistance": 0.35,
            "source_resistance": 0.009,
        },
        6.494,
    ),
)
def front_resistance(
    turns_ratio, effective_duty, drive_resistance, switching_frequency, leakage_inductance, secondary_resistance, choke_resistance, source_resistance
):
    """Resistance that the link sees in the front end at twice the output frequency."""
    referred = effective_duty * drive_resistance + 2 * switching_frequency * leakage_inductance + effective_duty**2 * source_resistance
    return turns_ratio**2 * referred + effective_duty * secondary_resistance + choke_resistance


@rectifier.operation(
    unit="A",
    symbol=r"\Delta I_\mathrm{want}",
    source="current divider of front end and link capacitor at twice the output frequency",
    title="Swing of the choke, undivided by rests",
    tex=r"\begin{gathered}\frac{bridge_apparent_power}{link_voltage}\cdot\frac{X_C}{\sqrt{{front_resistance}^2+(4\pi\,{output_frequency}\,{choke_inductance}-X_C)^2}}\\X_C=\frac{1}{4\pi\,{output_frequency}\,{link_capacitance}}\end{gathered}",
    example=(
        {
            "bridge_apparent_power": 900,
            "link_voltage": 380,
            "front_resistance": 6.5,
            "output_frequency": 50,
            "choke_inductance": 1.5e-3,
            "link_capacitance": 470e-6,
        },
        1.15494,
    ),
)
def unlimited_swing(bridge_apparent_power, link_voltage, front_resistance, output_frequency, choke_inductance, link_capacitance):
    """Amplitude of the double-frequency current that the front end would carry while its choke conducts without rest."""
    return carried_by_front(bridge_apparent_power, link_voltage, front_resistance, choke_inductance, output_frequency, link_capacitance)


@rectifier.operation(
    unit="A",
    symbol=r"\Delta I_{ch,2f}",
    source="the choke's current cannot turn round",
    title="Swing of the choke at twice the output frequency",
    start=0.8,
    grows=BY_DRAWN_OUTPUT_CURRENT,
    tex=r"\min\left({unlimited_swing},\,\max\left({link_current}-\tfrac12{choke_ripple},\,0\right)\right)",
    example=({"unlimited_swing": 1.2, "link_current": 1.0, "choke_ripple": 0.8}, 0.6),
)
def choke_swing(unlimited_swing, link_current, choke_ripple):
    """Amplitude of the double-frequency current through front end and choke: at most until the current stops in its valleys."""
    valley = link_current - choke_ripple / 2
    return np.minimum(unlimited_swing, np.maximum(valley, 0 * valley))


@rectifier.operation(
    unit="A",
    symbol=r"\hat I_\mathrm{ch}",
    source=EM,
    title="Choke current, peak",
    tex=r"\max\left({link_current}+\frac{choke_ripple}{2},\;{choke_ripple}\right)+{choke_swing}",
    example=({"link_current": 2.3, "choke_ripple": 1.0, "choke_swing": 1.1}, 3.9),
)
def choke_peak_current(link_current, choke_ripple, choke_swing):
    """Peak current of the averaging choke, for its saturation; below the boundary the pulse starts from nothing."""
    return np.maximum(link_current + choke_ripple / 2, choke_ripple) + choke_swing


@rectifier.operation(
    unit="A",
    symbol=r"I_\mathrm{ch,rms}",
    source="rms of mean and triangle; of triangles with rests below the boundary; of the swing",
    title="Choke current, rms",
    tex=r"\begin{gathered}\sqrt{A+\tfrac12{choke_swing}^2}\\A=\begin{cases}{link_current}^2+\tfrac1{12}{choke_ripple}^2&{link_current}\ge\tfrac12{choke_ripple}\\\tfrac23\,{link_current}\,{choke_ripple}&\text{else}\end{cases}\end{gathered}",
    example=({"link_current": 2.3, "choke_ripple": 1.0, "choke_swing": 1.1}, 2.44506),
)
def choke_rms_current(link_current, choke_ripple, choke_swing):
    """Rms current of the averaging choke."""
    lasting = link_current**2 + choke_ripple**2 / 12
    return np.sqrt(np.where(link_current >= choke_ripple / 2, lasting, 2 * link_current * choke_ripple / 3) + choke_swing**2 / 2)


@rectifier.build(
    unit="A",
    symbol=r"I_\mathrm{ch,sat}",
    source="a fifth above the highest peak, and what a short reaches before the limit has acted, ordered in rounded amperes",
    title="Choke holds its inductance to",
    safe="up",
    tex=r"\mathrm{E24}_\uparrow\left(\max(1.2\max({choke_peak_current}),\,{choke_short_current})\right)",
    example=({"choke_peak_current": 4, "choke_short_current": 3}, 5.1),
)
def choke_saturation_current(choke_peak_current, choke_short_current):
    """Current up to which the averaging choke is ordered not to saturate."""
    return nearest_in("E24", "up")(np.maximum(1.2 * highest(choke_peak_current), choke_short_current))


declare_choke(rectifier, "choke_", "choke_inductance", "choke_saturation_current", "full_choke_ripple", reference=20e-3, price=4.5, mass=0.12, core_loss=2.0)


@rectifier.build(
    unit="A",
    symbol=r"\Delta I_0",
    source=EM,
    title="Full choke ripple",
    tex=r"\frac{link_setpoint}{2\,{switching_frequency}\,{choke_inductance}}",
    example=({"link_setpoint": 380, "switching_frequency": 40e3, "choke_inductance": 1.5e-3}, 3.16667),
)
def full_choke_ripple(link_setpoint, switching_frequency, choke_inductance):
    """Ripple that the choke would have at the shortest pulses: its core loss is given at it."""
    return link_setpoint / (2 * switching_frequency * choke_inductance)


@rectifier.build(
    unit="A",
    symbol=r"I_\mathrm{link,min}",
    source=EM,
    title="Boundary of the choke",
    tex=r"\max\frac{{output_voltage}\,(1-{output_voltage}/{secondary_amplitude})}{4\,{switching_frequency}\,{choke_inductance}}",
    example=({"output_voltage": 380, "secondary_amplitude": 500, "switching_frequency": 40e3, "choke_inductance": 1.5e-3}, 0.38),
)
def boundary_current(output_voltage, secondary_amplitude, switching_frequency, choke_inductance):
    """Link current below which the choke current stops between pulses, at the source where that comes first."""
    return highest(output_voltage * (1 - output_voltage / secondary_amplitude)) / (4 * switching_frequency * choke_inductance)


for _name, _unit, _symbol, _text, _alone in (
    ("choke_swing", "A", r"\Delta I_{ch,2f}", "Swing of the averaging choke at twice the output frequency.", 1.0),
    ("front_resistance", "Ω", r"R_f", "Resistance of the front end at twice the output frequency.", 6.5),
    ("unlimited_swing", "A", r"\Delta I_\mathrm{want}", "Swing of the choke, undivided by rests.", 1.0),
    ("link_current", "A", r"I_\mathrm{link}", "Mean current delivered to the link.", 2.3),
    ("secondary_voltage_needed", "V", r"V_\mathrm{sec,need}", "Mean secondary voltage that the set-point asks for.", 385),
    ("choke_inductance", "H", r"L_\mathrm{ch}", "Averaging choke.", 1.5e-3),
    ("choke_ripple", "A", r"\Delta I_{pp}", "Ripple of the averaging choke.", 0.9),
    ("link_voltage", "V", r"V_\mathrm{link}", "Link voltage, mean.", 380),
):
    word(_name, _unit, _symbol, _text, _alone)

rectifier.order(
    "Averaging choke", "wound", "{choke_inductance}, no saturation up to {choke_saturation_current}, {choke_rms_current:lasting} rms", price="choke_price"
)
