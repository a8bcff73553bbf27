"""A solved output period as a probe reads it: the filter's parts by their names in its schematic."""

from collections.abc import Mapping, Sequence

import numpy as np

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.output.circuit import OUTPUT
from rhombos.core.circuit.output.reading import Reading
from rhombos.core.circuit.output.slots import Array
from rhombos.core.circuit.switched.march import Energy

Ways = Mapping[str, Sequence[tuple[str, int]]]
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(5)
"""Where in a slot it is looked at for means: what is read is as good as a low polynomial there."""


class PeriodRun:
    """Volts and amperes of bridge, choke, capacitor, damping branch and load over one output period.

    `ways` leads to every node by parts: their names, and whether each is gone through from plus to minus (−1) or back.
    """

    def __init__(self, seen: Reading, ways: Ways) -> None:
        self.seen, self.circuit, self.ways = seen, seen.circuit, ways
        self.seconds = seen.period
        of = seen.solved
        self._times = (of.begins[:, None] + of.lengths[:, None] * (1 + POINTS) / 2).reshape(-1)
        self._weights = (of.lengths[:, None] * WEIGHTS / 2).reshape(-1)

    @property
    def turns(self) -> int:
        """How often something turned."""
        return len(self.seen.node()[0]) // 2 - 1

    def current(self, element: str, times: Array) -> Array:
        """Through a part from plus to minus, A."""
        match element:
            case "bridge":
                return -self.seen.at("choke", times)
            case "choke" | "choke_resistance":
                return self.seen.at("choke", times)
            case "damping" | "damper":
                return self.seen.at("damping", times)
            case "load" | "load_inductance":
                return self.seen.at("load", times)
            case _:
                return self.seen.at(element, times)

    def voltage(self, plus: str, minus: str, times: Array) -> Array:
        """Between two nodes, V."""
        return self._node(plus, times) - self._node(minus, times)

    def _node(self, name: str, times: Array) -> Array:
        total = np.zeros(len(times))
        for part, sign in self.ways[name]:
            total += sign * self.across(part, times)
        return total

    def across(self, element: str, times: Array) -> Array:
        """From plus to minus of a part, V."""
        of = self.circuit.filter
        match element:
            case "bridge":
                return self.seen.at("node", times)
            case "choke":
                return self.seen.at("node", times) - self.across("choke_resistance", times) - self.seen.at("output", times)
            case "choke_resistance":
                return of.resistance * self.seen.at("choke", times)
            case "damping":
                return of.damping_resistance * self.seen.at("damping", times)
            case "damper":
                return self.seen.at("damper", times)
            case "load":
                if not np.isfinite(of.load_resistance):
                    return self.seen.at("output", times)
                return of.load_resistance * self.seen.at("load", times)
            case "load_inductance":
                return self.seen.at("output", times) - self.across("load", times)
            case _:
                return self.seen.at("output", times)

    def times(self, most: int = 2000) -> Array:
        """When to look so that nothing is passed by: evenly, and on both sides of every turn."""
        edges = self.seen.solved.begins[1:]
        return np.unique(np.concatenate([np.linspace(0, self.seconds, most), edges, np.nextafter(edges, 0.0)]))

    def told(self, nodes: Sequence[str], parts: Sequence[str]) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
        """Mean and rms of the volts of nodes and the amperes of parts."""
        return [self._mean(self._node(n, self._times)) for n in nodes], [self._mean(self.current(n, self._times)) for n in parts]

    def _mean(self, wave: Array) -> tuple[float, float]:
        mean, square = (float(self._weights @ x) / self.seconds for x in (wave, wave**2))
        return mean, square**0.5

    @property
    def switches(self) -> frozenset[str]:
        """None is drawn here."""
        return frozenset()

    def has(self, part: str) -> bool:
        """Whether a part is there: all of the filter's are."""
        return bool(part)

    @property
    def saturated(self) -> list[str]:
        """Its choke is linear."""
        return []

    def spans(self, name: str) -> list[tuple[float, float]]:
        """From when to when a switch was on."""
        raise CircuitError(f"the filter has no switch {name!r}")

    def energy(self) -> Energy:
        """What the bridge gave, what was turned into heat, and by how much the stored energy rose: nothing over a period."""
        given, *heat = (float(self._weights @ (self.current(n, self._times) * self.across(n, self._times))) for n in ("bridge", *HEATED))
        # An inductive load stores and gives back within the period.
        states, of = self.seen.solved.states, self.circuit.filter
        stored = of.capacitance / 2 * float(self.seen.at("output", np.array([np.nextafter(self.seconds, 0.0)])).item() ** 2 - states[0, OUTPUT] ** 2)
        return Energy(-given, 0.0, sum(heat), stored)


HEATED = ("choke_resistance", "damping", "load")
