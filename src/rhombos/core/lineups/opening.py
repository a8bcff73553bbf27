"""With which line-up a brief begins: what practitioners are divided over, computed on the brief itself (12, first row)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import HOLDS
from rhombos.core.lineups.ferrite_bridge import LINE_UP as FULL_BRIDGE
from rhombos.core.lineups.ferrite_push_pull import LINE_UP as PUSH_PULL
from rhombos.core.units import show

MOST_WATTS = 500.0
"""Up to here the simple drive of two switches on the source's negative side is worth more than half the voltage on each."""
TOO_MANY = 0.1
"""Shares beyond this are no numbers to design by."""
MOST_VOLTS = 30.0
"""Nominal voltage up to which a pack is of the 12 or 24 V class."""


@dataclass(frozen=True)
class Opening:
    """A line-up to begin with, and in a sentence why."""

    lineup: str
    title: str
    sentence: str


def opening(solved: Callable[[str], Sheet]) -> Opening:
    """Push-pull up to 500 W on a battery of the 12 or 24 V class where leakage takes no more than it may, else the full bridge; `solved` gives a line-up's sheet."""
    sheet = solved(PUSH_PULL.id)
    watts, volts, burnt = (_one(sheet, key) for key in ("output.rated_active_power", "cutoff.rested_voltage", "clamp.lasting_loss"))
    leakage = burnt / watts
    of = f"{show(watts, 'W', 3)} at {show(volts, 'V', 3)}"
    if volts > MOST_VOLTS:
        return _bridge(f"{of}: that is no battery of the 12 or 24 V class, and in a push-pull each switch stands twice its voltage")
    if watts > MOST_WATTS:
        return _bridge(f"{of}: that is more than the {MOST_WATTS:g} W up to which a push-pull's simple drive is worth its voltage")
    row, _ = sheet.check("clamp.leakage_share")
    if not np.isfinite(leakage) or sheet.judge().code[row].min() < HOLDS:
        many = f"{100 * leakage:.2g} %" if leakage < TOO_MANY else "a good part"
        said = f"would take {many} of the power" if np.isfinite(leakage) else "cannot be told: its sheet has no operation everywhere"
        return _bridge(f"{of}: that is small enough for a push-pull, but its leakage {said}; a full bridge gives it back to the source")
    return Opening(
        PUSH_PULL.id,
        PUSH_PULL.title,
        f"Push-pull: {of} is within what its simple drive is usual for, and its leakage takes {100 * leakage:.2g} % of the power.",
    )


def _bridge(why: str) -> Opening:
    return Opening(FULL_BRIDGE.id, FULL_BRIDGE.title, f"Full bridge: {why}.")


def _one(sheet: Sheet, key: str) -> float:
    """The greatest of a figure over the corners that have it."""
    return float(np.nanmax(np.append(sheet.value(key).reshape(-1), -np.inf)))
