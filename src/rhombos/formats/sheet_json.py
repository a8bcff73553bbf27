"""A solved sheet as plain JSON values: numbers in SI, null where unknown, text only in picks and choices."""

from collections.abc import Sequence
from math import isfinite
from typing import Any

import numpy as np

from rhombos.core.graph.model import Model
from rhombos.core.graph.picking import runners_up
from rhombos.core.graph.sheet import VERDICTS, Sheet
from rhombos.core.graph.why import binding_corner
from rhombos.core.graph.wiring import Node
from rhombos.core.lineups import JOINTS
from rhombos.core.units import show, shown_unit, si_unit


def sheet_json(model: Model, sheet: Sheet) -> dict[str, Any]:
    """Corners, figures, picks, checks and what the solve took."""
    numbers, not_finite = sheet.values.lists(), sheet.values.not_finite()
    return {
        "corners": [{"id": c.id, "title": c.title} for c in sheet.corners.corners],
        "figures": {
            n.key: _figure(sheet, n, _numbers(values) if n.index in not_finite else values)
            for n, values in zip(sheet.wiring.nodes, numbers, strict=True)
            if n.place != "corner" and values is not None
        },
        "picks": {p.key: pick_json(model, sheet, p.key) for p in model.wiring.picks},
        "checks": checks_json(sheet),
        "passes": {"outer": sheet.passes, "inner": sheet.inner_passes, "alternating": list(sheet.alternating)},
    }


def _numbers(values: list[float]) -> list[float | None]:
    return [x if isfinite(x) else None for x in values]


def _figure(sheet: Sheet, node: Node, numbers: Sequence[float | None]) -> dict[str, Any]:
    index = node.index
    out: dict[str, Any] = {"values": numbers}
    if index in sheet.pinned:
        out["pinned"] = True
        pin = sheet.inputs.pins.get(node.key)
        if pin is not None and pin.reason:
            out["reason"] = pin.reason
        if index in sheet.computed:
            out["computed"] = _numbers(sheet.computed[index].reshape(-1).tolist())
    if index in sheet.masks or None in numbers:
        out.update(_missing(sheet, index))
    if node.figure.valid or index in sheet.reduced_without:
        warnings = sheet.warnings(index)
        if warnings:
            out["warnings"] = warnings
    return out


def _missing(sheet: Sheet, index: int) -> dict[str, dict[str, str]]:
    """The causes by corner where a value is unknown or does not apply."""
    status = sheet.status(index)
    if status is None:
        return {}
    ids, flat = sheet.corners.ids, status.reshape(-1)
    out = {}
    for kind, name in ((2, "unknown"), (1, "does_not_apply")):
        where = np.flatnonzero(flat == kind)
        if where.size:
            out[name] = {(ids[int(w)] if flat.size > 1 else "all"): sheet.why_missing(index, int(w)) for w in where}
    return out


def figure_detail(sheet: Sheet, key: str) -> dict[str, Any]:
    """A figure with its kind, unit and binding corner: what the command line prints."""
    node = sheet.node(key)
    at = binding_corner(sheet, node)
    return {
        "kind": node.figure.kind,
        "unit": si_unit(node.figure.unit),
        **_figure(sheet, node, _numbers(np.atleast_1d(sheet.values[node.index]).tolist())),
        **({"at": sheet.corners.ids[at]} if at is not None else {}),
    }


def pick_json(model: Model, sheet: Sheet, key: str) -> dict[str, Any]:
    """The part picked, how many, its record, and the runners-up with the number that rejected each."""
    index = sheet.wiring.index[key]
    state, candidates = sheet.picks[index], model.candidates[index]
    chosen = int(np.atleast_1d(state.chosen)[0])
    code = candidates.table.codes[int(candidates.rows[chosen])]
    rows = [{**r, "capability": _safe(r["capability"]), "demand": _safe(r["demand"]), "margin": _safe(r["margin"])} for r in runners_up(state, candidates)]
    mine = rows[0]
    return {
        "part": code,
        "quantity": int(candidates.quantity[chosen]),
        "record": candidates.table.record(code),
        "fits": bool(np.atleast_1d(state.fits)[0]),
        "pinned": index in sheet.pinned,
        "tightest": {k: mine[k] for k in ("need", "capability", "demand", "unit", "margin")},
        "runners_up": [{**r, "because": "dearer" if r["fits"] else r["need"]} for r in rows[1:]],
    }


def _safe(x: float) -> float | None:
    return float(x) if isfinite(x) else None


def checks_json(sheet: Sheet) -> dict[str, Any]:
    """Every check: margins, verdicts per corner, the worst corner, its sentence with the numbers in it."""
    verdicts = sheet.judge()
    ids = sheet.corners.ids
    margins, demands, capabilities, fails, holds = (
        table.tolist() for table in (verdicts.margin, verdicts.demand, verdicts.capability, verdicts.fail, verdicts.hold)
    )
    every, worsts = verdicts.code.tolist(), verdicts.worst_corners()
    out = {}
    for row, wired in enumerate(sheet.wiring.checks):
        worst = worsts[row]
        demand_unit = sheet.wiring.nodes[wired.demand].figure.unit
        capability_unit = sheet.wiring.nodes[wired.capability].figure.unit
        words = {
            "demand": show(demands[row][worst], demand_unit, 3),
            "capability": show(capabilities[row][worst], capability_unit, 3),
            "corner": sheet.corners.corners[worst].title,
        }
        codes = every[row]
        out[wired.key] = {
            "margin": _numbers(margins[row]),
            "verdicts": [VERDICTS[c] for c in codes],
            "verdict": VERDICTS[min(codes)],
            "worst": ids[worst],
            "fail": _safe(fails[row][worst]),
            "hold": _safe(holds[row][worst]),
            "harm": wired.check.harm,
            "sentence": wired.check.sentence.format(**words) if min(codes) != 1 else f"{wired.check.title} cannot be judged: a figure it needs is unknown.",
            "no_demand": not demands[row][worst] > 0,
        }
    return out


def lineup_json(model: Model) -> dict[str, Any]:
    """What does not change with the numbers: places, figures, choices, checks of a line-up."""
    lineup = model.wiring.lineup
    places = []
    for place in lineup.places:
        stage = place.stage
        places.append(
            {
                "name": place.name,
                "title": place.shown,
                "stage": stage.name,
                "section": place.section,
                "host": place.host,
                "path": stage.path,
                "telling": model.wiring.telling(place),
                "hazards": model.wiring.hazards(place),
            }
        )
    figures = {}
    for n in model.wiring.nodes:
        f = n.figure
        if n.place == "corner":
            continue
        figures[n.key] = {
            "place": n.place,
            "name": f.name,
            "kind": f.kind,
            "title": f.title,
            "symbol": f.symbol,
            "unit": f.unit,
            "shown_unit": shown_unit(f.unit),
            "sentence": f.sentence,
            "low": f.low,
            "high": f.high,
            "default": f.default,
            "judgement": f.judgement,
            "source": f.source,
            "owner": f.owner,
        }
    choices = {
        key: {
            "place": place.name,
            "name": choice.name,
            "title": choice.title,
            "sentence": choice.sentence,
            "default": choice.default,
            "options": {k: o.title for k, o in choice.options.items()},
        }
        for key, (place, choice) in model.choices.items()
    }
    checks = {
        c.key: {
            "place": c.place,
            "title": c.check.title,
            "why": c.check.why,
            "harm": c.check.harm,
            "demand": model.wiring.nodes[c.demand].key,
            "capability": model.wiring.nodes[c.capability].key,
        }
        for c in model.wiring.checks
    }
    picks = {
        p.key: {
            "place": p.place,
            "title": p.pick.title,
            "sentence": p.pick.sentence,
            "type": p.pick.part_type,
            "published": [model.wiring.nodes[i].key for _, i in p.published],
        }
        for p in model.wiring.picks
    }
    return {
        "id": lineup.id,
        "title": lineup.title,
        "places": places,
        "figures": figures,
        "choices": choices,
        "checks": checks,
        "picks": picks,
        "joints": [dict(zip(("from", "to", "voltage", "current", "sign", "tail"), joint, strict=True)) for joint in JOINTS],
    }
