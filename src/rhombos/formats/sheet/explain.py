"""What is said when somebody asks: a pick with its runners-up, a figure or a check in full."""

from typing import Any

import numpy as np

from rhombos.core.graph.engine.numbers import with_nulls
from rhombos.core.graph.model import Model
from rhombos.core.graph.picking import judge_of, runners_up
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import VERDICTS
from rhombos.core.graph.why import binding_corner
from rhombos.core.units import si_unit
from rhombos.formats.sheet import shapes
from rhombos.formats.sheet.columns import figure_note, safe, sentence


def pick_json(model: Model, sheet: Sheet, key: str) -> shapes.PickTold:
    """The part picked, how many, its record, and the runners-up with the number that rejected each."""
    index = sheet.wiring.index[key]
    state, candidates = sheet.picks[index], model.candidates[index]
    chosen = int(np.atleast_1d(state.chosen)[0])
    code = candidates.table.codes[int(candidates.rows[chosen])]
    rows: list[shapes.RunnerUp] = [
        {**r, "capability": safe(r["capability"]), "demand": safe(r["demand"]), "level": safe(r["level"]), "margin": safe(r["margin"])}  # type: ignore[typeddict-item]
        for r in runners_up(judge_of(model, sheet, index), chosen)
    ]
    return {
        "part": code,
        "quantity": int(candidates.quantity[chosen]),
        "record": candidates.table.record(code),
        "fits": bool(np.atleast_1d(state.fits)[0]),
        "pinned": index in sheet.pinned,
        "tightest": rows[0],
        "runners_up": rows[1:],
    }


def figure_json(sheet: Sheet, key: str) -> dict[str, Any]:
    """A figure with its kind, unit, values and binding corner: what the command line prints."""
    node = sheet.node(key)
    at = binding_corner(sheet, node)
    return {
        "kind": node.figure.kind,
        "unit": si_unit(node.figure.unit),
        "values": with_nulls(np.atleast_1d(sheet.values[node.index])),
        **({"pinned": True} if node.index in sheet.pinned else {}),
        **({"computed": with_nulls(sheet.computed[node.index].reshape(-1))} if node.index in sheet.computed else {}),
        **figure_note(sheet, node.index),
        **({"at": sheet.corners.ids[at]} if at is not None else {}),
    }


def checks_json(sheet: Sheet) -> dict[str, Any]:
    """Every check: margins, verdicts per corner, the worst corner, its sentence with the numbers in it."""
    verdicts = sheet.judge()
    worsts = verdicts.worst_corners()
    out = {}
    for row, wired in enumerate(sheet.wiring.checks):
        worst, codes = worsts[row], verdicts.code[row].tolist()
        out[wired.key] = {
            "margin": with_nulls(verdicts.margin[row]),
            "verdicts": [VERDICTS[c] for c in codes],
            "verdict": VERDICTS[min(codes)],
            "worst": sheet.corners.ids[worst],
            "fail": safe(verdicts.fail[row][worst]),
            "hold": safe(verdicts.hold[row][worst]),
            "harm": wired.check.harm,
            "sentence": sentence(sheet, verdicts, row, worst),
            "no_demand": not verdicts.demand[row][worst] > 0,
        }
    return out
