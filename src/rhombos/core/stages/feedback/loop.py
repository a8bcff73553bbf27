"""The control loop of a front end with a choke: corner, compensation, margins from G(jω) with its delay (7.1)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, known, lowest, nearest_in
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.vocabulary import word

EM = "Erickson, Maksimović, Fundamentals of Power Electronics, ch. 9; front end with a choke as its averaged filter"

control_loop = Stage("control_loop", "Control loop", path=False, telling="{crossover}")

control_loop.choice(
    "compensation",
    {"integrator": Option("integrator", {"compensated": 1}), "unstated": Option("not stated", {"compensated": 0})},
    {"compensated": ("", r"\kappa", "1 where the compensation is known.")},
    default="integrator",
    sentence="What stands between the error amplifier's output and its input.",
)
control_loop.give("ramp_swing", 3.0, "V", r"V_\mathrm{ramp}", 0.2, 15, "Swing of the controller's sawtooth.", "Sawtooth's swing")
control_loop.give("integrator_resistor", 100e3, "Ω", "R_i", 100, 1e7, "Resistor of the integrator.", "Integrator resistor")
control_loop.give("sample_delay", 15e-6, "s", "T_d", 0, 0.01, "Delay of sampling, optocoupler and modulator.", "Delay of the loop")


@control_loop.build(
    unit="Hz",
    symbol=r"f_\mathrm{corner}",
    source=EM,
    title="Corner of choke and link",
    tex=r"\frac{1}{2\pi\sqrt{{choke_inductance}\,{link_capacitance}}}",
    example=({"choke_inductance": 1e-3, "link_capacitance": 470e-6}, 232.15),
)
def corner_frequency(choke_inductance, link_capacitance):
    """Resonance of the front end's choke, on the link side, with the link capacitor."""
    return 1 / (2 * np.pi * np.sqrt(choke_inductance * link_capacitance))


@control_loop.build(
    unit="Ω",
    symbol="Z_0",
    source=EM,
    title="Characteristic impedance",
    tex=r"\sqrt{\frac{choke_inductance}{link_capacitance}}",
    example=({"choke_inductance": 1e-3, "link_capacitance": 470e-6}, 1.45865),
)
def filter_impedance(choke_inductance, link_capacitance):
    """Characteristic impedance of choke and link."""
    return np.sqrt(choke_inductance / link_capacitance)


@control_loop.operation(
    unit="",
    symbol="Q",
    source=EM,
    title="Quality of the corner",
    tex=r"\frac{1}{\frac{{filter_impedance}\,{feed_power}}{{link_voltage}^2}+\frac{{choke_resistance}+{capacitor_series_resistance}/{capacitor_quantity}}{filter_impedance}}",
    example=(
        {"filter_impedance": 1.5, "feed_power": 900, "link_voltage": 380, "choke_resistance": 0.3, "capacitor_series_resistance": 0.2, "capacitor_quantity": 1},
        2.92198,
    ),
)
def loop_quality(filter_impedance, feed_power, link_voltage, choke_resistance, capacitor_series_resistance, capacitor_quantity):
    """Q of the corner: the load in parallel, the resistances of choke and capacitor in series; greatest at the lightest load."""
    return 1 / (filter_impedance * feed_power / link_voltage**2 + (choke_resistance + capacitor_series_resistance / capacitor_quantity) / filter_impedance)


@control_loop.build(
    unit="Hz",
    symbol=r"f_{x,\mathrm{may}}",
    source=EM,
    title="Crossover allowed",
    tex=r"\min\left(\frac{corner_frequency}{3.2\,\max({loop_quality})},\;\frac{corner_frequency}{4},\;\frac{output_frequency}{5}\right)",
    example=({"corner_frequency": 232, "loop_quality": 3, "output_frequency": 50}, 10),
)
def allowed_crossover(corner_frequency, loop_quality, output_frequency):
    """10 dB of gain margin at the resonance, phase margin where Q is low, and slow beside the output's half waves: else twice its frequency is regulated out of the battery."""
    return np.minimum(np.minimum(corner_frequency / (3.2 * highest(loop_quality)), corner_frequency / 4), output_frequency / 5)


@control_loop.build(
    unit="",
    symbol="K",
    source=EM,
    title="Gain of modulator and divider",
    tex=r"\frac{\max({secondary_amplitude})\,{feedback_reference}}{{link_setpoint}\,{ramp_swing}}",
    example=({"secondary_amplitude": 560, "feedback_reference": 2.5, "link_setpoint": 380, "ramp_swing": 3}, 1.22807),
)
def modulator_gain(secondary_amplitude, feedback_reference, link_setpoint, ramp_swing):
    """Gain from the error amplifier's output back to its input, at the highest source."""
    return highest(secondary_amplitude) * feedback_reference / (link_setpoint * ramp_swing)


@control_loop.build(
    unit="F",
    symbol="C_i",
    source=EM,
    title="Integrator capacitor",
    tex=r"\mathrm{E6}_\uparrow\left(\frac{modulator_gain}{2\pi\,{integrator_resistor}\,{allowed_crossover}}\right)",
    example=({"modulator_gain": 1.228, "integrator_resistor": 100e3, "allowed_crossover": 10}, 220e-9),
    decided=True,
)
def integrator_capacitor(modulator_gain, integrator_resistor, allowed_crossover):
    """Capacitor of the integrator, next higher preferred value: slower rather than faster."""
    return nearest_in("E6", "up")(modulator_gain / (2 * np.pi * integrator_resistor * allowed_crossover))


@control_loop.build(
    unit="Hz",
    symbol="f_x",
    source=EM,
    title="Crossover",
    tex=r"\frac{modulator_gain}{2\pi\,{integrator_resistor}\,{integrator_capacitor}}\quad({compensated}=1)",
    example=({"modulator_gain": 1.228, "integrator_resistor": 100e3, "integrator_capacitor": 220e-9, "compensated": 1}, 8.8838),
)
def crossover(modulator_gain, integrator_resistor, integrator_capacitor, compensated):
    """Frequency at which the integrator alone has a gain of one, at the highest source."""
    value = modulator_gain / (2 * np.pi * integrator_resistor * integrator_capacitor)
    return known(compensated > 0, value, "no compensation is stated, so the loop has no figures")


BISECTIONS = 40


def _phase_crossing(quality, delay):
    """ω/ω0 at which the phase is −180°: integrator, resonance, and `delay` = ω0·T_d; between nothing and one."""
    low, high = 0 * quality, np.minimum(1 + 0 * quality, np.pi / 2 / np.maximum(delay, 1e-9))
    for _ in range(BISECTIONS):
        u = (low + high) / 2
        before = (1 - u**2) * np.cos(u * delay) > u / quality * np.sin(u * delay)
        low, high = np.where(before, u, low), np.where(before, high, u)
    return high


def _gain_crossing(quality, share):
    """ω/ω0 at which the gain first is one, `share` being f_x/f_corner; between nothing and 1/√3, where it may lie for certain."""
    low, high = 0 * quality, 1 / np.sqrt(3) + 0 * quality
    for _ in range(BISECTIONS):
        u = (low + high) / 2
        before = u * np.sqrt((1 - u**2) ** 2 + (u / quality) ** 2) < share
        low, high = np.where(before, u, low), np.where(before, high, u)
    return high


@control_loop.operation(
    unit="",
    symbol=r"A_\mathrm{gm}",
    source=EM,
    title="Gain margin",
    tex=r"\operatorname{gain}({loop_quality},\,2\pi\,{corner_frequency}\,{sample_delay},\,{crossover}/{corner_frequency})",
    example=({"loop_quality": 10, "corner_frequency": 232, "sample_delay": 15e-6, "crossover": 7.25}, 3.19378),
)
def gain_margin(loop_quality, corner_frequency, sample_delay, crossover):
    """Factor by which the gain may rise until the loop oscillates: its inverse where the phase of G is −180°."""
    u = _phase_crossing(loop_quality, 2 * np.pi * corner_frequency * sample_delay)
    return u * np.sqrt((1 - u**2) ** 2 + (u / loop_quality) ** 2) * corner_frequency / crossover


@control_loop.operation(
    unit="",
    symbol=r"\varphi_\mathrm{pm}",
    source=EM,
    title="Phase margin, degrees",
    tex=r"\operatorname{phase}({loop_quality},\,2\pi\,{corner_frequency}\,{sample_delay},\,{crossover}/{corner_frequency})",
    example=({"loop_quality": 10, "corner_frequency": 232, "sample_delay": 15e-6, "crossover": 7.25}, 89.782),
)
def phase_margin(loop_quality, corner_frequency, sample_delay, crossover):
    """Phase of G above −180° where its gain is one, in degrees."""
    u = _gain_crossing(loop_quality, crossover / corner_frequency)
    lag = 2 * np.pi * corner_frequency * sample_delay * u + np.arctan2(u / loop_quality, 1 - u**2)
    return 90 - lag * 180 / np.pi


@control_loop.build(unit="", symbol=r"A_\mathrm{gm,min}", source=EM, title="Gain margin, least", tex=r"\min({gain_margin})")
def least_gain_margin(gain_margin):
    """Gain margin at the worst of the corners: the lightest load."""
    return lowest(gain_margin)


@control_loop.build(
    unit="",
    symbol=r"f_x/f_{x,\mathrm{may}}",
    source="beside the output's half waves",
    title="Crossover over the allowed",
    tex=r"\frac{5\,{crossover}}{output_frequency}",
    example=({"crossover": 9, "output_frequency": 50}, 0.9),
)
def crossover_share(crossover, output_frequency):
    """Crossover over a fifth of the output's frequency: above one the link's own ripple is regulated out of the battery."""
    return 5 * crossover / output_frequency


control_loop.give("gain_wanted", 2.0, "", "A_0", 1, 10, "Gain margin wanted: 2 is 6 dB [judgement].", "Gain margin wanted", judgement=True)
control_loop.give("phase_wanted", 45.0, "", r"\varphi_0", 10, 90, "Phase margin wanted, in degrees [judgement].", "Phase margin wanted", judgement=True)
control_loop.give("one", 1.0, "", "1", 1, 1, "One.", "One")

control_loop.check(
    "gain",
    title="Gain margin",
    demand="gain_wanted",
    capability="gain_margin",
    fail=0.707,  # 3 dB of the 6
    hold=1.0,
    harm="equipment",
    sentence="The loop's gain may rise {capability} times until it oscillates; {demand} is wanted.",
    why="A link that swings at its resonance reaches the capacitors' rating.",
    remedies=(Move("integrator_capacitor", "up", 10.0), Move("integrator_resistor", "up", 10.0)),
)
control_loop.check(
    "phase",
    title="Phase margin",
    demand="phase_wanted",
    capability="phase_margin",
    fail=0.667,  # 30° of the 45°
    hold=1.0,
    harm="equipment",
    sentence="At crossover {capability} degrees are left; {demand} are wanted.",
    why="With less the link rings after every step of the load.",
    remedies=(Move("integrator_capacitor", "up", 10.0), Move("sample_delay", "down", 10.0)),
)
control_loop.check(
    "beside_ripple",
    title="Loop slower than the ripple",
    demand="crossover_share",
    capability="one",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="The loop crosses over at {demand} times a fifth of the output's frequency.",
    why="A loop that follows the link's ripple draws it from the battery.",
    remedies=(Move("integrator_capacitor", "up", 10.0),),
)
word("choke_resistance", "Ω", r"R_{L}", "Resistance of the front end's choke.", 0.3)
word("capacitor_series_resistance", "Ω", r"\mathrm{ESR}", "Series resistance of one link capacitor.", 0.3)
word("capacitor_quantity", "", "n_C", "Link capacitors in parallel.", 1)
word("feedback_reference", "V", r"V_\mathrm{ref}", "Reference that the divider's tap is compared with.", 2.5)

__all__ = ["control_loop"]
