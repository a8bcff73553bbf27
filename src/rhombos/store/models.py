"""Tables. Nothing is updated in place but a project's title, head and standing, and its draft."""

from datetime import UTC, datetime

from sqlalchemy import DateTime, ForeignKey, Integer, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

OPTIONS = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}


def now() -> datetime:
    """The present time, UTC, without zone (as the database keeps it)."""
    return moment().replace(microsecond=0)


def moment() -> datetime:
    """The same to the microsecond, where several things within a second must keep their order."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """Root of the tables."""


class Project(Base):
    """A project; `head` is the number of its newest revision, `standing` one of "shelf", "away", "deleted"."""

    __tablename__ = "projects"
    __table_args__ = OPTIONS
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    title: Mapped[str] = mapped_column(String(200))
    head: Mapped[int] = mapped_column(Integer, default=0)
    standing: Mapped[str] = mapped_column(String(10), default="shelf", server_default="shelf")
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    touched: Mapped[datetime] = mapped_column(DateTime().with_variant(DATETIME(fsp=6), "mysql"), default=moment)


class Revision(Base):
    """An append-only snapshot of a design."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("project_id", "number"), OPTIONS)
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent: Mapped[int] = mapped_column(Integer)
    author: Mapped[str] = mapped_column(String(80))
    message: Mapped[str] = mapped_column(String(500))
    design: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT(), "mysql"))
    created: Mapped[datetime] = mapped_column(DateTime, default=now)


class Draft(Base):
    """The working state of a project since revision `base`; `version` counts its saves."""

    __tablename__ = "drafts"
    __table_args__ = OPTIONS
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), primary_key=True)
    version: Mapped[int] = mapped_column(Integer, default=1)
    base: Mapped[int] = mapped_column(Integer)
    design: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT(), "mysql"))
    saved: Mapped[datetime] = mapped_column(DateTime, default=now)


class Decision(Base):
    """What was decided, why, at which revision, with the numbers at the time."""

    __tablename__ = "decisions"
    __table_args__ = OPTIONS
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    revision: Mapped[int] = mapped_column(Integer)
    title: Mapped[str] = mapped_column(String(200))
    reason: Mapped[str] = mapped_column(Text)
    numbers: Mapped[str] = mapped_column(Text)
    author: Mapped[str] = mapped_column(String(80))
    created: Mapped[datetime] = mapped_column(DateTime, default=now)


class Fact(Base):
    """What was done once to this database (the demo data was loaded, say)."""

    __tablename__ = "facts"
    __table_args__ = OPTIONS
    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    value: Mapped[str] = mapped_column(String(200))
