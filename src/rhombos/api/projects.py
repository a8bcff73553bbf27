"""Projects, drafts, revisions, decisions."""

import json
from dataclasses import asdict
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from rhombos.api import answers
from rhombos.api.answer import Answer
from rhombos.api.apart import apart
from rhombos.api.schemas import DecisionSave, DraftSave, NewProject, ProjectChange, ProjectCopy, RevisionSave
from rhombos.api.service import changed_parts, with_parts
from rhombos.formats.archive import FORMAT, check_archive, write_archive
from rhombos.formats.design import Design, check_design, read_raw, write_design
from rhombos.store.archive import restore, told
from rhombos.store.repository import Store


def projects_router(store: Store) -> APIRouter:
    """The routes over a store."""
    router = APIRouter()

    @router.get("/projects")
    @apart
    def shelf() -> list[answers.ProjectRow]:
        return [asdict(p) for p in store.projects()]  # type: ignore[misc]

    @router.post("/projects", status_code=201)
    @apart
    def create(body: NewProject) -> answers.Made:
        check_design(body.design.model_dump())
        design = body.design.model_copy(update={"title": body.title})
        return {"id": store.create(body.title, write_design(with_parts(design)), body.author, body.message)}

    @router.get("/projects/{id}", response_model=answers.Project)
    @apart
    def project(id: int) -> Any:
        found = store.project(id)
        # A draft may hold what cannot be solved as it stands (a value out of its range, say); it must still open.
        try:
            changes = changed_parts(Design.model_validate(found["draft"]["design"]))
        except ValidationError:
            # It was stored under older rules: it is opened as it stands, and told when it is solved.
            changes = []
        return Answer({**found, "catalogue_changes": changes})

    @router.patch("/projects/{id}")
    @apart
    def change(id: int, body: ProjectChange) -> answers.ProjectRow:
        return asdict(store.change(id, body.title, body.standing))  # type: ignore[return-value]

    @router.delete("/projects/{id}")
    @apart
    def remove(id: int) -> answers.Made:
        store.remove(id)
        return {"id": id}

    @router.post("/projects/{id}/copies", status_code=201)
    @apart
    def copy(id: int, body: ProjectCopy) -> answers.Made:
        return {"id": store.copy(id, body.title, body.author)}

    @router.get("/projects/{id}/archive")
    @apart
    def archive(id: int) -> Response:
        return Response(
            write_archive(told(store, id)), media_type="application/json", headers={"Content-Disposition": f'attachment; filename="rhombos-{id}-archive.json"'}
        )

    @router.put("/projects/{id}/draft")
    @apart
    def draft(id: int, body: DraftSave) -> answers.Version:
        return {"version": store.save_draft(id, body.version, write_design(body.design), body.design.title)}

    @router.post("/projects/{id}/revisions", status_code=201)
    @apart
    def revise(id: int, body: RevisionSave) -> answers.Revised:
        check_design(body.design.model_dump())
        saved = store.save_revision(id, body.version, write_design(with_parts(body.design)), body.author, body.message)
        return {"number": saved["number"], "version": saved["version"]}

    @router.get("/projects/{id}/revisions/{number}", response_model=answers.RevisionTold)
    @apart
    def revision(id: int, number: int) -> Any:
        # As it was stored: whatever rules came later, it can always be read.
        return Answer({"number": number, "design": json.loads(store.revision(id, number))})

    @router.get("/projects/{id}/revisions/{number}/file")
    @apart
    def export(id: int, number: int) -> Response:
        return Response(
            store.revision(id, number), media_type="application/json", headers={"Content-Disposition": f'attachment; filename="rhombos-{id}-{number}.json"'}
        )

    @router.post("/projects/{id}/decisions", status_code=201)
    @apart
    def decide(id: int, body: DecisionSave) -> answers.Made:
        return {"id": store.decide(id, body.title, body.reason, dict(body.numbers), body.author)}

    @router.post("/import", status_code=201)
    async def bring_in(request: Request) -> answers.Made:
        return {"id": await run_in_threadpool(_bring_in, store, await request.body())}

    return router


def _bring_in(store: Store, body: bytes) -> int:
    """A design file, or the archive of a whole project, onto the shelf."""
    raw = read_raw(body)
    if isinstance(raw, dict) and raw.get("format") == FORMAT:
        return restore(store, check_archive(raw))
    design = check_design(raw)
    return store.create(design.title, write_design(design), "bench A", "Imported from a file")
