"""Precharge of the input bank, sequenced school, from DC (2.5)."""

import numpy as np

from rhombos.core.formulas.numeric import nearest_in, up
from rhombos.core.graph.declare import Move, Stage

RC = "charging of a capacitor through a resistor"
RLC = "step of a series R-L-C circuit"

RELAY = "Precharge relay (where the resistor stays: a service disconnect)"

precharge = Stage("precharge", "Precharge", path=False, telling="{precharge_resistor}")
precharge.hazard("energy", "pulse_energy")


precharge.give("current_limit", 5.0, "A", r"I_\mathrm{limit}", 0.01, 500, "Highest precharge current.")
precharge.give(
    "usual_closing_fraction", 0.95, "", "x_0", 0.5, 0.999, "Fraction of the source voltage at which the main contactor closes, unless it must be nearer."
)
precharge.give("abort_constants", 6.0, "", r"n_\tau", 2, 20, "Time-out in time constants (5 to 7).", "Time-out")
precharge.give("cable_inductance", 1.2e-6, "H", r"L_\mathrm{cable}", 1e-9, 1e-4, "Inductance of the whole battery loop.", "Loop inductance")
precharge.give("contactor_closing_current", 250.0, "A", r"I_\mathrm{close}", 0.1, 5e3, "Current that the main contactor may make.", "Contactor makes")
precharge.give("wanted_time", 2.0, "s", r"t_\mathrm{want}", 0.001, 120, "Longest precharge that a user waits for.", "Time wanted")


@precharge.build(
    unit="Ω",
    symbol="R",
    source=RC,
    title="Precharge resistor",
    safe="down",
    tex=r"\min\left(\mathrm{E12}_\uparrow\left(\frac{highest_source_voltage}{current_limit}\right),\;\mathrm{E12}_\downarrow\left(\frac{wanted_time}{-{bank_capacitance}\ln(1-{closing_fraction})}\right)\right)",
    example=({"highest_source_voltage": 29.2, "current_limit": 5, "wanted_time": 2, "bank_capacitance": 8e-3, "closing_fraction": 0.95}, 6.8),
)
def precharge_resistor(highest_source_voltage, current_limit, wanted_time, bank_capacitance, closing_fraction):
    """Resistor that limits the first current to what is usual; a lower one where nobody would wait so long."""
    usual = nearest_in("E12", "up")(highest_source_voltage / current_limit)
    quick = nearest_in("E12", "down")(wanted_time / (-bank_capacitance * np.log(1 - closing_fraction)))
    return np.minimum(usual, quick)


@precharge.build(unit="A", symbol=r"I_0", source=RC, title="First current", tex=r"\frac{highest_source_voltage}{precharge_resistor}")
def first_current(highest_source_voltage, precharge_resistor):
    """Current at the moment of closing the precharge relay."""
    return highest_source_voltage / precharge_resistor


@precharge.build(unit="s", symbol=r"\tau", source=RC, title="Time constant", tex=r"{precharge_resistor}\,{bank_capacitance}")
def time_constant(precharge_resistor, bank_capacitance):
    """Time constant of the precharge."""
    return precharge_resistor * bank_capacitance


@precharge.build(
    unit="s",
    symbol="t_x",
    source=RC,
    title="Time to the closing fraction",
    tex=r"-{time_constant}\ln(1-{closing_fraction})",
    example=({"time_constant": 1.0, "closing_fraction": 0.95}, 2.9957),
)
def precharge_time(time_constant, closing_fraction):
    """Time until the main contactor may close."""
    return -time_constant * np.log(1 - closing_fraction)


@precharge.build(
    unit="J",
    symbol=r"E_R",
    source=RC,
    title="Pulse energy",
    tex=r"\tfrac12{bank_capacitance}\,{highest_source_voltage}^2",
    example=({"bank_capacitance": 8e-3, "highest_source_voltage": 30}, 3.6),
)
def pulse_energy(bank_capacitance, highest_source_voltage):
    """Energy that the resistor takes in one precharge, whatever its value."""
    return bank_capacitance * highest_source_voltage**2 / 2


@precharge.build(
    unit="J",
    symbol=r"E_\mathrm{fault}",
    source=RC,
    title="Energy into a shorted bus",
    tex=r"\frac{{highest_source_voltage}^2}{precharge_resistor}\,{abort_constants}\,{time_constant}",
    example=({"highest_source_voltage": 30, "precharge_resistor": 6.8, "abort_constants": 6, "time_constant": 54.4e-3}, 43.2),
)
def fault_energy(highest_source_voltage, precharge_resistor, abort_constants, time_constant):
    """Energy into the resistor when the bus is shorted, until the time-out: the abort itself can fail."""
    return highest_source_voltage**2 / precharge_resistor * abort_constants * time_constant


@precharge.build(unit="V", symbol=r"\Delta V", source=RC, title="Step at closing", tex=r"(1-{closing_fraction})\,{highest_source_voltage}")
def closing_step(closing_fraction, highest_source_voltage):
    """Voltage left across the contactor when it closes."""
    return (1 - closing_fraction) * highest_source_voltage


@precharge.build(
    unit="Ω", symbol=r"R_\mathrm{loop}", source="series connection", title="Loop resistance", tex=r"{pack_resistance}+{line_resistance}+{bank_resistance}"
)
def loop_resistance(pack_resistance, line_resistance, bank_resistance):
    """Resistance of the loop that the step drives."""
    return pack_resistance + line_resistance + bank_resistance


@precharge.build(
    unit="A",
    symbol=r"\hat I_1",
    source=RLC,
    title="Inrush without precharge",
    tex=r"\begin{gathered}{highest_source_voltage}\sqrt{\frac{bank_capacitance}{cable_inductance}}\begin{cases}\exp\left(-\frac{\zeta}{\sqrt{1-\zeta^2}}\arctan\frac{\sqrt{1-\zeta^2}}{\zeta}\right)&\zeta<1\\\exp(-1)&\zeta=1\\\exp\left(-\frac{\zeta}{\sqrt{\zeta^2-1}}\operatorname{artanh}\frac{\sqrt{\zeta^2-1}}{\zeta}\right)&\zeta>1\end{cases}\\\zeta=\frac{loop_resistance}{2}\sqrt{\frac{bank_capacitance}{cable_inductance}}\end{gathered}",
    example=({"highest_source_voltage": 30, "bank_capacitance": 8e-3, "cable_inductance": 1.2e-6, "loop_resistance": 0.015}, 1208.8),
)
def whole_inrush(highest_source_voltage, bank_capacitance, cable_inductance, loop_resistance):
    """Peak current if the main contactor closed onto an empty bank (R-L-C: under, critically or over damped)."""
    damping = loop_resistance / (2 * cable_inductance)
    natural = 1 / np.sqrt(cable_inductance * bank_capacitance)
    ratio = damping / natural
    under = np.sqrt(np.maximum(1 - ratio**2, 0))
    over = np.sqrt(np.maximum(ratio**2 - 1, 0))
    safe_under, safe_over = np.where(under > 1e-6, under, 1.0), np.where(over > 1e-6, over, 1.0)
    swing = np.exp(-ratio / safe_under * np.arctan2(under, ratio))
    creep = np.exp(-ratio / safe_over * np.arctanh(np.where(over > 1e-6, over / np.where(ratio > 0, ratio, 1.0), 0.0)))
    shape = np.where(under > 1e-6, swing, np.where(over > 1e-6, creep, np.exp(-1.0)))
    return highest_source_voltage * np.sqrt(bank_capacitance / cable_inductance) * shape


NEAREST = 0.99
"""Nearer than this a divider with its tolerances does not see."""


@precharge.build(
    unit="",
    symbol="x",
    source="the step that is left makes no more than the contactor may, with a quarter in reserve",
    title="Closing fraction",
    safe="up",
    tex=r"\min\left(0.99,\;\max\left({usual_closing_fraction},\,\frac{\left\lceil100\left(1-\frac{contactor_closing_current}{1.26\,{whole_inrush}}\right)\right\rceil}{100}\right)\right)",
    example=({"usual_closing_fraction": 0.95, "contactor_closing_current": 250, "whole_inrush": 6000}, 0.97),
)
def closing_fraction(usual_closing_fraction, contactor_closing_current, whole_inrush):
    """Fraction of the source voltage at which the main contactor closes, in hundredths."""
    needed = up(100 * (1 - contactor_closing_current / (1.26 * whole_inrush))) / 100
    return np.minimum(NEAREST, np.maximum(usual_closing_fraction, needed))


@precharge.build(unit="A", symbol=r"\hat I", source=RLC, title="Inrush at closing", tex=r"(1-{closing_fraction})\,{whole_inrush}")
def closing_current(closing_fraction, whole_inrush):
    """Peak current when the main contactor closes onto the residual step: the circuit is linear, so its share of the whole."""
    return (1 - closing_fraction) * whole_inrush


@precharge.build(
    unit="J",
    symbol=r"2E_R",
    source="twice the pulse energy",
    title="Pulse energy with reserve",
    tex=r"\max(2\,{pulse_energy},\,{fault_energy})",
    example=({"pulse_energy": 4, "fault_energy": 43}, 43),
)
def energy_needed(pulse_energy, fault_energy):
    """Energy that the resistor must stand: twice a precharge, and a shorted bus until the time-out."""
    return np.maximum(2 * pulse_energy, fault_energy)


@precharge.build(
    unit="J",
    symbol=r"E_{R,\mathrm{rat}}",
    source="next preferred number",
    title="Resistor's pulse energy",
    tex=r"\mathrm{E6}_\uparrow\left(1.25\,{energy_needed}\right)",
    example=({"energy_needed": 43.0}, 68.0),
)
def resistor_pulse_energy(energy_needed):
    """Pulse energy that the resistor is bought for: a quarter more than it must stand, in the steps that are sold."""
    return nearest_in("E6", "up")(1.25 * energy_needed)


@precharge.build(unit="s", symbol=r"t_\mathrm{out}", source=RC, title="Time-out", tex=r"{abort_constants}\,{time_constant}")
def timeout(abort_constants, time_constant):
    """Time after which the precharge is given up."""
    return abort_constants * time_constant


@precharge.build(unit="s", symbol=r"\tau/2", source=RC, title="Early test", tex=r"\frac{time_constant}{2}", example=({"time_constant": 1.0}, 0.5))
def early_test_time(time_constant):
    """Half a time constant: 39 % of the source is expected there, else open resistor or shorted bus."""
    return time_constant / 2


precharge.rename(resistor_voltage="highest_source_voltage")


precharge.give("part_count", 3.0, "", "n", 1, 100, "Resistor, relay, contactor.", "Parts", whole=True)
precharge.give("cost", 14.0, "credit", "c", 0, 500, "Price of resistor, relay and contactor [judgement].", "Cost")


precharge.check(
    "energy",
    title="Resistor energy",
    demand="energy_needed",
    capability="resistor_pulse_energy",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The resistor must stand {demand}; it is rated {capability}.",
    why="Into a shorted bus it must last until the time-out, not only a precharge.",
    remedies=(Move("resistor_pulse_energy", "up", 10.0),),
)
precharge.check(
    "closing",
    title="Closing current",
    demand="closing_current",
    capability="contactor_closing_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Closing makes {demand}; the contactor makes {capability}.",
    why="Contacts weld, and then nothing disconnects the battery.",
    remedies=(Move("closing_fraction", "up", 1.05),),
)
precharge.check(
    "time",
    title="Precharge time",
    demand="longest_time",
    capability="wanted_time",
    fail=0.5,  # what is wanted is a wish: only twice as long is a failure
    hold=1.0,
    harm="none",
    sentence="Precharge takes {demand}; {capability} is wished for.",
    why="Nobody waits twice as long as they expect.",
    remedies=(Move("current_limit", "up", 10.0),),
)

precharge.order("Precharge resistor", "{precharge_resistor}", "pulse rated, {resistor_pulse_energy} in one pulse", price=("cost", 0.15))
precharge.order(RELAY, "makes {first_current}", "breaks {highest_source_voltage} DC", price=("cost", 0.2))
precharge.order("Main contactor", "makes {contactor_closing_current}", "breaks {highest_source_voltage} DC", price=("cost", 0.65))
