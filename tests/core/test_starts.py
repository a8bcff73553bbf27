"""Where a solve begins: at the scale of the brief."""

import numpy as np
import pytest

from rhombos.catalogue.loader import load
from rhombos.core.graph.model import Model
from rhombos.core.graph.starts import Starts
from rhombos.core.lineups import TITLES, lineup
from rhombos.formats.design import of_sample


def starts(sizes):
    """The starting values of the demo's line-up where these are the sizes of the brief."""
    model = of_sample("ferrite_push_pull_link_bridge").model()
    at = {index: sizes[name] for name, (index, _) in model.wiring.sizes.items() if name in sizes}
    nodes = [n.index for n in model.wiring.nodes if n.figure.start is not None]
    return {model.wiring.nodes[i].key: value for i, value in zip(nodes, Starts(model.wiring, nodes).grown(at.get), strict=True)}


USUAL = {"source_voltage": 26.0, "power": 800.0, "output_voltage": 230.0}


def test_the_usual_brief_begins_where_it_is_written_down():
    model = of_sample("ferrite_push_pull_link_bridge").model()
    assert starts(USUAL) == {n.key: n.figure.start for n in model.wiring.nodes if n.figure.start is not None}
    assert starts({}) == starts(USUAL), "what is not known counts as usual"
    assert starts({**USUAL, "power": 0.0}) == starts(USUAL), "nor is anything begun at nothing"


def test_twice_the_watts_are_twice_the_current_and_half_the_resistance():
    one, two = starts(USUAL), starts({**USUAL, "power": 1600.0})
    assert two["front.flat_top_current"] == 2 * one["front.flat_top_current"]
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


def test_of_many_variants_each_begins_at_its_own():
    model = of_sample("ferrite_push_pull_link_bridge").model()
    index, usual = model.wiring.sizes["power"]
    at = model.wiring.index["front.flat_top_current"]
    found = Starts(model.wiring, [at]).grown({index: usual * np.array([[1.0], [3.0]])}.get)
    np.testing.assert_array_equal(found[0], model.wiring.nodes[at].figure.start * np.array([[1.0], [3.0]]))


@pytest.mark.parametrize("id", TITLES)
def test_what_starting_values_grow_with_is_a_size_that_a_stage_gives(id):
    wiring = Model(lineup(id, ("load_1",)), load()).wiring
    grows = {n.key: set(n.figure.grows) for n in wiring.nodes if n.figure.grows}
    assert grows
    assert set().union(*grows.values()) == set(wiring.sizes)
    assert all(wiring.nodes[wiring.index[key]].figure.start is not None for key in grows)
