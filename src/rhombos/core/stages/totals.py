"""The whole line-up: efficiency, loss, cost, mass, parts."""

import numpy as np

from rhombos.core.graph.declare import Stage, every
from rhombos.core.graph.numeric import applies

totals = Stage("totals", "Whole line-up", path=False)


@totals.operation(unit="W", symbol=r"P_{in}", source="power balance", title="Power from the source", tex=r"{converter_power}")
def source_power(converter_power):
    """Power at the converter's terminals."""
    return converter_power


@totals.operation(unit="W", symbol=r"P_{o}", source="brief", title="Power to the loads", tex=r"{delivered_power}")
def load_power(delivered_power):
    """Power that the loads get."""
    return delivered_power


@totals.operation(unit="W", symbol=r"P_{loss}", source="sum over the stages", title="Losses", tex=r"{losses}")
def total_loss(losses=every("loss")):
    """Loss of all stages and attachments."""
    return losses


@totals.operation(unit="", symbol=r"\eta", source="derived from the losses", title="Efficiency", tex=r"\frac{load_power}{source_power}")
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
