"""Buses: any number of sources and loads; what is missing or has no rule is refused, naming all parties at once."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rhombos.core.graph.buses import ladder_share, ladder_voltage
from rhombos.core.graph.declare import Stage
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.inputs import Inputs, PartChoice, Pin
from rhombos.core.graph.model import Model
from rhombos.core.graph.places import Bus, LineUp, Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.wiring import Wiring
from rhombos.core.lineups import LINE_UPS, STAGES, lineup
from rhombos.formats.design import model_for, of_sample

SOURCE = "made up for the test"


def source(name: str, *, gives: bool = False) -> Stage:
    """A source with a set-point and a limit; with `gives` it says itself what it gives."""
    stage = Stage(name, name.capitalize())
    stage.give("set_point", 380.0, "V", "V", 1, 1000, "Voltage that it holds.")
    stage.give("most", 500.0, "W", "P", 0, 1e5, "Power that it can give.")
    stage.rename(output_voltage="set_point", output_power_limit="most")
    if gives:
        stage.rename(output_power="most")
        stage.renames.pop("output_power_limit")
        return stage

    @stage.operation(unit="W", symbol="P", tex=r"{output_power}", source=SOURCE)
    def drawn_here(output_power):
        """What this source gives."""
        return output_power

    return stage


def load(name: str, watts: float) -> Stage:
    """A load of so many watts at full load."""
    stage = Stage(name, name.capitalize())
    stage.give("watts", watts, "W", "P", 0, 1e5, "Power that it draws.")

    @stage.operation(unit="W", symbol="P", tex=r"{watts}\,{load_fraction}", source=SOURCE)
    def input_power(watts, load_fraction):
        """Power drawn."""
        return watts * load_fraction

    @stage.operation(unit="V", symbol="V", tex=r"{input_voltage}", source=SOURCE)
    def seen_voltage(input_voltage):
        """Voltage that it sees."""
        return input_voltage

    return stage


def two_and_three(rule: str = "ladder", *, gives: bool = False, **over: float) -> LineUp:
    """Two sources and three loads on one link."""
    places = (
        Place("mains", source("mains"), "source", gives="link"),
        Place("battery", source("battery", gives=gives), "source", gives="link"),
        *(Place(f"load_{k}", load(f"load_{k}", watts), "loads", takes="link", gives=f"end_{k}") for k, watts in enumerate((300.0, 100.0, 50.0))),
    )
    buses = (Bus("link", rule, "mains"),) if rule else ()  # type: ignore[arg-type]
    return LineUp("toy", "Toy", places, buses)


def solved(line: LineUp, **givens: float):
    return Model(line, {}).solve(Inputs({k.replace("__", "."): v for k, v in givens.items()}))


def test_the_loads_of_a_bus_add_up_and_none_is_lost():
    single = LineUp("t", "T", (Place("mains", source("mains"), "s"), *two_and_three().places[2:]))
    line = dataclasses.replace(single, places=tuple(dataclasses.replace(p, takes="mains") if p.name != "mains" else p for p in single.places))
    sheet = solved(line)
    assert sheet.at("mains.drawn_here", "nominal_full") == 450
    assert sheet.at("mains.drawn_here", "nominal_half") == 225
    assert sheet.at("load_2.seen_voltage", "nominal_full") == 380


def test_a_branch_before_the_link_is_counted_where_it_leaves():
    """Battery, converter, link; a charger branches off between battery and converter."""
    converter = Stage("converter", "Converter")

    @converter.operation(unit="W", symbol="P", tex=r"1.25\,{output_power}", source=SOURCE, example=({"output_power": 100}, 125))
    def input_power(output_power):
        """A fifth is lost."""
        return 1.25 * output_power

    converter.give("held", 400.0, "V", "V", 1, 1e3, "Voltage that it holds.")
    converter.rename(output_voltage="held")
    line = LineUp(
        "t",
        "T",
        (
            Place("battery", source("battery"), "s"),
            Place("charger", load("charger", 80.0), "x", takes="battery"),
            Place("converter", converter, "c", takes="battery"),
            Place("lamp", load("lamp", 200.0), "l"),
        ),
    )
    sheet = solved(line)
    assert sheet.at("converter.input_power", "nominal_full") == 250
    assert sheet.at("battery.drawn_here", "nominal_full") == 330
    assert sheet.at("lamp.seen_voltage", "nominal_full") == 400
    assert sheet.at("charger.seen_voltage", "nominal_full") == 380


def test_on_a_ladder_the_highest_set_point_carries_and_the_next_takes_the_rest():
    sheet = solved(two_and_three(), mains__set_point=385.0, mains__most=300.0, battery__set_point=375.0)
    assert sheet.at("mains.drawn_here", "nominal_full") == 300
    assert sheet.at("battery.drawn_here", "nominal_full") == 150
    assert sheet.at("load_0.seen_voltage", "nominal_full") == 375, "the battery holds the bus while it carries"
    assert sheet.at("battery.drawn_here", "nominal_half") == 0
    assert sheet.at("load_0.seen_voltage", "nominal_half") == 385
    assert sheet.at("load_0.seen_voltage", "nominal_none") == 385


def test_what_the_ladder_cannot_carry_is_unknown_and_says_so():
    sheet = solved(two_and_three(), mains__most=100.0, battery__most=100.0)
    index = sheet.wiring.index["link_bus.voltage"]
    assert sheet.status(index).tolist().count(2) > 0
    assert "give 200 W, and 450 W are drawn" in sheet.why_missing(index, sheet.corners.ids.index("nominal_full"))
    assert sheet.at("load_0.seen_voltage", "nominal_tenth") == 380


# Whole watts, so that sums and differences are exact and a source either carries or does not.
@given(
    drawn=st.integers(0, 1000).map(float),
    points=st.lists(st.sampled_from([350.0, 360.0, 370.0, 380.0]), min_size=3, max_size=3),
    limits=st.lists(st.integers(0, 500).map(float), min_size=3, max_size=3),
)
@settings(max_examples=200, deadline=None)
def test_the_ladder_is_the_greedy_filling_of_its_rungs(drawn, points, limits):
    """Against a plain loop over the sources from the highest set-point down."""
    shares, left = [0.0] * 3, drawn
    for k in sorted(range(3), key=lambda k: (-points[k], k)):
        shares[k] = min(left, limits[k])
        left -= shares[k]
    found = [float(ladder_share(k, 3)(drawn, *points, *limits)) for k in range(3)]
    np.testing.assert_array_equal(found, shares)
    if left <= 0:
        carrying = [p for p, s in zip(points, shares, strict=True) if s > 0]
        volts = float(np.asarray(ladder_voltage(3)(np.array(drawn), *map(np.array, points), *map(np.array, limits))))
        assert volts == (min(carrying) if carrying else max(points))


def test_a_regulated_bus_is_held_by_one_and_the_others_give_what_they_say():
    sheet = solved(two_and_three("regulated", gives=True), mains__set_point=385.0, battery__set_point=300.0, battery__most=120.0)
    assert sheet.at("load_1.seen_voltage", "nominal_full") == 385
    assert sheet.at("mains.drawn_here", "nominal_full") == 450 - 120
    assert sheet.at("mains.drawn_here", "nominal_none") == -120, "what nobody draws is pushed back into the one that regulates"


def test_two_sources_without_a_rule_are_refused_naming_both():
    with pytest.raises(WiringError, match="'link' is fed by mains, battery: name the rule"):
        Wiring(two_and_three(""))


def test_a_rule_for_a_bus_that_is_not_there_and_a_regulator_that_does_not_give_are_refused():
    with pytest.raises(WiringError, match="'ghost', to which nothing gives"):
        Wiring(dataclasses.replace(two_and_three(), buses=(Bus("ghost", "ladder"),)))
    with pytest.raises(WiringError, match="held by 'load_0', which does not give to it; mains, battery do"):
        Wiring(dataclasses.replace(two_and_three(), buses=(Bus("link", "regulated", "load_0"),)))


def test_all_that_is_wrong_is_told_at_once_with_its_parties():
    line = two_and_three()
    deaf = Stage("deaf", "Deaf")

    @deaf.operation(unit="V", symbol="V", tex=r"{input_ripple}+{nobody_makes_it}", source=SOURCE)
    def wants(input_ripple, nobody_makes_it):
        """Reads two names that nothing makes, and draws no power."""
        return input_ripple + nobody_makes_it

    places = (*line.places, Place("deaf", deaf, "loads", takes="link", gives="end"))
    with pytest.raises(WiringError) as error:
        Wiring(dataclasses.replace(line, places=places))
    told = error.value.message
    assert "'deaf' reads 'input_ripple'" in told
    assert "'deaf' reads 'nobody_makes_it'" in told
    assert "deaf on the bus 'link' makes no 'input_power', as load_0, load_1, load_2 does" in told
    assert len(error.value.fields["problems"]) >= 3


def test_what_no_rule_joins_is_refused():
    def reads_spread(stage: Stage) -> Stage:
        @stage.operation(unit="", symbol="s", tex=r"{output_spread}", source=SOURCE)
        def spread_seen(output_spread):
            """Something that does not add."""
            return output_spread

        return stage

    def makes_spread(stage: Stage) -> Stage:
        stage.give("input_spread", 1.0, "", "s", 0, 9, "Something that does not add.")
        return stage

    places = (
        Place("mains", reads_spread(source("mains")), "s"),
        Place("a", makes_spread(load("a", 1.0)), "l", takes="mains", gives="x"),
        Place("b", makes_spread(load("b", 1.0)), "l", takes="mains", gives="y"),
    )
    with pytest.raises(WiringError, match="no rule joins 'output_spread' of the bus 'mains', drawn by a, b"):
        Wiring(LineUp("t", "T", places))


def test_apparent_power_of_several_loads_is_the_vector_sum():
    def draws(name: str, p: float, q: float, d: float) -> Stage:
        stage = Stage(name, name)
        for what, unit, value in (("power", "W", p), ("reactive_power", "VA", q), ("distortion_power", "VA", d)):
            stage.give(f"input_{what}", value, unit, "S", -1e5, 1e5, f"The {what} drawn.")
        stage.give("input_apparent_power", float(np.sqrt(p * p + q * q + d * d)), "VA", "S", 0, 1e5, "Apparent power drawn.")
        return stage

    bridge = Stage("bridge", "Bridge")

    @bridge.operation(unit="VA", symbol="S", tex=r"{output_apparent_power}", source=SOURCE)
    def given_out(output_apparent_power):
        """Apparent power given out."""
        return output_apparent_power

    line = LineUp(
        "t",
        "T",
        (
            Place("bridge", bridge, "b"),
            Place("lamp", draws("lamp", 300, 0, 0), "l", takes="bridge"),
            Place("motor", draws("motor", 0, 400, 0), "l", takes="bridge"),
        ),
    )
    assert solved(line).value("bridge.given_out")[0] == pytest.approx(500), "not 700"


@pytest.mark.parametrize("id", LINE_UPS)
def test_a_line_up_can_be_cut_behind_every_stage_and_solves_from_both_sides(id):
    whole = lineup(id, tuple(LINE_UPS[id].sample.loads))
    names = [p.name for p in whole.path]
    for k, name in enumerate(names[:-1]):
        for part in (whole.cut(last=name), whole.cut(first=names[k + 1])):
            model = Model(part, model_for(id, ("load_1",)).catalogue)
            sheet = model.solve(Inputs())
            outside = [n for n in model.wiring.nodes if n.place == "outside"]
            assert outside, f"{part.path[0].name} to {part.path[-1].name}: what was cut off is given"
            assert all(np.isfinite(sheet.value(n.key)).all() for n in outside)


@pytest.mark.parametrize("id", LINE_UPS)
def test_a_cut_line_up_given_what_it_lost_is_as_it_was(id):
    """The battery's side of the demo, told what the rest draws: the same numbers as in the whole line-up."""
    design = of_sample(id)
    model = design.model()
    sheet = model.solve(design.inputs())
    part = Model(model.wiring.lineup.cut(last="input"), model.catalogue)
    lost = [n for n in part.wiring.nodes if n.place == "outside"]
    inputs = design.inputs()
    kept = Inputs(
        {
            **{k: v for k, v in inputs.givens.items() if k in part.wiring.index},
            **{n.key: sheet.values[model.wiring.resolve(reader(model, n.figure.name), n.figure.name)] for n in lost},
        },
        {k: v for k, v in inputs.choices.items() if k in part.choices},
        # The bank's choice is the whole's: two stand so close that the way there decides.
        {**{k: v for k, v in inputs.pins.items() if k in part.wiring.index}, "input.bulk": Pin(taken(model, sheet, "input.bulk"), "as in the whole")},
    )
    alone = part.solve(kept)
    for key in ("battery.terminal_voltage", "input.bulk_current", "cutoff.falling_threshold", "precharge.precharge_time"):
        np.testing.assert_allclose(np.broadcast_to(alone.value(key), sheet.value(key).shape), sheet.value(key), rtol=1e-6, err_msg=key)


def reader(model: Model, name: str) -> Place:
    """The place that a name is linked at, or else the one where the line-up was cut."""
    places = model.wiring.lineup.places
    return next((p for p in places if name in p.links), model.wiring.lineup.place("input"))


def taken(model: Model, sheet: Sheet, key: str) -> PartChoice:
    """The part and the number that a pick took."""
    index = model.wiring.index[key]
    candidates, chosen = model.candidates[index], int(sheet.picks[index].chosen)
    return PartChoice(candidates.table.codes[int(candidates.rows[chosen])], int(candidates.quantity[chosen]))


@pytest.mark.parametrize("name", STAGES)
def test_every_stage_stands_alone_at_usual_values(name):
    """Nobody has to know its neighbours first: it is solved, every figure has a value, and no check fails."""
    model = model_for(f"{name}_alone", ())
    sheet = model.solve(Inputs())
    codes = sheet.judge().code
    failing = [c.key for c, code in zip(model.wiring.checks, codes, strict=True) if code.min() < 2]
    assert not failing
