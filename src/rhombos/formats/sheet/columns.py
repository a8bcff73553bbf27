"""A solved sheet as columns: every number once, in the order of its line-up, and words for the open place only."""

from math import isfinite

import numpy as np

from rhombos.core.graph.model import Model
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
    not_finite = sheet.values.not_finite()
    out: list[list[shapes.Number] | shapes.Number] = []
    for node, values in zip(sheet.wiring.nodes, sheet.values.lists(), strict=True):
        if node.place == "corner":
            continue
        plain = values or [float("nan")]
        numbers: list[shapes.Number] = finite(plain) if node.index in not_finite or values is None else list(plain)
        out.append(numbers[0] if len(numbers) == 1 else numbers)
    return out


def finite(values: list[float]) -> list[shapes.Number]:
    """Numbers with null in the place of what is not finite."""
    return [x if isfinite(x) else None for x in values]


def safe(x: float) -> shapes.Number:
    """A number, or null where it is not finite."""
    return float(x) if isfinite(x) else None


def _pinned(sheet: Sheet, index: int) -> shapes.Pinned:
    out: shapes.Pinned = {}
    pin = sheet.inputs.pins.get(sheet.wiring.nodes[index].key)
    if pin is not None and pin.reason:
        out["reason"] = pin.reason
    if index in sheet.computed:
        out["computed"] = finite(sheet.computed[index].reshape(-1).tolist())
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
    margins, codes = verdicts.margin.tolist(), verdicts.code.tolist()
    fails, holds, demands = verdicts.fail.tolist(), verdicts.hold.tolist(), verdicts.demand.tolist()
    out: list[shapes.Judged] = []
    for row, worst in enumerate(verdicts.worst_corners()):
        out.append(
            {
                "margin": finite(margins[row]),
                "verdicts": [VERDICTS[c] for c in codes[row]],  # type: ignore[misc]
                "verdict": VERDICTS[min(codes[row])],  # type: ignore[typeddict-item]
                "worst": worst,
                "fail": safe(fails[row][worst]),
                "hold": safe(holds[row][worst]),
                "no_demand": not demands[row][worst] > 0,
            }
        )
    return out


def open_json(sheet: Sheet, verdicts: Verdicts, place: str) -> shapes.Open:
    """Words for one place: what is missing and why, and its judgements in sentences."""
    notes = {n.key: note for n in sheet.wiring.nodes if n.place == place and n.figure.kind != "pick" and (note := figure_note(sheet, n.index))}
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
