"""The winding card: what a person holds at the bench while winding the transformer."""

from typing import Any

import numpy as np

from rhombos.core.graph.places import Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import places_with, view_at
from rhombos.core.magnetics.copper import RHO_20, RHO_100

COLUMNS = ("turns", "strands", "diameter", "length", "resistance", "mass")
TAPE = "Tape between primary and secondary on both faces; keep the creepage that the standard you work to asks for."
BIFILAR = "Wind the two halves bifilar so that they are equal. The end of the first half joins the start of the second: the centre tap."
SHARED = "These strands lie over the secondary, in parallel with those below it: joined at the pins, same sense."
SERIES = "A single strand is not shared out: these turns follow those below the secondary in series, same sense."


def winding_cards(sheet: Sheet) -> list[dict[str, Any]]:
    """A card for every transformer of the line-up."""
    return [winding_card(sheet, place) for place in places_with(sheet.wiring, "winding")]


def winding_card(sheet: Sheet, place: Place) -> dict[str, Any]:
    """Core, windings in order, insulation, and the readings to expect, from the place's own figures (SI)."""
    keys = view_at(sheet.wiring, place, "winding")
    one = {role: float(sheet.value(key).reshape(-1)[0]) for role, key in keys.items()}
    unknown = [sheet.node(keys[role]).figure.title for role, value in one.items() if not np.isfinite(value) and role != "halves"]
    halves = int(one["halves"]) if np.isfinite(one["halves"]) else 1
    primary, secondary = ({name: one[f"{side}_{name}"] for name in COLUMNS} for side in ("primary", "secondary"))
    return {
        "place": place.name,
        "title": place.shown,
        "halves": halves,
        "core": {name: one[name] for name in ("area", "window", "breadth", "mean_turn")},
        "primary": primary,
        "secondary": secondary,
        "order": [] if unknown else winding_order(primary, secondary, halves),
        "unknown": unknown,
        "interfaces": one["interfaces"],
        "insulation": one["insulation"],
        "expected": {
            "magnetising_inductance": one["magnetising_inductance"],
            "leakage": one["leakage"],
            "ratio": one["ratio"],
            "primary_resistance_cold": one["primary_resistance"] * RHO_20 / RHO_100,
            "secondary_resistance_cold": one["secondary_resistance"] * RHO_20 / RHO_100,
        },
        "test": "Energise with a low voltage first: both halves give equal and opposite voltage, and the ratio holds. Round off the core's edges, insulate before winding.",
    }


def winding_order(primary: dict[str, float], secondary: dict[str, float], halves: int) -> list[dict[str, Any]]:
    """What is wound one after the other: half of the primary, the secondary, the other half of the primary.

    The primary's strands are shared out below and above the secondary, which halves the leakage; a single strand
    cannot be, so its turns are. `strands` is the number of one half of the primary in that part.
    """
    both = halves == 2
    pins = {"start": "1 and 2", "finish": "3 and 4"} if both else {"start": "1", "finish": "4"}
    name = "Primary, both halves wound together" if both else "Primary"
    whole = "turns" if primary["strands"] == 1 else "strands"
    count = int(primary[whole])
    below = count - count // 2
    order: list[dict[str, Any]] = [
        {"name": f"{name}, first part", **_part(primary, whole, below), **pins, "note": BIFILAR if both else ""},
        {"name": "Secondary", **secondary, "start": "7", "finish": "10", "note": TAPE},
    ]
    if count > below:
        note = SERIES if whole == "turns" else SHARED
        order.append({"name": f"{name}, second part", **_part(primary, whole, count - below), **pins, "note": note})
    return order


def _part(winding: dict[str, float], shared: str, count: int) -> dict[str, float]:
    """A part of a winding with `count` of its strands or turns; copper and resistance go with them."""
    share = count / winding[shared]
    part = {**winding, shared: count, "mass": winding["mass"] * share}
    if shared == "turns":
        return {**part, "length": winding["length"] * share, "resistance": winding["resistance"] * share}
    return {**part, "resistance": winding["resistance"] / share}
