"""What a switched circuit is made of: linear elements, switches and diodes as two resistances each, and what drives it."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from rhombos.core.circuit.network import CircuitError, Coupling, Element

OFF_RESISTANCE = 1e7
"""Of a switch or diode that is off, in Ω, where nothing else is said: leakage of microamperes, and no node is left without a path."""


@dataclass(frozen=True)
class Switch:
    """A switch between two nodes, on or off by command: its resistance when on and off, in Ω."""

    name: str
    plus: str
    minus: str
    on: float
    off: float = OFF_RESISTANCE


@dataclass(frozen=True)
class Diode:
    """A diode from anode `plus` to cathode `minus`: forward voltage in V, resistance beyond it and when off, in Ω."""

    name: str
    plus: str
    minus: str
    forward: float
    on: float
    off: float = OFF_RESISTANCE


@dataclass(frozen=True)
class Sine:
    """A source's wave: amplitude in V or A, frequency in Hz, phase in radians (sine from zero upwards)."""

    amplitude: float
    frequency: float
    phase: float = 0.0


@dataclass(frozen=True)
class Event:
    """At `time` (s) some switches are turned (name: on?) and some sources are set (name: level)."""

    time: float
    turns: Mapping[str, bool] = field(default_factory=dict)
    levels: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Saturation:
    """An inductor's core: beyond `current` (A, either way) its inductance for more of it is `beyond` (H)."""

    current: float
    beyond: float


@dataclass(frozen=True)
class Switched:
    """A circuit: linear elements (a source's value is its level until an event sets it), switches, diodes, couplings; sine sources and cores by name."""

    elements: tuple[Element, ...]
    switches: tuple[Switch, ...] = ()
    diodes: tuple[Diode, ...] = ()
    couplings: tuple[Coupling, ...] = ()
    sines: Mapping[str, Sine] = field(default_factory=dict)
    cores: Mapping[str, Saturation] = field(default_factory=dict)

    def __post_init__(self) -> None:
        _check(self)


def _check(circuit: Switched) -> None:
    """Refuse what cannot be solved, naming the element."""
    seen: set[str] = set()
    parts: list[Element | Switch | Diode] = [*circuit.elements, *circuit.switches, *circuit.diodes]
    for e in parts:
        if e.name in seen:
            raise CircuitError(f"two elements are called {e.name}")
        seen.add(e.name)
        if e.plus == e.minus:
            raise CircuitError(f"{e.name} has both ends at {e.plus}")
    for element in circuit.elements:
        if element.kind in ("R", "L", "C") and not 0 < element.value < float("inf"):
            raise CircuitError(f"{element.name} is {element.value:g}: it must be above zero and finite")
    twofold: list[Switch | Diode] = [*circuit.switches, *circuit.diodes]
    for part in twofold:
        if not (0 < part.on < part.off < float("inf")):
            raise CircuitError(f"{part.name} is {part.on:g} Ω when on and {part.off:g} Ω when off: above zero, and more when off")
    sources = {e.name for e in circuit.elements if e.kind in ("V", "I")}
    if circuit.sines.keys() - sources:
        raise CircuitError(f"{', '.join(sorted(circuit.sines.keys() - sources))}: no source of that name")
    inductors = {e.name for e in circuit.elements if e.kind == "L"}
    for pair in circuit.couplings:
        if {pair.one, pair.other} - inductors:
            raise CircuitError(f"{pair.one} and {pair.other} are coupled: both must be inductors")
    coupled = {name for pair in circuit.couplings for name in (pair.one, pair.other)}
    alone = {e.name: e.value for e in circuit.elements if e.kind == "L" and e.name not in coupled}
    for name, core in circuit.cores.items():
        if name not in alone:
            raise CircuitError(f"{name} has a core that saturates: it must be an inductor that is coupled to no other")
        if not (core.current > 0 and 0 < core.beyond < alone[name]):
            raise CircuitError(f"{name} saturates at {core.current:g} A to {core.beyond:g} H: above zero, and less than its {alone[name]:g} H")
