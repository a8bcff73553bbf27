"""The whole line-up: efficiency, loss, cost, mass, parts."""

import numpy as np

from rhombos.core.formulas.numeric import applies
from rhombos.core.graph.declare import Stage, every
from rhombos.core.graph.pictures import Bar, Bars, Plot, Seen, Series, Tone
from rhombos.core.vocabulary import word

totals = Stage("totals", "Whole line-up", path=False)
totals.compare("Loss at full load", "total_loss")
totals.compare("Idle drain", "total_loss", {"load_fraction": 0.0})
totals.compare("Efficiency at 10 / 50 / 100 %", "efficiency", {"load_fraction": 0.1}, {"load_fraction": 0.5}, {"load_fraction": 1.0})
totals.compare("Parts", "total_parts")
totals.compare("Cost of parts", "total_cost")
totals.compare("Mass of parts", "total_mass")


totals.rename(source_power="converter_power")


totals.rename(load_power="delivered_power")


@totals.operation(unit="W", symbol=r"P_{loss}", source="sum over the stages", title="Losses", tex=r"{losses}")
def total_loss(losses=every("loss")):
    """Loss of all stages and attachments."""
    return losses


@totals.operation(unit="", low=0.0, high=1.0, symbol=r"\eta", source="derived from the losses", title="Efficiency", tex=r"\frac{load_power}{source_power}")
def efficiency(load_power, source_power):
    """Output over input power; without load it does not apply."""
    return applies(
        load_power > 0 * load_power, load_power / np.where(source_power > 0 * source_power, source_power, np.nan), "without load there is no efficiency"
    )


@totals.operation(
    unit="W·h",
    symbol=r"E_{day}",
    source="idle power times a day",
    title="Drain per day",
    tex=r"24\,\mathrm{h}\cdot{total_loss}",
    empirical=True,
    example=({"total_loss": 8}, 192),
)
def daily_drain(total_loss):
    """Energy that the losses of the corner take in a day; at no load this is the idle drain."""
    return 24 * total_loss


@totals.build(unit="credit", symbol="c", source="catalogue", title="Cost of the parts", tex=r"{costs}")
def total_cost(costs=every("cost")):
    """Cost of all parts that the stages name."""
    return costs


@totals.build(unit="kg", symbol="m", source="catalogue", title="Mass of the parts", tex=r"{masses}")
def total_mass(masses=every("mass")):
    """Mass of all parts that the stages name."""
    return masses


@totals.build(unit="", symbol="n", source="count", title="Part count", tex=r"{counts}")
def total_parts(counts=every("part_count")):
    """Number of power parts that the stages name."""
    return counts


@totals.picture("Where the power goes")
def losses(seen: Seen) -> Bars:
    """Loss of every place that has one, the greatest first."""
    rows = sorted(((title, loss) for title, loss in seen.every("loss") if loss > 0.005), key=lambda row: -row[1])
    return Bars("W", [Bar(title, 0.0, loss) for title, loss in rows], from_zero=True)


@totals.picture("Efficiency against load, build held")
def efficiencies(seen: Seen) -> Plot:
    """Efficiency from a twentieth to full load at the lowest, nominal and highest source."""
    curve = seen.over_load("efficiency")
    tones: tuple[Tone, ...] = ("fail", "copper", "slate")
    return Plot("load", "", "", [Series(name, curve.x, y, tone) for (name, y), tone in zip(curve.series.items(), tones, strict=True)], y_from=0.6, y_to=1.0)


word("loss", "W", r"P_\mathrm{loss}", "Losses of all stages.", 70)
word("delivered_power", "W", "P_o", "Power delivered to the loads.", 800)
word("converter_power", "W", r"P_\mathrm{in}", "Power drawn from the source.", 870)
word("cost", "credit", "c", "Cost of all stages.", 100)
word("mass", "kg", "m", "Mass of all stages.", 1.5)
word("part_count", "", "n", "Parts of all stages.", 90)
