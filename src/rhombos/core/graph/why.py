"""Why a number is what it is: formula, numbers put in, the corner it speaks for, where it comes from and goes to."""

import itertools
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from rhombos.core.formulas.numeric import Context, applied, context
from rhombos.core.graph.formula_tex import fill, formula_of, symbol_of, tex_number
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.sheet import Sheet
from rhombos.core.units import show


@dataclass(frozen=True)
class Neighbour:
    """A figure next to the one asked about, with its value at the corner."""

    key: str
    title: str
    symbol: str
    value: float | None
    text: str
    kind: str
    pinned: bool


@dataclass(frozen=True)
class Why:
    """The answer to "why": `formula` and `numbers` are TeX; `corner` is the corner that the numbers speak for."""

    key: str
    title: str
    sentence: str
    source: str
    symbol: str
    formula: str
    numbers: str
    value: float | None
    text: str
    corner: str
    binds: bool
    comes_from: tuple[Neighbour, ...]
    carries_on_to: tuple[Neighbour, ...]
    pinned: bool
    reason: str
    computed: str
    empirical: bool
    cause: str


def why(sheet: Sheet, key: str, corner: str) -> Why:
    """Explain the figure `key` at a corner; a build figure speaks for the corner that binds it."""
    node = sheet.node(key)
    asked = sheet.corners.ids.index(corner)
    binding = binding_corner(sheet, node)
    at = asked if binding is None else binding
    value = _value(sheet, node.index, at)
    args = [(param, sheet.wiring.nodes[arg]) for param, arg in zip(node.params, node.args, strict=True)]
    symbols = {param: symbol_of(n.figure) for param, n in args}
    put_in = numbers_put_in(sheet, node, at)
    numbers = {param: tex_number(put_in[param], n.figure.unit) for param, n in args}
    pinned = node.index in sheet.pinned
    pin = sheet.inputs.pins.get(key)
    status = sheet.status(node.index)
    missing = status is not None and bool(status.reshape(-1)[min(at, status.size - 1)])
    return Why(
        key=key,
        title=node.figure.title,
        sentence=node.figure.sentence,
        source=node.figure.source,
        symbol=node.figure.symbol,
        formula=fill(formula_of(node.figure, node.params), symbols),
        numbers=fill(formula_of(node.figure, node.params), numbers, times=True),
        value=value,
        text="" if value is None else show(value, node.figure.unit),
        corner=sheet.corners.ids[at],
        binds=binding is not None,
        comes_from=_unique(sheet, [n for _, n in args], at),
        carries_on_to=_unique(sheet, _readers(sheet, node), at),
        pinned=pinned,
        reason=pin.reason if pin else "",
        computed=_own(sheet, node, at),
        empirical=node.figure.empirical,
        cause=sheet.why_missing(node.index, at) if missing else "",
    )


def _own(sheet: Sheet, node: Node, at: int) -> str:
    """What a figure's own formula gives, where it is pinned or held at another value; else nothing."""
    if node.index in sheet.computed:
        own = sheet.computed[node.index].reshape(-1)
        return show(float(own[min(at, own.size - 1)]), node.figure.unit)
    would_be = sheet.would_be(node.index)
    return "" if would_be is None else show(would_be, node.figure.unit)


def numbers_put_in(sheet: Sheet, node: Node, at: int) -> dict[str, float | None]:
    """The numbers with which the formula gives the value at a corner, by parameter.

    They are the corner's own; where the formula reduces over the corners, or reads the state before a start, each
    parameter speaks for the corner that it is taken from.
    """
    own: dict[str, float | None] = {p: _value(sheet, a, at) for p, a in zip(node.params, node.args, strict=True)}
    if node.fn is None or node.figure.kind not in ("build", "operation") or None in own.values():
        return own
    would_be = sheet.would_be(node.index)
    target = sheet.computed[node.index] if node.index in sheet.computed else sheet.values[node.index] if would_be is None else would_be
    flat = np.atleast_1d(target).reshape(-1)
    wanted = float(flat[0 if flat.size == 1 else at])
    if not np.isfinite(wanted) or gives(node, own.values(), wanted):
        return own
    choices = [_corners_of(sheet, a, at) for a in node.args]
    if np.prod([len(c) for c in choices]) > MOST_COMBINATIONS:
        return own
    for picked in itertools.product(*choices):
        if gives(node, picked, wanted):
            return dict(zip(node.params, picked, strict=True))
    return own


MOST_COMBINATIONS = 4096


def _corners_of(sheet: Sheet, index: int, at: int) -> list[float]:
    """The numbers that a reduction may take from a figure: its own at the corner, before a start, its extremes over all and over those that last."""
    flat = np.atleast_1d(sheet.values[index]).reshape(-1)
    if flat.size == 1:
        return [float(flat[0])]
    lasting = flat[sheet.corners.lasting]
    rows = [flat[at], flat[sheet.corners.before[at]], *(f(x) for x in (flat, lasting) for f in (np.nanmax, np.nanmin) if np.isfinite(x).any())]
    return list(dict.fromkeys(float(x) for x in rows if np.isfinite(x)))


def gives(node: Node, values: Iterable[float | None], wanted: float) -> bool:
    """Whether a formula gives a value for plain numbers."""
    context.causes.clear()
    with np.errstate(all="ignore"):
        alone = float(np.atleast_1d(applied(node.fn, list(values)))[0]) if node.fn else float("nan")
    context.causes.clear()
    return abs(alone - wanted) <= 1e-7 * abs(wanted)


def _readers(sheet: Sheet, node: Node) -> list[Node]:
    return [sheet.wiring.nodes[c] for c in dict.fromkeys(sheet.wiring.children[node.index])]


def _unique(sheet: Sheet, nodes: list[Node], at: int) -> tuple[Neighbour, ...]:
    seen: dict[str, Neighbour] = {}
    for n in nodes:
        if n.key not in seen:
            value = _value(sheet, n.index, at)
            seen[n.key] = Neighbour(
                n.key, n.figure.title, n.figure.symbol, value, "" if value is None else show(value, n.figure.unit), n.figure.kind, n.index in sheet.pinned
            )
    return tuple(seen.values())


def _value(sheet: Sheet, index: int, at: int) -> float | None:
    raw = sheet.values[index]
    if raw is None:
        return None
    flat = np.atleast_1d(raw).reshape(-1)
    number = float(flat[0 if flat.size == 1 else at])
    return None if number != number else number


def binding_corner(sheet: Sheet, node: Node) -> int | None:
    """For a figure reduced over the corners: the corner whose numbers alone give its value."""
    if node.fn is None or node.figure.kind != "build" or not any(np.size(sheet.values[a]) > 1 for a in node.args):
        return None
    target = float(np.atleast_1d(sheet.values[node.index])[0])
    pinned = sheet.computed.get(node.index)
    if pinned is not None:
        target = float(pinned[0])
    fresh: Context = context
    fresh.causes.clear()
    best: tuple[float, int] | None = None
    for at in range(len(sheet.corners.ids)):
        args = [a if np.size(a) == 1 else float(np.asarray(a)[at]) for a in (sheet.values[i] for i in node.args)]
        with np.errstate(all="ignore"):
            alone = float(np.atleast_1d(applied(node.fn, args))[0])
        if np.isfinite(alone):
            gap = abs(alone - target) / max(abs(target), 1e-300)
            if best is None or gap < best[0] - 1e-9:
                best = (gap, at)
    fresh.causes.clear()
    return best[1] if best is not None and best[0] < 1e-6 else None


def ancestors(sheet: Sheet, key: str) -> list[Node]:
    """Every node that a figure hangs on, itself first, then the nearest; what stands behind a pin is none."""
    queue = [sheet.wiring.index[key]]
    found: dict[int, Node] = {}
    while queue:
        index = queue.pop(0)
        if index in found:
            continue
        found[index] = sheet.wiring.nodes[index]
        if index not in sheet.pinned:
            queue.extend(found[index].args)
    return list(found.values())


def upstream(sheet: Sheet, key: str) -> list[Node]:
    """Every given that a figure hangs on, nearest first."""
    return [node for node in ancestors(sheet, key) if node.figure.kind == "given" and node.place != "corner"]
