"""Cut-off, third part: a trim pot, the other form of hysteresis, a second chemistry on a switch (2.4; 16, H5)."""

import numpy as np

from rhombos.core.formulas.numeric import like, nearest_in
from rhombos.core.graph.declare import Move
from rhombos.core.stages.names import with_names
from rhombos.core.stages.source.cutoff import DIVIDER, cutoff
from rhombos.core.stages.source.thresholds import threshold

OTHER = "divider on the inverting input, reference through R_r to the other, positive feedback there"

cutoff.give("cutoff_trim_share", 0.0, "", r"k_P", 0, 0.5, "Travel of a trim pot in the lower leg, of that leg; 0: no pot.", "Travel of the cut-off's pot")
cutoff.give("second_cutoff", 0.0, "V", r"V_b", 0, 1000, "Higher cut-off of a second chemistry, chosen by a switch; 0: none.", "Cut-off of a second chemistry")
cutoff.give("reference_series", 10e3, "Ω", "R_r", 100, 1e6, "Resistor between reference and comparator in the other form.", "Resistor of the reference")


@cutoff.build(
    unit="Ω",
    symbol="P",
    source=DIVIDER,
    title="Cut-off's pot",
    decided=True,
    tex=r"\begin{cases}\mathrm{E6}\!\left(\max({cutoff_trim_share}\,{lower_resistor},\,1\,\Omega)\right)&{cutoff_trim_share}>0\\0&\text{else}\end{cases}",
    example=({"cutoff_trim_share": 0.1, "lower_resistor": 10e3}, 1e3),
)
def cutoff_pot(cutoff_trim_share, lower_resistor):
    """Pot in series in the lower leg, its middle being the lower resistor wanted; zero where there is none."""
    pot = nearest_in("E6")(np.maximum(cutoff_trim_share * lower_resistor, like(1.0, lower_resistor)))
    return np.where(cutoff_trim_share > 0, pot, 0 * pot)


cutoff.give("pot_tempco", 100e-6, "1/K", r"\alpha_P", 0, 0.01, "Temperature coefficient of the pot.", "Pot's temperature coefficient")
cutoff.give(
    "pot_span", 50.0, "K", r"\Delta T_P", 0, 200, "How far from its setting's temperature the pot is used [judgement].", "Pot used within", judgement=True
)


@cutoff.build(
    unit="",
    symbol=r"\delta_P",
    source="temperature coefficient over a span, of the leg that it stands in",
    title="Drift of the pot",
    low=0.0,
    tex=r"{pot_tempco}\,{pot_span}\,\frac{cutoff_pot}{2\,{lower_resistor}}",
    example=({"pot_tempco": 100e-6, "pot_span": 50, "cutoff_pot": 1e3, "lower_resistor": 10e3}, 0.00025),
)
def pot_drift(pot_tempco, pot_span, cutoff_pot, lower_resistor):
    """What temperature makes of the pot's half that stands in the lower leg; none where there is no pot."""
    return pot_tempco * pot_span * cutoff_pot / (2 * lower_resistor)


def _declare_end(name: str, symbol: str, title: str, sign: int) -> None:
    def formula(reference_voltage, upper_resistor, lower_resistor, cutoff_pot, feedback_resistor, output_high):
        return threshold(reference_voltage, upper_resistor, lower_resistor + sign * cutoff_pot / 2, feedback_resistor, output_high)

    side = "+" if sign > 0 else "-"
    formula.__name__ = name
    formula.__doc__ = f"{title}: all of the pot {'in' if sign > 0 else 'out of'} the lower leg."
    tex = (
        rf"{{reference_voltage}}\left(1+\frac{{upper_resistor}}{{{{lower_resistor}}{side}\tfrac12{{cutoff_pot}}}}"
        r"+\frac{upper_resistor}{feedback_resistor}\right)-{output_high}\frac{upper_resistor}{feedback_resistor}"
    )
    numbers = {"reference_voltage": 2.5, "upper_resistor": 80e3, "lower_resistor": 10e3, "cutoff_pot": 1e3, "feedback_resistor": 200e3, "output_high": 5}
    cutoff.build(unit="V", symbol=symbol, source=DIVIDER, title=title, tex=tex, example=(numbers, {1: 20.5476, -1: 22.5526}[sign]))(formula)


_declare_end("lowest_setting", r"V_{P,\mathrm{lo}}", "Cut-off, pot at its lower end", 1)
_declare_end("highest_setting", r"V_{P,\mathrm{hi}}", "Cut-off, pot at its upper end", -1)


@cutoff.build(
    unit="V",
    symbol=r"V/\%",
    source=DIVIDER,
    title="Volts for each per cent of travel",
    tex=r"\frac{{highest_setting}-{lowest_setting}}{100}",
    example=({"highest_setting": 22.5, "lowest_setting": 20.5}, 0.02),
)
def volts_per_travel(highest_setting, lowest_setting):
    """How far one per cent of the pot's travel moves the cut-off."""
    return (highest_setting - lowest_setting) / 100


@cutoff.build(unit="V", symbol=r"V_{P,\mathrm{open}}", source=DIVIDER, title="Cut-off with the wiper open", tex=r"{lowest_setting}")
def open_wiper_setting(lowest_setting):
    """Cut-off with the wiper open and the spare leg tied to it: the lower end; with the spare leg free there would be hardly any cut-off."""
    return lowest_setting


cutoff.check(
    "pot_end_guards",
    title="Pot's end still protects the cells",
    demand="least_cutoff",
    capability="open_wiper_setting",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="With the pot at its lower end or its wiper open the cut-off acts at {capability}; below {demand} the cells are harmed.",
    why="A turned pot or a bad contact must not drain the cells to death.",
    remedies=(Move("cutoff_trim_share", "down", 10.0),),
)


@cutoff.build(
    unit="",
    symbol="g",
    source=OTHER,
    title="Other form: one over the divider",
    tex=r"\frac{{wanted_cutoff}+{needed_hysteresis}\frac{{reference_voltage}-{output_low}}{{output_high}-{output_low}}}{reference_voltage}",
    example=({"wanted_cutoff": 22.4, "needed_hysteresis": 2.0, "reference_voltage": 2.5, "output_low": 0.1, "output_high": 5}, 9.35184),
)
def other_ratio(wanted_cutoff, needed_hysteresis, reference_voltage, output_low, output_high):
    """1 + R_u/R_l of the other form, in which the output low means healthy: then the reference stands lower, and the cut-off with it."""
    return (wanted_cutoff + needed_hysteresis * (reference_voltage - output_low) / (output_high - output_low)) / reference_voltage


@cutoff.build(
    unit="Ω",
    symbol=r"R_{u,2}",
    source=OTHER,
    title="Other form: upper resistor",
    tex=r"\mathrm{E96}_\downarrow\left({lower_resistor}({other_ratio}-1)\right)",
    example=({"lower_resistor": 10e3, "other_ratio": 9.35184}, 82.5e3),
)
def other_upper(lower_resistor, other_ratio):
    """Upper resistor of the other form, next lower preferred value."""
    return nearest_in("E96", "down")(lower_resistor * (other_ratio - 1))


@cutoff.build(
    unit="Ω",
    symbol=r"R_{h,2}",
    source=OTHER,
    title="Other form: feedback resistor",
    tex=r"\mathrm{E24}_\downarrow\left({reference_series}\left(\frac{{other_ratio}({output_high}-{output_low})}{needed_hysteresis}-1\right)\right)",
    example=({"reference_series": 10e3, "other_ratio": 9.35184, "output_high": 5, "output_low": 0.1, "needed_hysteresis": 2.0}, 200e3),
)
def other_feedback(reference_series, other_ratio, output_high, output_low, needed_hysteresis):
    """Feedback resistor of the other form, next lower preferred value: more width."""
    return nearest_in("E24", "down")(reference_series * (other_ratio * (output_high - output_low) / needed_hysteresis - 1))


def _declare_other(name: str, symbol: str, title: str, output: str, gives: float) -> None:
    def formula(reference_voltage, other_feedback, level, reference_series, other_upper, lower_resistor):
        node = (reference_voltage * other_feedback + level * reference_series) / (reference_series + other_feedback)
        return node * (1 + other_upper / lower_resistor)

    formula.__name__ = name
    formula.__doc__ = f"{title}, by the parts of the other form."
    tex = (
        rf"\frac{{{{reference_voltage}}\,{{other_feedback}}+{{{output}}}\,{{reference_series}}}}{{{{reference_series}}+{{other_feedback}}}}"
        r"\left(1+\frac{other_upper}{lower_resistor}\right)"
    )
    numbers = {"reference_voltage": 2.5, "other_feedback": 200e3, output: 0.1 if output == "output_low" else 5.0}
    numbers |= {"reference_series": 10e3, "other_upper": 82.5e3, "lower_resistor": 10e3}
    names = ("reference_voltage", "other_feedback", output, "reference_series", "other_upper", "lower_resistor")
    cutoff.build(unit="V", symbol=symbol, source=OTHER, title=title, tex=tex, example=(numbers, gives))(with_names(formula, *names))


_declare_other("other_falling", r"V_\mathrm{fall,2}", "Other form: cut-off", "output_low", 22.0679)
_declare_other("other_rising", r"V_\mathrm{rise,2}", "Other form: restart", "output_high", 24.2262)


@cutoff.build(
    unit="Ω",
    symbol="R_x",
    source="the contact shorts a resistor in the upper leg: open, the threshold is the higher",
    title="Resistor for the second chemistry",
    tex=r"{lower_resistor}\,\frac{\max({second_cutoff}-{wanted_cutoff},\,0)}{reference_voltage}",
    example=({"lower_resistor": 10e3, "second_cutoff": 24, "wanted_cutoff": 22.4, "reference_voltage": 2.5}, 6.4e3),
)
def second_resistor(lower_resistor, second_cutoff, wanted_cutoff, reference_voltage):
    """Extra resistor in the upper leg that the switch shorts for the lower cut-off; a contact that fails leaves the higher one."""
    more = second_cutoff - wanted_cutoff
    return lower_resistor * np.maximum(more, 0 * more) / reference_voltage


cutoff.give(
    "cell_spread",
    0.05,
    "V",
    r"\Delta v",
    0,
    0.5,
    "How far the weakest cell stands below the mean when the pack is nearly empty [judgement].",
    "Spread of the cells",
    judgement=True,
)


@cutoff.build(
    unit="V",
    symbol=r"v_\mathrm{weak}",
    source="mean of the cells less their spread",
    title="Weakest cell at the pack's trip",
    tex=r"\frac{falling_threshold}{cells}-{cell_spread}",
)
def weakest_cell(falling_threshold, cells, cell_spread):
    """Voltage of the weakest cell when the pack's cut-off acts: the pack's threshold is only a second line."""
    return falling_threshold / cells - cell_spread


cutoff.check(
    "weakest",
    title="Weakest cell not harmed",
    demand="cell_deep",
    capability="weakest_cell",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="When the pack's cut-off acts its weakest cell has {capability}; below {demand} it is harmed.",
    why="Cells drift apart; a pack's voltage hides the one that is dying.",
    remedies=(Move("cell_spread", "down", 5.0, "world"), Move("upper_resistor", "up", 1.1)),
)
