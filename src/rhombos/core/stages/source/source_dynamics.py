"""Input, fourth part: damping of the source line, hot-plugging (2.6)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, lowest
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.source.source_input import source_input
from rhombos.core.vocabulary import word

EM = "Erickson, Maksimović, Fundamentals of Power Electronics, ch. on input filters: a constant-power load is −V²/P"
PLUGGED = "step onto an L-C with its resistance: overshoot e^(−πα/ω_d), twice the source undamped"

source_input.choice(
    "connection",
    {"precharged": Option("by precharge and contactor", {"hot_plugged": 0}), "plugged": Option("plugged in live", {"hot_plugged": 1})},
    {"hot_plugged": ("", r"\sigma_p", "1 where the battery is plugged in live, onto empty capacitors.")},
    default="precharged",
    sentence="How the battery comes to the bulk capacitors.",
)


@source_input.build(
    unit="Ω",
    symbol=r"|R_\mathrm{in}|/3",
    source=EM,
    title="Output impedance allowed",
    tex=r"\frac{\min({input_voltage})^2}{3\max({output_power})}",
    example=({"input_voltage": 22, "output_power": 1000}, 0.161333),
)
def allowed_impedance(input_voltage, output_power):
    """A third of the converter's own (negative) input resistance, at the lowest voltage and the highest power."""
    return lowest(input_voltage) ** 2 / (3 * highest(output_power))


@source_input.build(
    unit="Ω",
    symbol=r"Z_0",
    source=EM,
    title="Cable with the bulk capacitors",
    tex=r"\sqrt{\frac{cable_inductance}{bank_capacitance}}",
    example=({"cable_inductance": 1e-6, "bank_capacitance": 10e-3}, 0.01),
)
def line_impedance(cable_inductance, bank_capacitance):
    """Characteristic impedance of the cable's inductance with the bulk bank."""
    return np.sqrt(cable_inductance / bank_capacitance)


@source_input.build(
    unit="Ω",
    symbol=r"|Z_\mathrm{out}|",
    source=EM,
    title="Output impedance of the line at its resonance",
    tex=r"\frac{\sqrt{\left({line_resistance}^2+{line_impedance}^2\right)\left({bank_resistance}^2+{line_impedance}^2\right)}}{{line_resistance}+{bank_resistance}}",
    example=({"line_resistance": 3e-3, "line_impedance": 10e-3, "bank_resistance": 2e-3}, 21.2941e-3),
)
def line_output_impedance(line_resistance, line_impedance, bank_resistance):
    """(R + jZ_0) parallel to (ESR − jZ_0): what the converter sees at the resonance of cable and bank."""
    series, shunt = line_resistance**2 + line_impedance**2, bank_resistance**2 + line_impedance**2
    return np.sqrt(series * shunt) / (line_resistance + bank_resistance)


@source_input.build(
    unit="",
    symbol=r"\zeta",
    source=PLUGGED,
    title="Damping of cable and bank",
    tex=r"\frac{{line_resistance}+{bank_resistance}}{2\,{line_impedance}}",
    example=({"line_resistance": 3e-3, "bank_resistance": 2e-3, "line_impedance": 10e-3}, 0.25),
)
def line_damping(line_resistance, bank_resistance, line_impedance):
    """Damping of the line's resonance by its own resistances."""
    return (line_resistance + bank_resistance) / (2 * line_impedance)


@source_input.build(
    unit="V",
    symbol=r"\hat V_\mathrm{plug}",
    source=PLUGGED,
    title="Peak when plugged in live",
    tex=r"{highest_source_voltage}\begin{cases}1+\exp\left(-\frac{\pi\,{line_damping}}{\sqrt{\max(1-{line_damping}^2,\,0.000001)}}\right)&{line_damping}<1\\1&\text{else}\end{cases}",
    example=({"highest_source_voltage": 29.2, "line_damping": 0.25}, 42.1806),
)
def plugged_peak(highest_source_voltage, line_damping):
    """Peak of the bulk capacitors when the battery is connected live onto them empty."""
    left = np.sqrt(np.maximum(1 - line_damping**2, 1e-6))
    return highest_source_voltage * (1 + np.where(line_damping < 1, np.exp(-np.pi * line_damping / left), 0.0))


@source_input.build(unit="V", symbol=r"V_\mathrm{plug}", source=PLUGGED, title="Asked of the capacitors when plugged in", tex=r"{hot_plugged}\,{plugged_peak}")
def asked_plugged(hot_plugged, plugged_peak):
    """What the bulk capacitors must stand at the moment of plugging; nothing where a precharge fills them."""
    return hot_plugged * plugged_peak


source_input.check(
    "line_damped",
    title="Source line damped",
    demand="line_output_impedance",
    capability="allowed_impedance",
    fail=0.333,  # at the converter's own resistance it oscillates
    hold=1.0,
    harm="equipment",
    sentence="At the resonance of cable and bulk capacitors the converter sees {demand}; a third of its own negative resistance is {capability}.",
    why="A converter draws more current as its voltage falls: on an undamped line it oscillates by itself.",
    remedies=(Move("bulk_quantity", "up", 4.0), Move("cable_length", "down", 4.0)),
)
source_input.check(
    "hot_plug",
    title="Plugging in live",
    demand="asked_plugged",
    capability="bulk_rated_voltage",
    fail=1.0,
    hold=1.15,
    harm="equipment",
    sentence="Plugged in live the capacitors swing to {demand}; they are rated {capability}.",
    why="Cable and capacitors ring to nearly twice the battery, and the plug arcs.",
    remedies=(Move("bulk_quantity", "up", 4.0),),
    no_demand="A precharge fills the capacitors first.",
)

word("cable_inductance", "H", "L", "Inductance of the battery cable, both ways.", 1e-6)
