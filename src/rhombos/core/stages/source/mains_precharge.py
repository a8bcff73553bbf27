"""Precharge on the AC side of a mains rectifier: resistor with its relay, or an NTC (2.5)."""

import numpy as np

from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Limit, Mark, Plot, Seen, Series
from rhombos.core.units import show

CHARGING = "the resistor conducts only while the mains exceed the capacitor: t/τ = ∫dv/g(v), g the mean of what exceeds it"
STEP = "step onto R, L and C in series"
NODES, WEIGHTS = (array.tolist() for array in np.polynomial.legendre.leggauss(24))
TURN = np.sqrt(3) / 2
"""Up to this share of the crest a six-pulse rectifier conducts all the time."""

mains_precharge = Stage("mains_precharge", "Precharge from the mains", path=False, telling="{mains_time}")
mains_precharge.hazard("dc_voltage", "mains_crest")
mains_precharge.hazard("energy", "mains_energy")
mains_precharge.choice(
    "phases",
    {"single": Option("single-phase", {"three_phase": 0, "usual_fraction": 0.9}), "three": Option("three-phase", {"three_phase": 1, "usual_fraction": 0.95})},
    {
        "three_phase": ("", r"\sigma_3", "1 where the mains have three phases."),
        "usual_fraction": ("", "x_0", "Share of the crest at which the relay usually closes."),
    },
    default="single",
    sentence="Which mains feed the rectifier.",
)
mains_precharge.choice(
    "limiter",
    {"relay": Option("resistor and relay", {"by_ntc": 0}), "ntc": Option("NTC, nothing bypasses it", {"by_ntc": 1})},
    {"by_ntc": ("", r"\sigma_N", "1 where an NTC limits, hot from its own current.")},
    default="relay",
    sentence="What limits the inrush.",
    title="Limiter",
)
mains_precharge.give(
    "mains_voltage", 230.0, "V", r"V_\mathrm{ac}", 50, 1000, "Rms voltage of the mains: phase for one, line to line for three phases.", "Mains"
)
mains_precharge.give("mains_frequency", 50.0, "Hz", "f", 40, 500, "Frequency of the mains.", "Mains frequency")
mains_precharge.give("mains_resistor", 100.0, "Ω", r"R_1", 0.1, 1e5, "Each precharge resistor.", "Resistor")
mains_precharge.give(
    "lines_with_resistor", 1.0, "", r"n_R", 1, 2, "Resistors in the path of the current: two where each line has one.", "Resistors in the path", whole=True
)
mains_precharge.give("mains_bank", 470e-6, "F", "C", 1e-7, 1, "Capacitor bank behind the rectifier.", "Bank")
mains_precharge.give("mains_line_resistance", 0.4, "Ω", r"R_m", 1e-3, 50, "Resistance of mains and rectifier after closing.", "Mains resistance")
mains_precharge.give("mains_line_inductance", 200e-6, "H", r"L_m", 1e-8, 0.1, "Inductance of mains and filter.", "Mains inductance")
mains_precharge.give("pulse_rating", 60.0, "J", r"E_R", 0.1, 1e5, "Pulse energy that the resistors stand together.", "Pulse energy of the resistors")
mains_precharge.give("rectifier_heat", 300.0, "A^2·s", r"I^2t_D", 0.1, 1e7, "I²t that the rectifier stands.", "Rectifier stands")
mains_precharge.give("rectifier_surge", 200.0, "A", r"I_{FSM}", 1, 1e5, "Surge current that the rectifier stands.", "Rectifier's surge current")
mains_precharge.give("hot_share", 0.05, "", r"k_\mathrm{hot}", 0.001, 1, "Resistance of an NTC hot, over cold.", "NTC hot over cold")


@mains_precharge.build(
    unit="V", symbol=r"\hat V", source="sine", title="Crest of the mains", tex=r"\sqrt2\,{mains_voltage}", example=({"mains_voltage": 230}, 325.269)
)
def mains_crest(mains_voltage):
    """Crest that the bank is charged towards."""
    return np.sqrt(2) * mains_voltage


@mains_precharge.build(
    unit="Ω", symbol="R", source="series in the conducting path", title="Resistance in the path", tex=r"{lines_with_resistor}\,{mains_resistor}"
)
def path_resistance(lines_with_resistor, mains_resistor):
    """Resistance that the charging current meets: a resistor in each line counts twice."""
    return lines_with_resistor * mains_resistor


@mains_precharge.build(unit="A", symbol=r"\hat I", source="Ohm's law at the crest", title="First peak", tex=r"\frac{mains_crest}{path_resistance}")
def first_peak(mains_crest, path_resistance):
    """Highest current of the first half wave."""
    return mains_crest / path_resistance


@mains_precharge.build(unit="s", symbol=r"\tau", source=CHARGING, title="Time constant", tex=r"{path_resistance}\,{mains_bank}")
def mains_constant(path_resistance, mains_bank):
    """R·C of the conducting path; the law holds where it is longer than a mains period."""
    return path_resistance * mains_bank


def _single(v):
    """Mean of what a rectified sine exceeds v by, both in crests."""
    rest = np.sqrt(1 - v**2)
    return 2 / np.pi * (rest - v * np.arctan2(rest, v))


def _between(g, low, high):
    """∫dv/g from low to high by Gauss's formula."""
    half, middle = (high - low) / 2, (high + low) / 2
    total = 0 * half
    for node, weight in zip(NODES, WEIGHTS, strict=True):
        total = total + weight / g(middle + node * half)
    return total * half


def constants(three_phase, fraction):
    """Time in time constants to a share of the crest."""
    low = np.minimum(fraction, TURN)
    three = -np.log(1 - low * np.pi / 3) + _between(lambda v: 3 * _single(v), TURN + 0 * fraction, np.maximum(fraction, TURN))
    return np.where(three_phase > 0, three, _between(_single, 0 * fraction, fraction))


@mains_precharge.build(
    unit="",
    symbol=r"t/\tau",
    source=CHARGING,
    title="Time constants needed",
    tex=r"\operatorname{mains}({three_phase},\,{usual_fraction})",
    example=({"three_phase": 0, "usual_fraction": 0.9}, 7.11),
)
def needed_constants(three_phase, usual_fraction):
    """Time constants until the relay may close: not the 2.3 or 3 of a DC source."""
    return constants(three_phase, usual_fraction)


@mains_precharge.build(unit="s", symbol="t", source=CHARGING, title="Precharge", tex=r"{needed_constants}\,{mains_constant}")
def mains_time(needed_constants, mains_constant):
    """Time until the relay may close."""
    return needed_constants * mains_constant


@mains_precharge.build(
    unit="s", symbol=r"t_\mathrm{out}", source="[judgement] 1.7 times", title="Time-out", tex=r"1.7\,{mains_time}", example=({"mains_time": 0.3}, 0.51)
)
def mains_timeout(mains_time):
    """When it is given up; never the five to seven time constants of a DC source."""
    return 1.7 * mains_time


@mains_precharge.build(
    unit="J",
    symbol="E",
    source="field energy",
    title="Energy of the bank",
    tex=r"\tfrac12\,{mains_bank}\,{mains_crest}^2",
    example=({"mains_bank": 470e-6, "mains_crest": 325}, 24.822),
)
def mains_energy(mains_bank, mains_crest):
    """Energy of the full bank: what the resistors must stand at the most."""
    return mains_bank * mains_crest**2 / 2


@mains_precharge.build(
    unit="A^2·s",
    symbol=r"\int i^2",
    source="the resistance burns the bank's energy at the most",
    title="Heat for the rectifier",
    tex=r"\frac{mains_energy}{path_resistance}",
)
def charging_heat(mains_energy, path_resistance):
    """∫i²dt of the whole charging, at the most."""
    return mains_energy / path_resistance


@mains_precharge.build(unit="V", symbol=r"\Delta V", source=STEP, title="Step left at closing", tex=r"(1-{usual_fraction})\,{mains_crest}")
def mains_step(usual_fraction, mains_crest):
    """What is left when the relay closes at the worst phase."""
    return (1 - usual_fraction) * mains_crest


@mains_precharge.build(
    unit="A",
    symbol=r"\hat I_\mathrm{close}",
    source=STEP,
    title="Inrush at closing",
    tex=r"\begin{gathered}{mains_step}\sqrt{\frac{mains_bank}{mains_line_inductance}}\begin{cases}\exp\left(-\frac{\zeta}{s}\arctan\frac{s}{\zeta}\right)&\zeta<1\\\exp\left(-\frac{\zeta}{s}\operatorname{artanh}\frac{s}{\zeta}\right)&\text{else}\end{cases}\\"
    r"\zeta=\frac{mains_line_resistance}{2}\sqrt{\frac{mains_bank}{mains_line_inductance}}\quad s=\sqrt{\max(|1-\zeta^2|,\,0.000001)}\end{gathered}",
    example=({"mains_step": 32.5, "mains_bank": 470e-6, "mains_line_inductance": 200e-6, "mains_line_resistance": 0.4}, 33.2102),
)
def closing_inrush(mains_step, mains_bank, mains_line_inductance, mains_line_resistance):
    """Exact peak of the step onto mains and bank, damped either way."""
    admittance = np.sqrt(mains_bank / mains_line_inductance)
    zeta = mains_line_resistance / 2 * admittance
    s = np.sqrt(np.maximum(np.abs(1 - zeta**2), 1e-6))
    over = np.arctanh(np.minimum(s / np.maximum(zeta, s * 1.0000001), 0.9999999))
    return mains_step * admittance * np.exp(-zeta / s * np.where(zeta < 1, np.arctan2(s, zeta), over))


@mains_precharge.build(
    unit="A",
    symbol=r"\hat I_\mathrm{hot}",
    source="an NTC is hot for a minute after it was on",
    title="Peak on a hot restart",
    tex=r"{by_ntc}\,\frac{mains_crest}{{hot_share}\,{path_resistance}+{mains_line_resistance}}",
    example=({"by_ntc": 1, "mains_crest": 325, "hot_share": 0.05, "path_resistance": 10, "mains_line_resistance": 0.4}, 361.111),
)
def hot_restart(by_ntc, mains_crest, hot_share, path_resistance, mains_line_resistance):
    """Current of a restart with the NTC still hot: next to nothing limits it."""
    return by_ntc * mains_crest / (hot_share * path_resistance + mains_line_resistance)


@mains_precharge.build(unit="s", symbol="T", source="mains", title="Mains period", tex=r"\frac{1}{mains_frequency}")
def mains_period(mains_frequency):
    """A period of the mains."""
    return 1 / mains_frequency


mains_precharge.check(
    "energy",
    title="Resistors stand the charging",
    demand="mains_energy",
    capability="pulse_rating",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="The resistors take up to {demand}; they stand {capability}.",
    why="A resistor that is opened by its pulse never charges again.",
    remedies=(Move("pulse_rating", "up", 10.0),),
)
mains_precharge.check(
    "rectifier",
    title="Rectifier stands the charging",
    demand="charging_heat",
    capability="rectifier_heat",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Charging heats the rectifier by {demand}; it stands {capability}.",
    why="Diodes die in the first half wave.",
    remedies=(Move("mains_resistor", "up", 20.0),),
)
mains_precharge.check(
    "law",
    title="Slow beside the mains",
    demand="mains_period",
    capability="mains_constant",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="The time constant is {capability}; the law of its time holds from a period of {demand} on.",
    why="A bank that fills within a half wave charges by the phase it is caught at.",
    remedies=(Move("mains_resistor", "up", 20.0),),
)
mains_precharge.check(
    "closing",
    title="Inrush at closing",
    demand="closing_inrush",
    capability="rectifier_surge",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Closing onto the rest draws {demand}; the rectifier stands {capability}.",
    why="The step that is left meets only the mains.",
    remedies=(Move("mains_line_inductance", "up", 10.0, "world"), Move("rectifier_surge", "up", 5.0)),
)
mains_precharge.check(
    "hot_restart",
    title="Restart with a hot NTC",
    demand="hot_restart",
    capability="rectifier_surge",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="On a restart the hot NTC lets {demand} through; the rectifier stands {capability}.",
    why="An NTC limits the first start only: wait a minute, or bypass it by a relay and let it cool.",
    remedies=(Move("rectifier_surge", "up", 10.0),),
    no_demand="A relay bypasses the resistor, which is cold at every start.",
)


@mains_precharge.picture("Charging from the mains")
def charging(seen: Seen) -> Plot:
    """The bank against what the same R and C would do on a DC source of the crest's volts."""
    tau, crest, three = seen.at("mains_constant"), seen.at("mains_crest"), seen.at("three_phase")
    fractions = np.linspace(0.01, 0.97, 60)
    time = tau * np.array([float(constants(three, x)) for x in fractions])
    on_dc = tau * -np.log(1 - fractions)
    closes, at = seen.at("usual_fraction"), seen.at("mains_time")
    return Plot(
        "time",
        "s",
        "V",
        [Series("from the mains", time, crest * fractions), Series("on a DC source", on_dc, crest * fractions, "slate", dashed=True)],
        [Limit("crest", crest)],
        [Mark("relay closes", at, closes * crest)],
        y_from=0.0,
        note=f"It may close after {show(at, 's', 3)}, and is given up after {show(seen.at('mains_timeout'), 's', 3)}.",
    )
