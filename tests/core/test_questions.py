"""Questions on the real line-ups against the long way round: every answer worked out again by single solves."""

import numpy as np
import pytest

from rhombos.core.formulas.numeric import Cause, applied
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.picking import judge_of, ranked, reasons
from rhombos.core.graph.seek import goal_seek, moved_to
from rhombos.core.graph.sensitivity import sensitivity
from rhombos.core.graph.verdicts import FAILS, HOLDS, TIGHT, UNKNOWN_VERDICT
from rhombos.core.lineups import TITLES
from rhombos.core.parts.table import PLACING
from rhombos.formats.design import of_sample
from tests.core.trial import needs


@pytest.fixture(scope="module", name="solved", params=list(TITLES))
def _solved(request):
    design = of_sample(request.param)
    model = design.model()
    return model, design.inputs(), model.solve(design.inputs())


def test_sensitivity_bars_are_single_solves_ten_per_cent_apart(solved):
    model, inputs, sheet = solved
    key, corner = "totals.efficiency", "nominal_full"
    base = sheet.at(key, corner)
    bars = sensitivity(model, sheet, key, corner, most=6)
    assert len(bars) == 6
    for bar in bars:
        figure = sheet.node(bar.key).figure
        value = float(sheet.value(bar.key)[0])
        by, words = (1.0, "1") if figure.whole else (10.0, "10 K") if figure.unit == "K_abs" else (0.1 * value, "10 %")
        assert bar.step in (f"+{words}", f"−{words}")
        one = inputs.with_given(bar.key, value + (by if bar.step[0] == "+" else -by))
        assert bar.held == pytest.approx((model.solve(one, build=model.build_of(sheet)).at(key, corner) - base) / base, abs=1e-7), bar.key
        anew = model.solve(one)
        assert bar.sized == pytest.approx((anew.at(key, corner) - base) / base, abs=2e-6), bar.key
        parts = {
            model.candidates[i].table.codes[model.candidates[i].rows[state.chosen]] for i, state in anew.picks.items() if state.chosen != sheet.picks[i].chosen
        }
        assert bool(parts) <= bool(bar.jumped), bar.key
        assert all(words.split()[-1] in parts for words in bar.jumped.split(", ") if words and not words.split()[-1].isdigit()), bar.jumped


def test_where_a_range_ends_a_given_is_moved_the_other_way(solved):
    model, inputs, sheet = solved
    key, moved, most = "totals.efficiency", "bridge.dead_time", sheet.node("bridge.dead_time").figure.high
    at_its_end = model.solve(inputs.with_given(moved, most))
    bar = {bar.key: bar for bar in sensitivity(model, at_its_end, key, "nominal_full", most=200)}[moved]
    assert bar.step == "−10 %"
    less = model.solve(inputs.with_given(moved, 0.9 * most), build=model.build_of(at_its_end))
    assert bar.held == pytest.approx(less.at(key, "nominal_full") / at_its_end.at(key, "nominal_full") - 1, abs=1e-7)


def test_the_swing_of_a_temperature_is_in_kelvin(solved):
    model, inputs, sheet = solved
    needs(model, "bridge.junction_temperature")
    key, corner = "bridge.junction_temperature", "nominal_full"
    bars = {b.key: b for b in sensitivity(model, sheet, key, corner, most=12)}
    bar = bars["output.ambient_temperature"]
    warmer = inputs.with_given(bar.key, float(sheet.value(bar.key)[0]) + 10)
    assert bar.kelvin
    assert bar.held == pytest.approx(model.solve(warmer, build=model.build_of(sheet)).at(key, corner) - sheet.at(key, corner), abs=1e-6)
    assert 9 < bar.held < 20, "ten kelvin more around it, and what hotter switches lose"


def test_variants_sized_together_are_their_single_solves(solved):
    model, inputs, sheet = solved
    at = sheet.corners.ids.index("lowest_full")
    grid = np.linspace(0.4, 2.5, 7)
    together = model.solve(moved_to(model, inputs, "front.pad_resistance", grid[:, None])).value("front.junction_temperature")[:, at]
    alone = [model.solve(inputs.with_given("front.pad_resistance", float(x))).at("front.junction_temperature", "lowest_full") for x in grid]
    np.testing.assert_allclose(together, alone, rtol=1e-7)
    assert np.ptp(together) > 1


def test_goal_seek_over_a_whole_number_gives_both_sides(solved):
    model, inputs, sheet = solved
    needs(model, "transformer.secondary_turns")
    turns = sheet.value("transformer.secondary_turns")[0]
    found = goal_seek(model, inputs, "transformer.secondary_turns", "nominal_full", turns + 0.5, "battery.cells")
    assert not found.exact
    if found.below and found.above:
        assert {found.below.reaches < turns + 0.5, found.above.reaches < turns + 0.5} == {True, False}
        for value, reaches in ((side.value, side.reaches) for side in (found.below, found.above)):
            assert model.solve(inputs.with_given("battery.cells", value)).value("transformer.secondary_turns")[0] == reaches


def test_goal_seek_out_of_reach_says_how_near_it_came(solved):
    model, inputs, _ = solved
    found = goal_seek(model, inputs, "totals.efficiency", "nominal_full", 0.999, "input.cable_length")
    assert not found.exact
    assert found.reaches < 0.999
    assert model.solve(inputs.with_given("input.cable_length", found.value)).at("totals.efficiency", "nominal_full") == pytest.approx(found.reaches, rel=1e-7)


def test_every_pick_is_the_cheapest_that_meets_its_needs(solved):
    """All candidates judged anew on the settled sheet, by the formulas as NumPy reads them."""
    model, _, sheet = solved
    for wired in model.wiring.picks:
        state, candidates = sheet.picks[wired.index], model.candidates[wired.index]
        found = reasons(judge_of(model, sheet, wired.index), range(len(candidates.rows)))
        fits = np.array([r.margin >= 1 - 1e-6 for r in found])
        assert bool(state.fits) == bool(fits[int(state.chosen)]), wired.key
        if wired.index in sheet.pinned:
            continue
        rejected = state.rejected.reshape(-1)[: len(fits)]
        assert int(state.chosen) == int(np.argmax(fits & ~rejected)), wired.key
        cost = candidates.columns["price"] * candidates.quantity + PLACING * (candidates.quantity - 1)
        cheaper = [i for i in range(len(fits)) if cost[i] < cost[int(state.chosen)]]
        assert not (fits[cheaper] & ~rejected[cheaper]).any(), f"{wired.key}: a cheaper part would do"


def test_what_a_pick_judged_its_winner_by_stands_in_the_ledger(solved):
    """The chosen candidate's needs, worked out in its cone, are the sheet's own figures; and checks that are needs hold where it fits."""
    model, _, sheet = solved
    verdicts = sheet.judge()
    rows = {(c.demand, c.capability): k for k, c in enumerate(model.wiring.checks)}
    for wired in model.wiring.picks:
        state = sheet.picks[wired.index]
        for need, asked in zip(wired.needs, judge_of(model, sheet, wired.index)(np.array([int(state.chosen)])), strict=True):
            for node, worked in ((need.capability, asked.capability), (need.demand, asked.demand)):
                ledger = np.atleast_1d(sheet.values[node])
                np.testing.assert_allclose(np.broadcast_to(np.reshape(worked, -1), ledger.shape), ledger, rtol=1e-9, err_msg=f"{wired.key}: {need.title}")
            row = rows.get((need.demand, need.capability))
            if row is not None:
                assert not state.fits or verdicts.code[row].min() == HOLDS, f"{wired.key}: {need.title}"


def test_runners_up_are_the_nearest_misses_and_the_cheapest_others_that_fit(solved):
    model, _, sheet = solved
    for wired in model.wiring.picks:
        state, candidates = sheet.picks[wired.index], model.candidates[wired.index]
        judge = judge_of(model, sheet, wired.index)
        chosen, *others = ranked(judge, int(state.chosen))
        assert chosen == int(state.chosen)
        assert len(others) <= 8
        told = reasons(judge, others)
        missed = [r.margin for r in told if r.margin < 1 - 1e-9]
        assert missed == sorted(missed, reverse=True), "the nearest comes first"
        margins = [r.margin for r in reasons(judge, range(len(candidates.rows)))]
        left_out = [m for i, m in enumerate(margins) if i not in (chosen, *others) and m < 1 - 1e-9]
        assert not missed or not left_out or max(left_out) <= min(missed) + 1e-12
        for index, reason in zip(others, told, strict=True):
            assert reason.name in {need.title for need in judge(np.array([index]))}
            if reason.margin < np.inf:
                assert reason.capability / reason.demand / reason.level == pytest.approx(reason.margin)


def test_a_pinned_part_is_used_and_its_columns_follow(solved):
    model, inputs, sheet = solved
    needs(model, "transformer.core")
    table = model.catalogue["core"]
    dearest = table.codes[int(np.argmax(table.columns["price"]))]
    other = model.solve(inputs.with_pin("transformer.core", PartChoice(dearest, 1)))
    assert other.value("transformer.core_effective_area")[0] == table.record(dearest)["effective_area"]
    assert other.value("transformer.primary_turns")[0] <= sheet.value("transformer.primary_turns")[0], "more area asks for fewer turns"
    assert other.value("totals.total_mass")[0] > sheet.value("totals.total_mass")[0]


def test_verdicts_are_margins_against_their_levels(solved):
    """Every verdict again from the sheet's own numbers, one by one in plain Python."""
    _, inputs, _ = solved
    for change in ({}, {"load_3.rated_power": 700.0}, {"battery.cells": 7.0}, {"front.pad_resistance": 4.0}):
        model, sheet = solved[0], solved[0].solve(Inputs({**inputs.givens, **change}, inputs.choices))
        verdicts = sheet.judge()
        for row, wired in enumerate(model.wiring.checks):
            for k, corner in enumerate(sheet.corners.ids):
                items = (wired.demand, wired.capability, wired.fail, wired.hold)
                demand, capability, fail, hold = (i if isinstance(i, float) else sheet.at(model.wiring.nodes[i].key, corner) for i in items)
                status = [sheet.status(i) for i in (wired.demand, wired.capability)]
                if any(s is not None and (s.reshape(-1)[min(k, s.size - 1)] == 1) for s in status):
                    expected = HOLDS
                elif demand != demand or capability != capability:
                    expected = UNKNOWN_VERDICT
                elif demand <= 0 or capability / demand >= hold * (1 - 1e-9):
                    expected = HOLDS
                else:
                    expected = TIGHT if capability / demand >= fail * (1 - 1e-9) else FAILS
                assert verdicts.code[row, k] == expected, (wired.key, corner, demand, capability)


@pytest.mark.parametrize(
    ("key", "value", "said"),
    [
        ("battery.capacity", 1800.0, "Capacity (battery.capacity): 0.5 Ah is outside 1 Ah to 10000 Ah"),
        ("output.ambient_temperature", 500.0, "226.9 °C is outside"),
        ("battery.cells", 0.0, "(battery.cells): 0 is outside"),
        ("battery.cells", float("inf"), "without bound is outside"),
    ],
)
def test_a_value_beyond_its_limits_is_refused_in_the_units_that_people_type(solved, key, value, said):
    model, inputs, _ = solved
    with pytest.raises(InputError) as error:
        model.solve(inputs.with_given(key, value))
    assert said in str(error.value)
    assert error.value.fields["allowed"]["unit"] in ("C", "K", "")


def test_every_given_may_stand_at_either_end_of_its_range(solved):
    """Whatever the page lets a person type is solved: known or unknown with its cause, never an error."""
    model, inputs, _ = solved
    if model.wiring.lineup.id != next(iter(TITLES)):
        keys = [n.key for n in model.wiring.nodes if n.figure.kind == "given" and n.place.startswith("front")]
    else:
        keys = [n.key for n in model.wiring.nodes if n.figure.kind == "given" and n.place != "corner"]
    for key in keys:
        figure = model.wiring.nodes[model.wiring.index[key]].figure
        for end in {figure.low, figure.high} - {None}:
            sheet = model.solve(inputs.with_given(key, float(end)))
            assert not np.isinf(sheet.value("totals.total_cost")).any(), key
            for index in sheet.masks:
                mask = np.atleast_1d(sheet.masks[index]).reshape(-1)
                if (mask == 2).any():
                    at = int(np.argmax(mask == 2))
                    assert sheet.why_missing(index, at), f"{key} at {end}: {sheet.wiring.nodes[index].key}"


def test_where_nothing_draws_power_every_unknown_says_so_and_nothing_else(solved):
    model, inputs, _ = solved
    idle = inputs
    for n in model.wiring.nodes:
        if n.figure.name == "rated_power":
            idle = idle.with_given(n.key, 0.0)
    sheet = model.solve(idle)
    full = sheet.corners.ids.index("nominal_full")
    gone = [i for i, mask in sheet.masks.items() if np.broadcast_to(mask, (*mask.shape[:-1], len(sheet.corners.ids)))[..., full].any()]
    assert len(gone) > 100
    for index in gone:
        assert sheet.why_missing(index, full).startswith("nothing draws power"), sheet.wiring.nodes[index].key
    again = model.solve(inputs)
    assert not any((m == 2).any() for m in again.masks.values()), "and all is known again with the loads back"


def test_a_plain_number_divides_like_an_array():
    with np.errstate(all="ignore"):
        assert applied(lambda a, b: a / b, (1.0, 0.0)) == np.inf
        assert np.isnan(applied(lambda a, b: a / b, (0.0, 0.0)))
        assert applied(lambda a: a**400, (1e3,)) == np.inf
        np.testing.assert_array_equal(applied(lambda a, b: a / b, (1.0, np.array([0.0, 2.0]))), [np.inf, 0.5])


def test_a_cause_is_not_repeated_of_what_was_unknown_before():
    cause = Cause(2, np.array([True, True, False]), "too little", {})
    np.testing.assert_array_equal(cause.beyond([np.array([2, 0, 0], dtype=np.int8)]).where, [False, True, False])
    np.testing.assert_array_equal(cause.beyond([np.array([1], dtype=np.int8)]).where, [False] * 3)
    reduced = Cause(2, np.array([True]), "too little", {})
    assert reduced.beyond([np.array([2, 0, 2], dtype=np.int8)]).where.all(), "a reduction leaves unknown corners out"
    assert not reduced.beyond([np.array([2, 2, 2], dtype=np.int8)]).where.any()
