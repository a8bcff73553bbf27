"""The whole line-up's circuit on one sheet: nothing is lost, nothing is twice, and what is joined is what the power goes through."""

from dataclasses import replace
from itertools import pairwise

import pytest

from rhombos.core.circuit.drawn import drawn
from rhombos.core.circuit.schematic import Joints, Part, Schematic, lies_on
from rhombos.core.circuit.whole import blocks_of, joined, whole
from rhombos.core.graph.errors import DeclarationError, WiringError
from rhombos.core.graph.pictures import Seen
from rhombos.core.lineups import LINE_UPS
from tests.core.trial import of_sample


@pytest.fixture(scope="module", name="drawings")
def _drawings(sheets):
    return {id: (model, whole(model, sheet, 2)) for id, (model, sheet) in sheets.items()}


def nets(drawn) -> dict[tuple[float, float], int]:
    """Every point that something touches, with a number for all that wires join to it."""
    segments = [(tuple(a), tuple(b)) for wire in drawn["wires"] for a, b in pairwise(wire)]
    # What is not fitted in a line is a wire there.
    segments += [(tuple(p["start"]), tuple(p["end"])) for p in drawn["parts"] if p["kind"] == "wire"]
    points = {p for s in segments for p in s} | {tuple(p) for part in drawn["parts"] for p in (part["start"], part["end"])}
    number = {p: k for k, p in enumerate(points)}
    moved = True
    while moved:
        moved = False
        for one, other in segments:
            on = [p for p in points if lies_on(p, one, other)]
            least = min(number[p] for p in on)
            for p in on:
                moved |= number[p] != least
                number[p] = least
    return number


@pytest.mark.parametrize("id", LINE_UPS)
def test_every_part_of_the_path_stands_there_once(id, drawings):
    model, drawn = drawings[id]
    names = [p["name"] for p in drawn["parts"]]
    assert len(names) == len(set(names))
    for place, schematic, _ in joined(model.wiring.lineup):
        own = {f"{place.name}.{p.name}" for p in schematic.parts if not p.neighbour}
        across = {f"{place.name}.{p.name}" for p in schematic.parts if p.across}
        assert own - across <= set(names), "only what would stand across something may be left out"
    assert [f["place"] for f in drawn["frames"]] == [p.name for p, *_ in joined(model.wiring.lineup)]


@pytest.mark.parametrize("id", LINE_UPS)
def test_what_is_joined_is_one_net_and_no_pole_touches_the_other(id, drawings):
    model, drawn = drawings[id]
    net = nets(drawn)
    blocks = [b for row in blocks_of(model.wiring.lineup) for b in row]
    for block in blocks:
        for joint in (block.joints.into, block.joints.out):
            plus, minus = (net[block.at(p)] for p in joint)
            assert plus != minus, f"{block.place.name} is shorted"
    for row in blocks_of(model.wiring.lineup):
        for one, other in pairwise(row):
            for a, b in zip(one.joints.out, other.joints.into, strict=True):
                assert net[one.at(a)] == net[other.at(b)]


@pytest.mark.parametrize("id", LINE_UPS)
def test_no_end_is_left_open_but_where_a_row_goes_on(id, drawings):
    _, drawn = drawings[id]
    net = nets(drawn)
    ends = [net[tuple(p)] for part in drawn["parts"] for p in (part["start"], part["end"])]
    going_on = {net[tuple(t["at"])] for t in drawn["tags"]}
    assert {n for n in ends if ends.count(n) < 2} <= going_on
    signs = [(t["text"][0], t["ends"]) for t in drawn["tags"]]
    assert sorted(signs) == sorted({("+", True), ("−", True), ("+", False), ("−", False)} if signs else [])


@pytest.mark.parametrize("id", LINE_UPS)
def test_circuits_do_not_lie_over_one_another(id, drawings):
    boxes = [(f["left"], f["right"], f["top"], f["bottom"]) for f in drawings[id][1]["frames"]]
    for k, (left, right, top, bottom) in enumerate(boxes):
        for other_left, other_right, other_top, other_bottom in boxes[k + 1 :]:
            assert right < other_left or other_right < left or bottom < other_top or other_bottom < top
        assert right - left < 61


def test_a_circuit_without_joints_is_refused_with_the_places_name():
    lineup = next(iter(LINE_UPS.values()))
    place = next(p for p in lineup.path if p.stage.schematic is not None)
    kept = place.stage.schematic
    try:
        place.stage.schematic = replace(kept, joints=None)
        with pytest.raises(WiringError, match=place.name):
            joined(lineup)
    finally:
        place.stage.schematic = kept


def test_a_joint_where_nothing_is_or_a_neighbour_that_is_none_is_refused():
    parts = (Part("source", "a", (0, 0), (0, 5), (1.0,), neighbour=True), Part("resistor", "r", (4, 0), (4, 5), (2.0,)))
    wires = (((0, 0), (4, 0)), ((0, 5), (4, 5)))
    good = Schematic(parts, wires, ((0, 5),), joints=Joints(((0, 0), (0, 5)), ((4, 0), (4, 5)), keeps=("a",)))
    assert good.joints is not None
    with pytest.raises(DeclarationError, match=r"a joint lies at \(9, 0\)"):
        replace(good, joints=Joints(((0, 0), (0, 5)), ((9, 0), (4, 5))))
    with pytest.raises(DeclarationError, match="'r' is no neighbour"):
        replace(good, joints=Joints(((0, 0), (0, 5)), ((4, 0), (4, 5)), keeps=("r",)))


def variants(place):
    """Designs of one place: every choice of it at each of its options, all else at the sample's."""
    return [(name, option) for name, choice in place.stage.choices.items() for option in choice.options]


@pytest.mark.parametrize("id", LINE_UPS)
def test_what_is_probed_is_marked_on_what_is_drawn(id):
    """A node that was named at a part which another choice leaves out once stood beside the drawing, where it was cut off."""
    design = of_sample(id)
    model, inputs = design.model(), design.inputs()
    for place in model.wiring.lineup.places:
        if place.stage.schematic is None or not any(p.across for p in place.stage.schematic.parts):
            continue
        for name, option in variants(place):
            sheet = model.solve(replace(inputs, choices={**inputs.choices, f"{place.name}.{name}": option}))
            shown = drawn(Seen(model, sheet, place, 2))
            net = nets(shown)
            ends = {tuple(p) for part in shown["parts"] for p in (part["start"], part["end"])}
            wires = [s for wire in shown["wires"] for s in pairwise(map(tuple, wire))]
            for node in shown["nodes"]:
                at = tuple(node["at"])
                touched = at in ends or any(lies_on(at, *segment) for segment in wires)
                assert touched, f"{place.name} with {option}: {node['name']}"
                of_node = {net[tuple(p[end])] for p in shown["parts"] for k, end in enumerate(("start", "end")) if p["nodes"][k] == node["name"]}
                near = [net[p] for p in net if p == at or any(lies_on(at, *s) and lies_on(p, *s) for s in wires)]
                assert of_node & set(near), f"{place.name} with {option}: {node['name']} is marked on another net"
