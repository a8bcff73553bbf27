"""What has been decided of a sheet's picks, of every variant."""

from collections.abc import Mapping
from itertools import accumulate
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.told import TURNED
from rhombos.core.graph.picked import PickState

Remembered = tuple[NDArray[Any], ...]
"""Of all picks the choices, whether they fit, their courses, and who is rejected."""


class Judged:
    """What has been decided of one pick: the candidate of every variant, whether it fits, which are rejected, and which way the choice went."""

    def __init__(self, chosen: NDArray[np.int64], fits: NDArray[np.bool_], course: NDArray[np.int64], rejected: NDArray[np.bool_]) -> None:
        self.chosen, self.fits, self.rejected = chosen, fits, rejected
        self.course = course
        """Which way along the prices the choice went last (±1), times one more than the times it has turned."""
        self.room = rejected.shape[-1]
        """How many candidates there is room for."""
        *self.addresses, self.course_address = [int(a.ctypes.data) for a in (rejected, chosen, fits, course)]


class Judgements:
    """What has been decided of all picks of a layout, side by side, so that it is kept, compared and forgotten at once.

    `rooms` says by pick how many candidates there is room for. Behind the variants there are spare ones, up to whole blocks of
    many, which count for nothing; a single sheet (None) has none.
    """

    def __init__(self, variants: int | None, rooms: Mapping[int, int]) -> None:
        self.variants, self._rooms = variants or 1, rooms
        self.lanes = 1 if variants is None else -(-variants // LANES) * LANES
        self.chosen, self.course = (np.zeros((len(rooms), self.lanes), dtype=np.int64) for _ in range(2))
        self.fits = np.zeros((len(rooms), self.lanes), dtype=np.bool_)
        self.rejected = np.zeros(self.lanes * sum(rooms.values()), dtype=np.bool_)
        own = slice(self.variants)
        rows = zip(rooms, self.chosen, self.fits, self.course, self._parts(self.rejected), strict=True)
        self.of = {i: Judged(chosen[own], fits[own], course[own], part[own]) for i, chosen, fits, course, part in rows}

    def states(self, *, single: bool) -> dict[int, PickState]:
        """What was decided of every pick, for good."""
        own = 0 if single else slice(self.variants)
        chosen, fits, course = self.chosen[:, own].copy(), self.fits[:, own].copy(), self.course[:, : self.variants].copy()
        rows = zip(self._rooms, chosen, fits, self._parts(self.rejected.copy()), course, strict=True)
        return {i: PickState(taken, fit, out[: self.variants], way) for i, taken, fit, out, way in rows}

    def _parts(self, rejected: NDArray[np.bool_]) -> list[NDArray[np.bool_]]:
        """Who is rejected, by pick: (variants and spare ones, candidates)."""
        rooms = self._rooms.values()
        lanes = rejected.size // max(sum(rooms), 1)
        ends = [lanes * end for end in accumulate(rooms)]
        return [rejected[end - lanes * room : end].reshape(lanes, room) for room, end in zip(rooms, ends, strict=True)]

    @property
    def remembered(self) -> Remembered:
        """All that is remembered, to be kept or put back: the choice, whether it fits, its course, who is rejected."""
        return self.chosen, self.fits, self.course, self.rejected

    def among(self, remembered: Remembered, places: NDArray[np.intp]) -> Remembered:
        """Of all that was remembered what is of the variants at `places`, in that order."""
        chosen, fits, course, rejected = remembered
        places = np.pad(places, (0, -len(places) % LANES), mode="edge")
        parts = [part[places].reshape(-1) for part in self._parts(rejected)]
        return chosen[:, places], fits[:, places], course[:, places], np.concatenate([*parts, np.zeros(0, dtype=np.bool_)])

    def part(self, places: NDArray[np.intp]) -> "Judgements":
        """What has been decided of the variants at `places`, apart from the others."""
        found = Judgements(len(places), self._rooms)
        for own, of_all in zip(found.remembered, self.among(self.remembered, places), strict=True):
            np.copyto(own, of_all)
        return found

    def put_in(self, part: "Judgements", places: NDArray[np.intp]) -> None:
        """Let the variants at `places` be decided as in `part`."""
        for own, other in zip(self.of.values(), part.of.values(), strict=True):
            own.chosen[places], own.fits[places], own.course[places], own.rejected[places] = other.chosen, other.fits, other.course, other.rejected

    @property
    def doubtful(self) -> list[int]:
        """The picks whose choice hangs on what is remembered, of some variant."""
        return [i for i, judged in self._turned() if self._hangs(judged).any()]

    @property
    def in_doubt(self) -> NDArray[np.bool_]:
        """Whether the choice of some pick hangs on what is remembered, of every variant."""
        found = np.zeros(self.variants, dtype=np.bool_)
        for _, judged in self._turned():
            found |= self._hangs(judged)
        return found

    def _turned(self) -> list[tuple[int, Judged]]:
        """The picks whose choice has turned back more than once, of some variant."""
        turned = np.flatnonzero((np.abs(self.course) > 1 + TURNED).any(axis=-1)).tolist()
        of = list(self.of.items()) if turned else []
        return [of[k] for k in turned]

    def _hangs(self, judged: Judged) -> NDArray[np.bool_]:
        """Whether a choice has turned back more than once, and something cheaper is out, or nothing fits."""
        cheaper = np.arange(judged.rejected.shape[-1]) < judged.chosen[:, None]
        hangs: NDArray[np.bool_] = (np.abs(judged.course) > 1 + TURNED) & ((judged.rejected & cheaper).any(axis=-1) | ~judged.fits)
        return hangs

    def forget(self) -> None:
        """Nobody is rejected any more; the choices stand until they are judged anew."""
        self.rejected.fill(False)
        self.course.fill(0)

    def clear(self) -> None:
        """Nothing is decided."""
        self.forget()
        self.chosen.fill(0)
        self.fits.fill(False)

    def put_back(self, kept: Remembered, where: NDArray[np.bool_]) -> None:
        """Let the variants `where` stand as they stood when all was `kept`."""
        if where.all():
            for now, stood in zip(self.remembered, kept, strict=True):
                np.copyto(now, stood)
            return
        where = np.pad(where, (0, self.lanes - self.variants))
        for now, stood in zip(self.remembered[:3], kept, strict=False):
            np.copyto(now, stood, where=where)
        for now, stood in zip(self._parts(self.rejected), self._parts(kept[3]), strict=True):
            np.copyto(now, stood, where=where[:, None])
