"""A heat sink as a decision: what it is bought for (4.3)."""

import numpy as np

from rhombos.core.formulas.numeric import like, nearest_in
from rhombos.core.graph.declare import Stage
from rhombos.core.stages.names import with_names

LARGEST_SINK, LEAST_WATTS = 20.0, 1e-3
"""K/W: a bare case in still air is no better. W: below that nothing is warm."""


def declare_sink(stage: Stage, *, rise: float, sink_time: float, watts: str, prefix: str = "") -> None:
    """The heat sink as a decision: the rise it may have over the watts that it is bought for, a figure of the stage with its TeX."""
    names = {name: prefix + name for name in ("sink_rise", "sink_time", "sink_resistance", "sink_capacity")}

    def give(name: str, value: float, unit: str, symbol: str, low: float, high: float, sentence: str, title: str) -> None:
        stage.give(names[name], value, unit, symbol, low, high, f"{sentence} [judgement].", title, judgement=True)

    give("sink_rise", rise, "K", r"\Delta T_{sa}", 1, 80, "Rise of the heat sink over air that it is bought for", "Rise of the sink")
    give("sink_time", sink_time, "s", r"\tau_{sa}", 10, 1e4, "Heat capacity of such a sink times its resistance to air", "Time constant of the sink")
    rise_tex, time_tex, sink_tex = (f"{{{names[n]}}}" for n in ("sink_rise", "sink_time", "sink_resistance"))

    def resistance(sink_rise, watts):
        """Thermal resistance of the heat sink to air, next better preferred value; never beyond that of a bare case."""
        wanted = sink_rise / np.maximum(watts, like(LEAST_WATTS, watts))
        return nearest_in("E24", "down")(np.minimum(wanted, like(LARGEST_SINK, wanted)))

    resistance.__name__ = names["sink_resistance"]
    stage.build(
        unit="K/W",
        symbol=r"R_{sa}",
        source="[judgement] a rise over a loss",
        title="Heat sink",
        safe="down",
        tex=rf"\mathrm{{E24}}_\downarrow\left(\min\left(\frac{rise_tex}{{\max({{{watts}}},0.001\,\mathrm{{W}})}},\;20\,\mathrm{{K/W}}\right)\right)",
        example=({names["sink_rise"]: 15, watts: 20}, 0.75),
    )(with_names(resistance, names["sink_rise"], watts))

    def capacity(sink_time, sink_resistance):
        """Heat capacity of the sink: it carries the surge."""
        return sink_time / sink_resistance

    capacity.__name__ = names["sink_capacity"]
    stage.build(
        unit="J/K",
        symbol=r"C_\mathrm{sink}",
        source="[judgement] sinks of a kind have a time constant",
        title="Heat capacity of the sink",
        tex=rf"\frac{time_tex}{sink_tex}",
        example=({names["sink_time"]: 135, names["sink_resistance"]: 0.75}, 180),
    )(with_names(capacity, names["sink_time"], names["sink_resistance"]))
