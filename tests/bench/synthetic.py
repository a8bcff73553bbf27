"""A line-up of no use, as large as the largest are to be: some 1,500 figures in thirty like stages, each with loops, decisions and a part to pick."""

from collections.abc import Callable
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import Values, highest, up
from rhombos.core.graph.declare import Need, Stage
from rhombos.core.graph.model import Model
from rhombos.core.graph.places import LineUp, Place
from rhombos.core.parts.table import PartTable
from tests.core.toy import toy_stages

STAGES, BESIDE = 30, 36
SOURCE = "made up"
SHAPES = ("{a} * {b} / (1 + abs({b}))", "{a} + 0.01 * np.sqrt(abs({b}))", "np.maximum({a}, 0.5 * {b})", "{a} * np.exp(-abs({b}) / 1e3)")


def _function(name: str, args: tuple[str, ...], body: str) -> Callable[..., Any]:
    scope: dict[str, Any] = {"np": np, "highest": highest, "up": up}
    exec(f'def {name}({", ".join(args)}):\n    """Made up."""\n    return {body}', scope)
    made: Callable[..., Any] = scope[name]
    return made


def _cell() -> Stage:
    """A stage: a conductor that warms, its strands and its fuse decided, and BESIDE figures that follow."""
    cell = Stage("cell", "Cell")
    cell.give("resistance", 2e-3, "Ω", "", 0, 10, "Resistance of a strand, cold.")
    cell.give("to_air", 0.5, "K/W", "", 0, 10, "Thermal resistance.")

    def add(kind: str, unit: str, name: str, args: tuple[str, ...], body: str, **more: Any) -> None:
        tex = "+".join(f"{{{a}}}" for a in args)
        getattr(cell, kind)(unit=unit, symbol="x", source=SOURCE, tex=tex, **more)(_function(name, args, body))

    add("operation", "A", "current", ("output_power", "input_voltage"), "output_power / input_voltage")
    add("operation", "V", "output_voltage", ("input_voltage", "current", "hot_resistance"), "input_voltage - current * hot_resistance")
    add("operation", "W", "loss", ("current", "hot_resistance"), "current**2 * hot_resistance", start=1.0)
    add("operation", "K_abs", "temperature", ("loss", "to_air"), "300 + loss * to_air")
    add("operation", "Ω", "hot_resistance", ("resistance", "strands", "temperature"), "resistance / strands * (1 + 0.0039 * (temperature - 293))")
    add("operation", "W", "input_power", ("output_power", "loss"), "output_power + loss")
    add("build", "", "strands", ("current",), "up(highest(current) / 3)", safe="up")
    add("build", "A", "highest_current", ("current",), "1.25 * highest(current)")
    cell.pick(
        "fuse",
        "fuse",
        {"rated_current": ("A", "I_N", "Rated current."), "price": ("credit", "c", "Price."), "mass": ("kg", "m", "Mass.")},
        needs=(Need("rated current", "fuse_rated_current", "highest_current"),),
        sentence="Cheapest fuse that carries the current.",
    )
    before = ("current", "temperature")
    for k in range(BESIDE):
        name = f"beside_{k}"
        add("operation", "", name, before, SHAPES[k % len(SHAPES)].format(a=before[0], b=before[1]))
        before = (name, before[0]) if k % 2 else (before[1], name)
    cell.check("rating", demand="highest_current", capability="fuse_rated_current", harm="none", sentence="{demand} of {capability}", why="it blows")
    return cell


def synthetic() -> Model:
    """The line-up put together."""
    toy, cell = toy_stages(), _cell()
    cells = tuple(Place(f"cell_{k}", cell, "a") for k in range(STAGES))
    line = LineUp("synthetic", "Synthetic", (Place("source", toy.source, "a"), *cells, Place("heater", toy.heater, "b")))
    sizes = np.geomspace(2, 200, 40)
    columns: dict[str, Values] = {"rated_current": sizes, "price": np.sqrt(sizes), "mass": sizes / 1e3}
    fuses = PartTable("fuse", tuple(f"F{s:.1f}" for s in sizes), columns, {"description": tuple("made up" for _ in sizes)})
    return Model(line, {"fuse": fuses})
