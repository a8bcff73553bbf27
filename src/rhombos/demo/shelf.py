"""The demos that ship, by name."""

from collections.abc import Callable
from dataclasses import dataclass

from rhombos.demo import battery_sides, tern_islet
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
    back: str = ""
    """With what message the first design is saved again, where there are later ones."""

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
        "Back to one freezer and computed turns",
    ),
    "cider-press": Demo(
        "cider-press",
        "Cider press heater & lamps",
        "36 V Li-ion to 120 V 60 Hz stepped, 350 W: the battery's side, the converter still to come.",
        (Revision(battery_sides.cider_press, "Battery's side: fuse, cut-off with its pot, precharge"),),
        ("Cut-off with a pot", "The press is lent out with packs of two makers: the cut-off is set on the bench for the pack that goes with it."),
    ),
    "ferry-buoy": Demo(
        "ferry-buoy",
        "Ferry buoy siren",
        "12 V lead-acid to 115 V 60 Hz, 120 VA: the battery's side, the iron still to come.",
        (Revision(battery_sides.ferry_buoy, "Battery's side: series MOSFET against a reversed pack"),),
        ("Series MOSFET", "The pack is changed at sea, at night: a shunt diode would leave the buoy without a fuse until the next tide."),
    ),
}
