"""In which order a wired line-up is computed, and where its loops are."""

from dataclasses import dataclass

from rhombos.core.graph.declare import Figure
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.wiring import Wiring


@dataclass(frozen=True)
class Item:
    """A step of the held solve: one node, or a loop with the nodes that carry its starting values."""

    nodes: tuple[int, ...]
    tears: tuple[int, ...] = ()


def follows(figure: Figure) -> bool:
    """Whether a figure follows from decisions: it is computed in a held sheet too."""
    return figure.kind in ("operation", "collected") or (figure.kind == "build" and not figure.decided)


class Plan:
    """The order of computation for one wiring and one set of pinned figures.

    `order` runs through all that is computed, builds included, reading starting values where a loop closes;
    `items` is the held solve: what follows from decisions, loops gathered (strongly connected components).
    """

    def __init__(self, wiring: Wiring, pinned: frozenset[int]) -> None:
        self.wiring = wiring
        self.pinned = pinned
        self.args: list[tuple[int, ...]] = [() if n.index in pinned and n.figure.kind != "pick" else n.args for n in wiring.nodes]
        everything = range(len(wiring.nodes))
        self._wide = components(list(everything), self.args)
        looped = {i for part in self._wide for i in part if len(part) > 1 or i in self.args[i]}
        self.starts = frozenset(i for i in looped if wiring.nodes[i].figure.start is not None)
        self.order = self._topological()
        position = {i: k for k, i in enumerate(self.order)}
        operations = [i for i in self.order if follows(wiring.nodes[i].figure) and i not in pinned]
        inside = set(operations)
        held_args = [tuple(a for a in self.args[i] if a in inside) if i in inside else () for i in everything]
        self.items: list[Item] = []
        for part in components(operations, held_args):
            nodes = tuple(sorted(part, key=lambda i: position[i]))
            loop = len(nodes) > 1 or nodes[0] in held_args[nodes[0]]
            self.items.append(self._loop(nodes, held_args) if loop else Item(nodes))
        moving: set[int] = set()
        self.after_loops: list[Item] = []
        for item in self.items:
            if item.tears or any(a in moving for i in item.nodes for a in held_args[i]):
                moving.update(item.nodes)
                self.after_loops.append(item)
        self._after_build(inside)

    def _after_build(self, operations: set[int]) -> None:
        """What the outer passes look at again: all that hangs on a starting value, directly or not."""
        nodes = self.wiring.nodes
        self.kinds = [n.figure.kind for n in nodes]
        self.functions = [n.fn for n in nodes]
        loose: set[int] = set(self.starts)
        for _ in range(2):
            for i in self.order:
                if any(a in loose for a in self.args[i]):
                    loose.add(i)
        self.moving = [
            i
            for i in self.order
            if i in loose and self.kinds[i] in ("build", "pick", "operation", "collected") and (i not in self.pinned or self.kinds[i] == "pick")
        ]
        again = set(self.moving)
        self.still = [i for i in self.order if i not in again]
        self.decided = {n.index for n in nodes if n.figure.decided}

    def _loop(self, nodes: tuple[int, ...], args: list[tuple[int, ...]]) -> Item:
        """A loop with as few of its starting values as cut it, in an order that follows from them.

        Fewer cuts settle in fewer passes: what need not be guessed is computed.
        """
        inside = set(nodes)
        tears: list[int] = []
        while True:
            left = [part for part in components([n for n in nodes if n not in tears], args) if len(part) > 1 or part[0] in args[part[0]]]
            if not left:
                break
            widest = max(left, key=len)
            members = set(widest)
            readers = {n: sum(1 for m in widest if n in args[m]) for n in widest}
            starts = [n for n in widest if n in self.starts]
            tears.append(max(starts, key=lambda n: (readers[n] * sum(1 for a in args[n] if a in members), -n)))
        for tear in reversed(list(tears)):
            rest = [t for t in tears if t != tear]
            if _sorted(nodes, args, inside, frozenset(rest)) is not None:
                tears = rest
        order = _sorted(nodes, args, inside, frozenset(tears))
        assert order is not None, "the whole line-up is acyclic without its starting values, so a part of it is"
        return Item(tuple(order), tuple(tears))

    def _topological(self) -> list[int]:
        """Every node that is computed, arguments first; edges out of starting values do not count."""
        nodes = self.wiring.nodes
        state = [0] * len(nodes)
        order: list[int] = []
        for root in range(len(nodes)):
            stack = [(root, iter(self.args[root]))] if state[root] == 0 else []
            if stack:
                state[root] = 1
            while stack:
                node, it = stack[-1]
                for arg in it:
                    if arg in self.starts or state[arg] == 2:
                        continue
                    if state[arg] == 1:
                        trail = [n for n, _ in stack]
                        cycle = [nodes[n].key for n in trail[trail.index(arg) :]]
                        raise WiringError("a loop has no starting value: " + " → ".join([*cycle, cycle[0]]), cycle=cycle)
                    state[arg] = 1
                    stack.append((arg, iter(self.args[arg])))
                    break
                else:
                    stack.pop()
                    state[node] = 2
                    if self.args[node]:
                        order.append(node)
        return order


def components(members: list[int], args: list[tuple[int, ...]]) -> list[list[int]]:
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


def _sorted(nodes: tuple[int, ...], args: list[tuple[int, ...]], inside: set[int], cut: frozenset[int]) -> list[int] | None:
    """The nodes with arguments first, reading cut nodes from before; None where a cycle is left."""
    waiting = {n: sum(1 for a in set(args[n]) if a in inside and a not in cut) for n in nodes}
    readers: dict[int, list[int]] = {n: [] for n in nodes}
    for n in nodes:
        for a in set(args[n]):
            if a in inside and a not in cut:
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
