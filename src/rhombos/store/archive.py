"""A whole project out of the store, and into it, each in one transaction."""

import json
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from rhombos.formats.archive import Archive
from rhombos.formats.design import write_design
from rhombos.store.models import Decision, Draft, Project, Revision
from rhombos.store.repository import NotFound, Store


def told(store: Store, id: int) -> dict[str, Any]:
    """All that is kept of a project, as its archive has it."""
    with Session(store.engine) as s:
        project, draft = s.get(Project, id), s.get(Draft, id)
        if project is None or draft is None:
            raise NotFound(f"there is no project {id}")
        revisions = s.scalars(select(Revision).where(Revision.project_id == id).order_by(Revision.number)).all()
        decisions = s.scalars(select(Decision).where(Decision.project_id == id).order_by(Decision.id)).all()
        return {
            "title": project.title,
            "created": project.created.isoformat(),
            "revisions": [
                {
                    "number": r.number,
                    "parent": r.parent,
                    "author": r.author,
                    "message": r.message,
                    "created": r.created.isoformat(),
                    "design": json.loads(r.design),
                }
                for r in revisions
            ],
            "draft": {"base": draft.base, "design": json.loads(draft.design)},
            "decisions": [
                {
                    "revision": d.revision,
                    "title": d.title,
                    "reason": d.reason,
                    "numbers": json.loads(d.numbers),
                    "author": d.author,
                    "created": d.created.isoformat(),
                }
                for d in decisions
            ],
        }


def restore(store: Store, archive: Archive) -> int:
    """A project of its own with all that an archive holds; returns its id."""
    with Session(store.engine) as s, s.begin():
        project = Project(title=archive.title, head=len(archive.revisions), created=archive.created)
        s.add(project)
        s.flush()
        for r in archive.revisions:
            kept = {"number": r.number, "parent": r.parent, "author": r.author, "message": r.message, "created": r.created}
            s.add(Revision(project_id=project.id, design=write_design(r.design), **kept))
        s.add(Draft(project_id=project.id, version=1, base=archive.draft.base, design=write_design(archive.draft.design)))
        for d in archive.decisions:
            s.add(
                Decision(
                    project_id=project.id,
                    revision=d.revision,
                    title=d.title,
                    reason=d.reason,
                    numbers=json.dumps(d.numbers),
                    author=d.author,
                    created=d.created,
                )
            )
        return project.id
