"""The limiter: a diode to a level, behind a series resistor (6.3)."""

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen

DIVIDER = "Ohm's law, the diode by its forward voltage"

clipper = Stage("clipper", "Limiter", path=False, telling="{clip_level}")
clipper.give("wave_amplitude", 20.0, "V", r"\hat V", 0.01, 1e4, "Peak of the wave that is to be limited.", "Peak of the wave")
clipper.give("wave_frequency", 1e3, "Hz", "f", 0.1, 1e6, "Frequency of the wave.", "Frequency")
clipper.give("series_resistor", 1e3, "Ω", "R", 0.1, 1e7, "Resistor before the diode.", "Series resistor")
clipper.give("load_resistor", 10e3, "Ω", r"R_L", 0.1, 1e9, "What the limited wave feeds.", "Load")
clipper.give("limit_level", 5.0, "V", r"V_\mathrm{lim}", 0.0, 1e4, "Level that the diode leads to.", "Level")
clipper.give("diode_drop", 0.7, "V", r"V_F", 0.05, 5, "Forward voltage of the diode.", "Forward voltage")
clipper.give("diode_resistance", 1.0, "Ω", r"r_D", 1e-4, 1e3, "Resistance of the diode beyond its forward voltage.", "Diode resistance")
clipper.give("diode_rating", 0.1, "A", r"I_{D,\mathrm{max}}", 1e-4, 1e3, "Peak current that the diode and the level's source stand.", "Diode stands")


@clipper.build(unit="", symbol="k", source=DIVIDER, title="Gain below the level", tex=r"\frac{load_resistor}{{series_resistor}+{load_resistor}}")
def loaded_gain(series_resistor, load_resistor):
    """What the series resistor leaves of a wave that is not limited."""
    return load_resistor / (series_resistor + load_resistor)


@clipper.build(unit="V", symbol=r"\hat V_L", source=DIVIDER, title="Peak without the diode", tex=r"{loaded_gain}\,{wave_amplitude}")
def loaded_peak(loaded_gain, wave_amplitude):
    """Peak at the load if nothing limited it."""
    return loaded_gain * wave_amplitude


@clipper.build(unit="V", symbol=r"V_c", source=DIVIDER, title="Limited to", tex=r"{limit_level}+{diode_drop}")
def clip_level(limit_level, diode_drop):
    """Where the wave is cut: the level and one forward voltage."""
    return limit_level + diode_drop


@clipper.build(
    unit="A",
    symbol=r"\hat I_D",
    source=DIVIDER,
    title="Diode current, peak",
    tex=r"\frac{{wave_amplitude}-{clip_level}}{series_resistor}-\frac{clip_level}{load_resistor}",
    low=-1e6,
)
def diode_peak(wave_amplitude, clip_level, series_resistor, load_resistor):
    """What the series resistor drives at the crest, less what the load takes: the level's source must swallow it."""
    return (wave_amplitude - clip_level) / series_resistor - clip_level / load_resistor


clipper.check(
    "acts",
    title="Limiter acts",
    demand="clip_level",
    capability="loaded_peak",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="It cuts at {demand}; without it the wave reaches {capability}.",
    why="A series resistor that the load already divides down never reaches the level.",
    remedies=(Move("series_resistor", "down", 100.0), Move("limit_level", "down", 10.0)),
)
clipper.check(
    "diode",
    title="Diode stands the crest",
    demand="diode_peak",
    capability="diode_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The diode takes {demand} at the crest; it stands {capability}.",
    why="A small series resistor limits sharply and burns the diode, or lifts the level that cannot take current.",
    remedies=(Move("series_resistor", "up", 100.0), Move("diode_rating", "up", 100.0)),
)

clipper.draw(
    Schematic(
        (
            Part("sine", "wave", (0, 0), (0, 4), ("wave_amplitude",), frequency="wave_frequency", neighbour=True),
            Part("resistor", "series", (0, 0), (4, 0), ("series_resistor",), "Series resistor"),
            Part("diode", "diode", (4, 0), (4, 2), ("diode_resistance",), forward="diode_drop", checks=("diode", "acts")),
            Part("source", "level", (4, 2), (4, 4), ("limit_level",)),
            Part("resistor", "load", (7, 0), (7, 4), ("load_resistor",), neighbour=True),
        ),
        (((4, 0), (7, 0)), ((0, 4), (7, 4))),
        ((0, 4),),
        {"in": (0, 0), "out": (7, 0)},
    )
)


@clipper.look("Over a period", "v in", "v out", "i diode")
def period(seen: Seen) -> Course:
    """One period of the wave."""
    return Course(1 / seen.at("wave_frequency"))
