"""Questions to the core: solve, why, sensitivity, goal seek, remedies, pictures, scope, build."""

from typing import Any

from fastapi import APIRouter, Query, Response

from rhombos.api import answers, drawings
from rhombos.api.answer import Answer
from rhombos.api.circuits import circuits_router
from rhombos.api.schemas import Ask, AskChanges, AskFigure, AskHold, AskParse, AskPicture, AskPlace, AskScope, AskSeek
from rhombos.api.service import Sheets, compare_lineups, corner_of, place_of, remedies_of, scope
from rhombos.core.comparison import Comparison
from rhombos.core.graph.declare import Stage
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.grouping import leading
from rhombos.core.graph.pictures import pictures_of
from rhombos.core.graph.remedies import Remedy
from rhombos.core.graph.seek import Sought, goal_seek
from rhombos.core.graph.sensitivity import Swing, sensitivity
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.why import upstream, why
from rhombos.core.lineups import LINE_UPS, STAGES, cuts
from rhombos.core.lineups.families import FAMILIES, OTHERS, family_of
from rhombos.core.lineups.opening import Opening, opening
from rhombos.core.magnetics.card import winding_cards
from rhombos.core.suitability import SUITABILITY, Suits
from rhombos.core.units import parse, show
from rhombos.demo.briefs import briefs
from rhombos.formats.bench_sheet import procedures, thresholds
from rhombos.formats.build_pack import parts_csv, parts_list
from rhombos.formats.changed import Change, changes
from rhombos.formats.design import Design, PinnedValue, model_for, of_sample, schema
from rhombos.formats.held import held
from rhombos.formats.sheet import shapes
from rhombos.formats.sheet.columns import columns_json
from rhombos.formats.sheet.explain import pick_json
from rhombos.formats.sheet.meta import lineup_json, stages_hash, stages_json

FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}


def questions_router(sheets: Sheets) -> APIRouter:
    """The routes over the kept sheets."""
    router = APIRouter()
    _static(router)
    _sheet(router, sheets)
    _explained(router, sheets)
    _whole(router, sheets)
    router.include_router(circuits_router(sheets))
    return router


def _parts(id: str) -> list[answers.CutRow]:
    return [{"id": cut, "title": place.shown} for cut, place in cuts(id).items()]


def _static(router: APIRouter) -> None:
    """What does not hang on a design."""

    @router.get("/lineups")
    def lineups() -> list[answers.LineUpRow]:
        return [{"id": k, "title": v.title, "sample": v.sample is not None, "parts": _parts(k)} for k, v in LINE_UPS.items()]

    @router.get("/lineups/{id}", response_model=shapes.LineUpMeta)
    def lineup(id: str, loads: str = Query("load_1", max_length=2000)) -> Any:
        return Answer(lineup_json(model_for(id, tuple(load for load in loads.split(",") if load))))

    @router.get("/briefs")
    def begin_from() -> list[Design]:
        return briefs()

    @router.get("/lineups/{id}/sample")
    def sample(id: str) -> Design:
        if id not in LINE_UPS:
            raise InputError(f"no line-up {id!r}", field="id", given=id, allowed=list(LINE_UPS))
        return of_sample(id)

    @router.get("/stages")
    def stages() -> list[answers.StageRow]:
        titles = [*FAMILIES.values(), OTHERS]
        rows: list[answers.StageRow] = [
            {"name": s.name, "title": s.title, "family": family_of(s), "path": s.path, "leads": _leads(s)} for s in STAGES.values() if s.figures
        ]
        return sorted(rows, key=lambda row: titles.index(row["family"]))

    @router.get("/stages/{hash}", response_model=shapes.Stages)
    def stages_by_hash(hash: str) -> Any:
        # Whoever asks for an older text gets the present one, and must not keep it under the old name.
        return Response(stages_json(), media_type="application/json", headers=FOR_EVER if hash == stages_hash() else {"Cache-Control": "no-store"})

    @router.get("/suitability")
    def suitability() -> dict[str, dict[str, Suits]]:
        return SUITABILITY

    @router.get("/schema")
    def design_schema() -> dict[str, Any]:
        return schema()

    @router.post("/parse")
    def ask_parse(body: AskParse) -> answers.Parsed:
        value = parse(body.text, body.unit)
        return {"value": value, "text": show(value, body.unit)}


def _sheet(router: APIRouter, sheets: Sheets) -> None:
    """The solved sheet and what it looks like."""

    @router.post("/solve", response_model=shapes.Columns)
    def solve(body: AskPlace) -> Any:
        model, sheet = sheets.solve(body.design)
        if body.place is not None:
            place_of(model, body.place)
        # Already plain values: the answer is written at once instead of being walked and copied first.
        return Answer(columns_json(model, sheet, body.place))

    @router.post("/pictures", response_model=list[drawings.Picture])
    def pictures(body: AskPicture) -> Any:
        model, sheet = sheets.solve(body.design)
        return Answer(pictures_of(model, sheet, place_of(model, body.place), corner_of(sheet, body.corner)))

    @router.post("/remedies")
    def ask_remedies(body: AskPlace) -> list[Remedy]:
        return remedies_of(sheets, body.design, body.place)


def _explained(router: APIRouter, sheets: Sheets) -> None:
    """Questions about one figure or one pick."""

    @router.post("/why")
    def ask_why(body: AskFigure) -> answers.WhyTold:
        _, sheet = sheets.solve(body.design)
        _figure(sheet, body)
        movable = [answers.Movable(n.key, n.figure.title, n.place) for n in upstream(sheet, body.key)][:60]
        return answers.WhyTold(**vars(why(sheet, body.key, body.corner)), movable=movable)

    @router.post("/pick", response_model=shapes.PickTold)
    def ask_pick(body: AskFigure) -> Any:
        model, sheet = sheets.solve(body.design)
        if body.key not in sheet.wiring.index or sheet.node(body.key).figure.kind != "pick":
            raise InputError(f"the line-up picks no {body.key!r}", field="key", given=body.key, allowed=[p.key for p in model.wiring.picks])
        return Answer(pick_json(model, sheet, body.key))

    @router.post("/sensitivity")
    def ask_sensitivity(body: AskFigure) -> list[Swing]:
        model, sheet = sheets.solve(body.design)
        _figure(sheet, body)
        return sensitivity(model, sheet, body.key, body.corner)

    @router.post("/seek")
    def seek(body: AskSeek) -> Sought:
        model, sheet = sheets.solve(body.design)
        _figure(sheet, body)
        wanted = parse(body.wanted, sheet.node(body.key).figure.unit)
        return goal_seek(model, body.design.inputs(), body.key, body.corner, wanted, body.move)


def _whole(router: APIRouter, sheets: Sheets) -> None:
    """Questions about the whole line-up."""

    @router.post("/compare")
    def ask_compare(body: Ask) -> Comparison:
        return compare_lineups(sheets, body.design)

    @router.post("/opening")
    def ask_opening(body: Ask) -> Opening:
        return opening(lambda id: sheets.solve(body.design.model_copy(update={"lineup": id}))[1])

    @router.post("/scope", response_model=answers.ScopeTold)
    def ask_scope(body: AskScope) -> Any:
        _, sheet = sheets.solve(body.design)
        corner_of(sheet, body.corner)
        return Answer(scope(sheet, body.corner, body.load, body.modulation, body.sampling, body.pixels))

    @router.post("/hold")
    def ask_hold(body: AskHold) -> dict[str, PinnedValue]:
        return held(*sheets.solve(body.design), body.design, body.reason)

    @router.post("/changes")
    def ask_changes(body: AskChanges) -> list[Change]:
        return changes((body.since, *sheets.solve(body.since)), (body.design, *sheets.solve(body.design)))

    @router.post("/build")
    def build(body: Ask) -> answers.BuildPack:
        model, sheet = sheets.solve(body.design)
        rows = parts_list(model, sheet)
        told = {"thresholds": thresholds(model, sheet), "procedures": procedures(model, sheet)}
        return {"parts": rows, "csv": parts_csv(rows), "windings": winding_cards(sheet), **told}  # type: ignore[typeddict-item]


def _leads(stage: Stage, most: int = 3) -> list[str]:
    worked = [f for f in stage.figures.values() if f.kind in ("build", "operation")]
    known = leading(stage)
    return [f.title for f in sorted(worked, key=lambda f: f.name not in known)][:most]


def _figure(sheet: Sheet, body: AskFigure) -> None:
    if body.key not in sheet.wiring.index:
        raise InputError(f"the line-up has no figure {body.key!r}", field="key", given=body.key, allowed="a figure of the line-up")
    if sheet.node(body.key).figure.kind == "pick":
        raise InputError(f"{body.key!r} is a part that was picked: ask for the pick", field="key", given=body.key, allowed="a figure of the line-up")
    corner_of(sheet, body.corner)
