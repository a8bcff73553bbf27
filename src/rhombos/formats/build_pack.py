"""What to order: the parts list from the sheet, as rows and as CSV."""

import csv
import io
from typing import Any

from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.units import show


def parts_list(model: Model, sheet: Sheet) -> list[dict[str, Any]]:
    """Every part to order: place, what it is, rating needed, part picked, quantity, unit and total price."""
    rows: list[dict[str, Any]] = []
    for wired in model.wiring.picks:
        state, candidates = sheet.picks[wired.index], model.candidates[wired.index]
        if wired.pick.part_type in ("wire", "ferrite"):
            continue
        chosen = int(state.chosen.reshape(-1)[0])
        record = candidates.table.record(candidates.table.codes[int(candidates.rows[chosen])])
        count = int(candidates.quantity[chosen]) * wired.pick.pieces
        rows.append(_row(wired.place, wired.pick.title, record["code"], record["description"], count, record["price"]))
    rows += _wound(sheet) + _small(sheet)
    return rows


def _row(place: str, what: str, part: str, description: str, quantity: float, price: float | None) -> dict[str, Any]:
    return {
        "place": place,
        "what": what,
        "part": part,
        "description": description,
        "quantity": quantity,
        "price": price,
        "total": None if price is None else price * quantity,
    }


def _wound(sheet: Sheet) -> list[dict[str, Any]]:
    """Chokes by inductance, saturation and rms current; transformer wire by length and strands."""

    def one(key: str) -> float:
        return float(sheet.value(key).max())

    def lasting(key: str) -> float:
        return float(sheet.value(key)[sheet.corners.lasting].max())

    rows = [
        _row(
            "rectifier",
            "Averaging choke",
            "wound",
            f"{show(one('rectifier.choke_inductance'), 'H', 3)}, no saturation up to {show(one('rectifier.choke_saturation_current'), 'A', 3)}, {show(lasting('rectifier.choke_rms_current'), 'A', 3)} rms",
            1,
            one("rectifier.choke_price"),
        ),
        _row(
            "filter",
            "Output choke",
            "wound",
            f"{show(one('filter.filter_inductance'), 'H', 3)}, at its low tolerance no saturation up to {show(one('trip.choke_saturation_current'), 'A', 3)}, {show(lasting('filter.choke_rms_current'), 'A', 3)} rms, two halves on one core",
            1,
            one("filter.choke_price"),
        ),
    ]
    for side in ("primary", "secondary"):
        length = one(f"transformer.{side}_wire_length") * (one("front.driven_windings") if side == "primary" else 1)
        rows.append(
            _row(
                "transformer",
                f"{side.capitalize()} wire",
                f"{int(one(f'transformer.{side}_strands'))} × {show(one(f'transformer.{side}_strand_diameter'), 'm', 3)}",
                f"enamelled copper, {length * 1.15:.1f} m of the bundle with tails, {show(one(f'transformer.{side}_copper_mass') * 1.15, 'kg', 3)}",
                1,
                one(f"transformer.{side}_copper_mass") * 1.15 * one(f"transformer.{side}_strand_price"),
            )
        )
    return rows


def _small(sheet: Sheet) -> list[dict[str, Any]]:
    """Resistors and small capacitors that the sheet computes: value and rating."""

    def value(key: str) -> tuple[float, str] | None:
        if key not in sheet.wiring.index:
            return None
        node = sheet.node(key)
        return float(sheet.value(key)[0]), node.figure.unit

    found = []
    for key, count, rating in (
        ("oscillator.timing_resistor", 1, "1 %"),
        ("oscillator.timing_capacitor", 1, "5 %, C0G"),
        ("cutoff.upper_resistor", 1, "1 %"),
        ("cutoff.lower_resistor", 1, "1 %"),
        ("cutoff.feedback_resistor", 1, "1 %"),
        ("precharge.precharge_resistor", 1, "pulse rated, see the sheet"),
        ("clamp.clamp_resistor", 2, "non-inductive, twice its loss"),
        ("clamp.clamp_capacitor", 2, "film, pulse rated"),
        ("front_gates.gate_resistor_on", 0, "one per device"),
        ("front_gates.gate_resistor_off", 0, "one per device"),
        ("bridge_gates.gate_resistor_on", 0, "one per device"),
        ("bridge_gates.gate_resistor_off", 0, "one per device"),
        ("bootstrap.bootstrap_capacitor", 2, "ceramic X7R"),
        ("front_bootstrap.bootstrap_capacitor", 2, "ceramic X7R"),
        ("bootstrap.bootstrap_resistor", 2, ""),
        ("link.bleeder", 1, "in all, of equal pieces in series: see the next row"),
        ("link.bleeder_pieces", 1, "equal pieces, the bleeder's value over their number, rated for their volts and watts"),
        ("filter.damping_resistor", 1, "non-inductive, twice its loss"),
    ):
        got = value(key)
        if got is None:
            continue
        place = key.split(".")[0]
        host = {"front_gates": "front", "bridge_gates": "bridge"}.get(place)
        number = count or int(sheet.value(f"{host}.switch_positions")[0] * sheet.value(f"{host}.switch_quantity")[0])
        found.append(_row(place, sheet.node(key).figure.title, show(*got, 3), rating, number, None))
    return found


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
