"""One row of the load list: what it draws in steady state and while it starts."""

import numpy as np

from rhombos.core.graph.declare import Option, Stage
from rhombos.core.stages.names import with_names
from rhombos.core.vocabulary import word

SOURCE = "IEEE 1459, vector sums of power"
JUDGED = "[judgement] usual values by type of load"

NEARLY = 1 - 1e-9
"""A start that equals the worst within rounding is the worst."""

load = Stage("load", "Load", path=False, telling="{load_active_power}")


def _row(title: str, pf: float, start: float, start_pf: float, seconds: float, crest: float, rectifier: float) -> Option:
    return Option(
        title,
        {
            "usual_power_factor": pf,
            "usual_start_factor": start,
            "usual_start_power_factor": start_pf,
            "usual_start_time": seconds,
            "crest_factor": crest,
            "rectifier_input": rectifier,
        },
    )


ROOT2 = float(np.sqrt(2))
load.choice(
    "type",
    {
        "heater": _row("resistive heater", 1.0, 1.0, 1.0, 0.0, ROOT2, 0),
        "filament_lamp": _row("filament lamp", 1.0, 10.0, 1.0, 0.1, ROOT2, 0),
        "rectifier": _row("electronics with rectifier input", 0.55, 10.0, 0.55, 0.005, 3.5, 1),
        "active_pfc": _row("electronics with active power-factor input", 0.98, 1.0, 0.98, 0.0, ROOT2, 0),
        "induction_motor": _row("induction motor or compressor", 0.7, 6.0, 0.4, 1.5, ROOT2, 0),
        "universal_motor": _row("universal motor", 0.9, 3.0, 0.7, 0.5, ROOT2, 0),
        "transformer_input": _row("appliance with input transformer", 0.8, 10.0, 0.2, 0.01, ROOT2, 0),
    },
    {
        "usual_power_factor": ("", r"\mathrm{PF}_u", "Power factor that this type of load usually has."),
        "usual_start_factor": ("", r"k_u", "Starting current over running current, as usual for the type."),
        "usual_start_power_factor": ("", r"\mathrm{PF}_{s,u}", "Power factor while starting, as usual for the type."),
        "usual_start_time": ("s", r"t_u", "How long the start lasts, as usual for the type."),
        "crest_factor": ("", r"\mathrm{CF}", "Peak over rms of the load's current."),
        "rectifier_input": ("", r"r", "1 where the load's reactive part is distortion, not displacement."),
    },
    default="heater",
    sentence="What kind of load the row is; it sets the usual factors.",
    title="Type",
)


load.view("load", power="load_active_power", reactive_power="load_reactive_power", distortion_power="load_distortion_power")
load.give("rated_power", 100.0, "W", "P_1", 0, 20000.0, "Active power of one unit in steady state.", "Power of one")
load.give("count", 1.0, "", "m", 0, 100, "How many of the unit run at once.", "Count", whole=True)


@load.build(unit="", symbol=r"\mathrm{PF}", tex=r"{usual_power_factor}", source=JUDGED)
def power_factor(usual_power_factor):
    """Power factor of the load; pin it to what its plate says."""
    return usual_power_factor


@load.build(unit="", symbol=r"k_\mathrm{start}", tex=r"{usual_start_factor}", source=JUDGED)
def start_factor(usual_start_factor):
    """Starting current over running current (it multiplies VA); pin it to what the maker states."""
    return usual_start_factor


@load.build(unit="", symbol=r"\mathrm{PF}_s", tex=r"{usual_start_power_factor}", source=JUDGED, title="Starting power factor")
def start_power_factor(usual_start_power_factor):
    """Power factor while the load starts."""
    return usual_start_power_factor


@load.build(unit="s", symbol=r"t_\mathrm{start}", tex=r"{usual_start_time}", source=JUDGED)
def start_time(usual_start_time):
    """How long the start lasts."""
    return usual_start_time


@load.build(unit="W", symbol="P_i", tex=r"{rated_power}\cdot{count}", source=SOURCE, title="Active power")
def load_active_power(rated_power, count):
    """Active power of the row."""
    return rated_power * count


@load.build(unit="VA", symbol="S_i", tex=r"\frac{rated_power}{power_factor}\cdot{count}", source=SOURCE, title="Apparent power")
def load_apparent_power(rated_power, count, power_factor):
    """Apparent power of the row."""
    return rated_power * count / power_factor


@load.build(unit="W", symbol="P_{r,i}", tex=r"{rectifier_input}\,{load_active_power}", source=SOURCE, title="Watts of rectifiers")
def load_rectifier_power(rectifier_input, load_active_power):
    """Active power of the row if it has a rectifier input, else none."""
    return rectifier_input * load_active_power


@load.build(
    unit="VA",
    symbol="Q_i",
    tex=r"(1-{rectifier_input})\sqrt{{load_apparent_power}^2-{load_active_power}^2}",
    source=SOURCE,
    title="Displacement reactive power",
    example=({"load_active_power": 70, "load_apparent_power": 100, "rectifier_input": 0}, 71.414),
)
def load_reactive_power(load_active_power, load_apparent_power, rectifier_input):
    """Displacement reactive power of the row; none for rectifier inputs."""
    return (1 - rectifier_input) * np.sqrt(np.maximum(load_apparent_power**2 - load_active_power**2, 0 * load_active_power**2))


@load.build(
    unit="VA",
    symbol=r"D_i",
    tex=r"{rectifier_input}\sqrt{{load_apparent_power}^2-{load_active_power}^2}",
    source=SOURCE,
    title="Distortion power",
    example=({"load_active_power": 55, "load_apparent_power": 100, "rectifier_input": 1}, 83.516),
)
def load_distortion_power(load_active_power, load_apparent_power, rectifier_input):
    """Distortion VA of the row, carried apart from displacement; only rectifier inputs have it."""
    return rectifier_input * np.sqrt(np.maximum(load_apparent_power**2 - load_active_power**2, 0 * load_active_power**2))


@load.build(
    unit="VA",
    symbol=r"S_{s}",
    tex=r"{start_factor}\cdot\frac{rated_power}{power_factor}\cdot\min({count},1)",
    source=SOURCE,
    title="Starting apparent power of one",
    example=({"start_factor": 6, "rated_power": 180, "power_factor": 0.7, "count": 1}, 1542.86),
)
def start_apparent_power(start_factor, rated_power, power_factor, count):
    """Apparent power of one unit while it starts; nothing where the row is empty."""
    return start_factor * rated_power / power_factor * np.minimum(count, 1.0)


@load.build(
    unit="W",
    symbol=r"P_\Sigma",
    title="Active power while this one starts",
    source=SOURCE,
    tex=r"{rated_active_power}-{rated_power}\min({count},1)+{start_apparent_power}\,{start_power_factor}",
    example=({"rated_active_power": 800, "rated_power": 180, "count": 1, "start_apparent_power": 1542.86, "start_power_factor": 0.4}, 1237.14),
)
def starting_active_power(rated_active_power, rated_power, count, start_apparent_power, start_power_factor):
    """Active power of all other units running and one of this row starting."""
    return rated_active_power - rated_power * np.minimum(count, 1.0) + start_apparent_power * start_power_factor


@load.build(
    unit="VA",
    symbol=r"Q_\Sigma",
    title="Reactive power while this one starts",
    source=SOURCE,
    tex=r"{brief_reactive_power}-\frac{load_reactive_power}{\max({count},1)}+(1-{rectifier_input})\,{start_apparent_power}\sqrt{1-{start_power_factor}^2}",
    example=(
        {
            "brief_reactive_power": 200,
            "load_reactive_power": 183.64,
            "count": 1,
            "rectifier_input": 0,
            "start_apparent_power": 1542.86,
            "start_power_factor": 0.4,
        },
        1430.405,
    ),
)
def starting_reactive_power(brief_reactive_power, load_reactive_power, count, rectifier_input, start_apparent_power, start_power_factor):
    """Displacement reactive power of all other units running and one of this row starting."""
    across = start_apparent_power * np.sqrt(1 - start_power_factor**2)
    return brief_reactive_power - load_reactive_power / np.maximum(count, 1.0) + (1 - rectifier_input) * across


@load.build(
    unit="VA",
    symbol=r"D_\Sigma",
    title="Distortion power while this one starts",
    source=SOURCE,
    tex=r"{brief_distortion_power}-\frac{load_distortion_power}{\max({count},1)}+{rectifier_input}\,{start_apparent_power}\sqrt{1-{start_power_factor}^2}",
    example=(
        {
            "brief_distortion_power": 395,
            "load_distortion_power": 395,
            "count": 4,
            "rectifier_input": 1,
            "start_apparent_power": 1181.8,
            "start_power_factor": 0.55,
        },
        1283.24,
    ),
)
def starting_distortion_power(brief_distortion_power, load_distortion_power, count, rectifier_input, start_apparent_power, start_power_factor):
    """Distortion power of all other units running and one of this row starting: a rectifier's start stays distortion."""
    across = start_apparent_power * np.sqrt(1 - start_power_factor**2)
    return brief_distortion_power - load_distortion_power / np.maximum(count, 1.0) + rectifier_input * across


@load.build(
    unit="VA",
    symbol=r"S_\Sigma",
    title="Apparent power while this one starts",
    source=SOURCE,
    tex=r"\sqrt{{starting_active_power}^2+{starting_reactive_power}^2+{starting_distortion_power}^2}",
    example=({"starting_active_power": 1237.14, "starting_reactive_power": 1430.405, "starting_distortion_power": 150}, 1897.2),
)
def starting_apparent_power(starting_active_power, starting_reactive_power, starting_distortion_power):
    """Apparent power of all other units running and one of this row starting, as the vector sum."""
    return np.sqrt(starting_active_power**2 + starting_reactive_power**2 + starting_distortion_power**2)


@load.operation(
    unit="",
    symbol=r"w_i",
    title="This start decides",
    source="the start with the highest VA, at a surge by watts the one with the most watts",
    tex=r"{surge_by_watts}\,[{starting_active_power}\ge{surge_active_power}]+(1-{surge_by_watts})\,[{starting_apparent_power}\ge{surge_apparent_power}]",
)
def decides(surge_by_watts, starting_active_power, surge_active_power, starting_apparent_power, surge_apparent_power):
    """1 where this row's start is the one that the corner stands for, else 0."""
    by_watts = np.where(starting_active_power >= surge_active_power * NEARLY, 1.0, 0.0)
    return np.where(surge_by_watts > 0, by_watts, np.where(starting_apparent_power >= surge_apparent_power * NEARLY, 1.0, 0.0))


def _declare_share(name: str, made: str, unit: str, symbol: str, title: str, sentence: str) -> None:
    """A figure that is `made` where this row's start decides, and nothing elsewhere."""

    def formula(decides, made):
        return decides * made

    formula.__name__, formula.__doc__ = name, sentence
    load.operation(unit=unit, symbol=symbol, title=title, source=SOURCE, tex=rf"{{decides}}\,{{{made}}}")(with_names(formula, "decides", made))


_declare_share(
    "deciding_active_power",
    "starting_active_power",
    "W",
    r"P_\mathrm{d}",
    "Surge active power, if this start decides",
    "Active power of the surge, where this row's start decides.",
)
_declare_share(
    "deciding_reactive_power",
    "starting_reactive_power",
    "VA",
    r"Q_\mathrm{d}",
    "Surge reactive power, if this start decides",
    "Reactive power of the surge, where this row's start decides.",
)
_declare_share(
    "deciding_distortion_power",
    "starting_distortion_power",
    "VA",
    r"D_\mathrm{d}",
    "Surge distortion, if this start decides",
    "Distortion power of the surge, where this row's start decides.",
)
_declare_share(
    "deciding_start_time", "start_time", "s", r"t_\mathrm{d}", "Surge time, if this start decides", "Duration of the surge, where this row's start decides."
)


@load.operation(
    unit="J",
    symbol=r"W_i",
    title="Heat of this start",
    source="what a start adds to the running power, times its time",
    tex=r"{start_time}\,\big({surge_by_watts}({starting_active_power}-{rated_active_power})+(1-{surge_by_watts})({starting_apparent_power}-{rated_apparent_power})\big)",
    example=(
        {
            "start_time": 2,
            "surge_by_watts": 1,
            "starting_active_power": 1200,
            "rated_active_power": 800,
            "starting_apparent_power": 1900,
            "rated_apparent_power": 900,
        },
        800,
    ),
)
def start_heat(start_time, surge_by_watts, starting_active_power, rated_active_power, starting_apparent_power, rated_apparent_power):
    """What this start adds to the running power, times its seconds: the worst of these decides how long heat is counted."""
    return start_time * np.where(surge_by_watts > 0, starting_active_power - rated_active_power, starting_apparent_power - rated_apparent_power)


@load.build(
    unit="A",
    symbol=r"\hat I_i",
    title="Crest of the row's current",
    source="[judgement] crest factor times rms, crests added",
    tex=r"{crest_factor}\cdot\frac{load_apparent_power}{rated_output_voltage}",
)
def load_crest_current(crest_factor, load_apparent_power, rated_output_voltage):
    """Crest of the current of the row in steady state."""
    return crest_factor * load_apparent_power / rated_output_voltage


@load.build(
    unit="A",
    symbol=r"\hat I_{s}",
    title="Crest added by one start",
    source="[judgement] crest factor times rms, crests added",
    tex=r"{crest_factor}\cdot\frac{{start_apparent_power}-\frac{rated_power}{power_factor}\min({count},1)}{rated_output_voltage}",
    example=(
        {"crest_factor": 1.41421, "start_apparent_power": 1542.86, "rated_power": 180, "power_factor": 0.7, "count": 1, "rated_output_voltage": 230},
        7.9055,
    ),
)
def start_crest_current(crest_factor, start_apparent_power, rated_power, power_factor, count, rated_output_voltage):
    """Crest that the start of one unit adds to the running crest."""
    return crest_factor * (start_apparent_power - rated_power / power_factor * np.minimum(count, 1.0)) / rated_output_voltage


word("brief_active_power", "W", "P", "Active power of the whole load list.", 800)
word("brief_reactive_power", "VA", "Q", "Displacement reactive power of the whole load list.", 200)
word("brief_distortion_power", "VA", "D_{VA}", "Distortion power of the whole load list.", 100)
word("surge_apparent_power", "VA", r"S_\mathrm{surge}", "Apparent power during the worst start.", 1600)
word("surge_active_power", "W", r"P_\mathrm{surge}", "Active power during the start with the most watts.", 1200)
word("rated_output_voltage", "V", "V_o", "Rated rms output voltage.", 230)
word("load_active_power", "W", r"P", "Active power of the rows of the load list.", 800)
word("load_reactive_power", "VA", r"Q", "Displacement reactive power of the rows.", 200)
word("load_distortion_power", "VA", r"D", "Distortion power of the rows.", 0)
word("load_rectifier_power", "W", "P_r", "Active power of the rows with rectifier input.", 0)
word("brief_rectifier_power", "W", "P_r", "Active power of all loads with rectifier input.", 100)
word("load_apparent_power", "VA", r"S", "Apparent power of the rows.", 850)
word("starting_apparent_power", "VA", r"S_\mathrm{start}", "Apparent power of the start with the highest VA, all others running.", 1500)
word("starting_active_power", "W", r"P_\mathrm{start}", "Active power of the start with the most watts, all others running.", 1150)
word("deciding_active_power", "W", r"P_s", "Active power during the start that the corner stands for.", 1100)
word("deciding_reactive_power", "VA", r"Q_s", "Reactive power during the start that the corner stands for.", 1000)
word("deciding_distortion_power", "VA", r"D_s", "Distortion power during that start.", 0)
word("deciding_start_time", "s", r"t_s", "How long that start lasts.", 2)
word("start_heat", "J", r"H_s", "Added power of the hottest start times its seconds.", 700)
word("load_crest_current", "A", r"\hat I", "Crests of the rows' currents, added.", 5.5)
word("start_crest_current", "A", r"\hat I_s", "Crest that the start adds.", 5)
