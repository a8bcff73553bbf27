"""The twelve rules of the figure graph on a toy of eight figures."""

import pickle
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from rhombos.core.graph.corners import STANDARD
from rhombos.core.graph.declare import Figure, Stage
from rhombos.core.graph.errors import DeclarationError, InputError, SolveError, WiringError
from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.model import Model
from rhombos.core.graph.passes import MOST_PASSES
from rhombos.core.graph.picking import judge_of, runners_up
from rhombos.core.graph.places import LineUp, Place
from rhombos.core.graph.seek import goal_seek
from rhombos.core.graph.sensitivity import sensitivity
from rhombos.core.graph.sweep import sweep
from rhombos.core.graph.why import why
from rhombos.core.graph.wiring import Wiring
from tests.core.toy import fuses, toy_lineup, toy_stages, with_fuse


@pytest.fixture(name="model")
def _model() -> Model:
    return Model(toy_lineup(), {})


def reference(power: float, rest: float = 24.0, resistance: float = 0.1, strands: float = 1.0) -> float:
    """Terminal voltage by a root finder: V = E − R·P_in/V with P_in = P + (P/V)²·0.05/n."""
    return brentq(lambda v: rest - resistance * (power + (power / v) ** 2 * 0.05 / strands) / v - v, rest / 2, rest)


def test_the_loop_settles_on_what_a_root_finder_finds(model):
    sheet = model.solve(Inputs())
    strands = sheet.value("wire.strands")[0]
    for corner, power in (("nominal_full", 100), ("nominal_half", 50), ("lowest_surge", 200)):
        assert sheet.at("source.output_voltage", corner) == pytest.approx(reference(power, strands=strands), rel=1e-9)


@settings(max_examples=40, deadline=None)
@given(power=st.floats(1, 600), rest=st.floats(20, 90), resistance=st.floats(0.001, 0.2))
def test_power_balances_at_every_corner(power, rest, resistance):
    sheet = Model(toy_lineup(), {}).solve(Inputs({"heater.wanted_power": power, "source.rest_voltage": rest, "source.resistance": resistance}))
    np.testing.assert_allclose(sheet.value("wire.input_power"), sheet.value("heater.input_power") + sheet.value("wire.loss"), rtol=1e-12)


def test_a_source_that_cannot_deliver_at_surge_leaves_the_other_corners_solved(model):
    sheet = model.solve(Inputs({"heater.wanted_power": 900.0}))
    surge = (STANDARD.along("surge") > 0).tolist()
    unknown = sheet.status(sheet.wiring.index["source.output_voltage"]) == 2
    assert unknown.tolist() == surge
    assert "cannot deliver" in sheet.why_missing(sheet.wiring.index["source.output_voltage"], 1)
    verdicts = sheet.judge()
    assert verdicts.code[0].tolist() == [
        1 if s else (3 if sheet.at("gauge.reading", c.id) * 1.1 <= 10 else 2 if sheet.at("gauge.reading", c.id) <= 10 else 0)
        for s, c in zip(surge, STANDARD.corners, strict=True)
    ]
    assert np.isfinite(sheet.value("wire.strands")).all(), "the build is decided without the unknown corners"
    assert sheet.reduced_without(sheet.wiring.index["wire.strands"]), "and says so"


def test_unknown_is_never_shown_as_holding(model):
    sheet = model.solve(Inputs({"heater.wanted_power": 900.0, "gauge.full_scale": 1000.0}))
    code = sheet.judge().code[0]
    assert code[1] == 1
    assert code[0] == 3


def test_a_loop_that_runs_away_is_a_verdict_with_passes_and_residual():
    stages = toy_stages()
    stages.wire.figures.pop("loss")

    @stages.wire.operation(unit="W", symbol="P", start=1.0, tex=r"0.5\,{input_power}^{1.2}", source="made to run away", title="Loss")
    def loss(input_power):
        """Grows faster than what it adds to."""
        return 0.5 * np.abs(input_power) ** 1.2

    sheet = Model(toy_lineup(stages), {}).solve(Inputs())
    assert sheet.status(sheet.wiring.index["wire.input_power"])[2] == 2
    assert "runs away" in sheet.why_missing(sheet.wiring.index["wire.input_power"], 2)
    assert " passes" in sheet.why_missing(sheet.wiring.index["wire.input_power"], 2)
    assert sheet.at("heater.input_power", "nominal_full") == 100, "the rest of the sheet is solved"


def test_a_loop_without_a_starting_value_is_refused_naming_the_cycle():
    stages = toy_stages()
    for stage in (stages.source, stages.wire):
        for name, figure in list(stage.figures.items()):
            stage.figures[name] = Figure(**{**figure.__dict__, "start": None})
    with pytest.raises(WiringError, match=r"no starting value: .*wire.input_power") as error:
        Model(toy_lineup(stages), {})
    assert error.value.fields["cycle"]


def test_a_build_figure_that_differs_per_corner_is_refused():
    stages = toy_stages()

    @stages.wire.build(unit="A", symbol="I", tex=r"{input_power}/{input_voltage}", source="Ohm's law")
    def sized(input_power, input_voltage):
        """Forgot to reduce."""
        return input_power / input_voltage

    with pytest.raises(SolveError, match=r"wire\.sized is a build figure, yet it differs"):
        Model(toy_lineup(stages), {}).solve(Inputs())


def test_an_unlinked_port_is_refused_naming_reader_and_name():
    with pytest.raises(WiringError, match="'gauge' reads 'output_voltage_port', and nothing"):
        Model(toy_lineup(link=False), {})


def test_an_ambiguous_port_is_refused_naming_its_makers():
    s = toy_stages()
    extra = Stage("meter", "Meter", path=False)

    @extra.operation(unit="W", symbol="P", tex=r"{loss}", source="reads a name that two make")
    def doubled(loss):
        """Whose loss?"""
        return loss

    @s.heater.operation(unit="W", symbol="P", tex=r"0{input_power}", source="nothing")
    def loss(input_power):
        """A second maker."""
        return 0 * input_power

    lineup = LineUp("t", "T", (*toy_lineup(s).places, Place("meter", extra, "c", host="source")))
    with pytest.raises(WiringError, match="made by wire, heater: link it") as error:
        Model(lineup, {})
    assert error.value.fields["makers"] == ["wire", "heater"]
    linked = LineUp("t", "T", (*toy_lineup(s).places, Place("meter", extra, "c", host="source", links={"loss": "wire.loss"})))
    assert Model(linked, {}).solve(Inputs()).at("meter.doubled", "nominal_full") > 0


def test_duplicates_are_refused_in_a_stage_and_in_a_lineup():
    s = toy_stages()
    with pytest.raises(DeclarationError, match="makes 'strands' twice"):

        @s.wire.build(unit="", symbol="n", tex=r"{input_power}", source="again")
        def strands(input_power):
            """Again."""
            return input_power

    with pytest.raises(WiringError, match="two places named 'wire'"):
        Wiring(LineUp("t", "T", (*toy_lineup().places, Place("wire", s.gauge, "a", host="source"))))


def test_a_formula_must_name_exactly_its_parameters():
    stage = Stage("s", "S")
    with pytest.raises(DeclarationError, match=r"names \['a'\], its parameters are \['a', 'b'\]"):

        @stage.build(unit="", symbol="x", tex=r"{a}", source="none")
        def x(a, b):
            """Forgets b."""
            return a + b

    with pytest.raises(DeclarationError, match="needs a source"):
        Figure("y", "build", "", "y", "A sentence.", fn=lambda a: a, tex="{a}")


def test_a_pin_overrides_is_followed_and_its_own_formula_stands_beside_it(model):
    sheet = model.solve(Inputs().with_pin("wire.strands", 12.0, "a thick one at hand"))
    assert sheet.value("wire.strands")[0] == 12
    index = sheet.wiring.index["wire.strands"]
    assert sheet.computed[index][0] == np.ceil(np.nanmax(sheet.value("wire.input_power") / sheet.value("source.output_voltage")))
    free = model.solve(Inputs())
    assert sheet.at("wire.loss", "nominal_full") < free.at("wire.loss", "nominal_full") / 1.2


def test_a_pin_cuts_the_loop_it_stands_in(model):
    sheet = model.solve(Inputs().with_pin("source.output_voltage", 20.0))
    assert sheet.inner_passes <= 3
    assert sheet.at("wire.loss", "nominal_full") == pytest.approx((100 / 20) ** 2 * 0.05 / sheet.value("wire.strands")[0])


@given(st.permutations([("heater.wanted_power", 150.0), ("source.resistance", 0.05), ("gauge.full_scale", 20.0), ("source.rest_voltage", 30.0)]))
@settings(max_examples=12, deadline=None)
def test_the_same_sheet_from_any_history_of_edits(order):
    model = Model(toy_lineup(), {})
    inputs = Inputs()
    for key, value in order:
        model.solve(inputs.with_given(key, value * 3))
        inputs = inputs.with_given(key, value)
        model.solve(inputs)
    fresh = Model(toy_lineup(), {}).solve(Inputs(dict(sorted(inputs.givens.items()))))
    last = model.solve(inputs)
    for a, b in zip(last.values, fresh.values, strict=True):
        assert np.array_equal(np.asarray(a), np.asarray(b), equal_nan=True)


def test_a_pick_takes_the_cheapest_that_fits_and_keeps_what_rejected_the_others():
    model = Model(toy_lineup(with_fuse(toy_stages())), fuses())
    sheet = model.solve(Inputs())
    pick = sheet.wiring.index["wire.fuse"]
    current = float(np.nanmax(sheet.value("wire.input_power") / sheet.value("source.output_voltage")))
    assert sheet.value("wire.fuse_rated_current")[0] == min(r for r in (5, 10, 20) if r >= current)
    rows = runners_up(judge_of(model, sheet, pick), int(sheet.picks[pick].chosen))[1:]
    assert rows[0]["part"] == "F5"
    assert rows[0]["demand"] == pytest.approx(current)
    assert rows[0]["capability"] == 5


def test_no_part_fits_then_the_nearest_is_taken_and_said():
    model = Model(toy_lineup(with_fuse(toy_stages())), fuses())
    sheet = model.solve(Inputs({"heater.wanted_power": 650.0}))
    assert not sheet.picks[sheet.wiring.index["wire.fuse"]].fits
    assert sheet.value("wire.fuse_rated_current")[0] == 20


def test_a_pinned_part_stays_whatever_the_needs_say():
    model = Model(toy_lineup(with_fuse(toy_stages())), fuses())
    sheet = model.solve(Inputs().with_pin("wire.fuse", PartChoice("F5")))
    assert sheet.value("wire.fuse_rated_current")[0] == 5
    with pytest.raises(InputError, match="has no fuse 'F7'"):
        model.solve(Inputs().with_pin("wire.fuse", PartChoice("F7")))


def test_builds_that_alternate_are_named():
    stages = toy_stages()

    @stages.wire.build(unit="", symbol="a", start=1.0, decided=True, tex=r"3-{flop}", source="made to alternate")
    def flip(flop):
        """Alternates with the other."""
        return 3 - flop

    @stages.wire.build(unit="", symbol="b", tex=r"{flip}", source="made to alternate")
    def flop(flip):
        """Follows."""
        return flip * 1.0

    stages.wire.figures.pop("loss")

    @stages.wire.operation(unit="W", symbol="P", start=1.0, tex=r"{flip}\,{flop}\,{output_power}/100", source="reads them")
    def loss(flip, flop, output_power):
        """Makes both of them matter."""
        return flip * flop * output_power / 100

    sheet = Model(toy_lineup(stages), {}).solve(Inputs({}))
    assert sheet.passes > MOST_PASSES
    assert "wire.flip" in sheet.alternating


def test_the_safe_side_ends_an_alternation_of_integers():
    stages = toy_stages()

    @stages.wire.build(unit="", symbol="a", start=1.0, safe="up", tex=r"3-{flop}", source="would alternate 1, 2")
    def flip(flop):
        """Would alternate."""
        return 3 - flop

    @stages.wire.build(unit="", symbol="b", tex=r"{flip}", source="follows")
    def flop(flip):
        """Follows."""
        return flip * 1.0

    stages.wire.figures.pop("loss")

    @stages.wire.operation(unit="W", symbol="P", start=1.0, tex=r"{flip}\,{output_power}/100", source="reads it")
    def loss(flip, output_power):
        """Makes it matter."""
        return flip * output_power / 100

    sheet = Model(toy_lineup(stages), {}).solve(Inputs({}))
    assert not sheet.alternating
    assert sheet.value("wire.flip")[0] == 2


def test_variants_as_one_array_equal_a_loop_over_single_solves(model):
    powers = np.array([20.0, 80.0, 200.0, 333.0])
    together = model.solve(Inputs({"heater.wanted_power": powers[:, None]}))
    for row, power in enumerate(powers):
        alone = model.solve(Inputs({"heater.wanted_power": power}))
        for key in ("source.output_voltage", "wire.loss", "wire.strands"):
            np.testing.assert_allclose(np.broadcast_to(together.value(key), (4, together.value(key).shape[-1]))[row], alone.value(key), rtol=1e-8)


def test_held_keeps_the_build_and_sweeps_with_it(model):
    sheet = model.solve(Inputs())
    values = sweep(model, sheet, "heater.wanted_power", np.linspace(10, 300, 700), "wire.loss")
    one = model.solve(Inputs({"heater.wanted_power": float(np.linspace(10, 300, 700)[600])}), build=model.build_of(sheet))
    assert one.value("wire.strands")[0] == sheet.value("wire.strands")[0]
    np.testing.assert_allclose(values[600], one.value("wire.loss"), rtol=1e-8)


def test_goal_seek_finds_the_crossing_and_says_when_there_is_a_jump(model):
    found = goal_seek(model, Inputs(), "source.output_voltage", "nominal_full", 23.0, "heater.wanted_power")
    assert found.exact
    check = model.solve(Inputs({"heater.wanted_power": found.value}))
    assert check.at("source.output_voltage", "nominal_full") == pytest.approx(23.0, rel=1e-6)
    jump = goal_seek(model, Inputs(), "wire.strands", "nominal_full", 9.5, "heater.wanted_power")
    assert not jump.exact
    assert {jump.below.reaches, jump.above.reaches} == {9.0, 10.0}
    never = goal_seek(model, Inputs(), "source.output_voltage", "nominal_full", 500.0, "heater.wanted_power")
    assert not never.exact
    assert never.below is None
    with pytest.raises(InputError, match="is not a given"):
        goal_seek(model, Inputs(), "wire.loss", "nominal_full", 1.0, "wire.strands")


def test_sensitivity_of_a_known_law(model):
    bars = {b.key: b for b in sensitivity(model, model.solve(Inputs()), "heater.input_power", "nominal_full")}
    assert bars["heater.wanted_power"].held == pytest.approx(0.1)
    assert bars["heater.wanted_power"].step == "+10 %"
    assert set(bars) == {"heater.wanted_power"}


def test_why_puts_in_the_numbers_of_the_corner_that_binds(model):
    sheet = model.solve(Inputs())
    answer = why(sheet, "wire.strands", "nominal_none")
    assert answer.binds
    assert answer.corner == "lowest_surge"
    assert {n.key for n in answer.comes_from} == {"wire.input_power", "source.output_voltage"}
    assert "wire.loss" in {n.key for n in answer.carries_on_to}
    at_corner = why(sheet, "heater.input_power", "nominal_half")
    assert at_corner.value == 50
    assert "0.5" in at_corner.numbers


@pytest.mark.parametrize(
    ("inputs", "match"),
    [
        (Inputs({"heater.wanted_power": -1.0}), "outside 0 W to 5 kW"),
        (Inputs({"heater.nothing": 1.0}), "no given 'heater.nothing'"),
        (Inputs({"heater.wanted_power": float("nan")}), "outside"),
        (Inputs({"wire.strands": 2.0}), "no given 'wire.strands'"),
        (Inputs().with_pin("heater.wanted_power", 3.0), "cannot be pinned"),
        (Inputs(choices={"source.kind": "x"}), "no choice"),
    ],
)
def test_bad_input_names_the_field_what_was_given_and_what_is_allowed(model, inputs, match):
    with pytest.raises(InputError, match=match) as error:
        model.solve(inputs)
    assert {"field", "given", "allowed"} <= set(error.value.fields)
    again = pickle.loads(pickle.dumps(error.value))
    assert repr(again.fields) == repr(error.value.fields)


def test_collectors_sum_over_their_scope_in_any_order_of_places():
    s = toy_stages()
    for order in permutations(toy_lineup(s).places[1:3]):
        places = (toy_lineup(s).places[0], *order, toy_lineup(s).places[3])
        sheet = Model(LineUp("t", "T", places), {}).solve(Inputs())
        assert sheet.at("wire.every_loss_host", "nominal_full") == sheet.at("wire.loss", "nominal_full")
