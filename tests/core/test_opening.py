"""With which line-up a brief begins: the rule on both sides of each of its limits, and its sentence."""

import pytest

from rhombos.core.lineups.opening import MOST_VOLTS, MOST_WATTS, opening
from rhombos.formats.design import Design, LoadRow

PUSH_PULL, FULL_BRIDGE = "ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"


def opened(cells: int, watts: float, **givens: float):
    design = Design(
        title="A brief",
        lineup=PUSH_PULL,
        loads=[LoadRow(place="load_1", title="Heater")],
        givens={"battery.cells": float(cells), "load_1.rated_power": watts, **{k.replace("__", "."): v for k, v in givens.items()}},
        choices={"load_1.type": "heater"},
    )
    asked = []

    def solved(id: str):
        asked.append(id)
        of = design.model_copy(update={"lineup": id})
        return of.model().solve(of.inputs())

    return opening(solved), asked


@pytest.mark.parametrize(
    ("cells", "watts", "lineup", "word"),
    [
        (8, 450.0, PUSH_PULL, "takes"),
        (8, 501.0, FULL_BRIDGE, "more than the 500 W"),
        (7, 400.0, PUSH_PULL, "takes"),
        (10, 450.0, FULL_BRIDGE, "no battery of the 12 or 24 V class"),
        (16, 300.0, FULL_BRIDGE, "no battery of the 12 or 24 V class"),
    ],
)
def test_the_rule_by_watts_and_by_volts(cells, watts, lineup, word):
    # A short loop, so that the leakage takes little and only the rule's other limits decide.
    found, asked = opened(cells, watts, transformer__loop_inductance=2e-9)
    assert found.lineup == lineup
    assert word in found.sentence
    assert asked == [PUSH_PULL], "one sheet answers it"
    assert (cells * 3.25 > MOST_VOLTS or watts > MOST_WATTS) == (lineup == FULL_BRIDGE)


def test_leakage_that_takes_more_than_a_hundredth_asks_for_the_full_bridge():
    found, _ = opened(8, 450.0, transformer__loop_inductance=60e-9)
    assert found.lineup == FULL_BRIDGE
    assert "leakage would take" in found.sentence
