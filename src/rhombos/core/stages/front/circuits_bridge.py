"""The circuits of the other front ends: full bridge from the rail to the link, boost from the battery to the link."""

from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.boost import boost
from rhombos.core.stages.front.circuits import (
    AT_THE_MEAN,
    BODY,
    CREST,
    OFF,
    RECTIFIER_OFF,
    beginning,
    in_the_crest,
    rested,
    secondary_nodes,
    secondary_parts,
    secondary_wires,
)
from rhombos.core.stages.front.front_end import full_bridge

_RATED = ("static_voltage_rating", "dynamic_voltage_rating", "current_rating", "junction")
_TIGHT = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: (m / (m + k)) ** 0.5)
_POSITION = Worked(("hot_resistance", "switch_quantity"), lambda r, n: r / n)
OUT = 18.5
"""Where on the grid the secondary stands."""


def _position(name: str, title: str, x: float, body: float, top: float) -> tuple[Part, ...]:
    """A switch and its body diode, five steps down from `top`."""
    return (
        Part("switch", name, (x, top), (x, top + 5), (_POSITION,), title, off=OFF, pick="switch", checks=_RATED),
        Part("diode", f"{name}_body", (body, top + 5), (body, top), (BODY,), "Body", forward="switch_diode_voltage", off=OFF),
    )


full_bridge.draw(
    Schematic(
        (
            Part("source", "rail", (0, 0), (0, 10), ("input_voltage",), neighbour=True),
            *_position("a_high", "A high", 3, 5.5, 0),
            *_position("a_low", "A low", 3, 5.5, 5),
            Part("resistor", "primary_resistance", (5.5, 5), (8.5, 5), ("primary_resistance",), "Its resistance", neighbour=True),
            Part(
                "inductor",
                "primary",
                (8.5, 5),
                (11.5, 5),
                (Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m + k),),
                "Primary",
                neighbour=True,
            ),
            *_position("b_high", "B high", 14, 11.5, 0),
            *_position("b_low", "B low", 14, 11.5, 5),
            *secondary_parts(OUT),
        ),
        (((0, 0), (14, 0)), ((0, 10), (OUT + 12, 10)), ((3, 5), (5.5, 5)), ((11.5, 5), (14, 5)), *secondary_wires(OUT)),
        ((0, 10),),
        {"rail": (0, 0), "leg A": (5.5, 5), "leg B": (11.5, 5), **secondary_nodes(OUT)},
        (("primary", "secondary", _TIGHT),),
        Joints(((0, 0), (0, 10)), ((OUT + 3, 2), (OUT + 4.5, 7)), keeps=("primary_resistance", "primary", "secondary", "winding")),
    )
)


_MIRROR = {"primary": ("primary", -1.0), "secondary": ("secondary", -1.0)}


_LOOP = "The sheet's drain peak, {drain_peak_voltage}, counts what the loop of rail and switches rings up to; its inductance is not in this circuit."


@full_bridge.look("Over a switching period", "v leg A", "i primary", "i choke", "v secondary", note=AT_THE_MEAN + _LOOP)
def diagonals(seen: Seen) -> Course:
    """The diagonals in turn with the commanded duty; in the rest all are off, and the body diodes lead the leakage back to the rail."""
    seconds, duty = 1 / seen.at("switching_frequency"), seen.at("total_duty")
    on = duty * seconds / 2
    forth, back = ("a_high", "b_low"), ("a_low", "b_high")
    turns = ((0.0, forth, True), (on, forth, False), (seconds / 2, back, True), (seconds / 2 + on, back, False))
    return Course(seconds, tuple(Event(t, dict.fromkeys(names, state)) for t, names, state in turns), start=rested(seen), mirror=_MIRROR)


@full_bridge.look(CREST, "v leg A", "i primary", "i choke", "v secondary", note=_LOOP)
def diagonals_in_the_crest(seen: Seen) -> Course:
    """The same where the output takes most: the link in its valley, the choke's current in its crest."""
    return beginning(diagonals(seen), in_the_crest(seen))


boost.draw(
    Schematic(
        (
            Part("source", "rail", (0, 0), (0, 5), ("input_voltage",), neighbour=True),
            Part("inductor", "choke", (0, 0), (4, 0), ("choke_inductance",), order="Choke", checks=("reach",), saturates="choke_saturation_current"),
            Part("resistor", "choke_resistance", (4, 0), (7, 0), ("choke_resistance",), "Its resistance"),
            Part("switch", "switch", (7, 0), (7, 5), ("position_resistance",), off=RECTIFIER_OFF, pick="switch", checks=_RATED),
            Part(
                "diode",
                "diode",
                (7, 0),
                (11, 0),
                (0.02,),
                forward="diode_forward_voltage",
                off=RECTIFIER_OFF,
                pick="diode",
                checks=("reverse_voltage", "diode_current", "recovery"),
            ),
            Part("capacitor", "link", (11, 0), (11, 5), ("link_capacitance",), neighbour=True),
            Part("current", "bridge", (14, 0), (14, 5), ("link_current",), "Bridge, mean", neighbour=True),
        ),
        (((11, 0), (14, 0)), ((0, 5), (14, 5))),
        ((0, 5),),
        {"rail": (0, 0), "drain": (7, 0), "link": (14, 0)},
        joints=Joints(((0, 0), (0, 5)), ((11, 0), (11, 5))),
    )
)


@boost.look("Over a switching period", "v drain", "v link", "i choke", "i diode", note=AT_THE_MEAN + _LOOP)
def period(seen: Seen) -> Course:
    """The switch on for the effective duty of its own period."""
    seconds = 1 / seen.at("ripple_frequency")
    turns = (Event(0.0, {"switch": True}), Event(seen.at("effective_duty") * seconds, {"switch": False}))
    valley = max(seen.at("choke_current") - seen.at("choke_ripple") / 2, 0.0)
    return Course(seconds, turns, start={"link": seen.at("output_voltage"), "choke": valley})


@boost.look(CREST, "v drain", "v link", "i choke", "i diode", note=_LOOP)
def crest(seen: Seen) -> Course:
    """The same where the output takes most: the bridge draws what the choke's crest gives it."""
    return beginning(period(seen), {"bridge": seen.at("link_current") + seen.at("choke_swing")})
