"""A declared circuit with the numbers of a sheet: what is drawn, and what a probe shows."""

import math
from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, replace
from functools import cache
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import CircuitError, Coupling, Element
from rhombos.core.circuit.schematic import BEYOND, GROUND, Amount, Course, Part, Point, Schematic, Wires, Worked, holding
from rhombos.core.circuit.scope import Meter, meter, reduce_to
from rhombos.core.circuit.switched.elements import Diode, Saturation, Sine, Switch, Switched
from rhombos.core.circuit.switched.march import Energy, march
from rhombos.core.circuit.switched.modes import States
from rhombos.core.circuit.switched.repeat import repeat

Array = NDArray[np.float64]
LEAST_RESISTANCE = 1e-6
"""Ω of a resistance that a sheet says is none."""
LINEAR = {"source": "V", "sine": "V", "current": "I", "resistor": "R", "inductor": "L", "capacitor": "C"}
SAMPLES, BUCKETS = 4096, 1500


def circuit_of(schematic: Schematic, at: Callable[[str], float]) -> Switched:
    """The circuit with its numbers, `at` giving those of the figures. Raises CircuitError where one is not known."""
    elements, switches, diodes, sines, cores = [], [], [], {}, {}
    at = cache(at)  # one figure is the value of several parts
    for part, plus, minus in schematic.laid:
        if not is_fitted(part, at):
            if part.across:
                continue
            elements.append(Element("R", part.name, plus, minus, LEAST_RESISTANCE))
            continue
        value = 0.0
        for amount in part.value:
            value += _amount(amount, at, part)
        match part.kind:
            case "switch":
                switches.append(Switch(part.name, plus, minus, max(value, LEAST_RESISTANCE), part.off))
            case "diode":
                diodes.append(Diode(part.name, plus, minus, _amount(part.forward, at, part), max(value, LEAST_RESISTANCE), part.off))
            case _:
                if part.frequency != 0.0:
                    sines[part.name] = Sine(value, _amount(part.frequency, at, part))
                if part.saturates:
                    cores[part.name] = Saturation(_amount(part.saturates, at, part), BEYOND * value)
                if part.kind == "resistor":
                    value = max(value, LEAST_RESISTANCE)
                elements.append(Element(LINEAR[part.kind], part.name, plus, minus, value))  # type: ignore[arg-type]
    values = {e.name: e.value for e in elements}
    couplings = [Coupling(a, b, _amount(k, at, a) * np.sqrt(values[a] * values[b])) for a, b, k in schematic.couplings]
    return Switched(tuple(elements), tuple(switches), tuple(diodes), tuple(couplings), sines, cores)


def is_fitted(part: Part, at: Callable[[str], float]) -> bool:
    """Whether a part is there, `at` giving the figures."""
    return not part.fitted or at(part.fitted) != 0.0


def as_built(parts: Sequence[Part], wires: Wires, ends: Set[Point], at: Callable[[str], float]) -> tuple[Sequence[Part], Wires]:
    """Parts and wires without what would stand across something and is not fitted, and without the wires that led to it; `ends` are held by what lies outside."""
    left = tuple(p for p in parts if not p.across or is_fitted(p, at))
    if len(left) == len(parts):
        return parts, wires
    return left, holding(wires, {p for part in left for p in (part.start, part.end)} | ends)


def _amount(amount: Amount, at: Callable[[str], float], of: Part | str) -> float:
    value = number_of(amount, at)
    if not math.isfinite(value):
        title = of if isinstance(of, str) else of.shown
        raise CircuitError(f"{title}: its {_named(amount)} is not known at this corner, so there is no trace")
    return value


def number_of(amount: Amount, at: Callable[[str], float]) -> float:
    """What an amount is, `at` giving the figures; not a number where one is not known."""
    if isinstance(amount, str):
        return at(amount)
    return float(amount.fn(*map(at, amount.names))) if isinstance(amount, Worked) else amount


def _named(amount: Amount) -> str:
    return amount.replace("_", " ") if isinstance(amount, str) else "value"


@dataclass(frozen=True)
class Traced:
    """One probed place: a node's volts, or a part's amperes; minimum and maximum in every bucket of the time, and what meters show."""

    name: str
    unit: str
    times: Array
    values: Array
    mean: float
    meter: Meter


@dataclass(frozen=True)
class Gate:
    """When a switch was on, or a core saturated."""

    name: str
    spans: Sequence[tuple[float, float]]


@dataclass(frozen=True)
class Reading:
    """What stands at a node (V) or flows through a part (A) over the run: its mean and its rms."""

    name: str
    mean: float
    rms: float


@dataclass(frozen=True)
class Readings:
    """Of all nodes and all parts."""

    nodes: tuple[Reading, ...]
    parts: tuple[Reading, ...]


@dataclass(frozen=True)
class Probed:
    """What a probe shows: the traces over `seconds`, the gates, how often something turned, and the relative error of the energy's balance."""

    seconds: float
    traces: tuple[Traced, ...]
    gates: tuple[Gate, ...]
    turns: int
    balance: float


class Probable(Protocol):
    """What can be probed: a circuit over some time."""

    @property
    def seconds(self) -> float:
        """How long it is."""

    @property
    def turns(self) -> int:
        """How often something turned."""

    def voltage(self, plus: str, minus: str, times: Array) -> Array:
        """Between two nodes, V."""

    def current(self, element: str, times: Array) -> Array:
        """Through a part from plus to minus, A."""

    def across(self, element: str, times: Array) -> Array:
        """From plus to minus of a part, V."""

    def times(self, most: int = 2000) -> Array:
        """When to look so that nothing is passed by."""

    def told(self, nodes: Sequence[str], parts: Sequence[str]) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
        """Mean and rms of the volts of nodes and the amperes of parts."""

    @property
    def switches(self) -> frozenset[str]:
        """What is turned on and off in it."""

    def has(self, part: str) -> bool:
        """Whether a part is there."""

    @property
    def saturated(self) -> list[str]:
        """The cores that saturate in it."""

    def spans(self, name: str) -> list[tuple[float, float]]:
        """From when to when a switch was on, or a core saturated."""

    def energy(self) -> Energy:
        """Where energy came from and went."""


def looked(schematic: Schematic, at: Callable[[str], float], course: Course | Probable) -> Probable:
    """The run of a course: repeating, or from its start; a look may have solved it itself."""
    if not isinstance(course, Course):
        return course
    if not course.seconds > 0:
        raise CircuitError(f"the time to look at is {course.seconds:g} s: it must be above zero")
    circuit = _silenced(circuit_of(schematic, at), course.silent)
    states = States(circuit)
    start = np.array([course.start.get(e.name, 0.0) for e in states.storing])
    if course.repeats:
        return repeat(states, course.events, course.seconds, start, warm=0 if course.start else 2, mirror=course.mirror)
    return march(circuit, course.events, course.seconds, start, states)


def _silenced(circuit: Switched, silent: frozenset[str]) -> Switched:
    if not silent:
        return circuit
    elements = tuple(replace(e, value=0.0) if e.name in silent else e for e in circuit.elements)
    return replace(circuit, elements=elements, sines={name: sine for name, sine in circuit.sines.items() if name not in silent})


def probed(schematic: Schematic, run: Probable, probes: Sequence[str]) -> Probed:
    """Traces of `probes`: "v <node>" for volts against ground, "v <part>" for those across a part, "i <part>" for its amperes."""
    even = np.arange(SAMPLES) / SAMPLES * run.seconds
    # Even samples for the meters, and both sides of every turn for the eye.
    times = np.sort(np.concatenate([even, run.times(2)]), kind="stable")
    evenly = np.searchsorted(times, even)
    titles = {p.name: p.shown for p in schematic.parts}
    traces = []
    for probe in probes:
        read = _reader(schematic, run, probe)
        seen = read(times)
        wave = seen[evenly]
        x, y = reduce_to(times, seen, BUCKETS)
        traces.append(Traced(titles.get(probe[2:], probe[2:]), "A" if probe[0] == "i" else "V", x, y, float(np.mean(wave)), meter(wave, seen)))
    gates = tuple(Gate(p.shown, run.spans(p.name)) for p in schematic.parts if p.name in run.switches)
    gates += tuple(Gate(f"{p.shown} saturated", run.spans(p.name)) for p in schematic.parts if p.name in run.saturated)
    return Probed(run.seconds, tuple(traces), gates, run.turns, run.energy().error)


def readings(schematic: Schematic, run: Probable) -> Readings:
    """Means and rms values of all nodes and parts, exact."""
    there = [p for p in schematic.parts if run.has(p.name)]
    nodes = sorted({n for p in there for n in schematic.ends(p)} - {GROUND})
    parts = [p.name for p in there]
    of_nodes, of_parts = run.told(nodes, parts)
    return Readings(*(tuple(Reading(n, *both) for n, both in zip(names, told, strict=True)) for names, told in ((nodes, of_nodes), (parts, of_parts))))


def _reader(schematic: Schematic, run: Probable, probe: str) -> Callable[[Array], Any]:
    kind, _, name = probe.partition(" ")
    there = [p for p in schematic.parts if run.has(p.name)]
    parts, nodes = {p.name for p in there}, {n for p in there for n in schematic.ends(p)}
    if kind == "i" and name in parts:
        return lambda times: run.current(name, times)
    if kind == "v" and name in nodes:
        return lambda times: run.voltage(name, "0", times)
    if kind == "v" and name in parts:
        return lambda times: run.across(name, times)
    raise CircuitError(f"nothing to probe at {probe!r}: there are the nodes {', '.join(sorted(nodes))} and the parts {', '.join(sorted(parts))}")
