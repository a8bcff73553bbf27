"""What is set and tried on the bench: every threshold with its tolerance, delay and reset, and the steps with the numbers to expect."""

from typing import Any

from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.formats.words import Words


def thresholds(model: Model, sheet: Sheet) -> list[dict[str, Any]]:
    """A row for everything that trips: where, what, at which value, from and to with the tolerances of its parts, after what time, until what."""
    rows = []
    for place in model.wiring.lineup.places:
        told = Words(sheet, place)
        for trip in place.stage.trips:
            if trip.when and told.value(trip.when) == 0:
                continue
            rows.append(
                {
                    "place": place.name,
                    "what": trip.what,
                    "acts": told.text(trip.acts),
                    "low": told.text(trip.low) if trip.low else "",
                    "high": told.text(trip.high) if trip.high else "",
                    "after": told.fill(trip.after),
                    "resets": told.fill(trip.resets),
                }
            )
    return rows


def procedures(model: Model, sheet: Sheet) -> list[dict[str, Any]]:
    """What is done on the bench: first what keeps people whole, then place by place in the order of the line."""
    found = [
        (place, procedure)
        for place in model.wiring.lineup.places
        for procedure in place.stage.procedures
        if not procedure.when or Words(sheet, place).value(procedure.when) != 0
    ]
    return [
        {"place": place.name, "title": procedure.title, "steps": [Words(sheet, place).fill(step) for step in procedure.steps]}
        for place, procedure in sorted(found, key=lambda pair: not pair[1].safety)
    ]
