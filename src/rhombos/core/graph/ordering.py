"""Orders of computation: loops found, cut where they may be, and what remains sorted."""

from collections import Counter
from collections.abc import Collection, Sequence

Args = Sequence[Sequence[int]]
"""What every node is computed from."""


def cut(nodes: Sequence[int], args: Args, starts: Collection[int], before: Collection[int] = ()) -> tuple[tuple[int, ...], tuple[int, ...]] | None:
    """Nodes in an order that has arguments first, and the starting values that are read from before: as few as cut every loop.

    Fewer cuts settle in fewer passes: what need not be guessed is computed. None where the starting values cut not all.
    Those that cut much the same nodes `before` are taken again, if they still do: that is found in no time.
    """
    inside = set(nodes)
    again = tuple(n for n in nodes if n in before and n in starts)
    if again and (order := _sorted(nodes, args, inside, frozenset(again))) is not None:
        return tuple(order), again
    tears: list[int] = []
    left = _loops(nodes, args)
    while left:
        widest = max(left, key=len)
        members = set(widest)
        readers = Counter(a for m in widest for a in set(args[m]))
        here = [n for n in widest if n in starts]
        if not here:
            return None
        tears.append(max(here, key=lambda n: (readers[n] * sum(1 for a in args[n] if a in members), -n)))
        at = left.index(widest)
        left[at : at + 1] = _loops([n for n in widest if n != tears[-1]], args)
    for tear in reversed(list(tears)):
        rest = [t for t in tears if t != tear]
        if _sorted(nodes, args, inside, frozenset(rest)) is not None:
            tears = rest
    found = _sorted(nodes, args, inside, frozenset(tears))
    return None if found is None else (tuple(found), tuple(tears))


def _loops(nodes: Sequence[int], args: Args) -> list[list[int]]:
    """The strongly connected components in which something leads back to itself."""
    return [part for part in components(nodes, args) if len(part) > 1 or part[0] in args[part[0]]]


def components(members: Sequence[int], args: Args) -> list[list[int]]:
    """Strongly connected components (Tarjan), each after those it depends on."""
    allowed = set(members)
    number: dict[int, int] = {}
    low: dict[int, int] = {}
    on_stack: set[int] = set()
    stack: list[int] = []
    parts: list[list[int]] = []
    for root in members:
        if root in number:
            continue
        work = [(root, iter(args[root]))]
        number[root] = low[root] = len(number)
        stack.append(root)
        on_stack.add(root)
        while work:
            node, it = work[-1]
            for arg in it:
                if arg not in allowed:
                    continue
                if arg not in number:
                    number[arg] = low[arg] = len(number)
                    stack.append(arg)
                    on_stack.add(arg)
                    work.append((arg, iter(args[arg])))
                    break
                if arg in on_stack:
                    low[node] = min(low[node], number[arg])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[node])
                if low[node] == number[node]:
                    part = []
                    while True:
                        member = stack.pop()
                        on_stack.discard(member)
                        part.append(member)
                        if member == node:
                            break
                    parts.append(part)
    return parts


def _sorted(nodes: Sequence[int], args: Args, inside: set[int], without: frozenset[int]) -> list[int] | None:
    """The nodes with arguments first, reading nodes `without` from before; None where a cycle is left."""
    waiting = {n: sum(1 for a in set(args[n]) if a in inside and a not in without) for n in nodes}
    readers: dict[int, list[int]] = {n: [] for n in nodes}
    for n in nodes:
        for a in set(args[n]):
            if a in inside and a not in without:
                readers[a].append(n)
    ready = [n for n in nodes if waiting[n] == 0]
    order = []
    while ready:
        node = ready.pop(0)
        order.append(node)
        for reader in readers[node]:
            waiting[reader] -= 1
            if waiting[reader] == 0:
                ready.append(reader)
    return order if len(order) == len(nodes) else None
