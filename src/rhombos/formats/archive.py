"""The project archive: one JSON file with all revisions, the draft and the decisions of a project, to keep or to hand on."""

import json
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, StringConstraints, ValidationError, model_validator

from rhombos.formats.design import Design, DesignError, Strict, check_names, places_of

FORMAT = "rhombos-archive"


def _naive(time: datetime) -> datetime:
    if time.tzinfo is not None:
        raise ValueError("times are in UTC and carry no zone")
    return time


Author = Annotated[str, StringConstraints(min_length=1, max_length=80)]
Time = Annotated[datetime, AfterValidator(_naive)]
Number = Annotated[int, Field(ge=0, le=1_000_000)]


class ArchivedRevision(Strict):
    """One revision as it was saved."""

    number: Annotated[int, Field(ge=1, le=1_000_000)]
    parent: Number
    author: Author
    message: Annotated[str, StringConstraints(max_length=500)]
    created: Time
    design: Design


class ArchivedDraft(Strict):
    """The working state, and the revision it began from."""

    base: Number
    design: Design


class ArchivedDecision(Strict):
    """What was decided at a revision, and why."""

    revision: Number
    title: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    reason: Annotated[str, StringConstraints(max_length=4000)]
    numbers: Annotated[dict[str, float | str | None], Field(max_length=100)] = Field(default_factory=dict)
    author: Author
    created: Time


class Archive(Strict):
    """A whole project."""

    format: Literal["rhombos-archive"] = "rhombos-archive"
    version: Literal[1] = 1
    title: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    created: Time
    revisions: Annotated[list[ArchivedRevision], Field(min_length=1, max_length=10_000)]
    draft: ArchivedDraft
    decisions: Annotated[list[ArchivedDecision], Field(max_length=10_000)] = Field(default_factory=list)

    @model_validator(mode="after")
    def _in_order(self) -> "Archive":
        for place, revision in enumerate(self.revisions, 1):
            if revision.number != place:
                raise ValueError(f"revision {revision.number} stands in the place of revision {place}")
            if revision.parent >= place:
                raise ValueError(f"revision {place} cannot come from revision {revision.parent}")
        for decision in self.decisions:
            if decision.revision > len(self.revisions):
                raise ValueError(f"the decision {decision.title!r} was made at revision {decision.revision}, and there are {len(self.revisions)}")
        if self.draft.base > len(self.revisions):
            raise ValueError(f"the draft begins from revision {self.draft.base}, and there are {len(self.revisions)}")
        return self


def check_archive(raw: Any) -> Archive:
    """An archive from parsed JSON: its shape, its order, and every design against its line-up. Raises DesignError with the path at fault."""
    try:
        archive = Archive.model_validate(raw)
    except ValidationError as error:
        raise DesignError(places_of(error)) from None
    designs = [(f"revisions.{k}.design", r.design) for k, r in enumerate(archive.revisions)]
    for path, design in [*designs, ("draft.design", archive.draft.design)]:
        try:
            check_names(design)
        except DesignError as error:
            raise DesignError([(f"{path}.{place}", what) for place, what in error.places]) from None
    return archive


def write_archive(told: dict[str, Any]) -> str:
    """The text of an archive from what the store tells of a project; designs stand in it as they were stored."""
    return json.dumps({"format": FORMAT, "version": 1, **told}, indent=1, ensure_ascii=False, allow_nan=False) + "\n"
