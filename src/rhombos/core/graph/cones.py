"""What follows from a candidate: the figures that a pick has to work out for each of its parts, in their order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rhombos.core.graph.nodes import Node, WiredPick
from rhombos.core.graph.ordering import cut


@dataclass(frozen=True)
class Cone:
    """All that hangs on the part picked, within its stage and what hangs on that, and that a need is read from.

    `nodes` stand in order of computation. `inputs` are what they read beside the part's own numbers and one another:
    of the rest of the line-up, and of loops the starting values, both as they stand when the pick is decided.
    Of these, `ahead` are what itself follows from the pick (another stage's answer, a later pick): not known yet in the first pass.
    `held` are those of `nodes` that are decisions with a safe side: once that side is kept, no candidate goes behind what stands.
    `first` are the needs (by their place in the pick) that hang on no operation of the candidate: who misses one is not looked at further.
    """

    nodes: tuple[int, ...]
    inputs: tuple[int, ...]
    ahead: frozenset[int]
    held: tuple[int, ...]
    first: tuple[int, ...]


def cones(nodes: Sequence[Node], args: list[tuple[int, ...]], picks: Sequence[WiredPick]) -> dict[int, Cone]:
    """The cone of every pick; its inputs that are not ahead become the `args` of the pick.

    A pick declared later reads what an earlier one decided, so that the earlier one looks ahead.
    """
    found = {}
    starts = {n.index for n in nodes if n.figure.start is not None}
    readers: dict[int, list[int]] = {}
    for i, of in enumerate(args):
        for a in of:
            readers.setdefault(a, []).append(i)
    for pick in reversed(picks):
        order, inputs = _cone(nodes, args, pick, starts)
        follows = _following({i for _, i in pick.published if args[i]}, readers, starts)
        ahead = frozenset(inputs) & follows - starts
        args[pick.index] = tuple(i for i in inputs if i not in ahead)
        for a in args[pick.index]:
            readers.setdefault(a, []).append(pick.index)
        held = tuple(i for i in order if nodes[i].figure.safe is not None)
        found[pick.index] = Cone(order, inputs, ahead, held, _first(nodes, args, pick, frozenset(order) - frozenset(inputs)))
    return {pick.index: found[pick.index] for pick in picks}


def _cone(nodes: Sequence[Node], args: list[tuple[int, ...]], pick: WiredPick, starts: set[int]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """The figures of the pick's own places that lie between the part and its needs, and what they read from elsewhere."""
    # A column that is pinned says what was measured of the part that was picked; candidates stand by their catalogue.
    part = {i for _, i in pick.published}
    own = [n.index for n in nodes if n.place in pick.own and n.figure.kind not in ("pick", "published") and args[n.index]]
    following, grown = set(part), True
    while grown:
        grown = False
        for i in own:
            if i not in following and any(a in following for a in args[i]):
                following.add(i)
                grown = True
    asked = {i for need in pick.needs for i in (need.capability, need.demand, need.level) if isinstance(i, int)}
    inner = following - part
    needed = _read(asked, args, inner, frozenset())
    inside = [tuple(a for a in args[i] if a in needed) if i in needed else () for i in range(len(nodes))]
    # A loop without a starting value is told by the plan, with the way that it goes.
    order, tears = cut(sorted(needed), inside, starts) or (tuple(sorted(needed)), ())
    needed = _read(asked, args, inner, frozenset(tears))
    order = tuple(i for i in order if i in needed)
    read = {a for i in order for a in args[i] if a not in needed or a in tears}
    return order, tuple(sorted((read | (asked - needed)) - part))


def _read(asked: set[int], args: list[tuple[int, ...]], inner: set[int], before: frozenset[int]) -> set[int]:
    """What of `inner` has to be computed for `asked`; figures of `before` are read as they stand, unless asked themselves."""
    needed: set[int] = set()
    queue = [i for i in asked if i in inner]
    while queue:
        i = queue.pop()
        if i not in needed:
            needed.add(i)
            queue.extend(a for a in args[i] if a in inner and a not in before)
    return needed


def _first(nodes: Sequence[Node], args: list[tuple[int, ...]], pick: WiredPick, own: frozenset[int]) -> tuple[int, ...]:
    """The needs that hang on no operation of the candidate; none if that is true of all of them."""
    found = []
    for k, need in enumerate(pick.needs):
        hangs_on = _read({i for i in (need.capability, need.demand, need.level) if isinstance(i, int)}, args, set(own), frozenset())
        if all(nodes[i].figure.kind == "build" for i in hangs_on):
            found.append(k)
    return tuple(found) if len(found) < len(pick.needs) else ()


def _following(roots: set[int], readers: Mapping[int, Sequence[int]], starts: set[int]) -> set[int]:
    """All that hangs on `roots`, up to where a loop closes."""
    found, queue = set(roots), list(roots)
    while queue:
        i = queue.pop()
        if i in starts and i not in roots:
            continue
        for reader in readers.get(i, ()):
            if reader not in found:
                found.add(reader)
                queue.append(reader)
    return found
