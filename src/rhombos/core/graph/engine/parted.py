"""Some variants of a sheet apart from the others: taken out, worked on, and put back."""

import copy

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.judged import Judgements
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.resting import Kept

Places = NDArray[np.intp]


def part_of(whole: SheetNumbers, places: Places, *, own_desk: bool = False, in_place: bool = False) -> SheetNumbers:
    """The numbers of the variants at `places`, in that order, to be worked on apart.

    At the same desk, or at an `own_desk`, beside the others. `in_place` they have the room of the whole, of which nothing else is left; `places` are as
    `moved_up` gives them then.
    """
    part = copy.copy(whole)
    part.lanes = part.variants = len(places)
    part.blocks = -(-part.lanes // LANES)
    if in_place:
        _move(whole.buffer, whole.buffer, places, np.arange(part.lanes))
        part.buffer = whole.buffer[: part.blocks]
        part.even_out()
    else:
        part.buffer = lanes_of(whole.buffer, places)
    padded = np.pad(places, (0, -len(places) % LANES), mode="edge")
    asked = {pick: former[padded] for pick, former in whole.asked.items()}
    part.stand_by(whole.judgements.part(places), asked, whole.layout.desk() if own_desk else None)
    return part


def moved_up(places: Places) -> Places:
    """The same places in another order: each that is among the first stays where it is, and those behind fill the gaps."""
    count = len(places)
    order, here = np.arange(count), places[places < count]
    gaps = np.setdiff1d(order, here, assume_unique=True)
    order[gaps] = places[places >= count]
    return order


def put_back(whole: SheetNumbers, part: SheetNumbers, places: Places) -> None:
    """Let the variants at `places` stand as in `part`, where they lie one behind the other."""
    _move(part.buffer, whole.buffer, np.arange(part.lanes), places)
    whole.judgements.put_in(part.judgements, places)


def lanes_of(buffer: NDArray[np.float64], places: Places) -> NDArray[np.float64]:
    """(blocks, rows, LANES) of the variants at `places`; spare lanes repeat the last one."""
    blocks = -(-len(places) // LANES)
    out = aligned(blocks, buffer.shape[1], LANES)
    _move(buffer, out, np.pad(places, (0, blocks * LANES - len(places)), mode="edge"), np.arange(blocks * LANES))
    return out


def _move(given: NDArray[np.float64], taken: NDArray[np.float64], places: Places, goals: Places) -> None:
    """Variants at `places` of one buffer to `goals` of the other, both (blocks, rows, LANES)."""
    assert places.max(initial=0) < given.shape[0] * LANES, "a variant that is not there"
    assert goals.max(initial=0) < taken.shape[0] * LANES, "nor room for one"
    other = places != goals if given is taken else np.ones(len(places), dtype=bool)
    at, to = (np.ascontiguousarray(a[other], dtype=np.int64) for a in (places, goals))
    MACHINE.take_lanes(given.ctypes.data, taken.ctypes.data, given.shape[1], len(at), at.ctypes.data, to.ctypes.data)


def kept_of(kept: Kept, judgements: Judgements, places: Places) -> Kept:
    """What was kept of many variants, of those at `places`; `judgements` are of the same picks."""
    return Kept(lanes_of(kept.buffer, places), judgements.among(kept.picked, places))
