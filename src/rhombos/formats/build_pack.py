"""What to order: the parts list from the sheet, as rows and as CSV."""

import csv
import io
import math
from typing import Any

from rhombos.core.graph.model import Model
from rhombos.core.graph.places import Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.shows import Ordered
from rhombos.formats.words import Words


def parts_list(model: Model, sheet: Sheet) -> list[dict[str, Any]]:
    """Every part to order: place, what it is, rating needed, part picked, quantity, unit and total price. What is not fitted is not ordered."""
    rows: list[dict[str, Any]] = []
    for wired in model.wiring.picks:
        state, candidates = sheet.picks[wired.index], model.candidates[wired.index]
        if wired.pick.part_type in ("wire", "ferrite"):
            continue
        chosen = int(state.chosen.reshape(-1)[0])
        record = candidates.table.record(candidates.table.codes[int(candidates.rows[chosen])])
        count = int(candidates.quantity[chosen]) * wired.pick.pieces
        rows.append(_row(wired.place, wired.pick.title, record["code"], record["description"], count, record["price"]))
    for place in model.wiring.lineup.places:
        rows += [row for order in place.stage.orders if (row := _ordered(sheet, place, order))["quantity"] != 0]
    return rows


def beside(model: Model, sheet: Sheet, place: Place) -> list[dict[str, Any]]:
    """Of a place with a circuit the rows that none of its drawn parts stands for: what carries none of its current, as a heat sink, or acts inside it, as a controller.

    Each with its value in words, how many, and the figure that it opens.
    """
    schematic = place.stage.schematic
    if schematic is None:
        return []
    drawn = {part.order for part in schematic.parts}
    rows = [(order, _ordered(sheet, place, order)) for order in place.stage.orders if order.what not in drawn]
    return [{"title": r["what"], "text": r["part"], "quantity": r["quantity"], "figure": _opened(model, place, o)} for o, r in rows if r["quantity"] != 0]


def _opened(model: Model, place: Place, order: Ordered) -> str | None:
    """The figure that says most of a row: the first that its words name."""
    return next((model.wiring.nodes[model.wiring.resolve(place, name)].key for name in order.names), None)


def _row(place: str, what: str, part: str, description: str, quantity: float | None, price: float | None) -> dict[str, Any]:
    return {
        "place": place,
        "what": what,
        "part": part,
        "description": description,
        "quantity": quantity,
        "price": price,
        "total": None if price is None or quantity is None else price * quantity,
    }


def _ordered(sheet: Sheet, place: Place, order: Ordered) -> dict[str, Any]:
    """A row that the stage declared, with the sheet's numbers in its words."""
    told = Words(sheet, place)
    count = float(order.count) if isinstance(order.count, int) else math.prod(told.value(c) if isinstance(c, str) else c for c in order.count)
    match order.price:
        case str() as name:
            price = told.value(name)
        case (name, share):
            price = told.value(name) * share
        case _:
            price = float(order.price)
    known = math.isfinite(price) and math.isfinite(count)
    quantity = count if math.isfinite(count) else None
    return _row(place.name, order.what, told.fill(order.part), told.fill(order.rating), quantity, price if known else None)


def parts_csv(rows: list[dict[str, Any]]) -> str:
    """The parts list as CSV, formula characters made harmless for spreadsheets."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["place", "what", "part", "description", "quantity", "price", "total"])
    for r in rows:
        writer.writerow([_plain(r[k]) for k in ("place", "what", "part", "description", "quantity", "price", "total")])
    return out.getvalue()


def _plain(value: Any) -> Any:
    if value is None:
        return ""
    if isinstance(value, str):
        value = " ".join(value.split())  # a tab or a line's end before "=" would hide it
        return f"'{value}" if value[:1] in ("=", "+", "-", "@") else value
    return value
