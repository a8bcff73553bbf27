"""The source, second part: what a cell is where the source is a battery, and where it is a DC supply with a current limit (2.1, 2.3)."""

import numpy as np

from rhombos.core.graph.declare import Move
from rhombos.core.stages.names import with_names
from rhombos.core.stages.source.battery import JUDGED, battery

battery.give("supply_lowest", 22.0, "V", r"V_{s,\min}", 1, 1000, "Lowest voltage of a DC supply, of each in series.", "Supply, lowest")
battery.give("supply_nominal", 24.0, "V", r"V_{s}", 1, 1000, "Nominal voltage of a DC supply, of each in series.", "Supply, nominal")
battery.give("supply_highest", 28.0, "V", r"V_{s,\max}", 1, 1000, "Highest voltage of a DC supply, of each in series.", "Supply, highest")
battery.give("supply_limit", 60.0, "A", r"I_{s,\mathrm{lim}}", 0.1, 2000, "Current limit of a DC supply.", "Supply's current limit")
battery.give("supply_resistance", 5e-3, "Ω", r"R_{s,0}", 0, 1, "Resistance of a DC supply and its leads below its limit.", "Supply's resistance")
battery.give(
    "supply_cutoff",
    0.9,
    "",
    r"k_\mathrm{cut}",
    0.5,
    1,
    "Cut-off of the converter on a DC supply, of its lowest voltage [judgement].",
    "Cut-off on a supply",
    judgement=True,
)


def _declare_cell(name: str, symbol: str, title: str, supply: str, tex: str, gives: float) -> None:
    """A voltage of one cell, or what takes its place with a DC supply."""

    def formula(is_supply, chemistry, instead):
        return np.where(is_supply > 0, instead, chemistry)

    formula.__name__, formula.__doc__ = f"cell_{name}", f"{title}; of a DC supply {supply}."
    reads = {"lowest": "supply_lowest", "nominal": "supply_nominal", "highest": "supply_highest"}[tex]
    battery.build(
        unit="V",
        symbol=symbol,
        source=JUDGED,
        title=title,
        tex=rf"\begin{{cases}}{{{reads}}}&{{is_supply}}=1\\{{chemistry_{name}}}&\text{{else}}\end{{cases}}",
        example=({"is_supply": 0, f"chemistry_{name}": gives, reads: 24.0}, gives),
    )(with_names(formula, "is_supply", f"chemistry_{name}", reads))


_declare_cell("empty", r"v_\mathrm{empty}", "Cell, empty at rest", "its lowest voltage", "lowest", 2.9)
_declare_cell("nominal", r"v_\mathrm{nom}", "Cell, nominal at rest", "its nominal voltage", "nominal", 3.25)
_declare_cell("full", r"v_\mathrm{full}", "Cell, full at rest", "its highest voltage", "highest", 3.4)
_declare_cell("charging", r"v_\mathrm{ch}", "Cell, charging", "its highest voltage", "highest", 3.65)


@battery.build(
    unit="V",
    symbol=r"v_\mathrm{cut}",
    source=JUDGED,
    title="Cell, cut-off",
    tex=r"\begin{cases}{supply_cutoff}\,{supply_lowest}&{is_supply}=1\\{chemistry_cutoff}&\text{else}\end{cases}",
    example=({"supply_cutoff": 0.9, "supply_lowest": 22, "is_supply": 1, "chemistry_cutoff": 2.8}, 19.8),
)
def cell_cutoff(supply_cutoff, supply_lowest, is_supply, chemistry_cutoff):
    """Cut-off voltage of one cell, at the terminals, under load; on a DC supply a share of its lowest voltage."""
    return np.where(is_supply > 0, supply_cutoff * supply_lowest, chemistry_cutoff)


@battery.build(
    unit="V",
    symbol=r"v_\mathrm{deep}",
    source=JUDGED,
    title="Cell, harmed below",
    tex=r"\begin{cases}0.8\,{supply_cutoff}\,{supply_lowest}&{is_supply}=1\\{chemistry_deep}&\text{else}\end{cases}",
    example=({"supply_cutoff": 0.9, "supply_lowest": 22, "is_supply": 1, "chemistry_deep": 2.5}, 15.84),
)
def cell_deep(supply_cutoff, supply_lowest, is_supply, chemistry_deep):
    """Voltage of one cell under load below which it is harmed; of a DC supply one at which its converter would long be off."""
    return np.where(is_supply > 0, 0.8 * supply_cutoff * supply_lowest, chemistry_deep)


@battery.build(unit="V", symbol=r"\Delta v_\mathrm{rec}", source=JUDGED, title="Cell, recovery", tex=r"(1-{is_supply})\,{chemistry_recovery}")
def cell_recovery(is_supply, chemistry_recovery):
    """Rise of one cell's voltage when the load is taken off; a DC supply has none."""
    return (1 - is_supply) * chemistry_recovery


@battery.operation(
    unit="A",
    symbol=r"I_{s}",
    source="a supply at its limit gives no more volts: a constant-power load pulls it down",
    title="Asked of the supply",
    tex=r"{is_supply}\,{source_current}",
)
def asked_of_supply(is_supply, source_current):
    """Current that a DC supply is asked for; nothing of a battery, which has no limit of its own."""
    return is_supply * source_current


battery.check(
    "supply_limit",
    title="Within the supply's limit",
    demand="asked_of_supply",
    capability="supply_limit",
    fail=1.0,
    hold=1.1,
    harm="none",
    sentence="{demand} are drawn; the supply limits at {capability}.",
    why="At its limit the supply gives no more volts: the converter, drawing the same watts, pulls it down until its cut-off acts, again and again.",
    remedies=(Move("supply_limit", "up", 4.0),),
    no_demand="A battery has no current limit of its own: its fuse has.",
)
