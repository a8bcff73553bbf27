"""Line-ups on the same brief, side by side: what their stages declared to be compared, and where each is tightest."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.model import Model
from rhombos.core.graph.places import Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.shows import Compared
from rhombos.core.graph.telling import has, key_of
from rhombos.core.graph.verdicts import FAILS, TIGHT, VERDICTS

ISOLATION = "Isolation"


@dataclass(frozen=True)
class Tightest:
    """The check with the least room, measured by what it needs to hold (null where that is unknown)."""

    check: str
    title: str
    verdict: str
    margin: float | None


@dataclass(frozen=True)
class Column:
    """One line-up: how many checks fail and are tight, and the tightest."""

    id: str
    title: str
    tightest: Tightest
    fails: int
    tight: int


@dataclass
class Row:
    """One thing compared: by line-up its numbers (SI, null where unknown), or a part in words; absent where it has none."""

    title: str
    unit: str
    numbers: dict[str, list[float | None]]
    parts: dict[str, str]


@dataclass(frozen=True)
class Comparison:
    """Columns in the order of the registry, rows in the order of the line."""

    columns: list[Column]
    rows: list[Row]


def compare(solved: Mapping[str, tuple[Model, Sheet]]) -> Comparison:
    """The comparison of line-ups solved on one brief; rows of the same section and title stand in one line."""
    rows: dict[str, Row] = {ISOLATION: Row(ISOLATION, "", {}, {})}
    for id, (model, sheet) in solved.items():
        rows[ISOLATION].parts[id] = "isolated" if is_isolated(model) else "none: source and output are joined"
        for place in model.wiring.lineup.places:
            for compared in place.stage.compared:
                _enter(rows, id, model, sheet, place, compared)
    return Comparison([_column(id, model, sheet) for id, (model, sheet) in solved.items()], list(rows.values()))


def is_isolated(model: Model) -> bool:
    """Whether nothing joins the output to the source."""
    return not any(h.kind == "not_isolated" for place in model.wiring.lineup.places for h in place.stage.hazards)


def _enter(rows: dict[str, Row], id: str, model: Model, sheet: Sheet, place: Place, compared: Compared) -> None:
    if not has(model.wiring, place, compared.figure):
        return
    title = compared.title if place.section == "whole" else f"{place.section.capitalize()}: {compared.title[0].lower()}{compared.title[1:]}"
    key = key_of(model.wiring, place, compared.figure)
    node = sheet.node(key)
    row = rows.setdefault(title, Row(title, node.figure.unit, {}, {}))
    if node.figure.kind == "pick":
        row.parts[id] = model.candidates[node.index].label(int(np.atleast_1d(sheet.picks[node.index].chosen)[0]))
    else:
        values = np.broadcast_to(sheet.value(key), (len(sheet.corners.ids),))
        row.numbers[id] = [_plain(values[corner_at(sheet.corners, at)]) for at in compared.at]


def corner_at(corners: CornerSet, at: Mapping[str, float]) -> int:
    """The corner that stands where `at` says on the axes it names; of several the one that stands where is usual on most of the others."""
    match = np.all([corners.along(name) == value for name, value in at.items()], axis=0) if at else np.ones(len(corners.ids), dtype=bool)
    usual = np.sum([corners.along(a.name) == a.usual for a in corners.axes if a.name not in at], axis=0)
    return int(np.argmax(np.where(match, usual, -1)))


def _column(id: str, model: Model, sheet: Sheet) -> Column:
    verdicts = sheet.judge()
    worst = verdicts.code.min(axis=1)
    margins = (np.where(np.isnan(verdicts.margin), np.inf, verdicts.margin) / verdicts.hold).min(axis=1)
    # Checks that harm nothing (a whole carrier ratio, say) are not what a comparison turns on, unless they fail.
    harmless = np.array([c.check.harm == "none" for c in model.wiring.checks]) & (worst > TIGHT)
    row = int(np.lexsort((margins, harmless, worst))[0])
    check = model.wiring.checks[row]
    tightest = Tightest(check.key, check.check.title, VERDICTS[int(worst[row])], _plain(float(margins[row])))
    return Column(id, model.wiring.lineup.title, tightest, int((worst == FAILS).sum()), int((worst == TIGHT).sum()))


def _plain(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None
