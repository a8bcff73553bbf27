"""The winding card: what a person holds at the bench while winding the transformer."""

from typing import Any

from rhombos.core.graph.sheet import Sheet
from rhombos.core.magnetics.copper import RHO_20, RHO_100

COLUMNS = {"turns": "turns", "strands": "strands", "diameter": "strand_diameter", "length": "wire_length", "resistance": "dc_resistance", "mass": "copper_mass"}
TAPE = "Tape between primary and secondary on both faces; keep the creepage that the standard you work to asks for."
BIFILAR = "Wind the two halves bifilar so that they are equal. The end of the first half joins the start of the second: the centre tap."
SHARED = "These strands lie over the secondary, in parallel with those below it: joined at the pins, same sense."
SERIES = "A single strand is not shared out: these turns follow those below the secondary in series, same sense."


def winding_card(sheet: Sheet) -> dict[str, Any]:
    """Core, windings in order, insulation, and the readings to expect, from the sheet's own figures (SI)."""

    def one(key: str) -> float:
        return float(sheet.value(key).reshape(-1)[0])

    halves = int(one("front.driven_windings"))
    primary, secondary = ({name: one(f"transformer.{side}_{column}") for name, column in COLUMNS.items()} for side in ("primary", "secondary"))
    return {
        "halves": halves,
        "core": {
            "area": one("transformer.core_effective_area"),
            "window": one("transformer.core_window_area"),
            "breadth": one("transformer.core_winding_breadth"),
            "mean_turn": one("transformer.core_mean_turn_length"),
        },
        "primary": primary,
        "secondary": secondary,
        "order": winding_order(primary, secondary, halves),
        "interfaces": one("transformer.interfaces"),
        "insulation": one("transformer.insulation_height"),
        "expected": {
            "magnetising_inductance": one("transformer.magnetising_inductance"),
            "leakage": one("transformer.leakage_inductance"),
            "ratio": one("transformer.turns_ratio"),
            "primary_resistance_cold": one("transformer.primary_dc_resistance") * RHO_20 / RHO_100,
            "secondary_resistance_cold": one("transformer.secondary_dc_resistance") * RHO_20 / RHO_100,
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
