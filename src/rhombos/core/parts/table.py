"""A table of parts of one type: codes, numbers in SI, prices."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class PartTable:
    """Parts of one type. `columns` holds one number per part, in SI; `texts` what is said in words."""

    type: str
    codes: tuple[str, ...]
    columns: Mapping[str, NDArray[np.float64]]
    texts: Mapping[str, tuple[str, ...]]

    @cached_property
    def row_of(self) -> dict[str, int]:
        return {code: i for i, code in enumerate(self.codes)}

    def record(self, code: str) -> dict[str, Any]:
        """All that the catalogue says of one part."""
        i = self.row_of[code]
        return {"code": code, "type": self.type, **{k: float(v[i]) for k, v in self.columns.items()}, **{k: v[i] for k, v in self.texts.items()}}


Catalogue = Mapping[str, PartTable]


PLACING = 0.3
"""Credits that every further piece of a part counts beside its price [judgement]: board, joints, balancing, one more to fail.

Without it sixteen small cans stand where a few larger ones are usual.
"""


class Candidates:
    """Parts times quantities, cheapest first, the placing of further pieces counted; columns are read as attributes, shaped (candidates, 1, ...)."""

    def __init__(self, table: PartTable, quantities: tuple[int, ...], pieces: int) -> None:
        rows, counts = np.meshgrid(np.arange(len(table.codes)), np.array(quantities), indexing="ij")
        rows, counts = rows.ravel(), counts.ravel()
        order = np.argsort((table.columns["price"][rows] * counts + PLACING * (counts - 1)) * pieces, kind="stable")
        self.table = table
        self.rows = rows[order]
        self.quantity: NDArray[np.float64] = counts[order].astype(float)
        self.columns = {name: column[self.rows] for name, column in table.columns.items()}
        self.all = np.arange(len(self.rows))

    @cached_property
    def places(self) -> dict[tuple[int, float], int]:
        """Where a row of the table stands in a quantity."""
        return {(row, count): k for k, (row, count) in enumerate(zip(self.rows.tolist(), self.quantity.tolist(), strict=True))}

    def label(self, index: int) -> str:
        """A candidate in words: its code, with its number where there is more than one."""
        code, count = self.table.codes[int(self.rows[index])], int(self.quantity[index])
        return code if count == 1 else f"{count} × {code}"

    def has(self, column: str) -> bool:
        """Whether the catalogue says this of its parts."""
        return column == "quantity" or column in self.columns

    def column(self, name: str) -> NDArray[np.float64]:
        """A number of every candidate."""
        return self.quantity if name == "quantity" else self.columns[name]

    def view(self, trailing: int, rows: NDArray[np.intp]) -> "PartView":
        """The columns of some candidates with `trailing` axes of length one behind the candidate axis."""
        return PartView(self, trailing, rows)


class PartView:
    """Candidates' columns, read as attributes."""

    def __init__(self, candidates: Candidates, trailing: int, rows: NDArray[np.intp]) -> None:
        self._candidates = candidates
        self._shape = (-1,) + (1,) * trailing
        self._rows = rows

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_") or not self._candidates.has(name):
            raise AttributeError(f"the catalogue has no column {name!r}")
        column = self._candidates.column(name)[self._rows]
        shaped: NDArray[np.float64] = column.reshape(self._shape)
        return shaped
