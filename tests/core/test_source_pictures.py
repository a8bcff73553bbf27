"""What the source and output sides look like: who acts first, and how a precharge goes."""

import numpy as np
import pytest

from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.pictures import pictures_of
from rhombos.core.lineups import TITLES
from rhombos.formats.design import of_sample
from tests.core.trial import needs

FIRST = "Who acts first: current against time"
STARTS = "A start, and what may go wrong"


def drawn(model, inputs, place, title):
    sheet = model.solve(inputs)
    (found,) = [p for p in pictures_of(model, sheet, model.wiring.lineup.place(place), sheet.corners.ids.index("nominal_full")) if p["title"] == title]
    return sheet, found


@pytest.fixture(params=TITLES, name="sample")
def _sample(request):
    design = of_sample(request.param)
    return design.model(), design.inputs()


def curve(picture, name):
    (series,) = [s for s in picture["series"] if s["name"] == name]
    return np.array(series["x"]), np.array(series["y"])


def test_the_fuse_is_drawn_as_it_is_judged_and_a_gap_is_named(sample):
    model, inputs = sample
    sheet, picture = drawn(model, inputs, "input", FIRST)
    time, amperes = curve(picture, "fuse carries")
    for k, surge in enumerate(np.broadcast_to(sheet.value("corner.surge"), (len(sheet.corners.ids),))):
        if surge:
            seconds = float(np.broadcast_to(sheet.value("output.surge_time"), (len(sheet.corners.ids),))[k])
            judged = float(np.broadcast_to(sheet.value("input.fuse_carries"), (len(sheet.corners.ids),))[k])
            assert np.exp(np.interp(np.log(seconds), np.log(time), np.log(amperes))) == pytest.approx(judged, rel=0.01)
    assert "the cable stands what the fuse carries" in picture["note"]
    thin = inputs.with_pin("input.cable_area", 0.2 * sheet.value("input.cable_area")[0], "what was at hand")
    assert "Gap: from" in drawn(model, thin, "input", FIRST)[1]["note"]


def test_the_short_is_off_where_its_line_has_run_for_the_trip_and_the_delay(sample):
    model, inputs = sample
    sheet, picture = drawn(model, inputs, "trip", FIRST)
    (mark,) = [m for m in picture["marks"] if m["name"] == "short is off"]
    slope = sheet.value("link.highest_link")[0] / sheet.value("trip.lowest_inductance")[0]
    assert mark["y"] == pytest.approx(slope * mark["x"])
    assert mark["y"] == pytest.approx(sheet.value("trip.output_trip_level")[0] + slope * 2.5e-6)
    assert picture["note"].startswith("In order")
    pick = model.wiring.index["bridge.switch"]
    candidates, chosen = model.candidates[pick], int(sheet.picks[pick].chosen)
    fitted = PartChoice(candidates.table.codes[int(candidates.rows[chosen])], int(candidates.quantity[chosen]))
    late = inputs.with_pin("bridge.switch", fitted).with_pin("trip.output_trip_level", 1.5 * float(sheet.value("trip.weakest_rating")[0]), "as found")
    assert "the trip lies above what the switches stand" in drawn(model, late, "trip", FIRST)[1]["note"]


def test_a_start_closes_when_the_sheet_says_and_every_fault_is_given_up(sample):
    model, inputs = sample
    sheet, picture = drawn(model, inputs, "precharge", STARTS)
    healthy, *faults = picture["scenes"]
    spans = {t["name"]: t["spans"] for t in healthy["tracks"]}
    assert spans["main contactor"][0][0] == pytest.approx(sheet.value("precharge.longest_time")[0], rel=0.02)
    assert healthy["good"]
    assert not spans["fault"]
    assert len(faults) == 9
    for scene in faults:
        assert not scene["good"], scene["name"]
        assert {t["name"]: t["spans"] for t in scene["tracks"]}["fault"], scene["name"]


def test_a_load_across_the_bank_is_in_the_curve_and_in_the_time(sample):
    model, inputs = sample
    needs(model, "precharge.precharge_resistor")
    resistor = float(model.solve(inputs).value("precharge.precharge_resistor")[0])
    loaded = Inputs({**inputs.givens, "precharge.bus_load_resistance": 60 * resistor}, inputs.choices, inputs.pins)
    sheet, picture = drawn(model, loaded, "precharge", STARTS)
    spans = {t["name"]: t["spans"] for t in picture["scenes"][0]["tracks"]}
    assert sheet.value("precharge.longest_time")[0] > 1.05 * sheet.value("precharge.precharge_time")[0]
    assert spans["main contactor"][0][0] == pytest.approx(sheet.value("precharge.longest_time")[0], rel=0.02)


def test_a_resistor_that_stays_has_no_sequence(sample):
    model, inputs = sample
    for_good = Inputs(inputs.givens, {**inputs.choices, "precharge.school": "permanent"}, inputs.pins)
    _, picture = drawn(model, for_good, "precharge", STARTS)
    assert [s["name"] for s in picture["scenes"]] == ["pack connected", "bank shorted"]
    assert all(not s["tracks"] for s in picture["scenes"])
    burns = picture["scenes"][1]["plots"][1]["series"][0]["y"]
    assert burns[-1] == pytest.approx(burns[0], rel=0.01), "for as long as the pack lasts"
