"""Boost front end, second part: swing at twice the output frequency, ripple on both sides, the switch and its losses (4.1, 6.5)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, nearest_in
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages.front.boost import EM, boost
from rhombos.core.stages.front.front_end import ringing
from rhombos.core.stages.link.divider import carried_by_front
from rhombos.core.stages.magnetics.choke import declare_choke
from rhombos.core.stages.sizes import BY_DRAWN_SOURCE_CURRENT
from rhombos.core.stages.switches.stress import SWITCH_NEEDS
from rhombos.core.stages.switches.switch_heat import declare_junction, declare_position

__all__ = ["EM", "boost"]

AVERAGED = "averaged converter with its duty standing still: source side referred by (1 − D)²"


@boost.operation(
    unit="Ω",
    symbol=r"R_f",
    source=AVERAGED,
    title="Output resistance of the front end",
    tex=r"\frac{{choke_resistance}+{effective_duty}{position_resistance}+{source_resistance}}{(1-{effective_duty})^2}",
    example=({"choke_resistance": 0.1, "effective_duty": 0.5, "position_resistance": 0.1, "source_resistance": 0.05}, 0.8),
)
def front_resistance(choke_resistance, effective_duty, position_resistance, source_resistance):
    """Resistance that the link sees in the front end at twice the output frequency."""
    return (choke_resistance + effective_duty * position_resistance + source_resistance) / (1 - effective_duty) ** 2


@boost.operation(
    unit="H",
    symbol=r"L_f",
    source=AVERAGED,
    title="Inductance that the link sees",
    tex=r"\frac{choke_inductance}{(1-{effective_duty})^2}",
    example=({"choke_inductance": 1e-3, "effective_duty": 0.5}, 4e-3),
)
def front_inductance(choke_inductance, effective_duty):
    """Inductance that the link sees in the front end at twice the output frequency."""
    return choke_inductance / (1 - effective_duty) ** 2


@boost.operation(
    unit="A",
    symbol=r"\Delta I_\mathrm{want}",
    source="current divider of front end and link capacitor at twice the output frequency",
    title="Swing, undivided by rests",
    tex=r"\begin{gathered}\frac{bridge_apparent_power}{output_voltage}\cdot\frac{X_C}{\sqrt{{front_resistance}^2+(4\pi\,{output_frequency}\,{front_inductance}-X_C)^2}}\\X_C=\frac{1}{4\pi\,{output_frequency}\,{link_capacitance}}\end{gathered}",
    example=(
        {
            "bridge_apparent_power": 900,
            "output_voltage": 380,
            "front_resistance": 6.5,
            "output_frequency": 50,
            "front_inductance": 1.5e-3,
            "link_capacitance": 470e-6,
        },
        1.15494,
    ),
)
def unlimited_swing(bridge_apparent_power, output_voltage, front_resistance, output_frequency, front_inductance, link_capacitance):
    """Amplitude of the double-frequency current that the front end would give the link while its choke conducts without rest."""
    return carried_by_front(bridge_apparent_power, output_voltage, front_resistance, front_inductance, output_frequency, link_capacitance)


@boost.operation(
    unit="A",
    symbol=r"\Delta I_{2f}",
    source="the choke's current cannot turn round",
    title="Swing into the link at twice the output frequency",
    start=0.8,
    grows=BY_DRAWN_SOURCE_CURRENT,
    tex=r"\min\left({unlimited_swing},\,(1-{effective_duty})\max\left({choke_current}-\tfrac12{choke_ripple},\,0\right)\right)",
    example=({"unlimited_swing": 2.0, "effective_duty": 0.5, "choke_current": 3.0, "choke_ripple": 1.0}, 1.25),
)
def choke_swing(unlimited_swing, effective_duty, choke_current, choke_ripple):
    """Amplitude of the double-frequency current into the link: at most until the choke's current stops in its valleys."""
    valley = choke_current - choke_ripple / 2
    return np.minimum(unlimited_swing, (1 - effective_duty) * np.maximum(valley, 0 * valley))


@boost.operation(
    unit="A",
    symbol=r"I_{f,\sim}",
    source="mean square of the diode's current less its mean",
    title="Ripple into the link",
    tex=r"\sqrt{\max\left({diode_duty}\,{choke_mean_square}-{link_current}^2,\,0\right)}",
    example=({"diode_duty": 0.5, "choke_mean_square": 26.0, "link_current": 2.5}, 2.598076),
)
def feed_ripple_current(diode_duty, choke_mean_square, link_current):
    """Rms ripple of the diode's current at the switching frequency."""
    square = diode_duty * choke_mean_square - link_current**2
    return np.sqrt(np.maximum(square, 0 * square))


@boost.operation(
    unit="A",
    symbol=r"I_{in,\sim}",
    source="mean square of the choke's current less its mean",
    title="Ripple drawn",
    tex=r"\sqrt{\max\left(({effective_duty}+{diode_duty})\,{choke_mean_square}-{choke_current}^2,\,0\right)}",
    example=({"effective_duty": 0.5, "diode_duty": 0.5, "choke_mean_square": 25.083333, "choke_current": 5.0}, 0.288675),
)
def drawn_ripple_current(effective_duty, diode_duty, choke_mean_square, choke_current):
    """Rms ripple of the current drawn from the source at the switching frequency."""
    square = (effective_duty + diode_duty) * choke_mean_square - choke_current**2
    return np.sqrt(np.maximum(square, 0 * square))


@boost.operation(
    unit="C",
    symbol=r"\Delta Q_{in}",
    source="area of a triangle above its mean; with rests below the boundary",
    title="Charge drawn in a pulse",
    tex=r"\frac{1}{ripple_frequency}\begin{cases}\tfrac18{choke_ripple}&{choke_current}\ge\tfrac12{choke_ripple}\\{choke_current}\left(1-\frac{choke_current}{choke_ripple}\right)^2&\text{else}\end{cases}",
    example=({"choke_ripple": 1.0, "choke_current": 5.0, "ripple_frequency": 80e3}, 1.5625e-6),
)
def drawn_ripple_charge(choke_ripple, choke_current, ripple_frequency):
    """Charge that the bulk capacitors give in every period and take back: what of the choke's current lies above its mean."""
    safe = np.where(choke_ripple > 0, choke_ripple, np.nan)
    return np.where(choke_current >= choke_ripple / 2, choke_ripple / 8, choke_current * (1 - choke_current / safe) ** 2) / ripple_frequency


boost.rename(drawn_step="choke_ripple")


@boost.operation(
    unit="V",
    symbol=r"V_\mathrm{DS,pk}",
    source="the diode clamps to the link; the hard loop rings by L·I/t, at most by its own impedance",
    title="Switch voltage with spike",
    tex=r"{output_voltage}+{diode_forward_voltage}+\min\left(\frac{{bus_inductance}\,{peak_current}}{turn_off_time},\;{peak_current}\sqrt{\frac{bus_inductance}{{switch_quantity}\,{switch_output_capacitance}}}\right)",
    example=(
        {
            "output_voltage": 380,
            "diode_forward_voltage": 1.5,
            "bus_inductance": 20e-9,
            "peak_current": 8,
            "turn_off_time": 40e-9,
            "switch_quantity": 1,
            "switch_output_capacitance": 0.1e-9,
        },
        385.5,
    ),
)
def drain_peak_voltage(output_voltage, diode_forward_voltage, bus_inductance, peak_current, turn_off_time, switch_quantity, switch_output_capacitance):
    """Highest voltage of the switch: link and diode, and what the loop of switch, diode and link capacitor adds at turn-off."""
    return output_voltage + diode_forward_voltage + ringing(bus_inductance, peak_current, turn_off_time, switch_quantity * switch_output_capacitance)


@boost.build(unit="V", symbol=r"\hat V_\mathrm{DS}", tex=r"\max({drain_peak_voltage})", source="highest over the corners", title="Highest drain voltage")
def highest_drain_voltage(drain_peak_voltage):
    """Highest voltage of the switch over all corners."""
    return highest(drain_peak_voltage)


@boost.operation(
    unit="C",
    symbol=r"Q_{rr}(I)",
    source="[judgement] recovery charge by the root of the current recovered",
    title="Recovery charge at this current",
    tex=r"{diode_recovery_charge}\sqrt{\frac{\max({choke_current}-\tfrac12{choke_ripple},\,0)}{diode_rated_current}}",
    example=({"diode_recovery_charge": 100e-9, "choke_current": 2.5, "choke_ripple": 1.0, "diode_rated_current": 8}, 50e-9),
)
def recovered_charge(diode_recovery_charge, choke_current, choke_ripple, diode_rated_current):
    """Recovery charge of the diode at the choke's valley; below the boundary there is none."""
    valley = choke_current - choke_ripple / 2
    return diode_recovery_charge * np.sqrt(np.maximum(valley, 0 * valley) / diode_rated_current)


@boost.operation(
    unit="W",
    symbol=r"P_\mathrm{fix}",
    source="edges of a hard-switched position, recovery of its diode, energy of the output capacitance",
    title="Switching loss of one device",
    tex=r"\left[\tfrac12{output_voltage}\,\frac{\max({choke_current}-\frac12{choke_ripple},0)\,{turn_on_time}+({choke_current}+\frac12{choke_ripple})\,{turn_off_time}}{switch_quantity}+\frac{{recovered_charge}{output_voltage}}{switch_quantity}+\tfrac12{switch_output_capacitance}{output_voltage}^2\right]{ripple_frequency}",
    example=(
        {
            "output_voltage": 380,
            "choke_current": 5,
            "choke_ripple": 1,
            "turn_on_time": 30e-9,
            "turn_off_time": 40e-9,
            "switch_quantity": 1,
            "recovered_charge": 50e-9,
            "switch_output_capacitance": 100e-12,
            "ripple_frequency": 80e3,
        },
        7.4936,
    ),
)
def switching_loss(
    output_voltage, choke_current, choke_ripple, turn_on_time, turn_off_time, switch_quantity, recovered_charge, switch_output_capacitance, ripple_frequency
):
    """Turn-on at the valley with the diode's recovery, turn-off at the crest, and the output capacitance."""
    valley, crest = choke_current - choke_ripple / 2, choke_current + choke_ripple / 2
    edges = output_voltage * (np.maximum(valley, 0 * valley) * turn_on_time + crest * turn_off_time) / (2 * switch_quantity)
    return (edges + recovered_charge * output_voltage / switch_quantity + switch_output_capacitance * output_voltage**2 / 2) * ripple_frequency


@boost.operation(
    unit="W",
    symbol=r"P_{25}",
    source="Joule's law",
    title="Conduction loss of one device at 25 °C",
    tex=r"\left(\frac{switch_rms_current}{switch_quantity}\right)^2{switch_on_resistance}",
    example=({"switch_rms_current": 4, "switch_quantity": 2, "switch_on_resistance": 0.05}, 0.2),
)
def conduction_loss_25(switch_rms_current, switch_quantity, switch_on_resistance):
    """Conduction loss that one device would have at 25 °C."""
    return (switch_rms_current / switch_quantity) ** 2 * switch_on_resistance


declare_junction(boost)
declare_position(boost)
declare_choke(boost, "choke_", "choke_inductance", "choke_saturation_current", "choke_ripple", reference=20e-3, price=4.5, mass=0.12, core_loss=2.0)


@boost.build(
    unit="A",
    symbol=r"I_{L,\mathrm{sat}}",
    source="a quarter above the highest peak without losses, ordered in rounded amperes: a fifth, and what losses add",
    title="Choke holds its inductance to",
    safe="up",
    tex=r"\mathrm{E24}_\uparrow\left(1.25\max\left(\max\left({lossless_current}+\tfrac12{choke_ripple},{choke_ripple}\right)+\frac{choke_swing}{1-{lossless_duty}}\right)\right)",
    example=({"lossless_current": 4, "choke_ripple": 1, "choke_swing": 0.5, "lossless_duty": 0.5}, 7.5),
)
def choke_saturation_current(lossless_current, choke_ripple, choke_swing, lossless_duty):
    """Current up to which the choke is ordered not to saturate; its own losses do not lead its size around."""
    peak = np.maximum(lossless_current + choke_ripple / 2, choke_ripple) + choke_swing / (1 - lossless_duty)
    return nearest_in("E24", "up")(1.25 * highest(peak))


boost.pick(
    "switch",
    "mosfet",
    MOSFET,
    title="Switch",
    quantities=(1, 2, 3),
    pieces=1,
    source=EM,
    needs=SWITCH_NEEDS,
    sentence="Cheapest MOSFET and count whose voltage, current and own temperature hold at every corner.",
)
