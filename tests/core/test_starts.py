"""Where a solve begins: at the scale of the brief."""

import numpy as np
import pytest

from rhombos.catalogue.loader import load
from rhombos.core.graph.model import Model
from rhombos.core.graph.solve import Run
from rhombos.core.graph.starts import LEAST, Starts
from rhombos.core.lineups import TITLES, lineup
from rhombos.demo import tern_islet
from rhombos.formats.design import of_sample


def starts(sizes):
    """The starting values of the demo's line-up where these are the sizes of the brief."""
    model = of_sample("ferrite_push_pull_link_bridge").model()
    at = {index: sizes[name] for name, (index, _) in model.wiring.sizes.items() if name in sizes}
    nodes = [n.index for n in model.wiring.nodes if n.figure.start is not None]
    found = Starts(model.wiring, nodes).grown(at.get)
    return {model.wiring.nodes[i].key: float(value[0]) if np.ptp(value) == 0 else value for i, value in zip(nodes, found, strict=True)}


USUAL = {"source_voltage": 26.0, "power": 800.0, "drawn_power": 800.0, "output_voltage": 230.0}


def test_the_usual_brief_begins_where_it_is_written_down():
    model = of_sample("ferrite_push_pull_link_bridge").model()
    assert starts(USUAL) == {n.key: n.figure.start for n in model.wiring.nodes if n.figure.start is not None}
    assert starts({}) == starts(USUAL), "what is not known counts as usual"
    assert starts({**USUAL, "power": 0.0}) == starts(USUAL), "nor is anything begun at nothing"


def test_twice_the_watts_are_twice_the_current_and_half_the_resistance():
    one, two = starts(USUAL), starts({**USUAL, "power": 1600.0, "drawn_power": 1600.0})
    assert two["front.flat_top_current"] == pytest.approx(2 * one["front.flat_top_current"])
    assert two["transformer.primary_resistance"] == one["transformer.primary_resistance"] / 2
    assert two["battery.terminal_voltage"] == one["battery.terminal_voltage"]
    assert two["transformer.needed_ratio"] == one["transformer.needed_ratio"]


def test_half_the_volts_are_twice_the_current_and_twice_the_ratio():
    one, half = starts(USUAL), starts({**USUAL, "source_voltage": 13.0})
    assert half["battery.terminal_voltage"] == one["battery.terminal_voltage"] / 2
    assert half["front.flat_top_current"] == 2 * one["front.flat_top_current"]
    assert half["front.drive_resistance"] == one["front.drive_resistance"] / 4
    assert half["transformer.needed_ratio"] == 2 * one["transformer.needed_ratio"]
    assert half["link.link_setpoint"] == one["link.link_setpoint"]
    low = starts({**USUAL, "output_voltage": 115.0})
    assert low["link.link_setpoint"] == one["link.link_setpoint"] / 2
    assert low["rectifier.choke_inductance"] == one["rectifier.choke_inductance"] / 4


def test_what_has_a_number_at_every_corner_begins_with_what_is_drawn_there():
    drawn = np.array([800.0, 1600.0, 80.0, 0.0])
    one, corners = starts(USUAL), starts({**USUAL, "drawn_power": drawn})
    np.testing.assert_allclose(corners["front.flat_top_current"], one["front.flat_top_current"] * np.array([1.0, 2.0, 0.1, LEAST]))
    np.testing.assert_allclose(corners["link.link_ripple"], one["link.link_ripple"] * np.array([1.0, 2.0, 0.1, LEAST]))
    for build in ("transformer.leakage_inductance", "sensing.front_trip_level", "input.cable_area"):
        assert corners[build] == one[build], "what has no corners goes by what can be drawn for long"
    volts = starts({**USUAL, "source_voltage": np.array([23.0, 26.0, 29.0])})
    np.testing.assert_allclose(volts["battery.terminal_voltage"], one["battery.terminal_voltage"] * np.array([23.0, 26.0, 29.0]) / 26.0)
    assert volts["transformer.needed_ratio"] == pytest.approx(one["transformer.needed_ratio"]), "of the mean of the corners"


def test_of_many_variants_each_begins_at_its_own():
    model = of_sample("ferrite_push_pull_link_bridge").model()
    index, usual = model.wiring.sizes["drawn_power"]
    at = model.wiring.index["front.flat_top_current"]
    found = Starts(model.wiring, [at]).grown({index: usual * np.array([[1.0, 0.5], [3.0, 1.5]])}.get)
    np.testing.assert_allclose(found[0], model.wiring.nodes[at].figure.start * np.array([[1.0, 0.5], [3.0, 1.5]]))


def first_turns_and_layers(model, inputs):
    """What the first pass of a solve makes of the primary: its turns and layers."""
    seen = {}

    class Watched(Run):
        def _work(self, steps):
            super()._work(steps)
            if steps is self.layout.first:
                seen.update({name: float(np.ravel(self.values[model.wiring.index[f"transformer.{name}"]])[0]) for name in ("primary_turns", "primary_layers")})

    Watched(model, inputs, model.wiring.lineup.corners, None).sheet()
    return seen


def test_the_first_winding_is_not_sized_by_what_flows_without_load():
    """The ripple of a choke on a full load's current, at the corner without load, was 250 A of rms in the first pass: eighty layers in place of one."""
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    first = first_turns_and_layers(design.model(), design.inputs())
    assert first == {name: float(sheet.value(f"transformer.{name}")[0]) for name in first}


@pytest.mark.parametrize("id", TITLES)
def test_what_starting_values_grow_with_is_a_size_that_a_stage_gives(id):
    wiring = Model(lineup(id, ("load_1",)), load()).wiring
    grows = {n.key: set(n.figure.grows) for n in wiring.nodes if n.figure.grows}
    assert grows
    assert set().union(*grows.values()) == set(wiring.sizes)
    assert all(wiring.nodes[wiring.index[key]].figure.start is not None for key in grows)
