"""The sequenced precharge (2.5) as a pure step function: readings in, relays out, every way it may go wrong named.

It knows nothing of a clock, a board or a circuit: whoever calls it says how much time has passed and what was read.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

Phase = Literal["off", "charging", "overlap", "on", "opening", "fault"]
Fault = Literal["live before the start", "no rise", "rise too fast", "plateau", "time-out", "no reading", "stuck reading", "live after opening"]

SENTENCES: dict[Fault, str] = {
    "live before the start": "The bus is live before anything is closed: the main contactor is welded, or something else feeds it.",
    "no rise": "No rise after half a time constant: the resistor or a wire is open, or the bus is shorted.",
    "rise too fast": "The bus was full too soon: a capacitor is missing, or something bypasses the resistor.",
    "plateau": "The bus stands still below its target: something draws from it while it is charged.",
    "time-out": "The target was not reached in time.",
    "no reading": "A voltage reading is missing: the main contactor does not close blindly.",
    "stuck reading": "A reading that should move stands still: the measurement is dead.",
    "live after opening": "The bus does not fall after opening: the main contactor is welded.",
}


@dataclass(frozen=True)
class Settings:
    """What the sequence goes by: times in seconds, fractions of the pack's voltage."""

    time_constant: float
    closing_fraction: float
    timeout: float
    overlap: float = 0.1
    """How long relay and contactor are both closed."""
    rise_fraction: float = 0.2
    """Half of what is expected after half a time constant: less is no rise."""
    hurry: float = 0.5
    """Part of the computed time before which a full bus is too soon."""
    live_fraction: float = 0.1
    """Above this the bus is live."""
    patience: float = 0.05
    """How long a reading may be missing, and how long one that should move may stand still, in time constants; at least five readings."""
    fall_time: float = 60.0
    """Within this after opening the bus has fallen below `fallen_fraction`, or the contactor is welded."""
    fallen_fraction: float = 0.9

    @property
    def charging_time(self) -> float:
        """Time to the closing fraction without a load."""
        return -self.time_constant * float(np.log(1 - self.closing_fraction))

    @property
    def least_rise(self) -> float:
        """Rise over half a time constant, as a fraction, below which the bus stands still: half of what the last stretch gives."""
        return 0.5 * (1 - self.closing_fraction) * (1 - float(np.exp(-0.5)))


@dataclass(frozen=True)
class Reading:
    """Volts of pack and bus; None where no reading came."""

    pack: float | None
    bus: float | None


@dataclass(frozen=True)
class State:
    """Where the sequence stands: its phase, the time in it, and what it has to remember of the readings."""

    phase: Phase = "off"
    time: float = 0.0
    fault: Fault | None = None
    blind: float = 0.0
    """How long a reading has been missing."""
    last: float | None = None
    still: float = 0.0
    """How long the bus reading has been the same to the last digit while it should move."""
    same: int = 0
    """How many readings have been."""
    mark: float | None = None
    marked: float = 0.0
    """The fraction half a time constant ago, and when it was taken."""

    @property
    def relay(self) -> bool:
        """Whether the precharge relay is closed."""
        return self.phase in ("charging", "overlap")

    @property
    def contactor(self) -> bool:
        """Whether the main contactor is closed."""
        return self.phase in ("overlap", "on")


LEAST_SAME = 5


def step(state: State, settings: Settings, reading: Reading, passed: float, wanted: bool) -> State:
    """The state after `passed` seconds with this reading; `wanted` says whether the bus is to be on.

    A fault is kept until the bus is no longer wanted; that of a welded contactor until the bus is seen dead.
    """
    now = replace(state, time=state.time + passed)
    if state.phase == "fault":
        dead = reading.pack is not None and reading.bus is not None and reading.bus <= settings.live_fraction * reading.pack
        return State() if not wanted and (dead or state.fault != "live after opening") else now
    if not wanted:
        return _unwanted(now, settings, reading)
    match state.phase:
        case "off" | "opening":
            return _start(settings, reading)
        case "charging":
            return _charge(now, settings, reading, passed)
        case "overlap" if now.time >= settings.overlap:
            return State("on")
    return now


def _failed(fault: Fault) -> State:
    return State("fault", fault=fault)


def _unwanted(now: State, settings: Settings, reading: Reading) -> State:
    """Opened by request: a bus that was on has to fall."""
    if now.phase == "on":
        return State("opening")
    if now.phase != "opening":
        return State()
    if reading.pack is None or reading.bus is None:
        return now if now.time < settings.fall_time else _failed("no reading")
    if reading.bus < settings.fallen_fraction * reading.pack:
        return State()
    return _failed("live after opening") if now.time >= settings.fall_time else now


def _start(settings: Settings, reading: Reading) -> State:
    """Nothing is closed before both readings are there and the bus is dead."""
    if reading.pack is None or reading.bus is None:
        return _failed("no reading")
    if reading.bus > settings.live_fraction * reading.pack:
        return _failed("live before the start")
    return State("charging", last=reading.bus, mark=reading.bus / reading.pack)


def _charge(now: State, settings: Settings, reading: Reading, passed: float) -> State:
    """The bus rises: every test of 2.5, in the order in which it can speak."""
    tau = settings.time_constant
    if reading.pack is None or reading.bus is None:
        blind = now.blind + passed
        return _failed("no reading") if blind >= settings.patience * tau else replace(now, blind=blind)
    fraction = reading.bus / reading.pack
    if fraction >= settings.closing_fraction:
        soon = now.time < settings.hurry * settings.charging_time
        return _failed("rise too fast") if soon else State("overlap")
    stands = now.last == reading.bus
    still, same = (now.still + passed, now.same + 1) if stands else (0.0, 0)
    rising = fraction > settings.live_fraction
    if rising and same >= LEAST_SAME and still >= settings.patience * tau:
        return _failed("stuck reading")
    if now.time >= tau / 2 and fraction < settings.rise_fraction:
        return _failed("no rise")
    if now.time >= settings.timeout:
        return _failed("time-out")
    now = replace(now, blind=0.0, last=reading.bus, still=still, same=same)
    if now.time - now.marked < tau / 2:
        return now
    if now.mark is not None and now.marked > 0 and fraction - now.mark < settings.least_rise:
        return _failed("plateau")
    return replace(now, mark=fraction, marked=now.time)
