"""What is sent to the interface: separate from what is stored and from what is computed."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from rhombos.formats.design import Design, Key, Name, Strict

Author = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Short = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]
#: A period drawn sixteen times as wide as the widest screen.
MOST_PIXELS = 65_536
CornerId = Annotated[str, StringConstraints(pattern=r"^[a-z_0-9]{1,40}$")]


class NewProject(Strict):
    """A project to be put on the shelf."""

    title: Short
    design: Design
    author: Author = "bench A"
    message: Short = "First sheet"


class AskHold(Strict):
    """A build to be held, and why: parts ordered, say."""

    design: Design
    reason: Short = "parts ordered"


class AskChanges(Strict):
    """A design, and an earlier one to which it is held."""

    design: Design
    since: Design


class ProjectChange(Strict):
    """Another title, another place to stand, or both."""

    title: Short | None = None
    standing: Literal["shelf", "away", "deleted"] | None = None


class ProjectCopy(Strict):
    """A project of its own that begins from another's draft."""

    title: Short
    author: Author = "bench A"


class DraftSave(Strict):
    """An edit that started from `version` of the draft."""

    version: int
    design: Design


class RevisionSave(Strict):
    """A revision to be made of the draft read as `version`."""

    version: int
    design: Design
    message: Short
    author: Author = "bench A"


class DecisionSave(Strict):
    """What was decided, and why."""

    title: Short
    reason: Annotated[str, StringConstraints(min_length=1, max_length=4000)]
    numbers: dict[Annotated[str, StringConstraints(max_length=120)], float | Annotated[str, StringConstraints(max_length=200)] | None] = Field(
        default_factory=dict, max_length=100
    )
    author: Author = "bench A"


class Ask(Strict):
    """A question about a design."""

    design: Design


class AskPlace(Ask):
    """A question about a design, or about one place of it."""

    place: Name | None = None


class AskCorner(Ask):
    """A question about a design at a corner."""

    corner: CornerId


class AskPicture(AskCorner):
    """What a place looks like at a corner."""

    place: Name


class AskLook(AskPicture):
    """The circuit of a place, looked at in one of the ways that its stage knows."""

    look: Annotated[str, Field(max_length=120)]


class AskProbe(AskLook):
    """What a scope would show there."""

    probes: Annotated[list[Annotated[str, Field(max_length=80)]], Field(min_length=1, max_length=4)]


class AskFigure(Ask):
    """A question about one figure at a corner."""

    key: Key
    corner: CornerId


class AskSeek(AskFigure):
    """Make the figure equal to `wanted` (as typed, in its unit) by moving the given `move`."""

    wanted: Short
    move: Key


class AskScope(Ask):
    """The waveforms at a corner."""

    corner: CornerId
    load: Name = "brief"
    modulation: Literal["unipolar", "bipolar"] | None = None
    sampling: Literal["natural", "regular"] | None = None
    pixels: Annotated[int, Field(ge=50, le=MOST_PIXELS)] = 900


class AskParse(Strict):
    """A quantity as typed."""

    text: Annotated[str, StringConstraints(max_length=80)]
    unit: Annotated[str, StringConstraints(max_length=20)]
