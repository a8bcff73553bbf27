"""A load with rectifier and capacitor on the inverter's output: the current that it draws from the sine that filter and bridge leave it.

The diodes' own times are those of the output period, a hundred times slower than the carrier; so its current is solved
behind filter and bridge with the bridge's lowest harmonics in place of its edges, and drawn from the exact period, from which the
harmonics are read again until neither changes. What the carrier's ripple drives through it while it conducts is left out.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from rhombos.core.circuit.network import Element
from rhombos.core.circuit.output.circuit import Filter
from rhombos.core.circuit.output.reading import Reading
from rhombos.core.circuit.output.slots import Array, Slots
from rhombos.core.circuit.switched.elements import Diode, Sine, Switched
from rhombos.core.circuit.switched.march import Run
from rhombos.core.circuit.switched.repeat import repeat

ORDERS = (1, 3, 5)
"""Harmonics of the bridge that the rectifier sees: what dead time and the link's ripple leave."""
BANK = 1e-6 * 230**2
"""Farads times volts squared for every watt of a rectifier's capacitor: 1 µF/W at 230 V [judgement]."""
OWN = 0.02
"""Resistance in the way of a rectifier's current (a thermistor, an input filter), of that which would draw its watts [judgement]."""
DROP = 0.8
"""Volts of one of its diodes; two lie in series."""
SAMPLES = 2048
NEAR = 3e-4
"""Of the bridge's fundamental: harmonics that differ by less are the same."""


@dataclass(frozen=True)
class Drawn:
    """What meters show of a rectifier's current: rms, crest, watts; and the rms of the voltage that is left."""

    rms: float
    peak: float
    watts: float
    volts: float

    @property
    def power_factor(self) -> float:
        """Watts over volt-amperes."""
        return self.watts / (self.rms * self.volts)

    @property
    def crest_factor(self) -> float:
        """Peak over rms."""
        return self.peak / self.rms


@dataclass(frozen=True)
class Rectified:
    """A rectifier of so many watts behind a filter, on a bridge that gives these harmonics (order: peak phasor of a sine, V)."""

    filter: Filter
    power: float
    voltage: float
    frequency: float
    harmonics: tuple[complex, ...]
    resistance: float
    """Across its capacitor, such that it draws its watts."""
    start: tuple[float, ...] = ()

    @cached_property
    def run(self) -> Run:
        """One period at rest. Raises CircuitError."""
        start = np.array(self.start) if self.start else None
        return repeat(self._circuit(), (), 1 / self.frequency, start, warm=0 if self.start else 4)

    def _circuit(self) -> Switched:
        of, stands = self.filter, self.voltage**2 / self.power
        # One above the other, from ground up to the node.
        names = ["0", *(f"up_to_{n}" for n in ORDERS)]
        elements = [Element("V", f"harmonic_{n}", names[k + 1], names[k]) for k, n in enumerate(ORDERS)]
        elements += [
            Element("L", "choke", names[-1], "way", of.inductance),
            Element("R", "choke_resistance", "way", "live", max(of.resistance, 1e-6)),
            Element("C", "capacitor", "live", "0", of.capacitance),
            Element("R", "damping", "live", "damped", of.damping_resistance),
            Element("C", "damper", "damped", "0", of.damping_capacitance),
            Element("R", "own", "live", "first", OWN * stands),
            Element("C", "bank", "plus", "minus", BANK / self.voltage**2 * self.power),
            Element("R", "watts", "plus", "minus", self.resistance),
        ]
        if np.isfinite(of.load_resistance):
            elements.append(Element("R", "load", "live", "further" if of.load_inductance > 0 else "0", of.load_resistance))
            if of.load_inductance > 0:
                elements.append(Element("L", "load_inductance", "further", "0", of.load_inductance))
        ways = (("first", "plus"), ("minus", "first"), ("0", "plus"), ("minus", "0"))
        slope = 1e-3 * stands
        diodes = tuple(Diode(f"diode_{k}", a, b, DROP, slope) for k, (a, b) in enumerate(ways))
        sines = {f"harmonic_{n}": Sine(abs(h), n * self.frequency, float(np.angle(h))) for n, h in zip(ORDERS, self.harmonics, strict=True)}
        return Switched(tuple(elements), diodes=diodes, sines=sines)

    def imposed(self, slots: Slots) -> Array:
        """The current at the begin of every slot, and its slope there to the next: (2, slots)."""
        here = self.run.current("own", slots.begins)
        return np.stack([here, (np.roll(here, -1) - here) / slots.lengths])

    def seen(self, seen: Reading) -> "Rectified":
        """The same on the bridge as it has been solved with that current."""
        times = np.arange(SAMPLES) / SAMPLES * seen.period
        choke, output = (2 * np.fft.rfft(seen.at(name, times))[list(ORDERS)] / SAMPLES for name in ("choke", "output"))
        omega = 2 * np.pi * self.frequency * np.array(ORDERS)
        node = output + (self.filter.resistance + 1j * omega * self.filter.inductance) * choke
        # A phasor against the cosine; sines are told by theirs.
        return replace(self.at_watts(), harmonics=tuple((1j * node).tolist()))

    def at_watts(self) -> "Rectified":
        """The same with the resistance that draws its watts behind this bridge, as far as one look tells; begun where this one rests."""
        circuit = self._circuit()
        stored = sum(e.kind in "LC" for e in circuit.elements)
        watts = self.run.heat("own", "watts", *(d.name for d in circuit.diodes)) / self.run.seconds
        return replace(self, resistance=self.resistance * watts / self.power, start=tuple(self.run.end[:stored].tolist()))

    def near(self, other: "Rectified | None") -> bool:
        """Whether another stands behind as good as the same bridge, and draws as much."""
        if other is None:
            return False
        gap = max(abs(a - b) for a, b in zip(self.harmonics, other.harmonics, strict=True)) / abs(self.harmonics[0])
        return max(gap, abs(other.resistance / self.resistance - 1) / 10) < NEAR

    def drawn(self) -> Drawn:
        """What its meters show."""
        times = np.arange(4 * SAMPLES) / (4 * SAMPLES) / self.frequency
        current, volts = self.run.current("own", times), self.run.voltage("live", "0", times)
        rms, watts = float(np.sqrt(np.mean(current**2))), float(np.mean(current * volts))
        return Drawn(rms, float(np.abs(current).max()), watts, float(np.sqrt(np.mean(volts**2))))


def begun(filter: Filter, power: float, voltage: float, frequency: float, harmonics: tuple[complex, ...] = ()) -> Rectified:
    """A rectifier's load before the period is solved: behind the bridge that gives a load of the same watts its volts, or one with these harmonics."""
    omega = 2 * np.pi * frequency
    drawn = power / voltage**2 + 1j * omega * filter.capacitance + 1 / (filter.damping_resistance + 1 / (1j * omega * filter.damping_capacitance))
    if np.isfinite(filter.load_resistance):
        drawn += 1 / (filter.load_resistance + 1j * omega * filter.load_inductance)
    first = np.sqrt(2) * voltage * (1 + (filter.resistance + 1j * omega * filter.inductance) * drawn)
    return Rectified(filter, power, voltage, frequency, harmonics or (complex(abs(first)), 0j, 0j), (np.sqrt(2) * 0.95 * voltage - 2 * DROP) ** 2 / power)
