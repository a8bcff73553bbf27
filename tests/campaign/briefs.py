"""Briefs as people bring them, made up by dice: a pack, an output, and what it shall feed; everything else at its usual value."""

import random
from collections.abc import Iterator

from rhombos.formats.design import Design, LoadRow

LEAST_WATTS, MOST_WATTS = 50.0, 6000.0
CHEMISTRIES = {
    "lifepo4": (3.25, (4, 8, 12, 15, 16, 24, 30, 32)),
    "lead_acid": (2.05, (6, 12, 18, 24, 48)),
    "nmc": (3.7, (3, 7, 10, 13, 14, 20, 26)),
    "nimh": (1.2, (10, 20, 40)),
}
"""Volts of a cell, and how many stand in series in packs that are sold."""
OUTPUTS = ((230.0, 50.0), (230.0, 50.0), (230.0, 50.0), (120.0, 60.0), (110.0, 50.0), (220.0, 60.0))
TYPES = ("heater", "filament_lamp", "rectifier", "active_pfc", "induction_motor", "universal_motor", "transformer_input")
AMPERES = 90.0
"""What people ask of a pack at most, continuously; beyond that they take a higher voltage."""
HOURS = (1.6, 6.0)
"""How long a pack that somebody pairs with a load lasts."""


def brief(dice: random.Random) -> Design:
    """One brief; its line-up is the first of the catalogue, to be replaced."""
    chemistry = dice.choice(list(CHEMISTRIES))
    volts, counts = CHEMISTRIES[chemistry]
    cells = dice.choice(counts)
    pack = volts * cells
    most = min(MOST_WATTS, AMPERES * pack)
    watts = LEAST_WATTS * (most / LEAST_WATTS) ** dice.random()
    shares = [dice.uniform(0.2, 1) for _ in range(dice.choice((1, 1, 2, 3, 4)))]
    loads = [watts * s / sum(shares) for s in shares]
    kinds = [_kind(dice, w) for w in loads]
    hours = dice.uniform(*HOURS)
    volt, hertz = dice.choice(OUTPUTS)
    places = [f"load_{k + 1}" for k in range(len(loads))]
    return Design(
        title=f"{pack:.0f} V, {watts:.0f} W",
        lineup="ferrite_push_pull_link_bridge",
        loads=[LoadRow(place=p, title=k) for p, k in zip(places, kinds, strict=True)],
        givens={
            "battery.cells": float(cells),
            "battery.capacity": 3600.0 * _round(max(10.0, watts * hours / pack)),
            "output.rated_output_voltage": volt,
            "output.output_frequency": hertz,
            **({"input.cable_length": round(dice.uniform(0.3, 3.0), 1)} if dice.random() < 0.4 else {}),
            **{f"{p}.rated_power": _round(w) for p, w in zip(places, loads, strict=True)},
        },
        choices={"battery.chemistry": chemistry, **{f"{p}.type": k for p, k in zip(places, kinds, strict=True)}},
    )


def _kind(dice: random.Random, watts: float) -> str:
    """Nobody runs 3 kW of filament lamps, or a start of six times 2 kW from a battery."""
    most = {"filament_lamp": 300, "rectifier": 500, "induction_motor": 800, "transformer_input": 600}
    return dice.choice([t for t in TYPES if watts <= most.get(t, MOST_WATTS)])


def _round(x: float) -> float:
    return float(f"{x:.2g}")


def briefs(seed: int, count: int) -> Iterator[Design]:
    """So many briefs, the same for the same seed."""
    dice = random.Random(seed)
    for _ in range(count):
        yield brief(dice)
