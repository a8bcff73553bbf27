"""What the application asks of the store; every save is one transaction.

StoreError
├── NotFound        no such project, revision or draft
└── Conflict        the draft or the head moved on since it was read; carries the other side
"""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, create_engine, delete, select, text
from sqlalchemy.orm import Session

from rhombos.formats.design import text_of
from rhombos.store.models import Decision, Draft, Fact, Project, Revision, moment, now


class StoreError(Exception):
    """Root of the store's errors."""


class NotFound(StoreError):
    """Nothing is stored under this name."""


class Conflict(StoreError):
    """What stands there now forbids it; `theirs` is the draft that somebody else saved first, if that is why."""

    def __init__(self, message: str, theirs: dict[str, Any] | None = None) -> None:
        super().__init__(message, theirs)
        self.message, self.theirs = message, theirs


@dataclass(frozen=True)
class ProjectRow:
    """A project as the shelf shows it; `message` is that of its newest revision, `standing` one of "shelf", "away", "deleted"."""

    id: int
    title: str
    head: int
    message: str
    created: str
    touched: str
    standing: str


@dataclass(frozen=True)
class RevisionRow:
    """A revision without its design."""

    number: int
    parent: int
    author: str
    message: str
    created: str


class Store:
    """The repository over one database."""

    def __init__(self, url: str) -> None:
        self.engine: Engine = create_engine(
            url,
            pool_pre_ping=True,
            pool_recycle=1800,
            pool_size=8,
            max_overflow=4,
            # A database that hangs is told as one that does not answer, soon enough for the page to keep what was typed.
            pool_timeout=3,
            isolation_level="READ COMMITTED",
            connect_args={"connect_timeout": 3, "read_timeout": 8, "write_timeout": 8},
        )

    @contextmanager
    def _session(self) -> Iterator[Session]:
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def alive(self) -> bool:
        """Whether the database answers."""
        try:
            with self.engine.connect() as connection:
                connection.execute(text("SELECT 1"))
        except Exception:  # noqa: BLE001 - any failure means that it does not answer
            return False
        return True

    def projects(self) -> list[ProjectRow]:
        """All projects, last touched first."""
        with self._session() as s:
            newest = (Revision.project_id == Project.id) & (Revision.number == Project.head)
            rows = select(Project, Revision.message).join(Revision, newest).order_by(Project.touched.desc(), Project.id.desc())
            return [_project(project, message) for project, message in s.execute(rows)]

    def create(self, title: str, design: str, author: str, message: str) -> int:
        """A project with its first revision and a draft on it; returns its id."""
        with self._session() as s:
            project = Project(title=title, head=1)
            s.add(project)
            s.flush()
            s.add(Revision(project_id=project.id, number=1, parent=0, author=author, message=message, design=design))
            s.add(Draft(project_id=project.id, version=1, base=1, design=design))
            return project.id

    def project(self, id: int) -> dict[str, Any]:
        """A project with its draft, revisions and decisions."""
        with self._session() as s:
            project = self._get(s, id)
            draft = s.get(Draft, id)
            revisions = s.scalars(select(Revision).where(Revision.project_id == id).order_by(Revision.number.desc())).all()
            decisions = s.scalars(select(Decision).where(Decision.project_id == id).order_by(Decision.id.desc()))
            return {
                **_project(project, revisions[0].message).__dict__,
                "draft": _draft(draft),
                "revisions": [_revision(r).__dict__ for r in revisions],
                "decisions": [
                    {
                        "id": d.id,
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

    def _get(self, s: Session, id: int, *, lock: bool = False) -> Project:
        project = s.get(Project, id, with_for_update=lock)
        if project is None:
            raise NotFound(f"there is no project {id}")
        return project

    def revision(self, id: int, number: int) -> str:
        """The design of a revision, as text."""
        with self._session() as s:
            row = s.scalar(select(Revision).where(Revision.project_id == id, Revision.number == number))
            if row is None:
                raise NotFound(f"project {id} has no revision {number}")
            return row.design

    def save_draft(self, id: int, version: int, design: str, title: str) -> int:
        """Save the draft that was read as `version`; returns its new version. Raises Conflict when it moved on."""
        with self._session() as s:
            project = self._get(s, id, lock=True)
            draft = s.get(Draft, id, with_for_update=True)
            if draft is None:
                raise NotFound(f"project {id} has no draft")
            if draft.version != version:
                raise Conflict(f"the draft is at version {draft.version}, this edit started from {version}", _draft(draft))
            draft.version, draft.design, draft.saved = version + 1, design, now()
            project.touched, project.title = moment(), title
            return draft.version

    def save_revision(self, id: int, version: int, design: str, author: str, message: str) -> dict[str, int]:
        """Append a revision made from the draft read as `version`; head and draft follow in the same transaction."""
        with self._session() as s:
            project = self._get(s, id, lock=True)
            draft = s.get(Draft, id, with_for_update=True)
            if draft is None:
                raise NotFound(f"project {id} has no draft")
            if draft.version != version:
                raise Conflict(f"the draft is at version {draft.version}, this save started from {version}", _draft(draft))
            number = project.head + 1
            s.add(Revision(project_id=id, number=number, parent=draft.base, author=author, message=message, design=design))
            project.head, project.touched = number, moment()
            draft.base, draft.version, draft.design, draft.saved = number, version + 1, design, now()
            return {"number": number, "version": draft.version}

    def decide(self, id: int, title: str, reason: str, numbers: dict[str, Any], author: str) -> int:
        """Record a decision at the present head."""
        with self._session() as s:
            project = self._get(s, id, lock=True)
            decision = Decision(project_id=id, revision=project.head, title=title, reason=reason, numbers=json.dumps(numbers), author=author)
            s.add(decision)
            project.touched = moment()
            s.flush()
            return decision.id

    def change(self, id: int, title: str | None, standing: str | None) -> ProjectRow:
        """Give a project another title, its draft as well (who edits it elsewhere is told), and put it on the shelf, away, or among the deleted."""
        with self._session() as s:
            project, draft = self._get(s, id, lock=True), s.get(Draft, id, with_for_update=True)
            if title is not None:
                project.title, project.touched = title, moment()
                if draft is not None:
                    draft.design = _titled(draft.design, title)
                    draft.version, draft.saved = draft.version + 1, now()
            if standing is not None:
                project.standing = standing
            message = s.scalar(select(Revision.message).where(Revision.project_id == id, Revision.number == project.head))
            return _project(project, message or "")

    def copy(self, id: int, title: str, author: str) -> int:
        """A project of its own that begins from another's draft; returns its id."""
        with self._session() as s:
            project, draft = self._get(s, id), s.get(Draft, id)
            if draft is None:
                raise NotFound(f"project {id} has no draft")
            design, message = _titled(draft.design, title), f"Copied from {project.title}, revision {draft.base}"
        return self.create(title, design, author, message[:500])

    def remove(self, id: int) -> None:
        """Remove a project for good, with all its revisions and decisions. Raises Conflict unless it stands among the deleted."""
        with self._session() as s:
            project = self._get(s, id, lock=True)
            if project.standing != "deleted":
                raise Conflict(f"{project.title!r} does not stand among the deleted: delete it first")
            for table in (Decision, Draft, Revision):
                s.execute(delete(table).where(table.project_id == id))
            s.delete(project)

    def fact(self, name: str) -> str | None:
        """What was noted once under a name."""
        with self._session() as s:
            row = s.get(Fact, name)
            return row.value if row else None

    def note(self, name: str, value: str) -> None:
        """Note a fact once."""
        with self._session() as s:
            s.merge(Fact(name=name, value=value))


def _titled(design: str, title: str) -> str:
    """The text of a design under another title; whatever rules it was stored under, nothing else changes."""
    return text_of({**json.loads(design), "title": title})


def _project(p: Project, message: str) -> ProjectRow:
    return ProjectRow(p.id, p.title, p.head, message, p.created.isoformat(), p.touched.isoformat(timespec="microseconds"), p.standing)


def _revision(r: Revision) -> RevisionRow:
    return RevisionRow(r.number, r.parent, r.author, r.message, r.created.isoformat())


def _draft(d: Draft | None) -> dict[str, Any]:
    if d is None:
        raise NotFound("the project has no draft")
    return {"version": d.version, "base": d.base, "design": json.loads(d.design), "saved": d.saved.isoformat()}
