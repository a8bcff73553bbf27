"""What is ordered and wound, against the sheet it comes from and the geometry of wire."""

import csv
import io
from dataclasses import replace

import numpy as np
import pytest

from rhombos.core.lineups import TITLES
from rhombos.core.magnetics.card import winding_cards, winding_order
from rhombos.core.units import parse
from rhombos.formats.build_pack import beside, parts_csv, parts_list
from rhombos.formats.design import of_sample
from tests.core.trial import needs, strained

COPPER = 8960.0
RHO_20 = 1.72e-8
TITLES_FIRST = next(iter(TITLES))


@pytest.fixture(scope="module", name="built", params=[(id, n) for id in TITLES for n in (0, 1)], ids=lambda p: f"{p[0]}-{p[1] + 1}")
def _built(request):
    id, n = request.param
    design = (of_sample, strained)[n](id)
    model = design.model()
    sheet = model.solve(design.inputs())
    return model, sheet, parts_list(model, sheet)


def row(rows, place, what):
    found = [r for r in rows if r["place"] == place and r["what"] == what]
    assert len(found) == 1, f"{what} of {place} stands {len(found)} times"
    return found[0]


def test_every_picked_part_is_ordered_as_often_as_the_stage_needs_it(built):
    model, sheet, rows = built
    pieces = {"front": sheet.value("front.switch_positions")[0], "bridge": 4}
    for place, positions in pieces.items():
        wanted = positions * sheet.value(f"{place}.switch_quantity")[0]
        assert row(rows, place, "Switch")["quantity"] == wanted
    diodes = [(r["place"], r["quantity"]) for r in rows if r["what"] == "Diode"]
    assert diodes == ([("rectifier", 4)] if "rectifier.diode" in model.wiring.index else [("front", 1)])
    assert (
        row(rows, "link", "Link capacitor" if any(r["what"] == "Link capacitor" for r in rows) else "Capacitor")["quantity"]
        == sheet.value("link.capacitor_quantity")[0]
    )
    for wired in model.wiring.picks:
        if wired.pick.part_type not in ("wire", "ferrite"):
            assert any(r["place"] == wired.place and r["what"] == wired.pick.title for r in rows), wired.key


def test_prices_are_the_catalogue_s_and_the_sum_is_near_the_sheet_s(built):
    model, _, rows = built
    catalogue = {code: table.record(code)["price"] for table in model.catalogue.values() for code in table.codes}
    for r in rows:
        if r["part"] in catalogue:
            assert r["price"] == catalogue[r["part"]], r["part"]
        if r["price"] is not None:
            assert r["total"] == pytest.approx(r["price"] * r["quantity"])
    assert all(r["price"] is not None for r in rows), "small parts have their price too"


def test_what_is_ordered_for_a_stage_costs_what_the_stage_says(built):
    """Two routes to one sum: the parts list row by row, and the figures `cost`."""
    model, sheet, rows = built
    for place in model.wiring.lineup.places:
        listed = sum(r["total"] for r in rows if r["place"] == place.name)
        cost = sheet.value(f"{place.name}.cost")[0] if f"{place.name}.cost" in model.wiring.index else 0.0
        assert listed == pytest.approx(cost, rel=1e-9, abs=1e-12), place.name


def quantity_in(text: str, unit: str, after: str = "") -> float:
    """The first number with a unit in a description."""
    part = text.split(after, 1)[1] if after else text
    return parse(" ".join(part.split()[:2]).strip(","), unit)


def test_chokes_are_ordered_for_the_currents_that_flow(built):
    model, sheet, rows = built
    place, what, peak = ("front", "Choke", "peak_current")
    if "rectifier.choke_inductance" in model.wiring.index:
        place, what, peak = ("rectifier", "Averaging choke", "choke_peak_current")
    averaging, output = row(rows, place, what)["description"], row(rows, "filter", "Output choke")["description"]
    assert quantity_in(averaging, "H") == pytest.approx(sheet.value(f"{place}.choke_inductance")[0], rel=0.01)
    assert quantity_in(output, "H") == pytest.approx(sheet.value("filter.filter_inductance")[0], rel=0.01)
    assert quantity_in(averaging, "A", "up to ") >= 1.15 * sheet.value(f"{place}.{peak}").max()
    assert quantity_in(output, "A", "up to ") >= sheet.value("filter.choke_peak_current").max(), "the trip stands above every working peak"


def test_small_parts_carry_the_sheet_s_values_in_words_that_can_be_typed_back(built):
    _, sheet, rows = built
    for place, name in (("oscillator", "timing_resistor"), ("cutoff", "upper_resistor"), ("filter", "damping_resistor"), ("precharge", "precharge_resistor")):
        node = sheet.node(f"{place}.{name}")
        shown = row(rows, place, node.figure.title)["part"]
        assert parse(shown, node.figure.unit) == pytest.approx(sheet.value(node.key)[0], rel=5e-3), shown
    bleeder = row(rows, "link", "Bleeder resistor")
    assert parse(bleeder["part"], "Ω") * bleeder["quantity"] == pytest.approx(sheet.value("link.bleeder")[0], rel=5e-3), "a string of equal pieces"
    for gates, host in (("front_gates", "front"), ("bridge_gates", "bridge")):
        title = sheet.node(f"{gates}.gate_resistor_on").figure.title
        devices = sheet.value(f"{host}.switch_positions")[0] * sheet.value(f"{host}.switch_quantity")[0]
        assert row(rows, gates, title)["quantity"] == devices, "one for every device"


@pytest.mark.parametrize(("school", "ordered"), [("bleeder", 0), ("switched", 2)])
def test_what_is_not_fitted_is_not_ordered_and_what_is_costs_what_it_says(school, ordered):
    design = of_sample(TITLES_FIRST)
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(replace(inputs, choices={**inputs.choices, "link.discharge_school": school}))
    rows = [r for r in parts_list(model, sheet) if r["place"] == "link"]
    assert sum(r["what"].startswith("Discharge") for r in rows) == ordered
    assert all(r["quantity"] > 0 for r in rows)
    assert sum(r["total"] for r in rows) == pytest.approx(sheet.value("link.cost")[0])


def test_only_the_push_pull_has_clamps_and_only_the_bridge_a_high_side_supply(built):
    model, sheet, rows = built
    places = {r["place"] for r in rows}
    assert ("clamp" in places) == ("push_pull" in model.wiring.lineup.id)
    assert ("front_bootstrap" in places) == (sheet.value("front.switch_positions")[0] == 4)


def test_the_csv_says_what_the_page_says(built):
    rows = built[2]
    back = list(csv.DictReader(io.StringIO(parts_csv(rows))))
    assert len(back) == len(rows)
    for ours, theirs in zip(rows, back, strict=True):
        assert theirs["what"] == ours["what"]
        assert float(theirs["quantity"]) == ours["quantity"]
        assert (theirs["total"] == "") == (ours["total"] is None)


@pytest.mark.parametrize("bad", ["=1+1", "+1", "-1", "@SUM(A1)", "\t=1", "\r=1"])
def test_no_cell_of_the_csv_starts_a_formula(bad):
    line = {"place": bad, "what": bad, "part": bad, "description": bad, "quantity": 1, "price": None, "total": None}
    (back,) = csv.DictReader(io.StringIO(parts_csv([line])))
    for cell in ("place", "what", "part", "description"):
        assert back[cell][:1] not in ("=", "+", "-", "@", "\t", "\r"), back[cell]


def test_the_winding_card_is_true_to_the_geometry_of_its_wire(built):
    model, sheet, _ = built
    needs(model, "transformer.core")
    (card,) = winding_cards(sheet)
    assert card["halves"] == (2 if "push_pull" in sheet.wiring.lineup.id else 1)
    for side in ("primary", "secondary"):
        winding = card[side]
        copper = winding["strands"] * np.pi * winding["diameter"] ** 2 / 4
        assert winding["length"] == pytest.approx(winding["turns"] * card["core"]["mean_turn"])
        cold = RHO_20 * winding["length"] / copper
        assert card["expected"][f"{side}_resistance_cold"] == pytest.approx(cold, rel=0.03), "copper at 20 °C"
        windings = card["halves"] if side == "primary" else 1
        assert winding["mass"] == pytest.approx(COPPER * copper * winding["length"] * windings, rel=1e-6)
    assert card["expected"]["ratio"] == pytest.approx(card["secondary"]["turns"] / card["primary"]["turns"])


def test_the_card_lays_primary_secondary_primary_and_the_copper_fits_the_window(built):
    needs(built[0], "transformer.core")
    (card,) = winding_cards(built[1])
    names = [layer["name"] for layer in card["order"]]
    assert [("Secondary" in n) for n in names] == [False, True, False]
    bare = sum(
        card[s]["turns"] * card[s]["strands"] * np.pi * card[s]["diameter"] ** 2 / 4 * (card["halves"] if s == "primary" else 1)
        for s in ("primary", "secondary")
    )
    fill = built[1].value("transformer.copper_fill")[0]
    assert bare / card["core"]["window"] == pytest.approx(fill, rel=1e-6)
    assert fill < 0.55


@pytest.mark.parametrize("halves", [1, 2])
@pytest.mark.parametrize(("turns", "strands"), [(4, 36), (4, 37), (5, 1), (7, 2), (1, 1)])
def test_the_parts_of_the_primary_make_up_the_whole(halves, turns, strands):
    """Strands below and above the secondary in parallel, or turns in series: copper and resistance come out the same."""
    primary = {"turns": turns, "strands": strands, "diameter": 0.5e-3, "length": 0.1 * turns, "resistance": 8.8e-3 * turns / strands, "mass": 0.03}
    secondary = {"turns": 76, "strands": 3, "diameter": 0.5e-3, "length": 7.6, "resistance": 0.2, "mass": 0.04}
    order = winding_order(primary, secondary, halves)
    parts = [p for p in order if p["name"].startswith("Primary")]
    assert order[1]["name"] == "Secondary"
    assert order[1]["strands"] == 3
    assert all(p["strands"] == int(p["strands"]) >= 1 and p["turns"] == int(p["turns"]) >= 1 for p in parts)
    assert sum(p["mass"] for p in parts) == pytest.approx(0.03)
    assert sum(p["turns"] * p["strands"] for p in parts) == turns * strands
    if strands > 1:
        assert 1 / sum(1 / p["resistance"] for p in parts) == pytest.approx(primary["resistance"])
        assert {p["turns"] for p in parts} == {turns}
    else:
        assert sum(p["resistance"] for p in parts) == pytest.approx(primary["resistance"])
    assert len({(p["start"], p["finish"]) for p in parts}) == 1
    assert ("bifilar" in parts[0]["note"]) == (halves == 2)


def test_every_row_of_a_place_with_a_circuit_stands_in_its_drawing_once(built):
    """As a part that it is, or as a box beside the circuit; wire and cores stand with the pick that they come from."""
    model, sheet, rows = built
    for place in model.wiring.lineup.places:
        schematic = place.stage.schematic
        if schematic is None:
            assert beside(model, sheet, place) == []
            continue
        boxes = beside(model, sheet, place)
        picked = {pick.title for name, pick in place.stage.picks.items() if any(p.pick == name for p in schematic.parts)}
        drawn = {p.order for p in schematic.parts if p.order}
        mine = [r["what"] for r in rows if r["place"] == place.name]
        for what in mine:
            assert (what in picked) + (what in drawn) + sum(b["title"] == what for b in boxes) == 1, f"{what} of {place.name}"
        assert {b["title"] for b in boxes} <= set(mine), "nothing is drawn that is not ordered"
        for b in boxes:
            assert b["figure"] is None or b["figure"] in model.wiring.index
            assert (b["text"], b["quantity"]) == tuple(row(rows, place.name, b["title"])[k] for k in ("part", "quantity"))
