"""The output: what the brief asks for, and what it draws at every corner."""

import numpy as np

from rhombos.core.graph.declare import Move, Stage, every
from rhombos.core.graph.numeric import known
from rhombos.core.vocabulary import word

SOURCE = "IEEE 1459, vector sums of power"

output = Stage("output", "Output", telling="{rated_output_voltage} · {output_frequency}", caution="output")


output.give("rated_output_voltage", 230.0, "V", "V_o", 24, 400, "Rated rms output voltage.", "Output voltage")
output.give("output_frequency", 50.0, "Hz", "f_o", 16, 400, "Output frequency.")
output.give("output_voltage_tolerance", 0.05, "", r"\delta_V", 0, 0.2, "How far the output may stand from its rating, as a fraction.")
output.give(
    "thd_limit", 0.03, "", r"\mathrm{THD}_\mathrm{lim}", 0.001, 1, "Highest total harmonic distortion that the brief allows (to the 40th).", "THD limit"
)


@output.build(unit="W", symbol="P", tex=r"{loads}", source=SOURCE, title="Load list, active power")
def brief_active_power(loads=every("load_active_power")):
    """Active power of the whole load list."""
    return loads


@output.build(unit="VA", symbol="Q", tex=r"{loads}", source=SOURCE, title="Load list, reactive power")
def brief_reactive_power(loads=every("load_reactive_power")):
    """Displacement reactive power of the whole load list."""
    return loads


@output.build(unit="VA", symbol="D_{VA}", tex=r"{loads}", source=SOURCE, title="Load list, distortion power")
def brief_distortion_power(loads=every("load_distortion_power")):
    """Distortion power of the whole load list, carried apart from displacement."""
    return loads


@output.build(unit="W", symbol=r"P_\mathrm{rated}", tex=r"{brief_active_power}", source=SOURCE)
def rated_active_power(brief_active_power):
    """Rated active power: what "full load" means. From the load list; pin it to demand more."""
    return known(brief_active_power > 0 * brief_active_power, brief_active_power, "nothing draws power: give a load its watts and its number")


@output.build(
    unit="VA",
    symbol=r"S_\mathrm{rated}",
    tex=r"\sqrt{{rated_active_power}^2+{brief_reactive_power}^2+{brief_distortion_power}^2}",
    source=SOURCE,
    example=({"rated_active_power": 800, "brief_reactive_power": 300, "brief_distortion_power": 200}, 877.496),
)
def rated_apparent_power(rated_active_power, brief_reactive_power, brief_distortion_power):
    """Rated apparent power, the vector sum; it sizes currents."""
    return np.sqrt(rated_active_power**2 + brief_reactive_power**2 + brief_distortion_power**2)


@output.build(unit="VA", symbol=r"S_\mathrm{surge}", tex=r"\max({starts},{rated_apparent_power})", source=SOURCE)
def surge_apparent_power(rated_apparent_power, starts=every("starting_apparent_power", how="highest")):
    """Apparent power during the worst start: one unit starts on top of all the others running."""
    return np.maximum(starts, rated_apparent_power)


@output.build(unit="W", symbol=r"P_\mathrm{surge}", tex=r"\max({deciding},{rated_active_power})", source=SOURCE)
def surge_active_power(rated_active_power, deciding=every("deciding_active_power", how="highest")):
    """Active power during the worst start; the source delivers this part."""
    return np.maximum(deciding, rated_active_power)


@output.build(unit="s", symbol=r"t_\mathrm{surge}", tex=r"{deciding}", source=SOURCE)
def surge_time(deciding=every("deciding_start_time", how="highest")):
    """How long the worst start lasts."""
    return deciding


@output.operation(
    unit="W", symbol="P_o", tex=r"{surge}\,{surge_active_power}+(1-{surge})\,{load_fraction}\,{rated_active_power}", source=SOURCE, title="Active power drawn"
)
def input_power(surge, load_fraction, rated_active_power, surge_active_power):
    """Active power that the loads draw at the corner."""
    return surge * surge_active_power + (1 - surge) * load_fraction * rated_active_power


@output.operation(
    unit="VA",
    symbol="S_o",
    tex=r"{surge}\,{surge_apparent_power}+(1-{surge})\,{load_fraction}\,{rated_apparent_power}",
    source=SOURCE,
    title="Apparent power drawn",
)
def input_apparent_power(surge, load_fraction, rated_apparent_power, surge_apparent_power):
    """Apparent power that the loads draw at the corner."""
    return surge * surge_apparent_power + (1 - surge) * load_fraction * rated_apparent_power


@output.operation(unit="VA", symbol="D_o", tex=r"{load_fraction}\,{brief_distortion_power}", source=SOURCE, title="Distortion power drawn")
def input_distortion_power(load_fraction, brief_distortion_power):
    """Distortion power that the loads draw at the corner (at surge: as at full load)."""
    return load_fraction * brief_distortion_power


@output.operation(
    unit="VA",
    symbol="Q_o",
    tex=r"\sqrt{{input_apparent_power}^2-{input_power}^2-{input_distortion_power}^2}",
    source=SOURCE,
    title="Reactive power drawn",
    example=({"input_apparent_power": 1000, "input_power": 800, "input_distortion_power": 360}, 480),
)
def input_reactive_power(input_apparent_power, input_power, input_distortion_power):
    """Displacement reactive power (lagging) that the loads draw at the corner."""
    square = input_apparent_power**2 - input_power**2 - input_distortion_power**2
    return np.sqrt(np.maximum(square, 0 * square))


@output.operation(unit="A", symbol="I_o", tex=r"\frac{input_apparent_power}{rated_output_voltage}", source=SOURCE, title="Output current, rms")
def input_current(input_apparent_power, rated_output_voltage):
    """Rms output current."""
    return input_apparent_power / rated_output_voltage


@output.operation(
    unit="A",
    symbol=r"\hat I_o",
    tex=r"{load_fraction}\,{running}+{surge}\,{start}",
    source="[judgement] crests added: an upper bound",
    title="Output current, crest",
)
def input_crest_current(load_fraction, surge, running=every("load_crest_current"), start=every("start_crest_current", how="highest")):
    """Crest of the output current: the loads' crests added, at surge with the worst start on top (an upper bound)."""
    return load_fraction * running + surge * np.maximum(start, 0 * start)


@output.operation(unit="W", symbol=r"P_\mathrm{loss}", tex=r"0\cdot{input_power}", source="no loss at the terminals themselves", title="Loss")
def loss(input_power):
    """Loss at the output terminals: none."""
    return 0 * input_power


@output.build(unit="VA", symbol=r"S_\mathrm{sum}", tex=r"{loads}", source=SOURCE, title="Arithmetic sum of VA")
def arithmetic_apparent_power(loads=every("load_apparent_power")):
    """The plain sum of the rows' VA, an upper bound of the vector sum."""
    return loads


@output.build(unit="s", symbol=r"t_\mathrm{allow}", tex=r"{surge_time_limit}", source="[judgement] the simple surge model holds for a few seconds")
def allowed_surge_time(surge_time_limit):
    """The longest surge that the simple thermal model speaks for."""
    return surge_time_limit


output.give(
    "surge_time_limit",
    5.0,
    "s",
    r"t_\mathrm{lim}",
    0.01,
    60,
    "The longest start that the heat model of the switches may be trusted with [judgement].",
    judgement=True,
)


output.check(
    "surge_duration",
    title="Surge short enough",
    demand="surge_time",
    capability="allowed_surge_time",
    harm="equipment",
    sentence="The worst start lasts {demand}; the heat model is trusted to {capability}.",
    why="A longer overload heats the sink as a lasting load does and must be rated as one.",
    remedies=(Move("surge_time_limit", "up"),),
)

word("output_frequency", "Hz", "f_o", "Output frequency.", 50)
word("output_voltage_tolerance", "", r"\delta_V", "How far the output may stand from its rating.", 0.05)
word("surge_time", "s", r"t_\mathrm{surge}", "How long the worst start lasts.", 1.5)
word("rated_active_power", "W", r"P_\mathrm{rated}", "Rated active power.", 800)
word("rated_apparent_power", "VA", r"S_\mathrm{rated}", "Rated apparent power.", 900)
word("output_power", "W", "P", "Power delivered to the stage behind.", 800)
word("output_reactive_power", "VA", "Q", "Displacement reactive power delivered to the stage behind.", 200)
word("output_distortion_power", "VA", "D", "Distortion power delivered to the stage behind.", 100)
word("output_apparent_power", "VA", "S", "Apparent power delivered to the stage behind.", 900)
word("output_current", "A", "I", "Current delivered to the stage behind.", 4)
word("output_crest_current", "A", r"\hat I", "Crest of the current delivered to the stage behind.", 8)
word("input_voltage", "V", "V", "Voltage from the stage before.", 24)
word("input_power", "W", r"P_\mathrm{in}", "Power drawn from the stage before.", 850)
