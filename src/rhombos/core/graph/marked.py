"""What one solve does not know, marked by the machine: masks by the programs of `engine.marking`, causes by the formulas themselves."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Cause, said
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.marking import LoopMarks, Marking, Marks
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.loops import Failure
from rhombos.core.graph.unknown import Mask, ran_away

if TYPE_CHECKING:
    from rhombos.core.graph.engine.layout import Layout


class Marked:
    """Masks and causes of one solve. Nothing is made ready until something is not known."""

    def __init__(self, layout: "Layout", values: SheetNumbers) -> None:
        self._layout = layout
        self._values = values
        self._nodes = layout.plan.wiring.nodes
        self._made: Marks | None = None
        self._masked: frozenset[int] | None = None
        self._everywhere: Mask | None = None
        self.causes: dict[int, list[Cause]] = {}
        self.telling = True
        """Whether causes are written down; only where something is unknown is asked otherwise."""
        self.ends: dict[int, Mask] = {}
        """Masks of figures that nothing reads; what they say is asked of them when somebody wants to know."""

    @property
    def spreading(self) -> bool:
        """Whether something is unknown that other figures read."""
        return self._made is not None and self._made.spreads()

    def clear(self) -> None:
        """All is known again."""
        if self._made is not None:
            self._made.forget()
        self._masked = self._everywhere = None
        self.causes.clear()
        self.ends.clear()

    def part(self, part: tuple[Step, ...]) -> None:
        """Mark the figures of a part that has been computed."""
        if not self.spreading and self._only_ends():
            return
        program = self._marking.parts[id(part)]
        assert isinstance(program, Program), "no loop"
        self._mark(program)
        self._note(program.nodes, lambda i: self._masks_of(self._layout.plan.args[i]))

    def _only_ends(self) -> bool:
        """Where nothing is unknown but figures that nothing reads: their values say where, and their formulas of what kind."""
        values, layout = self._values, self._layout
        found = np.flatnonzero(values.flags)
        kinds = layout.end_kinds[found]
        if not kinds.all():
            return False
        if values.variants is None:
            # Corners lie one behind the other.
            missing = np.isnan(values.buffer[0, layout.rows_of[found][:, None] + layout.vectors]).reshape(len(found), -1)
            self.ends.update((i, mask[: layout.count[i]]) for i, mask in zip(found.tolist(), missing * kinds[:, None], strict=True))
        else:
            self.ends.update((i, np.where(np.isnan(np.atleast_1d(values[i])), kind, 0).astype(np.int8)) for i, kind in zip(found.tolist(), kinds, strict=True))
        values.flags.fill(0)
        return True

    def loop(self, loop: LoopSteps, failed: Mapping[int, Failure]) -> None:
        """Mark the figures of a loop; what did not settle says itself of the state it ran into first, then that it ran."""
        made = self._marking.parts[id(loop)]
        assert isinstance(made, LoopMarks), "a loop"
        if not failed:
            self._mark(made.settled)
            upstream = self._masks_of(made.upstream)
            self._note(loop.item.nodes, lambda _: upstream)
            return
        said = {i: self._said(i) for i in failed} if self.telling else {}
        self._mark(made.failed, next(iter(failed.values()))[0])
        if not self.telling:
            self._values.flags.fill(0)
            return
        upstream = self._masks_of(made.upstream)
        self._note([i for i in loop.item.nodes if i not in failed], lambda _: upstream)
        for index, failure in failed.items():
            self._keep(index, [*said[index], ran_away(self._nodes[index].key, failure)], upstream)

    def decisions(self) -> bool:
        """Say of decisions which have nothing left to be made from; whether there is one more."""
        before = self._found() & self._layout.plan.decided
        self._mark(self._marking.decisions)
        for i in [i for i in self.causes if i in self._marking.between and not self._values.flags[i]]:
            del self.causes[i]
        self._values.flags.fill(0)
        return not (self._found() & self._layout.plan.decided) <= before

    def holding_causes(self, converge: Callable[[], None]) -> None:
        """Converge once more with decisions that have become unknown: what they hang on, and hangs on them, keeps its cause."""
        before = dict(self.causes)
        converge()
        for index, causes in before.items():
            if self._is_masked(index):
                self.causes.setdefault(index, causes)

    def mask(self, index: int) -> Mask | None:
        """0 known, 1 does not apply, 2 unknown, shaped as the values; None where all is known."""
        if index in self.ends:
            return self.ends[index]
        return self._read(index, self._all_masks()) if self._is_masked(index) else None

    def masks(self) -> dict[int, Mask]:
        """Of all figures that are unknown somewhere."""
        if self._made is None:
            return dict(self.ends)
        everywhere, found = self._all_masks(), sorted(self._found() - self.ends.keys())
        if self._values.variants is not None:
            return self.ends | {i: self._read(i, everywhere) for i in found}
        # Of a single sheet corners lie one behind the other.
        row, places, count = everywhere.reshape(-1), self._marking.places, self._layout.count
        firsts = ((i, (-1 - places[i]) * LANES) for i in found)
        return self.ends | {i: row[first : first + count[i]] for i, first in firsts}

    def _is_masked(self, index: int) -> bool:
        return index in self.ends or (self._made is not None and index in self._found())

    def _all_masks(self) -> Mask:
        if self._everywhere is None:
            assert self._made is not None, "nothing is masked before something was marked"
            self._everywhere = self._made.all_masks().astype(np.int8)
        return self._everywhere

    def _read(self, index: int, everywhere: Mask) -> Mask:
        layout, first = self._layout, -1 - self._marking.places[index]
        return self._values.shown(everywhere[:, first : first + layout.size[index]], layout.count[index])

    def _found(self) -> frozenset[int]:
        """The figures with a mask, as they were marked last."""
        if self._masked is None:
            vectors = np.flatnonzero(self._all_masks().any(axis=(0, 2)))
            self._masked = frozenset(np.unique(self._marking.node_of[vectors]).tolist())
        return self._masked

    @property
    def _marking(self) -> Marking:
        return self._layout.marking

    @property
    def _marks(self) -> Marks:
        if self._made is None:
            self._made = Marks(self._marking, LANES, self._values.blocks)
        return self._made

    def _mark(self, program: Program, failed: NDArray[np.bool_] | None = None) -> None:
        self._values.flags.fill(0)
        self._values.mark(program, self._marks, failed)
        self._masked = self._everywhere = None

    def _masks_of(self, nodes: Sequence[int]) -> list[Mask]:
        return [mask for i in dict.fromkeys(nodes) if (mask := self.mask(i)) is not None]

    def _note(self, nodes: Sequence[int], before: Callable[[int], list[Mask]]) -> None:
        """Write down what the figures say whose own conditions do not hold, where what is `before` them is known."""
        flags = self._values.flags
        if not self.telling:
            flags.fill(0)
            return
        here = frozenset(nodes) if self.causes or self.ends else frozenset()
        for told in (self.causes, self.ends):
            for i in told.keys() & here:
                del told[i]
        if flags.any():
            for i in [i for i in nodes if flags[i]]:
                self._keep(i, self._said(i), before(i))
        flags.fill(0)

    def _keep(self, index: int, causes: list[Cause], before: list[Mask]) -> None:
        own = [cause for cause in (c.beyond(before) for c in causes) if cause.where.any()]
        if own:
            self.causes[index] = own

    def _said(self, index: int) -> list[Cause]:
        """What a formula says of the numbers as they stand."""
        fn, args = self._nodes[index].fn, self._layout.plan.args[index]
        return [] if fn is None or not args else said(fn, (self._values[a] for a in args))
