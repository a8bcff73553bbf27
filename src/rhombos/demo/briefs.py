"""Briefs to begin from: ordinary ones at ordinary voltages, made up, with everything that is not said at its usual value."""

from rhombos.formats.design import Design, LoadRow

Row = tuple[str, str, float, int]
"""A load: title, type, watts, how many."""


def _brief(title: str, lineup: str, cells: float, ampere_hours: float, loads: tuple[Row, ...], givens: dict[str, float] | None = None) -> Design:
    places = [f"load_{k}" for k in range(1, len(loads) + 1)]
    values = {"battery.cells": cells, "battery.capacity": ampere_hours * 3600, **(givens or {})}
    for place, (_, _, watts, count) in zip(places, loads, strict=True):
        values |= {f"{place}.rated_power": watts, f"{place}.count": float(count)}
    return Design(
        title=title,
        lineup=lineup,
        loads=[LoadRow(place=place, title=load[0]) for place, load in zip(places, loads, strict=True)],
        givens=values,
        choices={f"{place}.type": load[1] for place, load in zip(places, loads, strict=True)},
    )


def briefs() -> list[Design]:
    """The briefs, by rising power."""
    push_pull, bridge = "ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"
    return [
        _brief("Lock keeper's hut, 12.8 V", push_pull, 4, 100, (("Reading lamps", "filament_lamp", 25, 2), ("Radio and laptop", "active_pfc", 90, 1))),
        _brief(
            "Ridge hut, 25.6 V", push_pull, 8, 200, (("Kettle on low", "heater", 350, 1), ("Lamps", "filament_lamp", 20, 4), ("Laptops", "active_pfc", 65, 2))
        ),
        _brief("Apple store, 51.2 V", bridge, 16, 200, (("Cold room compressor", "induction_motor", 250, 1), ("Sorting table lamps", "active_pfc", 40, 6))),
        _brief(
            "Boat shed, 51.2 V, 60 Hz",
            bridge,
            16,
            280,
            (("Planer", "universal_motor", 600, 1), ("Glue heater", "heater", 500, 1)),
            {"output.rated_output_voltage": 120.0, "output.output_frequency": 60.0},
        ),
    ]
