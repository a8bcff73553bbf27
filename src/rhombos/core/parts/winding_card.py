"""The winding card: what a person holds at the bench while winding the transformer."""

from typing import Any

from rhombos.core.graph.sheet import Sheet


def winding_card(sheet: Sheet) -> dict[str, Any]:
    """Core, windings in order, insulation, and the readings to expect, from the sheet's own figures (SI)."""

    def one(key: str) -> float:
        return float(sheet.value(key).reshape(-1)[0])

    halves = int(one("front.driven_windings"))
    primary = {
        "turns": one("transformer.primary_turns"),
        "strands": one("transformer.primary_strands"),
        "diameter": one("transformer.primary_strand_diameter"),
        "length": one("transformer.primary_wire_length"),
        "layers": one("transformer.primary_layers"),
        "resistance": one("transformer.primary_dc_resistance"),
        "mass": one("transformer.primary_copper_mass"),
    }
    secondary = {
        "turns": one("transformer.secondary_turns"),
        "strands": one("transformer.secondary_strands"),
        "diameter": one("transformer.secondary_strand_diameter"),
        "length": one("transformer.secondary_wire_length"),
        "layers": one("transformer.secondary_layers"),
        "resistance": one("transformer.secondary_dc_resistance"),
        "mass": one("transformer.secondary_copper_mass"),
    }
    if halves == 2:
        order = [
            {
                "name": "Primary, both halves wound together, first part",
                **primary,
                "start": "1 and 2",
                "finish": "3 and 4",
                "note": "Wind the two halves bifilar so that they are equal. The end of the first half joins the start of the second: the centre tap.",
            },
            {
                "name": "Secondary",
                **secondary,
                "start": "7",
                "finish": "10",
                "note": "Tape between primary and secondary on both faces; keep the creepage that the standard you work to asks for.",
            },
            {
                "name": "Primary, second part over the secondary",
                **primary,
                "start": "1 and 2",
                "finish": "3 and 4",
                "note": "Half of the strands of each half lie below the secondary, half above: both parts in parallel.",
            },
        ]
    else:
        order = [
            {
                "name": "Primary, first part",
                **primary,
                "start": "1",
                "finish": "4",
                "note": "Half of the strands below the secondary, half above, in parallel.",
            },
            {
                "name": "Secondary",
                **secondary,
                "start": "7",
                "finish": "10",
                "note": "Tape between primary and secondary on both faces; keep the creepage that the standard you work to asks for.",
            },
            {
                "name": "Primary, second part over the secondary",
                **primary,
                "start": "1",
                "finish": "4",
                "note": "Joined with the first part at the pins; same sense.",
            },
        ]
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
        "order": order,
        "interfaces": one("transformer.interfaces"),
        "insulation": one("transformer.insulation_height"),
        "expected": {
            "magnetising_inductance": one("transformer.magnetising_inductance"),
            "leakage": one("transformer.leakage_inductance"),
            "ratio": one("transformer.turns_ratio"),
            "primary_resistance_cold": one("transformer.primary_dc_resistance") / (1 + 0.00393 * 80),
            "secondary_resistance_cold": one("transformer.secondary_dc_resistance") / (1 + 0.00393 * 80),
        },
        "test": "Energise with a low voltage first: both halves give equal and opposite voltage, and the ratio holds. Round off the core's edges, insulate before winding.",
    }
