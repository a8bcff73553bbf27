"""Programs that carry what is not known from figure to figure, on the tape as the figures themselves.

Beside its value every figure that can be unknown has a mask: 0 known, 1 does not apply, 2 unknown (`numeric`). It is
the worst of what the figure reads, and of its own conditions where what it reads is known; where it is not 0 the
value is taken out. Masks lie on the bench, so that a sheet on which all is known knows nothing of them.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cache, reduce
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.expression import condition
from rhombos.core.formulas.numeric import UNKNOWN, before_surge, lowest
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.tape import Place, Records, Writer, program_of
from rhombos.core.graph.engine.template import Template, template
from rhombos.core.graph.plan import Item

if TYPE_CHECKING:
    from rhombos.core.graph.engine.layout import Layout


@dataclass(frozen=True)
class _Reading:
    """What a mask is made of: by mask read, and by condition, whether it has its corners; the conditions' kinds.

    In a loop a condition speaks only where what the whole loop reads from outside is known: two more masks, one with
    its corners and one without.
    """

    masks: tuple[bool, ...]
    conditions: tuple[bool, ...]
    kinds: tuple[int, ...]
    wide: bool
    looped: bool


@dataclass(frozen=True)
class LoopMarks:
    """A loop's programs, from where it came to rest and from where some of it did not; what it reads from outside that may be unknown."""

    settled: Program
    failed: Program
    upstream: tuple[int, ...]


class Marking:
    """The programs of a layout, one for each part of the held solve, and one that judges the decisions."""

    def __init__(self, layout: "Layout") -> None:
        self.layout = layout
        self.plan = layout.plan
        self.writer = Writer(layout.corners, layout.across)
        self.maybe = _maybe(layout)
        self.places: dict[int, int] = {i: self.writer.keep(layout.size[i]) for i in sorted(self.maybe)}
        """Where on the bench each figure's mask lies."""
        self.masks = self.writer.taken
        """So many vectors of the bench are masks, from its start on."""
        self.node_of = np.repeat(sorted(self.maybe), [layout.size[i] for i in sorted(self.maybe)])
        """Whose mask each of them belongs to."""
        self.spreading = np.array([bool(layout.plan.wiring.children[i]) for i in self.node_of.tolist()], dtype=np.bool_)
        """Which of them belong to a figure that another one reads."""
        self.failing = self.writer.keep(max(layout.across, layout.corners if not layout.across else 1))
        """Where a loop says which corners did not settle."""
        self.parts = {id(part): self._loop(part) if isinstance(part, LoopSteps) else self._run(_nodes(part)) for part in layout.held}
        looped = {i for item in self.plan.items for i in item.nodes if item.tears}
        self.between = self.maybe - looped - self.plan.decided - self.plan.pinned
        """What is looked at between two decisions: where a loop lies between them, the next turn sees it."""
        self.decisions = self._decisions()
        programs = [p for made in self.parts.values() for p in ((made.settled, made.failed) if isinstance(made, LoopMarks) else (made,))]
        programs.append(self.decisions)
        self.writer.settle([p.records for p in programs])
        for program in programs:
            check(program.records, layout.rows, self.writer.vectors, len(layout.row), layout.across)

    def _program(self, nodes: Sequence[int], words: list[Records]) -> Program:
        records = program_of(words)
        return Program(tuple(nodes), records, int(records.ctypes.data), len(records), ())

    def _run(self, nodes: Sequence[int]) -> Program:
        return self._program(nodes, [some for i in nodes for some in self._figure(i)])

    def _mask(self, index: int) -> Place:
        return self.places[index], self.layout.wide[index]

    def _sources(self, index: int) -> list[Place]:
        return [self._mask(a) for a in dict.fromkeys(self.plan.args[index]) if a in self.maybe]

    def _figure(self, index: int, upstream: list[Place] | None = None, stands: Place | None = None) -> list[Records]:
        """A figure worked out, its mask made and its value taken out where that says so. `stands`: keep what lies there as its value."""
        layout, writer = self.layout, self.writer
        of, wide, row = layout.templates[index], layout.wide[index], layout.row[index]
        assert of is not None, "what is left to NumPy is marked by NumPy"
        if index not in self.maybe:
            return writer.write(of, layout.places_of(index), row, wide=wide, judged=False)
        made = writer.room(layout.size[index])
        words, conditions = writer.worked(of, layout.places_of(index), made, wide=wide)
        sources = self._sources(index)
        reading = _Reading(tuple(w for _, w in sources), tuple(w for _, w in conditions), of.kinds, wide, upstream is not None)
        words += writer.write(_mark(reading), [(made, wide), *sources, *conditions, *(upstream or ())], self.places[index], wide=wide, flag=index)
        return words + writer.write(_TAKEN, [stands or (made, wide), self._mask(index)], row, wide=wide, judged=False)

    def _loop(self, loop: LoopSteps) -> LoopMarks:
        item = loop.item
        inside = set(item.nodes)
        outside = tuple(dict.fromkeys(a for i in item.nodes for a in self.plan.args[i] if a not in inside and a in self.maybe))
        return LoopMarks(self._settled(item, outside), self._failed(item, outside), outside)

    def _upstream(self, outside: Sequence[int]) -> tuple[list[Records], list[Place]]:
        """What of all that a loop reads from outside is unknown: with its corners, and where it is at every corner."""
        places = [self._mask(a) for a in outside]
        words: list[Records] = []
        union: list[Place] = []
        for wide in (True, False):
            of = _union(tuple(w for _, w in places), wide)
            union.append((self.writer.room(self.writer.size(wide=wide)), wide))
            words += self.writer.write(of, places, union[-1][0], wide=wide, judged=False)
        return words, union

    def _nothing(self, nodes: Collection[int]) -> list[Records]:
        """Nothing is unknown of what a pass reads before it is made."""
        zero = self.writer.constant(0.0), False
        return [self.writer.record("copy", self.places[i], self.layout.size[i], [zero]) for i in nodes]

    def _settled(self, item: Item, outside: Sequence[int]) -> Program:
        """From starting values at rest, which stand."""
        words = self._nothing(item.tears)
        upstream, union = self._upstream(outside)
        words += upstream
        for i in item.nodes:
            words += self._figure(i, union, (self.layout.row[i], self.layout.wide[i]) if i in item.tears else None)
        return self._program(item.nodes, words)

    def _failed(self, item: Item, outside: Sequence[int]) -> Program:
        """What the starting values themselves say of the state they ran into, then that they ran; then all that hangs on them."""
        words = self._nothing(item.nodes)
        upstream, union = self._upstream(outside)
        words += upstream
        for i in item.tears:
            words += self._figure(i, union)
            words += self.writer.write(_WORSE, [self._mask(i), (self.failing, self.layout.wide[i])], self.places[i], wide=self.layout.wide[i], judged=False)
            row = self.layout.row[i]
            words += self.writer.write(_TAKEN, [(row, self.layout.wide[i]), self._mask(i)], row, wide=self.layout.wide[i], judged=False)
        for i in item.nodes:
            if i not in item.tears:
                words += self._figure(i, union)
        return self._program(item.nodes, words)

    def _decisions(self) -> Program:
        """Decisions that have nothing left to be made from, in line-up order; what is computed between them on the way."""
        plan, writer = self.plan, self.writer
        words: list[Records] = []
        for i in plan.order:
            if i in self.between:
                words += self._figure(i)
            if i in self.between or i not in plan.decided or i not in self.maybe:
                continue
            sources, row = self._sources(i), self.layout.row[i]
            words += writer.write(_union(tuple(w for _, w in sources), False), sources, self.places[i], wide=False, judged=False)
            words += writer.write(_TAKEN, [(row, False), self._mask(i)], row, wide=False, judged=False)
        return self._program(plan.order, words)


def _nodes(part: tuple[Step, ...]) -> list[int]:
    return [i for step in part for i in (step.nodes if isinstance(step, Program) else (step,))]


def _maybe(layout: "Layout") -> frozenset[int]:
    """The figures that can be unknown: with a condition of their own, where a loop starts, and all that hangs on those."""
    plan = layout.plan
    found = {i for i in plan.order if (of := layout.templates[i]) is not None and of.conditions and plan.args[i] and i not in plan.pinned}
    found |= {t for item in plan.items for t in item.tears}
    grown = True
    while grown:
        grown = False
        for i in plan.order:
            if i not in found and i not in plan.pinned and plan.kinds[i] not in ("pick", "published") and any(a in found for a in plan.args[i]):
                found.add(i)
                grown = True
    return frozenset(found)


def _template(fn: Any, count: int) -> Template:
    made = template(fn, count)
    assert made is not None, "plain operations"
    return made


def _joined(masks: Sequence[Any], wides: Sequence[bool], *, wide: bool) -> Any:
    """The worst of several masks; one with corners counts for a figure without where every corner is unknown."""
    return reduce(np.fmax, [m if wide or not w else lowest(m) for m, w in zip(masks, wides, strict=True)])


@cache
def _mark(of: _Reading) -> Template:
    """A figure's mask from its value, the masks of what it reads, its conditions, and what is unknown outside its loop."""

    def mark(value: Any, *rest: Any) -> Any:
        masks, rest = rest[: len(of.masks)], rest[len(of.masks) :]
        conditions, upstream = rest[: len(of.conditions)], rest[len(of.conditions) :]
        found = _joined(masks, of.masks, wide=of.wide) if masks else 0.0
        for ok, wide, kind in zip(conditions, of.conditions, of.kinds, strict=True):
            own = np.where(ok, 0.0, float(kind))
            before = (upstream[0] if wide else upstream[1]) if of.looped else _joined(masks, of.masks, wide=wide) if masks else None
            if before is not None:
                own = np.where(before > 0, 0.0, own)
            condition(own <= 0, kind)
            found = np.fmax(found, lowest(own) if wide and not of.wide else own)
        # A start hangs on the lasting state it begins from: without a value where that is unknown, it is unknown as well.
        return np.where((found <= 0) & ~np.isfinite(value), before_surge(found), found) if of.wide else found

    return _template(mark, 1 + len(of.masks) + len(of.conditions) + (2 if of.looped else 0))


@cache
def _union(masks: tuple[bool, ...], wide: bool) -> Template:
    return _template(lambda *given: _joined(given, masks, wide=wide) if given else 0.0, len(masks))


_TAKEN = _template(lambda value, mask: np.where(mask > 0, np.nan, value), 2)
_WORSE = _template(lambda mask, failing: np.where(failing > 0, np.fmax(mask, float(UNKNOWN)), mask), 2)


class Marks:
    """The masks of one solve: a bench of its own for them, and beside it those of every block."""

    def __init__(self, marking: Marking, lanes: int, blocks: int) -> None:
        self.marking = marking
        self.bench = marking.writer.bench(lanes)
        self.bench[: marking.masks] = 0.0
        self._kept = np.zeros((blocks, marking.masks, lanes)) if blocks > 1 else None
        self._spreads: bool | None = False
        """None where it has to be looked up."""

    def forget(self) -> None:
        """All is known again."""
        self.all_masks().fill(0.0)
        self._spreads = False

    def all_masks(self) -> NDArray[np.float64]:
        """(blocks, vectors, lanes)."""
        return self.bench[None, : self.marking.masks] if self._kept is None else self._kept

    def spreads(self) -> bool:
        """Whether something is unknown that another figure reads."""
        if self._spreads is None:
            self._spreads = bool(self.all_masks()[:, self.marking.spreading].any())
        return self._spreads

    def block(self, k: int) -> None:
        """The masks of block `k` lie on the bench from now on."""
        if self._kept is not None:
            self.bench[: self.marking.masks] = self._kept[k]

    def done(self, k: int) -> None:
        """What has become of them is kept."""
        self._spreads = None
        if self._kept is not None:
            self._kept[k] = self.bench[: self.marking.masks]

    def fail(self, where: NDArray[np.bool_]) -> None:
        """Say at which corners the loop of this block did not settle: (vectors, lanes)."""
        first = -1 - self.marking.failing
        self.bench[first : first + len(where)] = where
