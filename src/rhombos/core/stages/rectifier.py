"""Bridge rectifier with averaging choke (6.2)."""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting, lowest, nearest_in
from rhombos.core.parts.columns import RECTIFIER
from rhombos.core.vocabulary import word

EM = "Erickson & Maksimović, Fundamentals of Power Electronics"

LEAST_REST = 0.05
"""Share of the period without drive that the choke is sized for at least."""

rectifier = Stage("rectifier", "Rectifier", telling="{diode} · {choke_inductance}", caution="link")


rectifier.give(
    "choke_ripple_fraction", 0.4, "", r"\Delta_L", 0.05, 2, "Peak-to-peak ripple of the averaging choke over the rated link current.", "Choke ripple wanted"
)
rectifier.give(
    "choke_resistance", 0.35, "Ω", r"R_\mathrm{ch}", 0, 100, "Resistance of the averaging choke, hot [judgement].", "Choke resistance", judgement=True
)
rectifier.give(
    "choke_core_loss", 2.0, "W", r"P_\mathrm{ch,Fe}", 0, 50, "Core loss of the averaging choke at full ripple [judgement].", "Choke core loss", judgement=True
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
    tex=r"\begin{gathered}{turns_ratio}\left({driven_voltage}\,{reachable_duty}-\frac{{input_power}{drive_resistance}}{driven_voltage}\right)\\-\,2{diode_forward_voltage}-{link_current}({secondary_resistance}+{choke_resistance})\end{gathered}",
    example=(
        {
            "turns_ratio": 19,
            "driven_voltage": 22,
            "reachable_duty": 0.92,
            "input_power": 900,
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
    turns_ratio, driven_voltage, reachable_duty, input_power, drive_resistance, diode_forward_voltage, link_current, secondary_resistance, choke_resistance
):
    """Highest link that the front end reaches at the corner."""
    amplitude = turns_ratio * (driven_voltage * reachable_duty - input_power * drive_resistance / driven_voltage)
    return amplitude - 2 * diode_forward_voltage - link_current * (secondary_resistance + choke_resistance)


@rectifier.operation(
    unit="V",
    symbol=r"V_\mathrm{link}",
    start=370.0,
    source="regulated: the lesser of set-point and reach",
    title="Link voltage",
    tex=r"\min({link_setpoint},{reachable_voltage})",
)
def output_voltage(link_setpoint, reachable_voltage):
    """Link voltage: the set-point, or what can be reached below it."""
    return np.minimum(link_setpoint, reachable_voltage)


@rectifier.build(
    unit="A", symbol=r"\Delta I_\mathrm{want}", source="share of the rated current", title="Ripple wanted", tex=r"{choke_ripple_fraction}\max({link_current})"
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
    tex=r"\mathrm{E12}\left(\frac{{link_setpoint}\,\max(1-\min({continuous_duty}),\,0.05)}{2\,{switching_frequency}\,{wanted_ripple}}\right)",
    example=({"link_setpoint": 380, "continuous_duty": 0.7, "switching_frequency": 40e3, "wanted_ripple": 1.0}, 1.5e-3),
)
def choke_inductance(link_setpoint, continuous_duty, switching_frequency, wanted_ripple):
    """Inductance that keeps the ripple at the highest source, next higher preferred value."""
    return nearest_in("E12", "up")(link_setpoint * np.maximum(1 - lowest(continuous_duty), LEAST_REST) / (2 * switching_frequency * wanted_ripple))


@rectifier.operation(
    unit="A",
    symbol=r"\Delta I_{pp}",
    start=0.45,
    source=EM,
    title="Choke ripple",
    tex=r"\frac{\min\left({output_voltage}\,(1-{effective_duty}),\;({secondary_amplitude}-{output_voltage})\,{effective_duty}\right)}{2\,{switching_frequency}\,{choke_inductance}}",
    example=({"output_voltage": 380, "effective_duty": 0.7, "switching_frequency": 40e3, "choke_inductance": 1.5e-3, "secondary_amplitude": 560}, 0.95),
)
def choke_ripple(output_voltage, effective_duty, switching_frequency, choke_inductance, secondary_amplitude):
    """Peak-to-peak ripple of the averaging choke: what it falls by in the rest, below the boundary what it rises by in the pulse."""
    falls, rises = output_voltage * (1 - effective_duty), (secondary_amplitude - output_voltage) * effective_duty
    return np.minimum(falls, np.maximum(rises, 0 * rises)) / (2 * switching_frequency * choke_inductance)


@rectifier.operation(
    unit="A",
    symbol=r"\hat I_\mathrm{ch}",
    source=EM,
    title="Choke current, peak",
    tex=r"\max\left({link_current}+\frac{choke_ripple}{2},\;{choke_ripple}\right)",
    example=({"link_current": 2.3, "choke_ripple": 1.0}, 2.8),
)
def choke_peak_current(link_current, choke_ripple):
    """Peak current of the averaging choke, for its saturation; below the boundary the pulse starts from nothing."""
    return np.maximum(link_current + choke_ripple / 2, choke_ripple)


@rectifier.operation(
    unit="A",
    symbol=r"I_\mathrm{ch,rms}",
    source="rms of mean and triangle; of triangles with rests below the boundary",
    title="Choke current, rms",
    tex=r"\begin{cases}\sqrt{{link_current}^2+{choke_ripple}^2/12}&\text{lasting}\\\sqrt{\tfrac23\,{link_current}\,{choke_ripple}}&\text{with rests}\end{cases}",
    example=({"link_current": 2.3, "choke_ripple": 1.0}, 2.31805),
)
def choke_rms_current(link_current, choke_ripple):
    """Rms current of the averaging choke."""
    lasting = link_current**2 + choke_ripple**2 / 12
    return np.sqrt(np.where(link_current >= choke_ripple / 2, lasting, 2 * link_current * choke_ripple / 3))


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


@rectifier.pick("diode", "rectifier", RECTIFIER, title="Diode", pieces=4, source=EM)
def diode(part, highest_secondary_amplitude, link_current, switching_frequency):
    """Cheapest rectifier whose voltage with ringing, current and recovery time suit."""
    return [
        Need("reverse voltage with ringing", part.rated_voltage, 1.5 * highest_secondary_amplitude, "V"),
        Need("average current", part.rated_current, 1.25 * highest_lasting(link_current) / 2, "A"),
        Need("recovery time", 1 / (200 * switching_frequency), part.recovery_time, "s"),
    ]


@rectifier.build(
    unit="V",
    symbol=r"V_{R}",
    source="half again for ringing",
    title="Reverse voltage with ringing",
    tex=r"1.5\,{highest_secondary_amplitude}",
    example=({"highest_secondary_amplitude": 560}, 840),
)
def diode_reverse_voltage(highest_secondary_amplitude):
    """Reverse voltage of one diode with ringing."""
    return 1.5 * highest_secondary_amplitude


@rectifier.operation(
    unit="A",
    symbol=r"I_\mathrm{D}",
    source="each pair takes half",
    title="Diode current, mean",
    tex=r"(1-{surge})\frac{link_current}{2}",
    example=({"surge": 0, "link_current": 2.4}, 1.2),
)
def diode_current(surge, link_current):
    """Mean current of one diode at the corners that last."""
    return (1 - surge) * link_current / 2


@rectifier.build(
    unit="s",
    symbol=r"t_{rr,max}",
    source="1/200 of the period",
    title="Recovery time allowed",
    tex=r"\frac{1}{200\,{switching_frequency}}",
    example=({"switching_frequency": 50e3}, 100e-9),
)
def allowed_recovery_time(switching_frequency):
    """Longest reverse recovery time for the switching frequency."""
    return 1 / (200 * switching_frequency)


@rectifier.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    start=10.0,
    source="conduction of two diodes, recovery of four, choke",
    title="Loss",
    tex=r"\begin{gathered}2\,{diode_forward_voltage}{link_current}+4\,{diode_recovery_charge}\,{secondary_amplitude}\,{switching_frequency}\,{conducting}\\+\,{choke_rms_current}^2{choke_resistance}+{choke_core_loss}\left(\frac{choke_ripple}{full_choke_ripple}\right)^2\end{gathered}",
    example=(
        {
            "diode_forward_voltage": 1.2,
            "link_current": 2.3,
            "diode_recovery_charge": 20e-9,
            "secondary_amplitude": 440,
            "switching_frequency": 40e3,
            "conducting": 1,
            "choke_rms_current": 2.32,
            "choke_resistance": 0.35,
            "choke_core_loss": 0.8,
            "choke_ripple": 1,
            "full_choke_ripple": 1,
        },
        9.6118,
    ),
)
def loss(
    diode_forward_voltage,
    link_current,
    diode_recovery_charge,
    secondary_amplitude,
    switching_frequency,
    conducting,
    choke_rms_current,
    choke_resistance,
    choke_core_loss,
    choke_ripple,
    full_choke_ripple,
):
    """Loss of the diodes and of the averaging choke (its core loss a given, scaled with the square of the ripple)."""
    diodes = 2 * diode_forward_voltage * link_current + 4 * diode_recovery_charge * secondary_amplitude * switching_frequency * conducting
    return diodes + choke_rms_current**2 * choke_resistance + choke_core_loss * (choke_ripple / full_choke_ripple) ** 2


@rectifier.operation(
    unit="",
    symbol=r"c",
    source="no recovery below the boundary: the current has stopped",
    title="Diodes commutate hard",
    tex=r"[{link_current}\ge{choke_ripple}/2]",
    example=({"link_current": 1.0, "choke_ripple": 1.5}, 1.0),
)
def conducting(link_current, choke_ripple):
    """1 where the choke current never stops, so that diodes are recovered; 0 below the boundary."""
    return np.where(link_current >= choke_ripple / 2, 1.0, 0.0)


@rectifier.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power from the transformer."""
    return output_power + losses


rectifier.give(
    "choke_price", 4.5, "credit", r"c_\mathrm{ch}", 0, 1000, "Price of the averaging choke, wound [judgement].", "Price of the choke", judgement=True
)
rectifier.give("choke_mass", 0.12, "kg", r"m_\mathrm{ch}", 0, 50, "Mass of the averaging choke [judgement].", "Mass of the choke", judgement=True)


@rectifier.build(
    unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"4\,{diode_price}+{choke_price}", example=({"diode_price": 0.9, "choke_price": 4.5}, 8.1)
)
def cost(diode_price, choke_price):
    """Cost of four diodes and the choke."""
    return 4 * diode_price + choke_price


@rectifier.build(
    unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"4\,{diode_mass}+{choke_mass}", example=({"diode_mass": 0.002, "choke_mass": 0.12}, 0.128)
)
def mass(diode_mass, choke_mass):
    """Mass of four diodes and the choke."""
    return 4 * diode_mass + choke_mass


@rectifier.build(unit="", symbol="n", source="count", title="Parts", tex=r"4\,{diode_quantity}+1", example=({"diode_quantity": 1}, 5))
def part_count(diode_quantity):
    """Four diodes and the choke."""
    return 4 * diode_quantity + 1


rectifier.check(
    "reverse_voltage",
    title="Diode voltage",
    demand="diode_reverse_voltage",
    capability="diode_rated_voltage",
    fail=0.8,
    hold=1.0,
    harm="equipment",
    sentence="With ringing a diode sees {demand}; it is rated {capability}.",
    why="A rectifier that breaks down shorts the secondary.",
    remedies=(Move("secondary_turns", "down", 1.2),),
)
rectifier.check(
    "diode_current",
    title="Diode current",
    demand="diode_current",
    capability="diode_rated_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} mean flow in a diode rated {capability}.",
    why="The diode overheats.",
)
rectifier.check(
    "recovery",
    title="Diode recovery",
    demand="diode_recovery_time",
    capability="allowed_recovery_time",
    fail=0.5,
    hold=1.0,
    harm="equipment",
    sentence="The diode recovers in {demand}; {capability} suits the frequency.",
    why="Slow recovery is a short at every edge.",
    remedies=(Move("wanted_frequency", "down", 3.0),),
)

for _name, _unit, _symbol, _text, _alone in (
    ("link_current", "A", r"I_\mathrm{link}", "Mean current delivered to the link.", 2.3),
    ("secondary_voltage_needed", "V", r"V_\mathrm{sec,need}", "Mean secondary voltage that the set-point asks for.", 385),
    ("choke_inductance", "H", r"L_\mathrm{ch}", "Averaging choke.", 1.5e-3),
    ("choke_ripple", "A", r"\Delta I_{pp}", "Ripple of the averaging choke.", 0.9),
    ("link_voltage", "V", r"V_\mathrm{link}", "Link voltage, mean.", 380),
):
    word(_name, _unit, _symbol, _text, _alone)
