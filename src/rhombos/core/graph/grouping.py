"""Under which heading of its stage's sheet a figure stands: what leads first, then by what kind of quantity it is.

A stage may name a heading of its own with `group=`; what it does not name follows from what it declared elsewhere (the
words on the line, the letters of its bus, parts to order, sums, comparisons) and from unit and kind.
"""

import re

from rhombos.core.graph.declare import Figure, Stage

LEADS, SIZING, STRESS, POWER, HEAT, SHARES, COST = "What leads", "Sizing", "Stress", "Power and loss", "Heat", "Shares and times", "Cost and mass"
ORDER = (LEADS, SIZING, STRESS, POWER, HEAT, SHARES, COST)
_NAMES = re.compile(r"\{(\w+)")
_BY_UNIT = {
    **dict.fromkeys(("credit", "kg", "credit·K/W"), COST),
    **dict.fromkeys(("K", "K_abs", "K/W", "J/K", "1/K"), HEAT),
    **dict.fromkeys(("W", "VA", "W·h", "J"), POWER),
    **dict.fromkeys(("V", "A", "T", "A/m^2", "A^2·s"), STRESS),
}


def leading(stage: Stage) -> set[str]:
    """The names of the figures by which people know the stage."""
    names = set(_NAMES.findall(stage.telling))
    names |= {stage.letters.voltage, stage.letters.current} if stage.letters else set()
    names |= {c.figure for c in stage.compared} | {s.figure for s in stage.sums} | {f.name for f in stage.fields}
    for order in stage.orders:
        names |= set(_NAMES.findall(order.part))
    return names


def heading(figure: Figure, leads: set[str]) -> str:
    """The heading of a figure on its stage's sheet."""
    if figure.group:
        return figure.group
    if figure.name in leads:
        return LEADS
    if figure.name == "part_count":
        return COST
    if figure.kind == "build" and figure.unit not in ("credit", "kg", "K", "K_abs") and (figure.decided or figure.unit not in _BY_UNIT):
        return SIZING
    return _BY_UNIT.get(figure.unit, SHARES)


def headings(stage: Stage) -> tuple[dict[str, str], list[str]]:
    """The heading of every figure of a stage, and the headings in the order in which they stand."""
    leads = leading(stage)
    of = {name: heading(figure, leads) for name, figure in stage.figures.items()}
    own = [g for g in dict.fromkeys(of.values()) if g not in ORDER]
    return of, [*[g for g in ORDER if g in of.values()][:1], *own, *[g for g in ORDER if g in of.values()][1:]]
