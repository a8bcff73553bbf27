"""Circuits as stages declare them: drawn and solved from one declaration, and what they refuse."""

from dataclasses import replace

import numpy as np
import pytest

from rhombos.core.circuit.drawn import drawn, looked_at, probe, read_out
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.schematic import Part, Schematic
from rhombos.core.circuit.solved import circuit_of, looked, probed
from rhombos.core.graph.errors import DeclarationError, Unknown
from rhombos.core.graph.pictures import Seen
from rhombos.core.lineups import LINE_UPS, STAGES
from tests.core.looking import alone, run
from tests.core.trial import of_sample

WITH = sorted(name for name, stage in STAGES.items() if stage.schematic)


@pytest.mark.parametrize("name", WITH)
def test_what_a_schematic_names_is_there(name):
    """Picks, rows of the parts list and checks that parts stand for; every pick of a stage that is drawn stands in its schematic."""
    stage = STAGES[name]
    for part in stage.schematic.parts:
        assert not part.pick or part.pick in stage.picks, part.name
        assert not part.order or part.order in {o.what for o in stage.orders}, part.name
        assert set(part.checks) <= set(stage.checks), part.name
    assert set(stage.picks) <= {p.pick for p in stage.schematic.parts}
    assert stage.looks, "a circuit is there to be looked at"


@pytest.mark.parametrize("name", WITH)
def test_alone_every_look_settles_and_its_energy_is_balanced(name):
    seen = alone(name)
    for look in seen.place.stage.looks:
        told = probe(seen, looked_at(seen, look.title), list(look.probes))
        assert told.balance < 1e-6, look.title
        assert [t.unit for t in told.traces] == ["A" if p[0] == "i" else "V" for p in look.probes]
        assert all(np.isfinite(t.values).all() and len(t.times) == len(t.values) for t in told.traces)


@pytest.mark.parametrize("id", sorted(LINE_UPS))
def test_every_element_has_a_value_at_every_corner_of_every_line_up(id, sheets):
    model, sheet = sheets[id]
    for place in model.wiring.lineup.places:
        for corner in range(len(sheet.corners.ids)):
            seen = Seen(model, sheet, place, corner)
            if place.stage.schematic is None:
                continue
            made = circuit_of(place.stage.schematic, seen.at)
            shown = drawn(seen)
            assert {e.name for e in (*made.elements, *made.switches, *made.diodes)} == {p["name"] for p in shown["parts"]}, "solved is what is drawn"
            left_out = {p.name for p in place.stage.schematic.parts} - {p["name"] for p in shown["parts"]}
            assert left_out <= {p.name for p in place.stage.schematic.parts if p.across}
            assert all(part["text"] != "not known" for part in shown["parts"])
            assert all(part["figure"] is None or part["figure"] in model.wiring.index for part in shown["parts"])


R = {"kind": "resistor", "value": (1.0,)}


def made(*parts, wires=(), grounds=((0.0, 2.0),), nodes=None):
    return Schematic(tuple(Part(name=name, start=start, end=end, **R) for name, start, end in parts), wires, grounds, nodes or {})


@pytest.mark.parametrize(
    ("make", "told"),
    [
        (lambda: made(("one", (0, 0), (0, 2))), "'one' is open at 'node 1'"),
        (lambda: made(("one", (0, 0), (0, 2)), ("two", (0, 0), (0, 2)), ("three", (5, 0), (5, 2)), ("four", (5, 0), (5, 2))), "'three' floats"),
        (lambda: made(("one", (0, 0), (0, 2)), ("one", (0, 0), (0, 2))), "two parts of the schematic are called 'one'"),
        (lambda: made(("one", (0, 0), (0, 2)), ("two", (0, 0), (0, 2)), grounds=()), "no ground"),
        (lambda: made(("one", (0, 0), (0, 2)), ("two", (0, 0), (0, 2)), nodes={"out": (7, 7)}), "where nothing is"),
        (lambda: made(("one", (0, 0), (0, 2)), ("two", (0, 0), (0, 2)), nodes={"a": (0, 0), "b": (0, 2)}), "'0' and 'b' are joined"),
    ],
)
def test_what_is_open_floats_or_is_named_twice_is_refused_by_name(make, told):
    with pytest.raises(DeclarationError, match=told):
        make().ends(make().parts[0])


def test_wires_that_cross_are_not_joined_and_one_that_ends_on_another_is():
    crossed = made(
        ("one", (0, 0), (0, 2)),
        ("two", (3, -1), (3, 1)),
        ("three", (5, 0), (5, 2)),
        wires=(((0, 0), (5, 0)), ((0, 2), (5, 2)), ((3, 1), (3, 2)), ((3, -1), (6, -1)), ((6, -1), (6, 0)), ((6, 0), (5, 0))),
        nodes={"top": (0, 0)},
    )
    assert crossed.ends(crossed.parts[1]) == ("top", "0"), "its upper end is led round, and it crosses the wire that it is led to"
    assert (3, 0) not in crossed.dots
    joined = made(
        ("one", (0, 0), (0, 2)), ("two", (4, 0), (4, 2)), ("three", (2, 0), (2, 2)), wires=(((0, 0), (4, 0)), ((0, 2), (4, 2))), nodes={"top": (0, 0)}
    )
    assert [joined.ends(p) for p in joined.parts] == [("top", "0")] * 3
    assert joined.dots == ((0, 2), (2, 0), (2, 2))


def test_a_probe_elsewhere_is_refused_with_what_there_is():
    seen = alone("clipper")
    with pytest.raises(CircuitError, match="nothing to probe at 'v moon': there are the nodes 0, in, node 1, out and the parts"):
        probe(seen, looked_at(seen, "Over a period"), ["v moon"])
    with pytest.raises(Unknown, match="not looked at by 'Over a year'; there are Over a period"):
        looked_at(seen, "Over a year")
    with pytest.raises(Unknown, match="has no schematic"):
        drawn(alone("duty_timer"))


def test_where_a_value_is_not_known_there_is_no_trace_and_it_is_said():
    stage = STAGES["clipper"]
    with pytest.raises(CircuitError, match="Series resistor: its series resistor is not known at this corner"):
        circuit_of(stage.schematic, lambda name: np.nan if name == "series_resistor" else 1.0)


def test_traces_keep_the_peaks_between_even_samples():
    seen = alone("rcd_clamp")
    traced = run(seen)
    told = probed(seen.place.stage.schematic, traced, ["i diode"])
    assert max(told.traces[0].values) == pytest.approx(traced.current("diode", traced.times(20000)).max(), rel=1e-5)
    assert told.traces[0].meter.peak == pytest.approx(max(told.traces[0].values), rel=1e-5)


@pytest.mark.parametrize("name", WITH)
def test_readings_obey_kirchhoff(name):
    """Mean currents add up to nothing at every node; no mean voltage stays on an inductor and no mean current in a capacitor that repeats."""
    seen = alone(name)
    schematic = seen.place.stage.schematic
    for look in seen.place.stage.looks:
        told = read_out(seen, looked_at(seen, look.title))
        mean = {r.name: r.mean for r in told.parts}
        largest = max(max(r.rms for r in told.parts), 1e-12)
        sums = dict.fromkeys({n for p in schematic.parts for n in schematic.ends(p)}, 0.0)
        assert set(mean) == {p["name"] for p in drawn(seen)["parts"]}, "what is drawn is read"
        for part in (p for p in schematic.parts if p.name in mean):
            plus, minus = schematic.ends(part)
            sums[plus] -= mean[part.name]
            sums[minus] += mean[part.name]
        assert max(map(abs, sums.values())) < 1e-6 * largest
        if getattr(look.fn(seen), "repeats", True):
            volts, high = {r.name: r.mean for r in told.nodes} | {"0": 0.0}, max(r.rms for r in told.nodes)
            for part in schematic.parts:
                plus, minus = schematic.ends(part)
                if part.kind == "capacitor":
                    assert abs(mean[part.name]) < 1e-5 * largest
                if part.kind == "inductor":
                    assert abs(volts[plus] - volts[minus]) < 1e-5 * high


def test_a_relay_that_is_not_fitted_is_a_wire_and_turns_nothing(sheets):
    model, _ = sheets["ferrite_push_pull_link_bridge"]
    design = of_sample("ferrite_push_pull_link_bridge")
    inputs = design.inputs()
    sheet = model.solve(replace(inputs, choices={**inputs.choices, "precharge.school": "permanent"}))
    seen = Seen(model, sheet, model.wiring.lineup.place("precharge"), sheet.corners.ids.index("nominal_full"))
    relay = next(p for p in drawn(seen)["parts"] if p["name"] == "relay")
    assert (relay["kind"], relay["text"]) == ("wire", "")
    told = probe(seen, looked_at(seen, seen.place.stage.looks[0].title), ["v bus", "i resistor"])
    assert [g.name for g in told.gates] == ["Contactor"]
    switched = Seen(model, sheets["ferrite_push_pull_link_bridge"][1], seen.place, seen.corner)
    fitted = probe(switched, looked_at(switched, seen.place.stage.looks[0].title), ["i resistor"])
    assert [g.name for g in fitted.gates] == ["Contactor", "Precharge relay"]


@pytest.mark.parametrize(
    ("school", "lowest", "highest"), [("keyed", -1.01, -0.99), ("shunt", -0.2, -0.02), ("series_diode", -1e-3, 1e-3), ("series_switch", -1e-3, 1e-3)]
)
def test_the_wrong_way_round_reaches_the_bank_as_its_school_says(school, lowest, highest):
    """With nothing but a key the bank is turned over; a shunt diode holds it near nothing while the fuse clears; a series part lets nothing through."""
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(replace(inputs, choices={**inputs.choices, "polarity.polarity_school": school}))
    seen = Seen(model, sheet, model.wiring.lineup.place("polarity"), sheet.corners.ids.index("nominal_full"))
    found = run(seen)
    rest, volts = seen.at("open_circuit_voltage"), found.voltage("bank", "0", found.times())
    assert lowest * rest <= volts.min() <= highest * rest
    shown = drawn(seen)
    there = {p["name"] for p in shown["parts"]}
    assert ("shunt_diode" in there) == (school == "shunt")
    assert ("body" in there) == (school == "series_switch")
    # No wire leads to what is not there.
    assert (min(y for wire in shown["wires"] for _, y in wire) < 0) == (school == "series_switch")
    served = run(seen, 1).voltage("bank", "0", np.array([run(seen, 1).seconds]))[0]
    drop = seen.at("series_drop") if school == "series_diode" else 0.0
    assert served == pytest.approx(rest - drop, rel=2e-3), "the right way round it is filled"
    if school == "shunt":
        current = np.abs(found.current("line", found.times())).max()
        assert current == pytest.approx(rest / (seen.at("pack_resistance") + seen.at("line_resistance")), rel=0.15)
        (turn, _) = found.spans("fuse")[0]
        assert turn == 0.0
        assert found.spans("fuse")[0][1] == pytest.approx(seen.at("clearing_heat") * ((seen.at("pack_resistance") + seen.at("line_resistance")) / rest) ** 2)


@pytest.mark.parametrize("id", sorted(LINE_UPS))
def test_what_is_found_from_half_a_period_is_what_the_whole_one_finds(id, sheets):
    """A mirror only says where to look: without it the same state repeats itself."""
    model, sheet = sheets[id]
    mirrored = 0
    for place in model.wiring.lineup.places:
        for look in place.stage.looks if place.stage.schematic else ():
            for corner in ("nominal_full", "nominal_none", "highest_surge"):
                seen = Seen(model, sheet, place, sheet.corners.ids.index(corner))
                course = look.fn(seen)
                if getattr(course, "mirror", None) is None:
                    continue
                mirrored += 1
                one, other = (looked(place.stage.schematic, seen.at, c) for c in (course, replace(course, mirror=None)))
                times = np.linspace(0, course.seconds, 997)
                for part in place.stage.schematic.parts:
                    if part.kind in ("inductor", "diode"):
                        a, b = one.current(part.name, times), other.current(part.name, times)
                        # At a steep edge a sample may fall before it or behind; a flux that hardly decays is found less well from the whole.
                        assert np.quantile(np.abs(a - b), 0.99) < 1e-4 * max(1e-3, np.abs(b).max()), (place.name, part.name, corner)
    assert mirrored >= (0 if id == "boost_link_bridge" else 6)


@pytest.mark.parametrize("id", sorted(LINE_UPS))
def test_every_look_of_every_line_up_has_its_trace_under_load_and_with_little(id, sheets):
    """The boost's link had none at a tenth of the load, where its capacitor stands above what feeds it for most of the time."""
    model, sheet = sheets[id]
    for place in model.wiring.lineup.places:
        for look in place.stage.looks if place.stage.schematic else ():
            for corner in ("nominal_full", "nominal_tenth", "lowest_surge"):
                seen = Seen(model, sheet, place, sheet.corners.ids.index(corner))
                # Where all diodes are off a link of 0.1 C hangs on nothing but leakage: its volts have some twelve digits.
                assert probe(seen, looked_at(seen, look.title), list(look.probes)).balance < 1e-6, (place.name, look.title, corner)
