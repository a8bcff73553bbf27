"""The demos that ship, by name."""

from collections.abc import Callable
from dataclasses import dataclass

from rhombos.demo import tern_islet
from rhombos.formats.design import Design


@dataclass(frozen=True)
class Revision:
    """A revision of a demo: its design and the message it was saved with."""

    design: Callable[[], Design]
    message: str


@dataclass(frozen=True)
class Demo:
    """A demo project: revisions in order; `opened` is the one that the shelf opens."""

    name: str
    title: str
    sentence: str
    revisions: tuple[Revision, ...]
    decision: tuple[str, str]

    def design(self) -> Design:
        """The first, good revision."""
        return self.revisions[0].design()


DEMOS = {
    "tern-islet": Demo(
        "tern-islet",
        "Tern Islet field station",
        "24 V LiFePO4 to 230 V 50 Hz sine, 800 W, for a sample freezer, laptops, an oven and a lamp.",
        (Revision(tern_islet.first, "First sheet: holds at every corner"), Revision(tern_islet.second, "Second freezer, two turns of foil: what gives?")),
        (
            "Push-pull front end",
            "Push-pull rather than the full bridge: two ground-referenced switches, no high-side supply to fail on the islet; the clamps lose less than one per cent of the power. "
            "Reopen if the load grows past a kilowatt.",
        ),
    )
}
