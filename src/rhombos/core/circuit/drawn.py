"""A place's schematic as it is drawn: values lettered, judgements marked; and its probe."""

import math
import re
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.schematic import Part, Point, Schematic, Wires, lies_on, meeting
from rhombos.core.circuit.solved import Probable, Probed, Readings, as_built, is_fitted, looked, number_of, probed, readings
from rhombos.core.graph.errors import Unknown
from rhombos.core.graph.pictures import Seen
from rhombos.core.graph.verdicts import VERDICTS
from rhombos.core.units import show

WORDS = {"source": "V", "sine": "V", "current": "A", "resistor": "Ω", "inductor": "H", "capacitor": "F", "switch": "Ω", "diode": "V"}
"""The unit of what is lettered at a part."""


def schematic_of(seen: Seen) -> Schematic:
    """The place's schematic. Raises Unknown where the stage has none."""
    schematic = seen.place.stage.schematic
    if schematic is None:
        raise Unknown(f"{seen.place.shown} has no schematic")
    return schematic


def drawn(seen: Seen) -> dict[str, Any]:
    """What the page draws of a place's schematic, in plain values."""
    schematic = schematic_of(seen)
    worst = worst_of(seen)
    parts, wires = as_built(schematic.parts, schematic.wires, set(schematic.grounds), seen.at)
    ends = [p for part in parts for p in (part.start, part.end)]
    points = ends + [p for wire in wires for p in wire]
    joined: dict[str, list[Point]] = {}
    for part in parts:
        for name, point in zip(schematic.ends(part), (part.start, part.end), strict=True):
            joined.setdefault(name, []).append(point)
    return {
        "left": min(x for x, _ in points),
        "right": max(x for x, _ in points),
        "top": min(y for _, y in points),
        "bottom": max(y for _, y in points),
        "parts": [part_drawn(seen, schematic, part, worst) for part in parts],
        "wires": [list(map(list, wire)) for wire in wires],
        "dots": list(map(list, meeting(wires, ends, schematic.grounds))),
        "grounds": list(map(list, schematic.grounds)),
        "nodes": [
            {"name": name, "at": list(_where(schematic.nodes.get(name), ends, wires)), "named": name in schematic.nodes}
            for name, ends in joined.items()
            if name != "0"
        ],
        "looks": [{"title": look.title, "probes": list(look.probes), "note": _said(seen, look.note)} for look in seen.place.stage.looks],
    }


def _said(seen: Seen, words: str) -> str:
    """Words with the figures that they name in braces, as they are at this corner."""

    def figure(found: re.Match[str]) -> str:
        value, unit = seen.at(found[1]), seen.sheet.node(seen.key(found[1])).figure.unit
        return show(value, unit, 3) if math.isfinite(value) else "not known"

    return re.sub(r"\{(\w+)\}", figure, words)


def _where(named: Point | None, ends: Sequence[Point], wires: Wires) -> Point:
    """Where a node is marked: where it was named, as long as something is drawn there; else at the nearest end of a part that is left of it."""
    if named is None:
        return ends[0]
    if named in ends or any(lies_on(named, *segment) for wire in wires for segment in pairwise(wire)):
        return named
    return min(ends, key=lambda end: math.dist(end, named))


def worst_of(seen: Seen) -> dict[str, str]:
    """The worst verdict of every check of the place over all corners."""
    verdicts = seen.sheet.judge()
    here = f"{seen.place.name}."
    rows = zip(seen.model.wiring.checks, verdicts.code, strict=True)
    return {c.key.removeprefix(here): VERDICTS[int(code.min())] for c, code in rows if c.key.startswith(here)}


def part_drawn(seen: Seen, schematic: Schematic, part: Part, worst: dict[str, str]) -> dict[str, Any]:
    """A part with its value lettered, its figure and its worst judgement."""
    marks = [worst[c] for c in part.checks if c in worst]
    here = is_fitted(part, seen.at)
    return {
        "kind": part.kind if here else "wire",
        "name": part.name,
        "title": part.shown if here else f"{part.shown}: not fitted",
        "start": list(part.start),
        "end": list(part.end),
        "text": _text(seen, part) if here else "",
        "nodes": list(schematic.ends(part)),
        "figure": seen.key(part.figures[0]) if part.figures else None,
        "verdict": min(marks, key=VERDICTS.index, default=""),
        "neighbour": part.neighbour,
    }


def _text(seen: Seen, part: Part) -> str:
    """What is lettered beside a part: its value at this corner, a diode's forward voltage."""
    if part.kind == "switch" and not part.figures:
        return ""  # its contact is no figure of anybody's
    if part.kind == "diode" and part.forward == 0.0:
        return ""  # it stands for a direction only
    amounts = (part.forward,) if part.kind == "diode" else part.value
    values = [number_of(a, seen.at) for a in amounts]
    total = float(np.sum(values)) if values else float("nan")
    if not np.isfinite(total):
        return "not known"
    return show(total, WORDS[part.kind], 3)


def looked_at(seen: Seen, look: str) -> Probable:
    """The circuit as it runs in one of the stage's looks, to be probed and read. Raises Unknown, CircuitError."""
    schematic = schematic_of(seen)
    found = [k for k in seen.place.stage.looks if k.title == look]
    if not found:
        raise Unknown(f"{seen.place.shown} is not looked at by {look!r}; there are {', '.join(k.title for k in seen.place.stage.looks)}")
    return looked(schematic, seen.at, found[0].fn(seen))


def probe(seen: Seen, run: Probable, probes: list[str]) -> Probed:
    """What probes show of a run. Raises CircuitError."""
    if not probes:
        raise CircuitError("nothing is probed: choose a node or a part")
    return probed(schematic_of(seen), run, probes)


def read_out(seen: Seen, run: Probable) -> Readings:
    """Volts of all nodes and amperes of all parts of a run."""
    return readings(schematic_of(seen), run)
