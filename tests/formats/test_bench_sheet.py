"""What is set and tried on the bench, against the sheet that it comes from and against the circuit itself."""

import re

import numpy as np
import pytest

from rhombos.core.graph.inputs import Inputs
from rhombos.core.lineups import TITLES
from rhombos.core.units import parse, show
from rhombos.formats.bench_sheet import procedures, thresholds
from rhombos.formats.design import of_sample


@pytest.fixture(scope="module", name="bench", params=TITLES)
def _bench(request):
    design = of_sample(request.param)
    model = design.model()
    sheet = model.solve(design.inputs())
    return model, sheet, thresholds(model, sheet), procedures(model, sheet)


def test_every_threshold_lies_within_its_tolerances(bench):
    _, sheet, rows, _ = bench
    (cutoff,) = [r for r in rows if r["place"] == "cutoff"]
    low, nominal, high = (parse(cutoff[k], "V") for k in ("low", "acts", "high"))
    assert low < nominal < high
    assert parse(cutoff["acts"], "V") == pytest.approx(sheet.value("cutoff.falling_threshold")[0], rel=5e-3)
    assert {r["place"] for r in rows} >= {"cutoff", "input", "precharge", "bootstrap", "trip"}
    assert all(r["acts"] and "not known" not in r["acts"] for r in rows)


def test_no_word_is_left_open(bench):
    _, _, rows, told = bench
    words = [w for r in rows for w in (r["after"], r["resets"])] + [s for p in told for s in p["steps"]]
    assert not [w for w in words if "{" in w or "not known" in w]
    assert len({p["title"] for p in told}) == len(told)
    assert told[0]["title"] == "Before anything is touched"


def test_the_tap_reads_what_the_circuit_gives(bench):
    """Node equations of divider, feedback and output, solved apart from the stage's formulas."""
    _, sheet, _, told = bench
    (steps,) = [p["steps"] for p in told if p["place"] == "cutoff"]
    upper, lower, feedback, high, low, reference = (
        float(sheet.value(f"cutoff.{n}")[0])
        for n in ("upper_resistor", "lower_resistor", "feedback_resistor", "output_high", "output_low", "reference_voltage")
    )

    def tap(volts: float, output: float) -> float:
        conductances = np.array([1 / upper, 1 / lower, 1 / feedback])
        return float(conductances @ np.array([volts, 0.0, output]) / conductances.sum())

    rested = float(sheet.value("cutoff.rested_voltage")[0])
    assert show(tap(rested, high), "V", 3) in steps[1]
    falls, rises = (float(sheet.value(f"cutoff.{n}_threshold")[0]) for n in ("falling", "rising"))
    assert tap(falls, high) == pytest.approx(reference)
    assert tap(rises, low) == pytest.approx(reference)
    assert show(falls, "V", 3) in steps[2]
    assert show(rises, "V", 3) in steps[3]


def test_the_steps_of_a_precharge_follow_one_another(bench):
    _, _, _, told = bench
    (steps,) = [p["steps"] for p in told if p["place"] == "precharge"]
    times = [parse(m, "s") for m in re.findall(r"After ([\d.]+ m?s)", " ".join(steps))]
    assert times == sorted(times)
    assert len(times) == 3


def test_a_resistor_that_stays_has_no_relay_and_no_time_out(bench):
    model, *_ = bench
    design = of_sample(model.wiring.lineup.id)
    sheet = model.solve(Inputs(design.inputs().givens, {**design.inputs().choices, "precharge.school": "permanent"}, design.inputs().pins))
    assert not [r for r in thresholds(model, sheet) if r["place"] == "precharge"]
    (told,) = [p for p in procedures(model, sheet) if p["place"] == "precharge"]
    assert "never dead" in told["steps"][0]
    assert "relay" not in " ".join(told["steps"])


def test_where_nothing_stands_it_says_what_is_not_known():
    design = of_sample("ferrite_push_pull_link_bridge")
    model = design.model()
    sheet = model.solve(design.inputs().with_given("load_3.rated_power", 20_000.0).with_given("load_3.count", 5))
    told = " ".join(s for p in procedures(model, sheet) for s in p["steps"])
    assert "(not known: " in told
