"""A solved sheet as columns: every number once, in the order of its line-up, and words for the open place only."""

from math import isfinite

import numpy as np

from rhombos.core.graph.engine.numbers import with_nulls
from rhombos.core.graph.model import Model
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import UNKNOWN_VERDICT, VERDICTS, Verdicts
from rhombos.core.units import show
from rhombos.formats.sheet import shapes


def columns_json(model: Model, sheet: Sheet, place: str | None = None) -> shapes.Columns:
    """The columns of a sheet; `place` is the open place, whose words come along."""
    verdicts = sheet.judge()
    return {
        "values": _values(sheet),
        "pinned": {sheet.wiring.nodes[i].key: _pinned(sheet, i) for i in sheet.pinned},
        "picks": [_part(model, sheet, p.index) for p in model.wiring.picks],
        "checks": _judged(verdicts),
        "passes": {"outer": sheet.passes, "inner": sheet.inner_passes, "alternating": list(sheet.alternating)},
        "open": None if place is None else open_json(sheet, verdicts, place),
    }


def _values(sheet: Sheet) -> list[list[shapes.Number] | shapes.Number]:
    told = sheet.values.told()
    for i in sorted((sheet.wiring.index[f"corner.{axis.name}"] for axis in sheet.corners.axes), reverse=True):
        del told[i]
    return told


def safe(x: float) -> shapes.Number:
    """A number, or null where it is not finite."""
    return float(x) if isfinite(x) else None


def _pinned(sheet: Sheet, index: int) -> shapes.Pinned:
    out: shapes.Pinned = {}
    pin = sheet.inputs.pins.get(sheet.wiring.nodes[index].key)
    if pin is not None and pin.reason:
        out["reason"] = pin.reason
    if index in sheet.computed:
        out["computed"] = with_nulls(sheet.computed[index].reshape(-1))
    return out


def _part(model: Model, sheet: Sheet, index: int) -> shapes.Part:
    state, candidates = sheet.picks[index], model.candidates[index]
    chosen = int(np.atleast_1d(state.chosen)[0])
    return {
        "part": candidates.table.codes[int(candidates.rows[chosen])],
        "quantity": int(candidates.quantity[chosen]),
        "fits": bool(np.atleast_1d(state.fits)[0]),
        "pinned": index in sheet.pinned,
    }


def _judged(verdicts: Verdicts) -> list[shapes.Judged]:
    worst = np.array(verdicts.worst_corners(), dtype=np.intp)
    fail, hold, demand = (np.take_along_axis(of, worst[:, None], axis=-1)[:, 0] for of in (verdicts.fail, verdicts.hold, verdicts.demand))
    words = np.array(VERDICTS, dtype=object)
    rows = zip(
        with_nulls(verdicts.margin),
        words[verdicts.code].tolist(),
        words[verdicts.code.min(axis=-1)].tolist(),
        worst.tolist(),
        with_nulls(fail),
        with_nulls(hold),
        (~(demand > 0)).tolist(),
        strict=True,
    )
    return [
        {"margin": margin, "verdicts": verdicts, "verdict": verdict, "worst": at, "fail": fails, "hold": holds, "no_demand": idle}
        for margin, verdicts, verdict, at, fails, holds, idle in rows
    ]


def open_json(sheet: Sheet, verdicts: Verdicts, place: str) -> shapes.Open:
    """Words for one place: what is missing and why, and its judgements in sentences."""
    notes = {n.key: note for n in _noted(sheet, place) if (note := figure_note(sheet, n.index))}
    worsts = verdicts.worst_corners()
    sentences = {c.key: sentence(sheet, verdicts, row, worsts[row]) for row, c in enumerate(sheet.wiring.checks) if c.place == place}
    return {"name": place, "notes": notes, "sentences": sentences}


def sentence(sheet: Sheet, verdicts: Verdicts, row: int, worst: int) -> str:
    """What a check says, with the numbers of its worst corner."""
    wired = sheet.wiring.checks[row]
    if int(verdicts.code[row].min()) == UNKNOWN_VERDICT:
        return f"{wired.check.title} cannot be judged: a figure it needs is unknown."
    if wired.check.no_demand and not verdicts.demand[row][worst] > 0:
        return wired.check.no_demand
    return wired.check.sentence.format(
        demand=show(float(verdicts.demand[row][worst]), sheet.wiring.nodes[wired.demand].figure.unit, 3),
        capability=show(float(verdicts.capability[row][worst]), sheet.wiring.nodes[wired.capability].figure.unit, 3),
        corner=sheet.corners.corners[worst].title,
    )


def _noted(sheet: Sheet, place: str) -> list[Node]:
    """The figures of a place of which there may be something to note: what is not known, what reads that, and what is stated for a range."""
    readers = {c for i in sheet.masks for c in sheet.wiring.children[i]}
    noted = sheet.values.not_finite() | sheet.masks.keys() | readers
    return [n for n in sheet.wiring.nodes if n.place == place and (n.index in noted or n.figure.valid) and n.figure.kind != "pick"]


def figure_note(sheet: Sheet, index: int) -> shapes.Note:
    """Causes by corner where a value is unknown or does not apply, and warnings; empty where there is nothing to say."""
    note: shapes.Note = {}
    status = sheet.status(index)
    if status is not None:
        ids, flat = sheet.corners.ids, status.reshape(-1)
        unknown, absent = (
            {(ids[int(w)] if flat.size > 1 else "all"): sheet.why_missing(index, int(w)) for w in np.flatnonzero(flat == kind)} for kind in (2, 1)
        )
        if unknown:
            note["unknown"] = unknown
        if absent:
            note["does_not_apply"] = absent
    if sheet.wiring.nodes[index].figure.valid or sheet.reduced_without(index):
        warnings = sheet.warnings(index)
        if warnings:
            note["warnings"] = warnings
    return note
