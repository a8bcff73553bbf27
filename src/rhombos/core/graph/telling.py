"""What a stage declares for those who read it, resolved at its place: words on the line, hazards, letters of its bus."""

import re
from typing import Any
from weakref import WeakKeyDictionary

from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.places import Place
from rhombos.core.graph.wiring import Wiring

HAZARD_LEVELS: dict[str, float] = {
    "dc_voltage": 60.0,
    "pulsed_voltage": 60.0,
    "ac_voltage": 30.0,
    "energy": 10.0,
    "fault_current": 100.0,
    "discharge": 1.0,
    "not_isolated": 60.0,
    "never_dead": 0.0,
}
"""From where on people are told: V DC, V at the peak of pulses, V AC rms, J, A into a short, s to 60 V, V past an open contactor."""


_MEANT: "WeakKeyDictionary[Wiring, dict[tuple[str, str], str]]" = WeakKeyDictionary()
"""What names mean in a wiring, by place and name: pictures and circuits ask for the same ones again and again."""


def key_of(wiring: Wiring, place: Place, name: str) -> str:
    """The key of the figure, pick or choice that a name means at a place."""
    if name in place.stage.picks or name in place.stage.choices:
        return f"{place.name}.{name}"
    meant = _MEANT.setdefault(wiring, {})
    found = meant.get((place.name, name))
    if found is None:
        found = meant[place.name, name] = wiring.nodes[wiring.resolve(place, name)].key
    return found


def telling(wiring: Wiring, place: Place) -> str:
    """The place's telling words, each name in braces replaced by the key of the figure, pick or choice it means."""
    return re.sub(r"\{(\w+)\}", lambda m: f"{{{key_of(wiring, place, m[1])}}}", place.stage.telling)


def hazards(wiring: Wiring, place: Place) -> list[dict[str, Any]]:
    """What can hurt people at the place: kind, the figure's key, and the level from which it counts (SI)."""
    return [
        {"kind": h.kind, "figure": key_of(wiring, place, h.figure), "above": HAZARD_LEVELS[h.kind]} for h in place.stage.hazards if has(wiring, place, h.figure)
    ]


def has(wiring: Wiring, place: Place, name: str) -> bool:
    """Whether a name means anything at a place of this line-up."""
    try:
        key_of(wiring, place, name)
    except WiringError:
        return False
    return True


def joints(wiring: Wiring) -> list[dict[str, Any]]:
    """What is lettered between the places of the path: from, to, kind of bus, keys of voltage and current, sign and tail."""
    found = []
    for rail in wiring.rails.values():
        for source in rail.sources:
            letters = source.stage.letters
            if letters is None:
                continue
            for load in rail.loads:
                found.append(
                    {
                        "from": source.name,
                        "to": load.name,
                        "kind": letters.kind,
                        "voltage": key_of(wiring, source, letters.voltage),
                        "current": key_of(wiring, source, letters.current),
                        "sign": "±" if letters.kind == "pulsed" else "",
                        "tail": letters.tail,
                    }
                )
    return found


def view(wiring: Wiring, name: str) -> dict[str, str]:
    """The keys of the figures that play a part in a view of the whole line-up; empty where no place plays one.

    Raises WiringError where two places play the same part.
    """
    roles: dict[str, str] = {}
    for place in wiring.lineup.places:
        for role, figure in place.stage.views.get(name, {}).items():
            if role in roles:
                raise WiringError(f"{place.name!r} and {roles[role].split('.')[0]!r} both play {role!r} in the view {name!r}", place=place.name)
            roles[role] = key_of(wiring, place, figure)
    return roles


def views(wiring: Wiring, name: str) -> list[tuple[str, dict[str, str]]]:
    """The places that have a view of that name, each with the keys of its own."""
    return [(place.name, view_at(wiring, place, name)) for place in places_with(wiring, name)]


def places_with(wiring: Wiring, name: str) -> list[Place]:
    """The places that have a view of that name."""
    return [p for p in wiring.lineup.places if name in p.stage.views]


def view_at(wiring: Wiring, place: Place, name: str) -> dict[str, str]:
    """The keys of the figures of one place's own view."""
    return {role: key_of(wiring, place, figure) for role, figure in place.stage.views[name].items()}
