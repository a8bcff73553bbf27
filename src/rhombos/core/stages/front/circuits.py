"""The circuits of a push-pull: a drain's clamp, and the whole front end from the rail to the link."""

from collections.abc import Mapping
from dataclasses import replace

from rhombos.core.circuit.schematic import Amount, Course, Joints, Part, Point, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.clamp import clamp
from rhombos.core.stages.front.front_end import push_pull
from rhombos.core.stages.link.circuits import TURNED
from rhombos.core.vocabulary import word

CONTACT, DROP, SLOPE = 1e-3, 0.8, 0.002
"""Ω of the switch, V and Ω of the clamp's diode: none of them is a figure."""

clamp.draw(
    Schematic(
        (
            Part("source", "winding", (0, 0), (0, 5), ("input_voltage",), "Winding", neighbour=True),
            Part("inductor", "leakage", (0, 0), (4, 0), ("leakage_inductance",), checks=("leakage_share",), neighbour=True),
            Part("switch", "switch", (4, 0), (4, 5), (CONTACT,), neighbour=True),
            Part("diode", "diode", (4, 0), (8, 0), (SLOPE,), "Clamp diode", forward=DROP, order="Clamp diode"),
            Part("capacitor", "capacitor", (8, 0), (8, 5), ("clamp_capacitor",), "Clamp capacitor", order="Clamp capacitor", checks=("clamp_room",)),
            Part("resistor", "resistor", (12, 0), (12, 5), ("clamp_resistor",), "Clamp resistor", order="Clamp resistor", checks=("clamp_resistor_power",)),
        ),
        (((8, 0), (12, 0)), ((0, 5), (12, 5))),
        ((0, 5),),
        {"drain": (4, 0), "clamp": (12, 0)},
    )
)


@clamp.look("Over a switching period", "v drain", "v clamp", "i diode", "i leakage")
def period(seen: Seen) -> Course:
    """One drain, volts from the rail: the leakage is charged to the current at the end of the pulse, then the clamp takes it; the winding holds the rail after the rest that counts."""
    rail, peak, leakage, rest = (seen.at(n) for n in ("input_voltage", "peak_current", "leakage_inductance", "emptying_rest"))
    seconds = 1 / seen.at("switching_frequency")
    off = min(leakage * peak / rail, 0.5 * seconds)
    turns = (Event(0.0, {"switch": True}, {"winding": rail}), Event(off, {"switch": False}, {"winding": 0.0}), Event(off + rest, levels={"winding": rail}))
    return Course(seconds, turns)


word("clamp_capacitor", "F", "C_c", "Capacitor of a drain's clamp.", 1.5e-6)
word("clamp_resistor", "Ω", "R_c", "Resistor of a drain's clamp.", 390)
word("diode_forward_voltage", "V", "V_F", "Forward voltage of a rectifier diode.", 1.4)

OFF, RECTIFIER_OFF, BODY, SLOPE_OF_RECTIFIER = 1e5, 1e6, 0.01, 0.05
"""Ω of what is off at the rail's volts and at the link's (some ten milliwatts each: more would only make the circuit stiff), of a body diode and of a rectifier beyond their forward voltages."""
RINGING = 20.0
"""Quality of the ringing of leakage and output capacitances: what winding and silicon leave it [judgement]."""
_HALF = (Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m + k),)
_HALVES = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: m / (m + k))
_OUTWARD = Worked(("magnetising_inductance", "leakage_inductance"), lambda m, k: (m / (m + k)) ** 0.5)
_POSITION = (Worked(("hot_resistance", "switch_quantity"), lambda r, n: r / n), "primary_resistance")
"""A position's devices side by side with their half of the primary: these resistances lie in series."""
HELD_BY_POSITION = Worked(("switch_output_capacitance", "switch_quantity"), lambda c, n: c * n)
_DAMPING = Worked(("leakage_inductance", "switch_output_capacitance", "switch_quantity"), lambda k, c, n: (k / (c * n)) ** 0.5 / RINGING)
BANK = 6.0
"""Where on the grid the rail stands, behind the battery's line."""


def rail_parts(bottom: float) -> tuple[Part, ...]:
    """The battery so that the rail's mean is the sheet's, its line, and the bulk capacitors across the rail: neighbours of a front end."""
    behind = Worked(("input_voltage", "source_resistance", "source_current"), lambda v, r, i: v + r * i)
    return (
        Part("source", "battery", (0, 0), (0, bottom), (behind,), neighbour=True),
        Part("resistor", "line", (0, 0), (3, 0), ("source_resistance",), "Pack and line", neighbour=True),
        Part("inductor", "cable", (3, 0), (BANK, 0), ("cable_inductance",), neighbour=True),
        Part("resistor", "bank_resistance", (BANK, 0), (BANK, bottom / 2), ("bank_resistance",), "Its resistance", neighbour=True),
        Part("capacitor", "bank", (BANK, bottom / 2), (BANK, bottom), ("bank_capacitance",), "Bulk capacitors", neighbour=True),
    )


def on_the_rail(seen: Seen) -> dict[str, float]:
    """About where they stand."""
    return {"cable": seen.at("source_current"), "bank": seen.at("input_voltage")}


def held_by_switches(name: str, at: Point, bottom: float, held: Amount, damping: Amount) -> tuple[Part, ...]:
    """What the switches at a node hold when they are off, and what damps its ringing."""
    x, y = at
    return (
        Part("capacitor", f"{name}_capacitance", at, (x, (y + bottom) / 2), (held,), "Output capacitance"),
        Part("resistor", f"{name}_damping", (x, (y + bottom) / 2), (x, bottom), (damping,), "Its damping"),
    )


def _rectifier(name: str, start: tuple[float, float], end: tuple[float, float]) -> Part:
    return Part("diode", name, start, end, (SLOPE_OF_RECTIFIER,), "Rectifier", forward="diode_forward_voltage", off=RECTIFIER_OFF, neighbour=True)


def _clamped(side: str, x: float) -> tuple[Part, ...]:
    """Diode, capacitor and resistor of the clamp of the drain at `x`, back to the rail."""
    return (
        Part("diode", f"clamp_diode_{side}", (x, 4), (x + 3, 4), (BODY,), "Clamp", forward=DROP, off=OFF, neighbour=True),
        Part("capacitor", f"clamp_capacitor_{side}", (x + 3, 4), (x + 3, 0), ("clamp_capacitor",), "Clamp", neighbour=True),
        Part("resistor", f"clamp_resistor_{side}", (x + 5.5, 4), (x + 5.5, 0), ("clamp_resistor",), "Clamp", neighbour=True),
    )


def _switched(side: str, x: float) -> tuple[Part, ...]:
    """A switch with its half of the primary in its resistance, its body diode and its clamp, the drain at `x`."""
    return (
        Part("switch", f"switch_{side}", (x, 6), (x, 10), _POSITION, f"Switch {side.upper()}", off=OFF, pick="switch", checks=_RATED),
        Part("diode", f"body_{side}", (x - 2.5, 10), (x - 2.5, 4), (BODY,), "Body", forward="switch_diode_voltage", off=OFF),
        *held_by_switches(f"drain_{side}", (x + 3, 6), 10, HELD_BY_POSITION, _DAMPING),
        *_clamped(side, x),
    )


def secondary_parts(x: float) -> tuple[Part, ...]:
    """Secondary at `x`, rectifier, choke and the link at its mean, all of them neighbours of a front end."""
    square = Worked(("turns_ratio", "magnetising_inductance"), lambda n, m: n**2 * m)
    return (
        Part("inductor", "secondary", (x, 2), (x, 7), (square,), "Secondary", neighbour=True),
        Part("resistor", "winding", (x, 2), (x + 3, 2), ("secondary_resistance",), "Winding", neighbour=True),
        _rectifier("first", (x + 3, 2), (x + 3, -1)),
        _rectifier("second", (x + 3, 10), (x + 3, 8)),
        _rectifier("third", (x + 6, 7), (x + 6, -1)),
        _rectifier("fourth", (x + 6, 10), (x + 6, 8)),
        Part("inductor", "choke", (x + 6, -1), (x + 9, -1), ("choke_inductance",), "Choke", neighbour=True),
        Part("resistor", "choke_resistance", (x + 9, -1), (x + 12, -1), ("choke_resistance",), "Its resistance", neighbour=True),
        Part("source", "link", (x + 12, -1), (x + 12, 10), ("link_voltage",), neighbour=True),
    )


def secondary_wires(x: float) -> tuple[tuple[tuple[float, float], ...], ...]:
    """What joins them."""
    return (((x + 3, 8), (x + 3, 2)), ((x, 7), (x + 6, 7)), ((x + 6, 8), (x + 6, 7)), ((x + 3, -1), (x + 6, -1)))


def secondary_nodes(x: float) -> dict[str, tuple[float, float]]:
    """Where they may be probed by name."""
    return {"secondary": (x + 3, 2), "rectified": (x + 6, -1), "link": (x + 12, -1)}


_CLAMPS = tuple(f"clamp_{part}_{side}" for part in ("diode", "capacitor", "resistor") for side in ("a", "b"))
_RATED = ("static_voltage_rating", "dynamic_voltage_rating", "current_rating", "junction")
A, B, OUT = 11.5, 21.5, 30.0
"""Where on the grid the drains stand, and the secondary."""
push_pull.draw(
    Schematic(
        (
            *rail_parts(10),
            Part("inductor", "half_a", (A, 0), (A, 4), _HALF, "Half A", neighbour=True),
            *_switched("a", A),
            Part("inductor", "half_b", (B, 4), (B, 0), _HALF, "Half B", neighbour=True),
            *_switched("b", B),
            *secondary_parts(OUT),
        ),
        (
            ((BANK, 0), (B + 5.5, 0)),
            ((0, 10), (OUT + 12, 10)),
            *(wire for x in (A, B) for wire in (((x - 2.5, 4), (x, 4)), ((x + 3, 4), (x + 5.5, 4)), ((x, 4), (x, 6)), ((x, 6), (x + 3, 6)))),
            *secondary_wires(OUT),
        ),
        ((0, 10),),
        {"rail": (BANK, 0), "drain A": (A, 4), "drain B": (B, 4), "clamp A": (A + 5.5, 4), **secondary_nodes(OUT)},
        (("half_a", "half_b", _HALVES), ("half_a", "secondary", _OUTWARD), ("half_b", "secondary", _OUTWARD)),
        Joints(((BANK, 0), (BANK, 10)), ((OUT + 3, 2), (OUT + 4.5, 7)), keeps=("half_a", "half_b", *_CLAMPS, "secondary", "winding")),
    )
)


_MIRROR = {
    # The halves are drawn from the rail and towards it, so that their dots stand alike.
    **{f"half_{side}": (f"half_{other}", -1.0) for side, other in ("ab", "ba")},
    **{
        part.format(side): (part.format(other), 1.0)
        for part in ("clamp_capacitor_{}", "drain_{}_capacitance", "switch_{}", "body_{}", "clamp_diode_{}")
        for side, other in ("ab", "ba")
    },
    "secondary": ("secondary", -1.0),
    **TURNED,
}


def rested(seen: Seen) -> dict[str, float]:
    """About where choke and secondary stand at the end of a rest: the choke in its valley, the magnetising current gone over to the secondary."""
    ratio = seen.at("turns_ratio")
    valley = max(seen.at("flat_top_current") / ratio - seen.at("choke_ripple") / 2, 0.0)
    return {"choke": valley, "secondary": -seen.at("magnetising_current") / ratio}


def in_the_crest(course: Course, seen: Seen) -> Course:
    """The same with the link as far below its mean as lets the choke's current swing to its crest: the duty stands still meanwhile (6.5)."""
    ratio, duty = seen.at("turns_ratio"), seen.at("effective_duty")
    commutation = 2 * seen.at("switching_frequency") * seen.at("leakage_inductance")
    # In a pulse the rail lies below its mean by what its bulk capacitors' resistance takes of the current that they give.
    source = duty**2 * seen.at("source_resistance") + duty * (1 - duty) * seen.at("bank_resistance")
    resistance = ratio**2 * (duty * seen.at("drive_resistance") + commutation + source) + duty * seen.at("secondary_resistance") + seen.at("choke_resistance")
    swing = seen.at("flat_top_swing") / ratio
    return crested(course, {"link": seen.at("link_voltage") - swing * resistance}, {"choke": swing, "cable": duty * ratio * swing})


def crested(course: Course, levels: Mapping[str, float], higher: Mapping[str, float]) -> Course:
    """A course with sources at other levels from its beginning on, and so many amperes more in its start."""
    start = {name: course.start.get(name, 0.0) + more for name, more in higher.items()}
    return replace(course, events=(Event(0.0, levels=levels), *course.events), start={**course.start, **start})


CREST = "In the crest of the output's power"
AT_THE_MEAN = f"The choke stands at its mean over the output's period; see “{CREST}” for the sheet's {{peak_current}} at the end of a pulse. "
_HELD = (
    "The sheet's drain peak, {drain_peak_voltage}, counts the crest and, unless the clamp is told otherwise, a winding that holds the rail while the leakage "
    "empties; here the rectifier conducts on both sides in the rest, and it holds nothing."
)


@push_pull.look("Over a switching period", "v drain A", "i half_a", "i choke", "i clamp_diode_a", note=AT_THE_MEAN + _HELD)
def both(seen: Seen) -> Course:
    """Both switches in turn with the commanded duty, the leakage between them and into the clamps, the link held at its mean."""
    seconds, duty = 1 / seen.at("switching_frequency"), seen.at("total_duty")
    on = duty * seconds / 2
    turns = ((0.0, "switch_a", True), (on, "switch_a", False), (seconds / 2, "switch_b", True), (seconds / 2 + on, "switch_b", False))
    # A little below where they come to, so that the clamps conduct in the first look already.
    clamped = 0.95 * seen.at("input_voltage")
    drained = dict.fromkeys(("drain_a_capacitance", "drain_b_capacitance"), seen.at("input_voltage"))
    near = {"clamp_capacitor_a": clamped, "clamp_capacitor_b": clamped, **drained, **on_the_rail(seen), **rested(seen)}
    return Course(seconds, tuple(Event(t, {name: state}) for t, name, state in turns), start=near, mirror=_MIRROR)


@push_pull.look(CREST, "v drain A", "i half_a", "i choke", "i clamp_diode_a", note=_HELD)
def both_in_the_crest(seen: Seen) -> Course:
    """The same where the output takes most: the link in its valley, the choke's current in its crest."""
    return in_the_crest(both(seen), seen)
