"""Buses: what stands between the places of the path, with any number of sources and loads.

On a bus the sources make what is across it (`output_voltage`), the loads what is through it (`input_power`, ...): a
load reads `input_voltage`, a source `output_power`. Loads add up by the rule of the vocabulary's word; several
sources share by the rule that the line-up names. Whatever is missing or has no rule is refused, naming the parties.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import known
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.places import Bus, LineUp, Place


@dataclass
class Rail:
    """One bus of a wired line-up: who gives to it, who takes from it, and the rule where several give."""

    name: str
    sources: list[Place] = field(default_factory=list)
    loads: list[Place] = field(default_factory=list)
    rule: Bus | None = None


def rails_of(lineup: LineUp) -> tuple[dict[str, Rail], dict[str, str | None], dict[str, str]]:
    """The buses by name, and for every path place the bus that it takes from and the one that it gives to."""
    rails: dict[str, Rail] = {}
    takes: dict[str, str | None] = {}
    gives: dict[str, str] = {}
    before: Place | None = None
    for place in lineup.path:
        gives[place.name] = place.gives or place.name
        # A stage that knows no `input_…` at all (a battery) is a source: nothing feeds it, whatever stands before it.
        fed = before is not None and any(name.startswith("input_") for name in place.stage.names())
        takes[place.name] = place.takes or (gives[before.name] if before is not None and fed else None)
        before = place
    for place in lineup.path:
        rails.setdefault(gives[place.name], Rail(gives[place.name])).sources.append(place)
    for place in lineup.path:
        bus = takes[place.name]
        if bus is not None:
            rails.setdefault(bus, Rail(bus)).loads.append(place)
    for rule in lineup.buses:
        if rule.name not in rails:
            raise WiringError(f"line-up {lineup.id!r} has a rule for the bus {rule.name!r}, to which nothing gives", place=rule.name)
        rails[rule.name].rule = rule
    for rail in rails.values():
        _check(lineup, rail)
    return rails, takes, gives


def _check(lineup: LineUp, rail: Rail) -> None:
    names = ", ".join(p.name for p in rail.sources)
    if not rail.sources and not lineup.open:
        raise WiringError(f"{', '.join(p.name for p in rail.loads)} takes from the bus {rail.name!r}, to which nothing gives", place=rail.loads[0].name)
    if len(rail.sources) > 1 and (rail.rule is None or rail.rule.rule == "single"):
        raise WiringError(f"the bus {rail.name!r} is fed by {names}: name the rule by which they share it (ladder or regulated)", makers=names.split(", "))
    if rail.rule is not None and rail.rule.rule == "regulated" and rail.rule.regulator not in names.split(", "):
        raise WiringError(f"the bus {rail.name!r} is to be held by {rail.rule.regulator!r}, which does not give to it; {names} do", place=rail.name)


def total(*values: Any) -> Any:
    """Sum of the values."""
    result = values[0]
    for value in values[1:]:
        result = result + value
    return result


def top(*values: Any) -> Any:
    """Highest of the values."""
    result = values[0]
    for value in values[1:]:
        result = np.fmax(result, value)
    return result


def vector(power: Any, reactive_power: Any, distortion_power: Any) -> Any:
    """Apparent power of active, displacement and distortion power (IEEE 1459)."""
    return np.sqrt(power**2 + reactive_power**2 + distortion_power**2)


def left_over(drawn: Any, *others: Any) -> Any:
    """What the regulating source gives: what is drawn, less what the others give."""
    return drawn - total(*others)


def ladder_share(at: int, count: int) -> Callable[..., Any]:
    """The share of source `at` of `count`: what those with a higher set-point leave, up to its own limit.

    Arguments of the result: power drawn, set-points, limits. Equal set-points carry in the order of the line-up.
    """

    def share(drawn: Any, *numbers: Any) -> Any:
        points, limits = numbers[:count], numbers[count:]
        left = drawn
        for k in range(count):
            if k != at:
                first = (points[k] >= points[at]) if k < at else (points[k] > points[at])
                left = left - np.where(first, limits[k], 0 * drawn)
        return np.minimum(np.maximum(left, 0 * drawn), limits[at])

    return share


def ladder_voltage(count: int) -> Callable[..., Any]:
    """The voltage of a bus on a ladder: the lowest set-point of the sources that carry, idling the highest of all.

    Arguments of the result: power drawn, set-points, limits. Unknown where all limits together do not carry the load.
    """

    def voltage(drawn: Any, *numbers: Any) -> Any:
        points, limits = numbers[:count], numbers[count:]
        level = top(*points)
        for k in range(count):
            carries = ladder_share(k, count)(drawn, *numbers) > 0 * drawn
            level = np.where(carries, np.minimum(level, points[k]), level)
        return known(
            drawn <= total(*limits) * (1 + 1e-9), level, "the sources of this bus give {limit} W, and {drawn} W are drawn", limit=total(*limits), drawn=drawn
        )

    return voltage
