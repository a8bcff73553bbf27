"""What a sheet does not know, where, and why: masks carried from figure to figure, with the causes they began at."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import UNKNOWN, Cause, Values, context
from rhombos.core.graph.loops import Failure
from rhombos.core.graph.plan import Item, Plan
from rhombos.core.graph.wiring import Wiring

Mask = NDArray[np.int8]


class Unknowns:
    """Masks by node (0 known, 1 does not apply, 2 unknown) and their causes."""

    def __init__(self, wiring: Wiring, plan: Plan) -> None:
        self._wiring = wiring
        self._args = plan.args
        self.masks: dict[int, Mask] = {}
        self.causes: dict[int, list[Cause]] = {}
        self.spreading = False
        self.reach: set[int] = set()
        """What reads a figure that has been unknown somewhere."""
        self._together: dict[tuple[int, ...], tuple[list[Mask], Mask]] = {}
        self._upstream: list[Mask] | None = None
        """While a loop is judged: the masks of what it reads from outside."""

    def concerns(self, index: int) -> bool:
        """Whether a figure reads what is unknown somewhere."""
        return any(a in self.masks for a in self._args[index])

    def untouched(self, nodes: Sequence[int]) -> bool:
        """Whether none of these figures is unknown or reads what has been."""
        return self.reach.isdisjoint(nodes) and self.masks.keys().isdisjoint(nodes)

    def judging(self, item: Item | None) -> None:
        """From here on the figures of a loop are judged (None: no more): what it reads from outside is no cause of its own."""
        if item is None:
            self._upstream = None
            return
        inside = set(item.nodes)
        self._upstream = [self.masks[a] for i in item.nodes for a in self._args[i] if a not in inside and a in self.masks]

    def mark(self, index: int, out: Values) -> Values | None:
        """Carry the mask to a figure: own causes and the parents' masks, unless a reduction left the corner out.

        Returns the figure's values with what is unknown taken out, None where all is known.
        """
        self.clear(index)
        sources = list({id(m): m for a in self._args[index] if (m := self.masks.get(a)) is not None}.values())
        own = self._own(sources) if context.causes else []
        if own:
            self.causes[index] = own
            sources += [np.where(np.atleast_1d(cause.where), cause.kind, 0).astype(np.int8) for cause in own]
        if not sources:
            return None
        mask = _joined(sources, out.shape[-1]) if own else self._joined(sources, out.shape[-1])
        mask = self._with_what_went_before(mask, out)
        if not mask.any():
            return None
        self.masks[index] = mask if mask.shape == out.shape else np.broadcast_to(mask, np.broadcast_shapes(mask.shape, out.shape))
        # A mask on a figure that nothing reads (an efficiency without load) need not be looked for elsewhere.
        self.spreading = self.spreading or bool(self._wiring.children[index])
        self.reach.update(self._wiring.children[index])
        return np.where(mask > 0, np.nan, out)

    def _joined(self, sources: list[Mask], width: int) -> Mask:
        """The same few masks meet again and again: what they make together is kept (and they with it, so that an id stands for its mask)."""
        key = (width, *sorted(map(id, sources)))
        if key not in self._together:
            self._together[key] = sources, _joined(sources, width)
        return self._together[key][1]

    @staticmethod
    def _with_what_went_before(mask: Mask, out: Values) -> Mask:
        """A start hangs on the lasting state it begins from: without a value where that is unknown, it is unknown as well."""
        before = context.before_surge
        if before is None or mask.shape[-1] != before.size or out.shape[-1] != before.size:
            return mask
        lost = ~np.isfinite(out) & (mask == 0)
        return np.where(lost, mask[..., before], mask) if lost.any() else mask

    def _own(self, sources: list[Mask]) -> list[Cause]:
        """A formula's own causes: what it says of numbers that were unknown before it (within a loop: before the loop) is none."""
        causes = [cause.beyond(sources if self._upstream is None else self._upstream) for cause in context.causes]
        context.causes.clear()
        return [cause for cause in causes if cause.where.any()]

    def holding_causes(self, converge: Callable[[], None]) -> None:
        """Converge once more with decisions that have become unknown: what they hang on, and hangs on them, keeps its cause."""
        before = dict(self.causes)
        converge()
        for index, causes in before.items():
            if index in self.masks:
                self.causes.setdefault(index, causes)

    def clear(self, index: int) -> None:
        """A figure is known again."""
        self.masks.pop(index, None)
        self.causes.pop(index, None)

    def fail(self, index: int, failure: Failure, value: Values) -> Values:
        """A starting value at which a loop does not settle, and why; returns its values with those taken out."""
        where = failure[0]
        cause = ran_away(self._wiring.nodes[index].key, failure)
        shape = np.broadcast_shapes(value.shape, where.shape)
        mask = np.zeros(shape, dtype=np.int8)
        mask[np.broadcast_to(where, shape)] = UNKNOWN
        self.masks[index] = np.maximum(mask, self.masks[index]) if index in self.masks else mask
        self.spreading = True
        self.reach.update(self._wiring.children[index])
        own = cause.beyond(self._upstream or ())
        if own.where.any():
            self.causes.setdefault(index, []).append(own)
        return np.where(np.broadcast_to(where, shape), np.nan, value)


def ran_away(key: str, failure: Failure) -> Cause:
    """Why a loop's starting value is unknown where it did not settle."""
    where, residual, passes = failure
    sentence = f"the loop through {key} does not settle: it runs away, residual {{residual}} after {passes} passes"
    return Cause(UNKNOWN, where, sentence, {"residual": residual})


def _joined(sources: Sequence[Mask], width: int) -> Mask:
    """What is unknown of a figure that is so many corners wide, by what it reads: one without corners only where it is at all of them."""
    mask: Mask | None = None
    for source in sources:
        if width == 1 and source.shape[-1] > 1:
            source = source.min(axis=-1, keepdims=True)
        mask = source if mask is None else np.maximum(mask, source)
    assert mask is not None
    return mask
