"""Questions to the core: solve, why, sensitivity, goal seek, remedies, curves, scope, a stage alone."""

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter, Query

from rhombos.api.answer import Answer
from rhombos.api.schemas import Ask, AskAlone, AskFigure, AskParse, AskPlace, AskScope, AskSeek
from rhombos.api.service import Sheets, compare, scope
from rhombos.core.alone import inputs_alone, work_alone
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.seek import efficiency_curves, goal_seek, remedies, sensitivity, source_curves
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.why import upstream, why
from rhombos.core.lineups import STAGES, TITLES
from rhombos.core.suitability import SUITABILITY
from rhombos.core.units import parse, show, shown_unit
from rhombos.formats.build_pack import parts_csv, parts_list
from rhombos.formats.design import model_for, schema
from rhombos.formats.sheet_json import lineup_json, sheet_json
from rhombos.formats.winding_card import winding_card


def questions_router(sheets: Sheets) -> APIRouter:
    """The routes over the kept sheets."""
    router = APIRouter()

    @router.get("/lineups")
    def lineups() -> Any:
        return [{"id": k, "title": v} for k, v in TITLES.items()]

    @router.get("/lineups/{id}")
    def lineup(id: str, loads: str = Query("load_1", max_length=2000)) -> Any:
        return Answer(lineup_json(model_for(id, tuple(loads.split(",")))))

    @router.get("/suitability")
    def suitability() -> Any:
        return SUITABILITY

    @router.get("/schema")
    def design_schema() -> Any:
        return schema()

    @router.post("/solve")
    def solve(body: Ask) -> Any:
        # Already plain values: the answer is written at once instead of being walked and copied first.
        return Answer(sheet_json(*sheets.solve(body.design)))

    @router.post("/why")
    def ask_why(body: AskFigure) -> Any:
        _, sheet = sheets.solve(body.design)
        _known(sheet, body)
        answer = asdict(why(sheet, body.key, body.corner))
        return {**answer, "movable": [{"key": n.key, "title": n.figure.title, "place": n.place} for n in upstream(sheet, body.key)][:60]}

    @router.post("/sensitivity")
    def ask_sensitivity(body: AskFigure) -> Any:
        model, sheet = sheets.solve(body.design)
        _known(sheet, body)
        return [asdict(bar) for bar in sensitivity(model, sheet, body.key, body.corner)]

    @router.post("/seek")
    def seek(body: AskSeek) -> Any:
        model, sheet = sheets.solve(body.design)
        _known(sheet, body)
        wanted = parse(body.wanted, sheet.node(body.key).figure.unit)
        return asdict(goal_seek(model, body.design.inputs(), body.key, body.corner, wanted, body.move))

    @router.post("/remedies")
    def ask_remedies(body: AskPlace) -> Any:
        model, sheet = sheets.solve(body.design)
        places = [p.name for p in model.wiring.lineup.places]
        if body.place not in (None, *places):
            raise InputError(f"the line-up has no place {body.place!r}", field="place", given=body.place, allowed=places)
        return [asdict(r) for r in remedies(model, sheet, body.place)]

    @router.post("/curves")
    def curves(body: Ask) -> Any:
        model, sheet = sheets.solve(body.design)
        return {
            "efficiency": asdict(efficiency_curves(model, sheet)),
            "duty": asdict(source_curves(model, sheet, ["front.total_duty", "front.effective_duty"])),
            "link": asdict(source_curves(model, sheet, ["link.link_voltage", "rectifier.reachable_voltage"])),
        }

    @router.post("/compare")
    def ask_compare(body: Ask) -> Any:
        return compare(sheets, body.design)

    @router.post("/scope")
    def ask_scope(body: AskScope) -> Any:
        _, sheet = sheets.solve(body.design)
        if body.corner not in sheet.corners.ids:
            raise InputError(f"there is no corner {body.corner!r}", field="corner", given=body.corner, allowed=list(sheet.corners.ids))
        return Answer(scope(sheet, body.corner, body.load, body.modulation, body.sampling, body.pixels))

    @router.post("/build")
    def build(body: Ask) -> Any:
        model, sheet = sheets.solve(body.design)
        rows = parts_list(model, sheet)
        return {"parts": rows, "csv": parts_csv(rows), "winding": winding_card(sheet)}

    @router.post("/parse")
    def ask_parse(body: AskParse) -> Any:
        value = parse(body.text, body.unit)
        return {"value": value, "text": show(value, body.unit)}

    @router.get("/stages")
    def stages() -> Any:
        return [
            {
                "name": s.name,
                "title": s.title,
                "path": s.path,
                "figures": [
                    {"name": f.name, "title": f.title, "unit": f.unit, "symbol": f.symbol, "kind": f.kind}
                    for f in s.figures.values()
                    if f.kind in ("build", "operation")
                ],
                "inputs": inputs_alone(s),
            }
            for s in STAGES.values()
            if s.name not in ("totals", "load")
        ]

    @router.post("/work")
    def work(body: AskAlone) -> Any:
        worked = work_alone(body.figure, {k: v for k, v in body.values.items() if v.strip()})
        return {
            "unit": worked.unit,
            "shown_unit": shown_unit(worked.unit),
            "text": " | ".join(show(v, worked.unit) for v in worked.values),
            "missing": {k: {"sentence": m.sentence, "unit": m.unit, "shown_unit": shown_unit(m.unit)} for k, m in worked.missing.items()},
            "unused": list(worked.unused),
            "shorter": list(worked.shorter),
            "used": worked.used,
            "formula": worked.formula,
            "numbers": worked.numbers,
            "sentence": worked.sentence,
            "source": worked.source,
        }

    return router


def _known(sheet: Sheet, body: AskFigure) -> None:
    if body.key not in sheet.wiring.index:
        raise InputError(f"the line-up has no figure {body.key!r}", field="key", given=body.key, allowed="a figure of the line-up")
    if sheet.node(body.key).figure.kind == "pick":
        raise InputError(f"{body.key!r} is a part that was picked: the sheet has its reasons", field="key", given=body.key, allowed="a figure of the line-up")
    if body.corner not in sheet.corners.ids:
        raise InputError(f"there is no corner {body.corner!r}", field="corner", given=body.corner, allowed=list(sheet.corners.ids))
