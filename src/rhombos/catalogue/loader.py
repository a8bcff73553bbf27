"""Read the shipped CSV files into part tables. Numbers may carry an SI prefix (3.2m, 470u)."""

import csv
from functools import lru_cache
from importlib.resources import files

import numpy as np

from rhombos.core.parts.columns import PART_TYPES
from rhombos.core.parts.table import PartTable
from rhombos.core.units import PREFIXED, QuantityError, parse

_EXTRA = {"wire": ("wire_gauge",)}


class CatalogueError(ValueError):
    """A catalogue file is wrong; the message names file, line and column."""


def read_table(type_: str, name: str, text: str) -> list[dict[str, str]]:
    """Rows of one CSV text, with its columns checked against the part type's."""
    rows = list(csv.DictReader(text.splitlines()))
    wanted = {"code", "description", *PART_TYPES[type_]}
    if not rows or set(rows[0]) != wanted:
        raise CatalogueError(f"{name}: columns must be {sorted(wanted)}")
    return rows


@lru_cache(maxsize=1)
def load() -> dict[str, PartTable]:
    """The whole shipped catalogue by part type."""
    tables = {}
    for type_, columns in PART_TYPES.items():
        rows: list[dict[str, str]] = []
        for name in (type_, *_EXTRA.get(type_, ())):
            rows += read_table(type_, name, (files("rhombos.catalogue") / "data" / f"{name}.csv").read_text(encoding="utf-8"))
        numbers = {}
        for column in columns:
            try:
                numbers[column] = np.array([parse(row[column], PREFIXED) for row in rows])
            except QuantityError as error:
                raise CatalogueError(f"{type_}.csv, column {column}: {error}") from error
        codes = tuple(row["code"] for row in rows)
        if len(set(codes)) != len(codes):
            raise CatalogueError(f"{type_}.csv: a code stands twice")
        tables[type_] = PartTable(type_, codes, numbers, {"description": tuple(row["description"] for row in rows)})
    return tables
