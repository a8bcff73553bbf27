"""A line-up cut behind a place of its path, by name: a project of its own."""

import pytest

from rhombos.core.graph.errors import Unknown
from rhombos.core.graph.inputs import Inputs
from rhombos.core.lineups import LINE_UPS, TO, exists, lineup
from rhombos.demo import battery_sides
from rhombos.formats.bench_sheet import procedures
from rhombos.formats.design import model_for, read_design, write_design

CUTS = [(id, p.name) for id, line in LINE_UPS.items() for p in line.path[:-1]]


@pytest.mark.parametrize(("id", "last"), CUTS)
def test_every_line_up_can_be_cut_behind_every_place(id, last):
    name = id + TO + last
    assert exists(name)
    model = model_for(name, ())
    places = [p.name for p in model.wiring.lineup.path]
    assert places == [p.name for p in LINE_UPS[id].path[: len(places)]]
    assert places[-1] == last
    assert any(n.place == "outside" for n in model.wiring.nodes), "what it fed is given"
    sheet = model.solve(Inputs())
    assert sheet.at(f"{LINE_UPS[id].path[0].name}.source_current", "nominal_full") > 0


def test_a_cut_behind_the_last_place_or_behind_none_is_no_line_up():
    for name in ("ferrite_push_pull_link_bridge_to_output", "ferrite_push_pull_link_bridge_to_moon", "moon_to_input", "_to_input"):
        assert not exists(name)
        with pytest.raises(Unknown, match="no line-up"):
            lineup(name)


@pytest.mark.parametrize("design", [battery_sides.cider_press(), battery_sides.ferry_buoy()], ids=lambda d: d.title)
def test_the_battery_sides_hold_and_come_back_from_their_files(design):
    again = read_design(write_design(design))
    assert again == design
    model = again.model()
    sheet = model.solve(again.inputs())
    codes = sheet.judge().code.min(axis=1)
    assert [c.key for c, code in zip(model.wiring.checks, codes, strict=True) if code < 3] == []
    told = " ".join(step for p in procedures(model, sheet) for step in p["steps"])
    assert "(not known" not in told
