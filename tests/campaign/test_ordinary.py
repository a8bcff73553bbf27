"""What vans, huts and boats ask of a pack holds as it is typed."""

import numpy as np
import pytest

from rhombos.formats.design import Design, LoadRow
from tests.campaign.run import answer

ORDINARY = [(4, 100, 800), (4, 100, 1000), (4, 200, 1500), (4, 280, 2000), (8, 200, 2000), (8, 200, 3000), (8, 280, 4000), (16, 200, 5000), (16, 280, 6000)]
"""Lithium cells in series, ampere-hours, and the watts of a heater."""
MIXED = (("induction_motor", 60.0), ("active_pfc", 65.0), ("heater", 900.0), ("universal_motor", 500.0))
"""A fridge, a laptop, a kettle and a drill."""


def brief(cells: int, hours: float, loads: tuple[tuple[str, float], ...], chemistry: str = "lifepo4") -> Design:
    """A pack and its loads, everything else as it comes."""
    places = [f"load_{k + 1}" for k in range(len(loads))]
    return Design(
        title="Ordinary",
        lineup="ferrite_bridge_link_bridge",
        loads=[LoadRow(place=place, title=kind) for place, (kind, _) in zip(places, loads, strict=True)],
        givens={
            "battery.cells": float(cells),
            "battery.capacity": 3600 * hours,
            **{f"{place}.rated_power": watts for place, (_, watts) in zip(places, loads, strict=True)},
        },
        choices={"battery.chemistry": chemistry, **{f"{place}.type": kind for place, (kind, _) in zip(places, loads, strict=True)}},
    )


@pytest.mark.parametrize(("cells", "hours", "watts"), ORDINARY)
def test_a_heater_on_its_pack_holds(cells, hours, watts):
    told, _ = answer(brief(cells, hours, (("heater", float(watts)),)), "ferrite_bridge_link_bridge")
    assert told.holds, (told.fails, told.tight, told.unknown)


@pytest.mark.parametrize(("cells", "chemistry"), [(4, "lifepo4"), (6, "lead_acid")])
def test_a_van_s_list_holds(cells, chemistry):
    told, _ = answer(brief(cells, 280.0, MIXED, chemistry), "ferrite_bridge_link_bridge")
    assert told.holds, (told.fails, told.tight, told.unknown)


@pytest.mark.parametrize("watts", [2000, 2079, 2400])
def test_a_large_heater_on_a_small_pack_has_an_operation_at_every_corner(watts):
    """Begun from what suits 25 V it ended without one, and a pack of 12.8 V was said to be too weak for a tenth of what it can give."""
    told, sheet = answer(brief(4, 280.0, (("heater", float(watts)),)), "ferrite_bridge_link_bridge")
    assert not told.unknown
    resistance = sheet.value("battery.pack_resistance")[0] + sheet.value("input.line_resistance")[0]
    assert watts < np.nanmin(sheet.value("battery.open_circuit_voltage")) ** 2 / (4 * resistance) / 3
