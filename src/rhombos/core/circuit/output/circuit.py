"""Bridge, filter and load on a link that gives way: what conducts in a slot, and the equations that hold there."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.output.compiled_pattern import codes
from rhombos.core.circuit.output.slots import Array, Slots, Truths

CHOKE, OUTPUT, DAMPER, LINK, FRONT, LOAD = range(6)
"""The states: current of the choke, volts of filter and damping capacitor, of the link capacitor, current of the front end, of an inductive load (none where it has no inductance)."""
STATES = 6
"""Behind them stand one, a current that is `imposed` on the output with its slope, and the front end's voltage."""
SLOW = 1e-3
"""Seconds in which an imposed current changes by as much as it is, for the size of a step."""
LEAST_INDUCTANCE = 1e-9
"""H of a front end that a sheet says has none."""


@dataclass(frozen=True)
class Drive:
    """What stands round the filter, in SI. No `link_capacitance` (infinite) is a stiff link.

    `on_resistance` is that of the two switches in the choke's way, `forward` a body diode's voltage; the front end is
    a voltage behind `front_resistance` and `front_inductance`, held so that the link has its mean.
    """

    link: float
    on_resistance: float = 0.0
    forward: float = 0.0
    link_capacitance: float = math.inf
    link_series_resistance: float = 0.0
    front_resistance: float = 0.0
    front_inductance: float = 0.0


@dataclass(frozen=True)
class Filter:
    """Choke, capacitor, damping branch and load: no load is an infinite resistance, one with inductance is in series."""

    inductance: float
    resistance: float
    capacitance: float
    damping_capacitance: float
    damping_resistance: float
    load_resistance: float = math.inf
    load_inductance: float = 0.0


class Mode(NamedTuple):
    """What conducts in a slot: by how many links the bridge lifts its node, forward voltages in the way, whether the choke's current is nothing, whether the front end is blocked."""

    lift: int
    drops: int
    still: bool
    blocked: bool

    @property
    def mirrored(self) -> "Mode":
        """What conducts half a period later, where all is the other way round."""
        return self._replace(lift=-self.lift, drops=-self.drops)


def codes_of(slots: Slots, signs: NDArray[np.int64], blocked: Truths) -> NDArray[np.int64]:
    """The mode of every slot as a number, by the sign of the current where a leg is dead (see `modes_of`)."""
    found: NDArray[np.int64] = codes(*slots.high, *slots.dead, signs, blocked)
    return found


def are_still(codes: NDArray[np.int64]) -> Truths:
    """Which modes have no current in the choke."""
    still: Truths = codes // 15 % 2 == 1
    return still


def stilled(codes: NDArray[np.int64]) -> NDArray[np.int64]:
    """The same modes, no current in the choke."""
    without: NDArray[np.int64] = codes + 15 * ~are_still(codes)
    return without


MODES = tuple(Mode(c % 3 - 1, c // 3 % 5 - 2, c // 15 % 2 == 1, c >= 30) for c in range(60))
"""All of them, by their numbers."""


def modes_of(codes: NDArray[np.int64]) -> tuple[tuple[Mode, ...], NDArray[np.intp]]:
    """The modes that occur, and which of them each is."""
    found = np.flatnonzero(np.bincount(codes, minlength=len(MODES)))
    place = np.zeros(len(MODES), dtype=np.intp)
    place[found] = np.arange(len(found))
    return tuple(MODES[c] for c in found.tolist()), place[codes]


class Circuit:
    """The matrices of a drive and a filter, by mode."""

    def __init__(self, drive: Drive, filter: Filter, *, imposed: bool = False) -> None:
        self.drive, self.filter, self.imposed = drive, filter, imposed
        self.stiff = not math.isfinite(drive.link_capacitance)
        self._matrices: dict[Mode, Array] = {}
        self._rates: dict[Mode, float] = {}
        self.size = STATES + (4 if imposed else 2)
        for name, value in (("choke", filter.inductance), ("filter capacitor", filter.capacitance), ("damping capacitor", filter.damping_capacitance)):
            if not 0 < value < math.inf:
                raise CircuitError(f"{name} is {value:g}: it must be above zero and finite")
        if not filter.damping_resistance > 0:
            raise CircuitError(f"damping resistor is {filter.damping_resistance:g} Ω: it must be above zero")

    @property
    def inductive(self) -> bool:
        """Whether the load's current is a state of its own."""
        return self.filter.load_inductance > 0

    @property
    def current(self) -> int:
        """Where the imposed current stands; its slope is behind it."""
        return STATES + 1

    def link(self, lift: int) -> Array:
        """The row that reads the link's voltage."""
        row = np.zeros(self.size)
        row[LINK] = 1.0
        if not self.stiff:
            row[FRONT], row[CHOKE] = self.drive.link_series_resistance, -lift * self.drive.link_series_resistance
        return row

    def node(self, mode: Mode) -> Array:
        """The row that reads the bridge's voltage, its switches' drop taken off."""
        row = mode.lift * self.link(mode.lift)
        row[CHOKE] -= self.drive.on_resistance
        row[STATES] += mode.drops * self.drive.forward
        if mode.still:
            row[:] = 0.0
            row[OUTPUT] = 1.0
        return row

    def matrix(self, mode: Mode) -> Array:
        """M of x' = M·x."""
        if mode not in self._matrices:
            self._matrices[mode] = self._matrix(mode)
        return self._matrices[mode]

    def _matrix(self, mode: Mode) -> Array:
        of = self.filter
        m = np.zeros((self.size, self.size))
        if not mode.still:
            m[CHOKE] = self.node(mode) / of.inductance
            m[CHOKE, CHOKE] -= of.resistance / of.inductance
            m[CHOKE, OUTPUT] -= 1 / of.inductance
        leak = 1 / of.damping_resistance
        m[OUTPUT, [CHOKE, OUTPUT, DAMPER]] = 1 / of.capacitance, -leak / of.capacitance, leak / of.capacitance
        m[DAMPER, [OUTPUT, DAMPER]] = leak / of.damping_capacitance, -leak / of.damping_capacitance
        if self.inductive:
            m[OUTPUT, LOAD] = -1 / of.capacitance
            m[LOAD, [OUTPUT, LOAD]] = 1 / of.load_inductance, -of.load_resistance / of.load_inductance
        else:
            m[OUTPUT, OUTPUT] -= 1 / of.load_resistance / of.capacitance
        if self.imposed:
            m[OUTPUT, self.current] = -1 / of.capacitance
            m[self.current, self.current + 1] = 1.0
        self._supply(m, mode)
        return m

    def _supply(self, m: Array, mode: Mode) -> None:
        """The link and what feeds it."""
        if self.stiff:
            return
        m[LINK, [FRONT, CHOKE]] = 1 / self.drive.link_capacitance, -mode.lift / self.drive.link_capacitance
        if not mode.blocked:
            inductance = max(self.drive.front_inductance, LEAST_INDUCTANCE)
            m[FRONT] = -self.link(mode.lift) / inductance
            m[FRONT, FRONT] -= self.drive.front_resistance / inductance
            m[FRONT, -1] = 1 / inductance

    def rate(self, mode: Mode) -> float:
        """How fast it is, 1/s, in the roots of energy: that times a step's seconds is the step's size."""
        if mode not in self._rates:
            scale = self.scale()
            self._rates[mode] = float(np.linalg.norm(self.matrix(mode) * scale[:, None] / scale[None, :], 2))
        return self._rates[mode]

    def of(self, modes: Sequence[Mode]) -> tuple[Array, Array]:
        """The matrices of so many modes, and how fast each is."""
        return np.array([self.matrix(m) for m in modes]), np.array([self.rate(m) for m in modes])

    def mirror(self) -> Array:
        """By what each state is multiplied half a period later: what alternates turns round, link and front end do not."""
        signs = np.ones(self.size)
        signs[[CHOKE, OUTPUT, DAMPER, LOAD]] = -1.0
        if self.imposed:
            signs[self.current : self.current + 2] = -1.0
        return signs

    def scale(self) -> Array:
        """By what each state is multiplied to be the root of its energy, so that the size of a matrix says how fast it is."""
        of, drive = self.filter, self.drive
        capacitance = 1.0 if self.stiff else drive.link_capacitance
        inductance = max(drive.front_inductance, LEAST_INDUCTANCE)
        load = of.load_inductance if self.inductive else of.inductance
        energies = [of.inductance, of.capacitance, of.damping_capacitance, capacitance, inductance, load]
        ends = math.sqrt(of.capacitance if self.stiff else min(capacitance, of.capacitance))
        current = [math.sqrt(of.inductance) * s for s in (1.0, SLOW)] if self.imposed else []
        return np.array([*np.sqrt(energies), drive.link * ends, *current, ends])
