"""Precharge, third part: attempts of the resistor, the contactor's coil (2.5; 16, H7)."""

import numpy as np

from rhombos.core.formulas.numeric import like
from rhombos.core.graph.declare import Move
from rhombos.core.stages.source.precharge import precharge

COIL = "decay of the current in a coil against a voltage"

precharge.give("resistor_watts", 5.0, "W", r"P_{R,\mathrm{rat}}", 0.1, 1e3, "Power that the resistor stands for good.", "Resistor's power")
precharge.give("resistor_body", 250.0, "V", r"V_{R,\mathrm{rat}}", 10, 5e3, "Voltage that the resistor's body stands.", "Resistor's voltage")
precharge.give("coil_voltage", 24.0, "V", r"V_\mathrm{coil}", 3, 400, "Voltage of the main contactor's coil.", "Contactor coil")
precharge.give(
    "pull_in_power", 12.0, "W", r"P_\mathrm{pull}", 0.1, 200, "Power that the coil takes to pull in [judgement].", "Coil pulls in with", judgement=True
)
precharge.give("hold_share", 0.35, "", r"h", 0.05, 1, "Coil current that the economiser leaves, over that of pulling in.", "Holding current")
precharge.give(
    "release_share",
    0.12,
    "",
    r"h_\mathrm{rel}",
    0.01,
    0.9,
    "Coil current at which the contactor lets go, over that of pulling in [judgement].",
    "Lets go at",
    judgement=True,
)
precharge.give(
    "coil_time", 12e-3, "s", r"\tau_\mathrm{coil}", 1e-4, 1, "Inductance over resistance of the coil [judgement].", "Coil time constant", judgement=True
)
precharge.give("coil_clamp", 36.0, "V", r"V_z", 0.3, 400, "Voltage of the clamp across the coil; a bare diode has 0.7 V.", "Coil clamp")
precharge.give(
    "release_wanted", 15e-3, "s", r"t_\mathrm{rel}^*", 1e-3, 1, "Time within which the contactor is to let go [judgement].", "Lets go within", judgement=True
)


@precharge.build(
    unit="s",
    symbol=r"t_\mathrm{pause}",
    source="mean power of repeated attempts",
    title="Pause before the next attempt",
    tex=r"\max\left(\frac{pulse_energy}{resistor_watts}-{precharge_time},\,0\right)",
    example=({"pulse_energy": 60.0, "resistor_watts": 5.0, "precharge_time": 0.4}, 11.6),
)
def retry_pause(pulse_energy, resistor_watts, precharge_time):
    """Pause that keeps the resistor's mean power within its rating, however often it is tried."""
    return np.maximum(pulse_energy / resistor_watts - precharge_time, 0 * precharge_time)


@precharge.build(
    unit="W",
    symbol=r"P_\mathrm{hold}",
    source="coil as a resistor",
    title="Contactor holds with",
    tex=r"{pull_in_power}\,{hold_share}^2",
    example=({"pull_in_power": 12, "hold_share": 0.35}, 1.47),
)
def hold_power(pull_in_power, hold_share):
    """Power of the coil behind its economiser."""
    return pull_in_power * hold_share**2


@precharge.build(
    unit="s",
    symbol=r"t_\mathrm{rel}",
    source=COIL,
    title="Contactor lets go in",
    tex=r"{coil_time}\ln\frac{{coil_clamp}/{coil_voltage}+{hold_share}}{{coil_clamp}/{coil_voltage}+{release_share}}",
    example=({"coil_time": 12e-3, "coil_clamp": 36, "coil_voltage": 24, "hold_share": 0.35, "release_share": 0.12}, 1.5906e-3),
)
def release_time(coil_time, coil_clamp, coil_voltage, hold_share, release_share):
    """Time from switching the coil off until the contacts part, against the clamp's voltage."""
    return coil_time * np.log((coil_clamp / coil_voltage + hold_share) / (coil_clamp / coil_voltage + release_share))


@precharge.build(
    unit="s",
    symbol=r"t_{\mathrm{rel},D}",
    source=COIL,
    title="With a bare diode",
    tex=r"{coil_time}\ln\frac{0.7\,\mathrm{V}/{coil_voltage}+{hold_share}}{0.7\,\mathrm{V}/{coil_voltage}+{release_share}}",
    example=({"coil_time": 12e-3, "coil_voltage": 24, "hold_share": 0.35, "release_share": 0.12}, 11.2087e-3),
)
def diode_release_time(coil_time, coil_voltage, hold_share, release_share):
    """The same with only a diode across the coil: its current dies slowly, and so do the contacts part."""
    part = like(0.7, coil_voltage) / coil_voltage
    return coil_time * np.log((part + hold_share) / (part + release_share))


precharge.check(
    "body",
    title="Resistor's voltage",
    demand="highest_source_voltage",
    capability="resistor_body",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The resistor sees {demand} at the start; its body stands {capability}.",
    why="Above its voltage a resistor flashes over whatever its watts.",
    remedies=(Move("resistor_body", "up", 5.0),),
)
precharge.check(
    "release",
    title="Contactor lets go in time",
    demand="release_time",
    capability="release_wanted",
    fail=0.5,
    hold=1.0,
    harm="equipment",
    sentence="From switching off the coil the contacts part after {demand}; {capability} is wished for.",
    why="Slow contacts burn in the arc that they draw.",
    remedies=(Move("coil_clamp", "up", 30.0),),
)

precharge.trip("Precharge gives up: no rise", "early_test_time", after="below 20 % of the source", resets="start anew, after {retry_pause}", when="sequenced")
precharge.trip("Precharge gives up: time-out", "timeout", resets="start anew, after {retry_pause}", when="sequenced")
precharge.procedure(
    "First start of the bank",
    "The converter is off, the pack connected through its fuse, rings off. The bank reads less than a tenth of {highest_source_voltage}; if not, something feeds it: stop.",
    "Start. The precharge relay closes; {first_current} flow through the resistor at first.",
    "After {early_test_time} the bank has passed 39 % of the source. If it has not reached 20 %, it is given up: resistor or wire open, or the bank shorted.",
    "After {longest_time} at the latest the bank is full enough and the main contactor closes, with {closing_step} across it; the relay opens shortly after. After {timeout} without that it is given up.",
    "Wait {retry_pause} before another attempt: the resistor cools. Then stop, and see the bank fall: if it stays up, the contactor is welded.",
    when="sequenced",
)
precharge.procedure(
    "First start of the bank",
    "The converter is off. Through the resistor the bank fills as soon as the service disconnect is closed, with {first_current} at first, and stays at {bypassed_voltage} though the contactor is open: it is never dead before the disconnect is open again.",
    "After {longest_time} close the contactor; {closing_step} are left across it.",
    "To work on it: open the service disconnect, and measure until the bank is empty. A shorted bank heats the resistor with {standing_power} for as long as the pack lasts.",
    when="bypassed_voltage",
)
