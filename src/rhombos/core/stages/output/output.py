"""The output: what the brief asks for, and what it draws at every corner."""

import numpy as np

from rhombos.core.formulas.numeric import known
from rhombos.core.graph.declare import Move, Stage, every
from rhombos.core.stages.names import with_names
from rhombos.core.stages.sizes import DRAWN, OUTPUT_VOLTAGE, POWER
from rhombos.core.vocabulary import word

SOURCE = "IEEE 1459, vector sums of power"

output = Stage("output", "Output", telling="{rated_output_voltage} · {output_frequency}")
output.hazard("ac_voltage", "rated_output_voltage")
output.size(POWER, "rated_active_power", 800.0)
output.size(DRAWN, "input_power", 800.0)
output.size(OUTPUT_VOLTAGE, "rated_output_voltage", 230.0)
output.ask("output", "rated_output_voltage", "output_frequency", at_once=True)
output.ask("output", "output_voltage_tolerance", "thd_limit")
output.ask("surroundings", "ambient_temperature")
output.show_sum("Continuous, active", "rated_active_power")
output.show_sum("Continuous, apparent", "rated_apparent_power")
output.show_sum("Plain sum of VA (upper bound)", "arithmetic_apparent_power")
output.show_sum("Start with the highest VA", "surge_apparent_power")
output.show_sum("for", "surge_time", surge=1.0)
output.show_sum("Start with the most watts", "surge_active_power")
output.show_sum("for", "surge_time", surge=1.0, surge_by_watts=1.0)
output.view(
    "scope",
    power="input_power",
    reactive_power="input_reactive_power",
    distortion_power="brief_distortion_power",
    voltage="delivered_voltage",
    frequency="output_frequency",
    thd_limit="thd_limit",
)


output.give("rated_output_voltage", 230.0, "V", "V_o", 24, 400, "Rated rms output voltage.", "Output voltage")
output.give(
    "ambient_temperature",
    318.15,
    "K_abs",
    r"T_\mathrm{amb}",
    233.15,
    373.15,
    "Highest air temperature inside the enclosure, at heat sinks and windings: one for the whole.",
    "Ambient inside",
)
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


@output.build(unit="W", symbol="P_r", tex=r"{loads}", source=SOURCE, title="Load list, rectifiers")
def brief_rectifier_power(loads=every("load_rectifier_power")):
    """Active power of all loads with rectifier input."""
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
    """Apparent power during the start with the highest VA: one unit starts on top of all the others running."""
    return np.maximum(starts, rated_apparent_power)


@output.build(unit="W", symbol=r"P_\mathrm{surge}", tex=r"\max({starts},{rated_active_power})", source=SOURCE)
def surge_active_power(rated_active_power, starts=every("starting_active_power", how="highest")):
    """Active power during the start with the most watts: it may be another one than the start with the highest VA."""
    return np.maximum(starts, rated_active_power)


@output.operation(
    unit="W",
    symbol=r"P_s",
    source=SOURCE,
    title="Active power of the start",
    tex=r"\begin{cases}{deciding}&{deciding}>0\\{rated_active_power}&\text{else}\end{cases}",
)
def start_active_power(rated_active_power, deciding=every("deciding_active_power", how="highest")):
    """Active power during the start that the corner stands for; where no start exceeds full load, full load."""
    return np.where(deciding > 0 * deciding, deciding, rated_active_power)


def _declare_start(name: str, sort: str, unit: str, symbol: str, brief: str) -> None:
    """The same for reactive and distortion power: of the deciding start, or the brief's where none decides."""

    def formula(rated, active, deciding):
        return np.where(active > 0 * active, deciding, rated)

    formula.__name__ = name
    formula.__doc__ = f"{sort} power during the start that the corner stands for; where no start exceeds full load, the brief's."
    wired = with_names(formula, brief, active=every("deciding_active_power", how="highest"), deciding=every(f"deciding_{sort.lower()}_power", how="highest"))
    tex = rf"\begin{{cases}}{{deciding}}&{{active}}>0\\{{{brief}}}&\text{{else}}\end{{cases}}"
    output.operation(unit=unit, symbol=symbol, source=SOURCE, title=f"{sort} power of the start", tex=tex)(wired)


_declare_start("start_reactive_power", "Reactive", "VA", "Q_s", "brief_reactive_power")
_declare_start("start_distortion_power", "Distortion", "VA", "D_s", "brief_distortion_power")


@output.operation(unit="s", symbol=r"t_\mathrm{surge}", tex=r"{surge}\,{deciding}", source=SOURCE, title="Surge time")
def surge_time(surge, deciding=every("deciding_start_time", how="highest")):
    """How long the start lasts that the corner stands for."""
    return surge * deciding


@output.operation(
    unit="s",
    symbol=r"t_\mathrm{heat}",
    source="a thermal step response is concave, so the greatest power for the seconds of the worst power times time is the safe side",
    title="Seconds of heat",
    tex=r"\begin{gathered}{surge}\begin{cases}{heat}/\Delta&\Delta>0\\0&\text{else}\end{cases}\\\Delta={surge_by_watts}({surge_active_power}-{rated_active_power})+(1-{surge_by_watts})({surge_apparent_power}-{rated_apparent_power})\end{gathered}",
    example=(
        {
            "surge": 1,
            "surge_by_watts": 1,
            "surge_active_power": 1200,
            "rated_active_power": 800,
            "surge_apparent_power": 1900,
            "rated_apparent_power": 900,
            "heat": 600,
        },
        1.5,
    ),
)
def heating_time(
    surge, surge_by_watts, surge_active_power, rated_active_power, surge_apparent_power, rated_apparent_power, heat=every("start_heat", how="highest")
):
    """How long the corner's start heats: the worst power times time of all starts, over the corner's own added power.

    A weaker start that lasts longer may heat more; counted at the greatest power it is never underestimated.
    """
    added = np.where(surge_by_watts > 0, surge_active_power - rated_active_power, surge_apparent_power - rated_apparent_power)
    return surge * np.where(
        added > 1e-9 * rated_active_power, np.maximum(heat, 0 * heat) / np.where(added > 0 * added, added, rated_active_power), 0 * heat / rated_active_power
    )


@output.operation(
    unit="W", symbol="P_o", tex=r"{surge}\,{start_active_power}+(1-{surge})\,{load_fraction}\,{rated_active_power}", source=SOURCE, title="Active power drawn"
)
def input_power(surge, load_fraction, rated_active_power, start_active_power):
    """Active power that the loads draw at the corner."""
    return surge * start_active_power + (1 - surge) * load_fraction * rated_active_power


@output.operation(
    unit="VA",
    symbol="Q_o",
    tex=r"{surge}\,{start_reactive_power}+(1-{surge})\,{load_fraction}\,{brief_reactive_power}",
    source=SOURCE,
    title="Reactive power drawn",
)
def input_reactive_power(surge, load_fraction, brief_reactive_power, start_reactive_power):
    """Displacement reactive power (lagging) that the loads draw at the corner."""
    return surge * start_reactive_power + (1 - surge) * load_fraction * brief_reactive_power


@output.operation(
    unit="VA",
    symbol="D_o",
    tex=r"{surge}\,{start_distortion_power}+(1-{surge})\,{load_fraction}\,{brief_distortion_power}",
    source=SOURCE,
    title="Distortion power drawn",
)
def input_distortion_power(surge, load_fraction, brief_distortion_power, start_distortion_power):
    """Distortion power that the loads draw at the corner; it sizes currents and leaves the phase alone."""
    return surge * start_distortion_power + (1 - surge) * load_fraction * brief_distortion_power


@output.operation(
    unit="VA",
    symbol="S_o",
    tex=r"\sqrt{{input_power}^2+{input_reactive_power}^2+{input_distortion_power}^2}",
    source=SOURCE,
    title="Apparent power drawn",
    example=({"input_power": 800, "input_reactive_power": 480, "input_distortion_power": 360}, 1000),
)
def input_apparent_power(input_power, input_reactive_power, input_distortion_power):
    """Apparent power that the loads draw at the corner, the vector sum."""
    return np.sqrt(input_power**2 + input_reactive_power**2 + input_distortion_power**2)


@output.operation(
    unit="V",
    symbol=r"V_{o,w}",
    source="at surge the low output tolerance is allowed",
    title="Output voltage delivered",
    tex=r"{rated_output_voltage}\,(1-{surge}\,{output_voltage_tolerance})",
)
def delivered_voltage(rated_output_voltage, surge, output_voltage_tolerance):
    """Rms output voltage: rated, during a start the low end of its tolerance. Loads keep the brief's P, Q and D there."""
    return rated_output_voltage * (1 - surge * output_voltage_tolerance)


@output.operation(unit="A", symbol="I_o", tex=r"\frac{input_apparent_power}{delivered_voltage}", source=SOURCE, title="Output current, rms")
def input_current(input_apparent_power, delivered_voltage):
    """Rms output current."""
    return input_apparent_power / delivered_voltage


@output.operation(
    unit="A",
    symbol=r"\hat I_o",
    tex=r"\left({load_fraction}\,{running}+{surge}\max({start},0)\right)\frac{rated_output_voltage}{delivered_voltage}",
    source="[judgement] crests added: an upper bound",
    title="Output current, crest",
)
def input_crest_current(
    load_fraction, surge, rated_output_voltage, delivered_voltage, running=every("load_crest_current"), start=every("start_crest_current", how="highest")
):
    """Crest of the output current: the loads' crests added, at surge with the worst start on top (an upper bound)."""
    return (load_fraction * running + surge * np.maximum(start, 0 * start)) * (rated_output_voltage / delivered_voltage)


@output.operation(unit="W", symbol=r"P_\mathrm{loss}", tex=r"0\cdot{input_power}", source="no loss at the terminals themselves", title="Loss")
def loss(input_power):
    """Loss at the output terminals: none."""
    return 0 * input_power


@output.build(unit="VA", symbol=r"S_\mathrm{sum}", tex=r"{loads}", source=SOURCE, title="Arithmetic sum of VA")
def arithmetic_apparent_power(loads=every("load_apparent_power")):
    """The plain sum of the rows' VA, an upper bound of the vector sum."""
    return loads


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
    capability="surge_time_limit",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The worst start lasts {demand}; the heat model is trusted to {capability}.",
    why="A longer overload heats the sink as a lasting load does and must be rated as one.",
    remedies=(Move("surge_time_limit", "up"),),
)

word("output_frequency", "Hz", "f_o", "Output frequency.", 50)
word("output_voltage_tolerance", "", r"\delta_V", "How far the output may stand from its rating.", 0.05)
word("surge_time", "s", r"t_\mathrm{surge}", "How long the start lasts that the corner stands for.", 1.5)
word("heating_time", "s", r"t_\mathrm{heat}", "How long the start heats that the corner stands for.", 1.5)
word("delivered_voltage", "V", r"V_{o,w}", "Rms output voltage that is delivered.", 230)
word("ambient_temperature", "K_abs", r"T_\mathrm{amb}", "Highest air temperature inside the enclosure.", 318.15)
word("thd_limit", "", r"\mathrm{THD}_\mathrm{lim}", "Highest total harmonic distortion allowed.", 0.03)
word("rated_active_power", "W", r"P_\mathrm{rated}", "Rated active power.", 800)
word("rated_apparent_power", "VA", r"S_\mathrm{rated}", "Rated apparent power.", 900)
word("output_power", "W", "P", "Power delivered to the stage behind.", 800, "sum")
word("output_reactive_power", "VA", "Q", "Displacement reactive power delivered to the stage behind.", 200, "sum")
word("output_distortion_power", "VA", "D", "Distortion power delivered to the stage behind.", 100, "sum")
word("output_apparent_power", "VA", "S", "Apparent power delivered to the stage behind.", 900, "vector")
word("output_current", "A", "I", "Current delivered to the stage behind.", 4, "sum")
word("output_crest_current", "A", r"\hat I", "Crest of the current delivered to the stage behind.", 8, "sum")
word("input_voltage", "V", "V", "Voltage from the stage before.", 24)
word("input_power", "W", r"P_\mathrm{in}", "Power drawn from the stage before.", 850)
