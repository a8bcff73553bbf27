"""In which order a wired line-up is computed, and where its loops are."""

from dataclasses import dataclass

from rhombos.core.graph.cones import cones
from rhombos.core.graph.declare import Figure
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.ordering import components, cut
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
    `items` is the held solve: what follows from decisions, loops gathered (strongly connected components). `free` is
    the plan of the same wiring with nothing pinned: its loops are cut where they were there, since to find where takes time.
    """

    def __init__(self, wiring: Wiring, pinned: frozenset[int], free: "Plan | None" = None) -> None:
        self.wiring = wiring
        self.free = free
        self.pinned = pinned
        self.args: list[tuple[int, ...]] = [() if n.index in pinned or n.figure.kind == "pick" else n.args for n in wiring.nodes]
        self.cones = cones(wiring.nodes, self.args, wiring.picks)
        everything = range(len(wiring.nodes))
        self._wide = components(list(everything), self.args)
        looped = {i for part in self._wide for i in part if len(part) > 1 or i in self.args[i]}
        self.starts = frozenset(i for i in looped if wiring.nodes[i].figure.start is not None)
        self.tears = self._tears()
        self.order = self._topological(self.tears)
        self.first_order = self._topological(self.starts)
        position = {i: k for k, i in enumerate(self.order)}
        operations = [i for i in self.order if follows(wiring.nodes[i].figure) and i not in pinned]
        inside = set(operations)
        held_args = [tuple(a for a in self.args[i] if a in inside) if i in inside else () for i in everything]
        self.items: list[Item] = []
        for part in components(operations, held_args):
            nodes = tuple(sorted(part, key=lambda i: position[i]))
            loop = len(nodes) > 1 or nodes[0] in held_args[nodes[0]]
            self.items.append(self._loop(nodes, held_args) if loop else Item(nodes))
        self._passes()

    def _passes(self) -> None:
        """What the outer passes look at again: all that hangs on a starting value, directly or not, and that a decision or a loop hangs on."""
        nodes = self.wiring.nodes
        self.kinds = [n.figure.kind for n in nodes]
        self.functions = [n.fn for n in nodes]
        # So does a pick that looks ahead: at what is decided after it.
        loose: set[int] = set(self.starts) | {i for i, cone in self.cones.items() if cone.ahead}
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
        led, back = self._read_by_decisions(), self._leading_back()
        self.behind = self._once({i for i in self.moving if i in led and i not in back})
        """What nothing that repeats hangs on: decided once, when all else rests."""
        self.moving = [i for i in self.moving if i in led and i in back]
        moving = set(self.moving)
        self.first = [i for i in self.first_order if i in moving]
        self.to_rest = self._to_rest(moving)
        self.followers = self._followers()

    def _to_rest(self, moving: set[int]) -> list[Item]:
        """The loops, each behind what follows from decisions and leads to it: so it comes to rest at the decisions as they stand, not as they stood when a pass came by.

        Among and behind them what the next pass reads from before and no decision stands at: so no turn is counted by a drop that
        the loops have since left.
        """
        loops = [item for item in self.items if item.tears]
        feeding = {i for item in loops for i in item.nodes} | (self.tears & moving)
        out: list[Item] = []
        for item in reversed(self.items):
            if item.tears or (item.nodes[0] in moving and item.nodes[0] in feeding):
                feeding.update(a for i in item.nodes for a in self.args[i])
                out.append(item)
        return out[::-1]

    def _followers(self) -> dict[int, tuple[int, ...]]:
        """By decision or pick: the decisions with a safe side that are made later in a pass from it, by figures alone. Where it has moved, what they were before says nothing."""
        nodes, place = self.wiring.nodes, {i: k for k, i in enumerate(self.moving)}
        looped = {i for item in self.items if item.tears for i in item.nodes}
        out: dict[int, tuple[int, ...]] = {}
        for i in (i for i in self.moving if nodes[i].figure.safe is not None and i in self.decided):
            seen, queue = set[int](), list(self.args[i])
            while queue:
                a = queue.pop()
                if a in seen or a in looped:
                    continue
                seen.add(a)
                if a not in self.decided and self.kinds[a] != "pick":
                    queue.extend(self.args[a])
                elif a in place and place[a] < place[i]:
                    out[a] = (*out.get(a, ()), i)
        return out

    def _read_by_decisions(self) -> set[int]:
        """Decisions, picks and loops, and all that they are computed from; the rest follows once all rests."""
        return self._computed_from([*self.decided, *self.cones, *(i for item in self.items if item.tears for i in item.nodes)])

    def _leading_back(self) -> set[int]:
        """What leads back to itself, by way of figures, decisions or parts, and all that it is computed from: what passes have to repeat."""
        everything = range(len(self.args))
        edges = [self._reads(i) for i in everything]
        return self._computed_from([i for part in components(list(everything), edges) for i in part if len(part) > 1 or i in edges[i]])

    def _once(self, nodes: set[int]) -> list[int]:
        """In an order in which a pick comes after all that it looks ahead at."""
        reads = [tuple(a for a in self._reads(i) if a in nodes) if i in nodes else () for i in range(len(self.args))]
        return [i for part in components(sorted(nodes), reads) for i in part]

    def _computed_from(self, ends: list[int]) -> set[int]:
        found: set[int] = set()
        while ends:
            i = ends.pop()
            if i not in found:
                found.add(i)
                ends.extend(self._reads(i))
        return found

    def _reads(self, i: int) -> tuple[int, ...]:
        return self.args[i] + (self.cones[i].inputs if i in self.cones else ())

    def _loop(self, nodes: tuple[int, ...], args: list[tuple[int, ...]]) -> Item:
        before = {t for item in self.free.items for t in item.tears} if self.free else ()
        found = cut(nodes, args, self.starts, before)
        assert found is not None, "the whole line-up is acyclic without its starting values, so a part of it is"
        return Item(*found)

    def _tears(self) -> frozenset[int]:
        """The starting values that a pass reads from the one before: as few as cut every loop, so that what changes is felt in the same pass."""
        loops = [part for part in self._wide if len(part) > 1 or part[0] in self.args[part[0]]]
        found = [cut(part, self.args, self.starts, self.free.tears if self.free else ()) for part in loops]
        return frozenset().union(*(self.starts.intersection(part) if cuts is None else cuts[1] for part, cuts in zip(loops, found, strict=True)))

    def _topological(self, tears: frozenset[int]) -> list[int]:
        """Every node that is computed, arguments first; edges out of starting values that are read from before do not count."""
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
                    if arg in tears or state[arg] == 2:
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
                    if self.args[node] or nodes[node].figure.kind == "pick":
                        order.append(node)
        return order
