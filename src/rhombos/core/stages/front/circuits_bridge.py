"""The circuits of the other front ends: full bridge from the rail to the link, boost from the battery to the link."""

from rhombos.core.circuit.schematic import Course, Joints, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.boost import boost
from rhombos.core.stages.front.circuits import (
    AT_THE_MEAN,
    BANK,
    BODY,
    CREST,
    HELD_BY_POSITION,
    OFF,
    RECTIFIER_OFF,
    RINGING,
    crested,
    held_by_switches,
    in_the_crest,
    on_the_rail,
    rail_parts,
    rested,
    secondary_nodes,
    secondary_parts,
    secondary_wires,
)
from rhombos.core.stages.front.front_end import full_bridge
from rhombos.core.stages.link.circuits import TURNED

_RATED = ("static_voltage_rating", "dynamic_voltage_rating", "current_rating", "junction")
_TIGHT = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: (m / (m + k)) ** 0.5)
_POSITION = Worked(("hot_resistance", "switch_quantity"), lambda r, n: r / n)
_HELD_BY_LEG = Worked(("switch_output_capacitance", "switch_quantity"), lambda c, n: 2 * c * n)
"""High and low side lie in parallel for what moves: one to either side of a stiff rail."""
_DAMPING = Worked(("leakage_inductance", "switch_output_capacitance", "switch_quantity"), lambda k, c, n: (k / (4 * c * n)) ** 0.5 / RINGING)
"""In each leg: both legs in series ring with the leakage."""
A, B, OUT = 9.0, 26.0, 30.5
"""Where on the grid the legs stand, and the secondary."""


def _position(name: str, title: str, x: float, body: float, top: float) -> tuple[Part, ...]:
    """A switch and its body diode, five steps down from `top`."""
    return (
        Part("switch", name, (x, top), (x, top + 5), (_POSITION,), title, off=OFF, pick="switch", checks=_RATED),
        Part("diode", f"{name}_body", (body, top + 5), (body, top), (BODY,), "Body", forward="switch_diode_voltage", off=OFF),
    )


full_bridge.draw(
    Schematic(
        (
            *rail_parts(10),
            *_position("a_high", "A high", A, A + 2.5, 0),
            *_position("a_low", "A low", A, A + 2.5, 5),
            *held_by_switches("a", (A + 5, 5), 10, _HELD_BY_LEG, _DAMPING),
            Part("resistor", "primary_resistance", (A + 5, 5), (A + 8, 5), ("primary_resistance",), "Its resistance", neighbour=True),
            Part(
                "inductor",
                "primary",
                (A + 8, 5),
                (B - 6, 5),
                (Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m + k),),
                "Primary",
                neighbour=True,
            ),
            *held_by_switches("b", (B - 6, 5), 10, _HELD_BY_LEG, _DAMPING),
            *_position("b_high", "B high", B, B - 2.5, 0),
            *_position("b_low", "B low", B, B - 2.5, 5),
            *secondary_parts(OUT),
        ),
        (((BANK, 0), (B, 0)), ((0, 10), (OUT + 12, 10)), ((A, 5), (A + 5, 5)), ((B - 6, 5), (B, 5)), *secondary_wires(OUT)),
        ((0, 10),),
        {"rail": (BANK, 0), "leg A": (A, 5), "leg B": (B, 5), **secondary_nodes(OUT)},
        (("primary", "secondary", _TIGHT),),
        Joints(((BANK, 0), (BANK, 10)), ((OUT + 3, 2), (OUT + 4.5, 7)), keeps=("primary_resistance", "primary", "secondary", "winding")),
    )
)


_MIRROR = {
    **{winding: (winding, -1.0) for winding in ("primary", "secondary")},
    **{f"{side}_{part}": (f"{other}_{part}", 1.0) for part in ("capacitance", "high", "low", "high_body", "low_body") for side, other in ("ab", "ba")},
    **TURNED,
}


_LOOP = "The sheet's drain peak, {drain_peak_voltage}, counts what the loop of rail and switches rings up to; its inductance is not in this circuit."


@full_bridge.look("Over a switching period", "v leg A", "i primary", "i choke", "v secondary", note=AT_THE_MEAN + _LOOP)
def diagonals(seen: Seen) -> Course:
    """The diagonals in turn with the commanded duty; in the rest all are off, and the body diodes lead the leakage back to the rail."""
    seconds, duty = 1 / seen.at("switching_frequency"), seen.at("total_duty")
    on = duty * seconds / 2
    forth, back = ("a_high", "b_low"), ("a_low", "b_high")
    turns = ((0.0, forth, True), (on, forth, False), (seconds / 2, back, True), (seconds / 2 + on, back, False))
    near = {**dict.fromkeys(("a_capacitance", "b_capacitance"), seen.at("input_voltage") / 2), **on_the_rail(seen), **rested(seen)}
    return Course(seconds, tuple(Event(t, dict.fromkeys(names, state)) for t, names, state in turns), start=near, mirror=_MIRROR)


@full_bridge.look(CREST, "v leg A", "i primary", "i choke", "v secondary", note=_LOOP)
def diagonals_in_the_crest(seen: Seen) -> Course:
    """The same where the output takes most: the link in its valley, the choke's current in its crest."""
    return in_the_crest(diagonals(seen), seen)


SILICON = 0.5
"""Ω in series with an output capacitance that no leakage rings with [judgement]."""
boost.draw(
    Schematic(
        (
            *rail_parts(5),
            Part("inductor", "choke", (BANK, 0), (9, 0), ("choke_inductance",), order="Choke", checks=("reach",), saturates="choke_saturation_current"),
            Part("resistor", "choke_resistance", (9, 0), (12, 0), ("choke_resistance",), "Its resistance"),
            Part("diode", "body", (12, 5), (12, 0), (BODY,), "Body", forward="switch_diode_voltage", off=RECTIFIER_OFF),
            Part("switch", "switch", (14.5, 0), (14.5, 5), ("position_resistance",), off=RECTIFIER_OFF, pick="switch", checks=_RATED),
            *held_by_switches("drain", (17, 0), 5, HELD_BY_POSITION, SILICON),
            Part(
                "diode",
                "diode",
                (17, 0),
                (21, 0),
                (0.02,),
                forward="diode_forward_voltage",
                off=RECTIFIER_OFF,
                pick="diode",
                checks=("reverse_voltage", "diode_current", "recovery"),
            ),
            Part("capacitor", "link", (21, 0), (21, 5), ("link_capacitance",), neighbour=True),
            Part("current", "bridge", (24, 0), (24, 5), ("link_current",), "Bridge, mean", neighbour=True),
        ),
        (((12, 0), (17, 0)), ((21, 0), (24, 0)), ((0, 5), (24, 5))),
        ((0, 5),),
        {"rail": (BANK, 0), "drain": (17, 0), "link": (24, 0)},
        joints=Joints(((BANK, 0), (BANK, 5)), ((21, 0), (21, 5))),
    )
)


@boost.look("Over a switching period", "v drain", "v link", "i choke", "i diode", note=AT_THE_MEAN + _LOOP)
def period(seen: Seen) -> Course:
    """The switch on for the effective duty of its own period."""
    seconds = 1 / seen.at("ripple_frequency")
    turns = (Event(0.0, {"switch": True}), Event(seen.at("effective_duty") * seconds, {"switch": False}))
    valley = max(seen.at("choke_current") - seen.at("choke_ripple") / 2, 0.0)
    held = dict.fromkeys(("link", "drain_capacitance"), seen.at("output_voltage"))
    return Course(seconds, turns, start={**held, **on_the_rail(seen), "choke": valley})


@boost.look(CREST, "v drain", "v link", "i choke", "i diode", note=_LOOP)
def crest(seen: Seen) -> Course:
    """The same where the output takes most: the bridge draws what the choke's crest gives it."""
    swing = seen.at("choke_swing")
    return crested(period(seen), {"bridge": seen.at("link_current") + swing}, dict.fromkeys(("choke", "cable"), swing / (1 - seen.at("effective_duty"))))
