"""The front ends' circuits, from the battery's line to the link: against SciPy, closed forms, and the sheet beside them."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from rhombos.core.circuit.solved import circuit_of
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.pictures import Seen
from rhombos.core.lineups import LINE_UPS
from rhombos.core.stages.front.circuits import RINGING
from tests.campaign.briefs import briefs
from tests.core.by_nodes import ByNodes
from tests.core.looking import run

PUSH_PULL, BRIDGE, BOOST = "ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge", "boost_link_bridge"


def front(sheets, id, corner):
    model, sheet = sheets[id]
    return Seen(model, sheet, model.wiring.lineup.place("front"), sheet.corners.ids.index(corner))


@pytest.mark.parametrize(("id", "corner"), [(PUSH_PULL, "nominal_full"), (PUSH_PULL, "nominal_none"), (BRIDGE, "highest_full")])
def test_around_the_edges_a_front_end_does_what_scipy_says(id, corner, sheets):
    """Turned on, with the other winding's leakage into its clamp, and turned off: states, and which diodes conduct a nanosecond before and after each turn."""
    seen = front(sheets, id, corner)
    circuit, found = circuit_of(seen.place.stage.schematic, seen.at), run(seen)
    off = next(s.begin for s in found.stretches if not s.on)
    for begin, end in ((0.0, 40e-9), (off, off + 40e-9)):
        inside = [s for s in found.stretches if begin <= s.begin < end]
        first = next(s for s in inside if s.begin == begin)
        states = [e.name for e in found.states.storing]
        other = ByNodes(circuit, first.on)
        solved = other.marched(first.state[: len(states)], begin, end)
        assert solved.success
        times = np.linspace(begin, end, 241)[:-1]
        for k, name in enumerate(states):
            kind = next(e.kind for e in circuit.elements if e.name == name)
            ours = found.current(name, times) if kind == "L" else found.across(name, times)
            greatest = max(np.abs(found.stretches[j].state[k]) for j in range(len(found.stretches)))
            np.testing.assert_allclose(ours, solved.sol(times)[k], atol=1e-4 * greatest, err_msg=name)
        for before, after in pairwise(inside):
            turned = before.conducting ^ after.conducting
            settled = after.end - after.begin > 2e-9 and before.end - before.begin > 2e-9
            for time, conducting in ((after.begin - 1e-9, before.conducting), (after.begin + 1e-9, after.conducting)):
                if settled and begin < time < end:
                    other.nodes(solved.sol(time))
                    said = {d.name for d, does in zip(circuit.diodes, other.conducting, strict=True) if does}
                    assert said & turned == conducting & turned


@pytest.mark.parametrize("id", [PUSH_PULL, BRIDGE])
def test_after_a_period_by_scipy_a_front_end_stands_where_it_began(id, sheets):
    """Every edge of both halves, from the state that Newton found over half of it; the ringing of quality one, so that SciPy comes through."""
    seen = front(sheets, id, "nominal_full")
    made, look = circuit_of(seen.place.stage.schematic, seen.at), seen.place.stage.looks[0].fn(seen)
    damped = replace(made, elements=tuple(replace(e, value=RINGING * e.value) if e.name.endswith("_damping") else e for e in made.elements))
    found = repeat(damped, look.events, look.seconds, mirror=look.mirror)
    count, on = len(found.states.storing), set()
    x = begun = found.start[:count]
    for begin, end in pairwise(sorted({e.time for e in look.events} | {look.seconds})):
        for event in (e for e in look.events if e.time == begin):
            for name, turned in event.turns.items():
                (on.add if turned else on.discard)(name)
        x = ByNodes(damped, frozenset(on)).marched(x, begin, end, 1e-8).y[:, -1]
    greatest = np.abs([s.state[:count] for s in found.stretches]).max(axis=0)
    assert (np.abs(x - begun) < 1e-6 * greatest).all()
    assert greatest[[e.name for e in found.states.storing].index("choke")] > 1.0


def test_in_the_rest_a_drain_rings_with_its_leakage_and_its_capacitance(sheets):
    seen = front(sheets, PUSH_PULL, "nominal_full")
    found = run(seen)
    begin = found.stretches[-1].begin
    times = np.linspace(begin, begin + 0.4e-6, 40_000)
    volts = found.voltage("drain B", "0", times) - seen.at("input_voltage")
    crossed = times[1:][np.diff(np.signbit(volts)) > 0]
    period = 2 * np.diff(crossed[4:14]).mean()
    held = seen.at("switch_output_capacitance") * seen.at("switch_quantity")
    assert period == pytest.approx(2 * np.pi * np.sqrt(seen.at("leakage_inductance") * held), rel=0.01), "the rectifier shorts the secondary"
    assert not any(s.on for s in found.stretches if s.begin >= begin)


def test_the_rail_sags_in_a_pulse_as_the_inputs_own_circuit_says(sheets):
    """Two circuits of the same bulk capacitors: the input's with the sheet's rectangles, the front end's with what its switches draw."""
    model, sheet = sheets[PUSH_PULL]
    corner = sheet.corners.ids.index("nominal_full")
    crest, pulses = run(Seen(model, sheet, model.wiring.lineup.place("front"), corner), 1), run(Seen(model, sheet, model.wiring.lineup.place("input"), corner))
    swings = [np.ptp(r.voltage(node, "0", r.times(4000))) for r, node in ((crest, "rail"), (pulses, "bank"))]
    assert swings[0] == pytest.approx(swings[1], rel=0.2), "the rectangles leave the magnetising current and the choke's ripple out"
    line = [np.ptp(r.current(part, r.times(4000))) for r, part in ((crest, "cable"), (pulses, "cable"))]
    assert line[0] == pytest.approx(line[1], rel=0.2), "what the cable's inductance lets through to the battery"


@pytest.mark.parametrize("id", sorted(LINE_UPS))
def test_energy_is_balanced_with_the_bulk_in_the_circuit_at_every_corner(id, sheets):
    """A bank of joules is charged and discharged by microjoules in a period: beside what is off over a leakage its slow modes drowned, to 1e-4 without load."""
    _, sheet = sheets[id]
    for corner in sheet.corners.ids:
        for look in (0, 1):
            found = run(front(sheets, id, corner), look)
            assert found.energy().error < 1e-7, (corner, look)
            gave, took = found.energy().given, found.energy().taken
            assert gave > took > 0, "the link takes most of it"


def test_a_light_load_rings_between_choke_and_switch(sheets):
    """Below the boundary a boost's drain falls back to its rail and swings about it; the body diode catches it below none."""
    seen = front(sheets, BOOST, "nominal_none")
    found = run(seen)
    volts = found.voltage("drain", "0", found.times(8000))
    assert volts.min() == pytest.approx(-seen.at("switch_diode_voltage"), abs=0.3)
    last = [s for s in found.stretches if not s.on and "diode" not in s.conducting and "body" not in s.conducting][-1]
    ring = np.abs(last.modes.values.imag).max() / (2 * np.pi)
    held = seen.at("switch_output_capacitance") * seen.at("switch_quantity")
    assert ring == pytest.approx(1 / (2 * np.pi * np.sqrt(seen.at("choke_inductance") * held)), rel=0.01)


@pytest.mark.parametrize("id", sorted(LINE_UPS))
def test_front_ends_of_made_up_briefs_come_to_rest(id):
    """Some twenty briefs from 10 to 110 V, every corner that has its numbers: a state that repeats itself, its energy balanced."""
    runs = 0
    for design in briefs(7, 20):
        made = design.model_copy(update={"lineup": id})
        model = made.model()
        sheet = model.solve(made.inputs())
        for corner in range(len(sheet.corners.ids)):
            seen = Seen(model, sheet, model.wiring.lineup.place("front"), corner)
            if not all(np.isfinite(seen.at(name)) for name in seen.place.stage.schematic.names):
                continue
            found = run(seen)
            runs += 1
            assert found.energy().error < 1e-6, (design.title, corner)
            assert np.abs(found.end - found.start).max() < 1e-5 * np.abs(found.start).max()
    assert runs > 100
