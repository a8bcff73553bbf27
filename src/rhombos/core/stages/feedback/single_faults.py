"""One part of the feedback path open or shorted: where the link goes (16, H21). Node equations of the path, one fault each."""

from collections.abc import Iterator
from dataclasses import dataclass

OPEN, SHORT = 1e15, 0.0


@dataclass(frozen=True)
class Path:
    """The path as it is built: reference in V, legs in Ω, drops in V; `ceiling` is where the link ends unregulated, `floor` where it ends shut off."""

    reference: float
    upper_piece: float
    upper_pieces: int
    lower_fixed: float
    trim_pot: float
    wiper: float
    ceiling: float
    floor: float = 0.0
    zener: float = 0.0
    zeners: int = 0
    rest: float = 0.0
    """What diode and resistor of a zener string take, in V."""
    isolated: bool = True


@dataclass(frozen=True)
class Fault:
    """A part, what befell it, and the volts that the link goes to."""

    part: str
    what: str
    link: float


def regulated(path: Path, upper: float, lower: float) -> float:
    """Volts at which the tap stands at the reference; the ceiling where none does."""
    volts = path.reference * (1 + upper / lower) if lower > 0 else path.ceiling
    return min(max(volts, path.reference, path.floor), path.ceiling)


def faults(path: Path) -> list[Fault]:
    """Every single fault of the path, in the order of the signal."""
    return [*(_string(path) if path.zeners else _divider(path)), *(_carried(path) if path.isolated else [])]


def _divider(path: Path) -> Iterator[Fault]:
    one, count = path.upper_piece, path.upper_pieces
    upper, lower = one * count, path.lower_fixed + path.wiper * path.trim_pot
    yield Fault("upper resistor", "open", regulated(path, OPEN, lower))
    yield Fault("upper resistor", "one shorted", regulated(path, one * (count - 1), lower))
    yield Fault("lower resistor", "open", regulated(path, upper, OPEN))
    if path.trim_pot > 0:
        yield Fault("lower resistor", "shorted", regulated(path, upper, path.wiper * path.trim_pot))
        yield Fault("pot", "turned to its upper end", regulated(path, upper, path.lower_fixed))
        yield Fault("pot", "turned to its lower end", regulated(path, upper, path.lower_fixed + path.trim_pot))
        yield Fault("pot", "wiper open, spare leg tied to it", regulated(path, upper, path.lower_fixed + path.trim_pot))
        yield Fault("pot", "wiper open, spare leg free", regulated(path, upper, OPEN))
    else:
        yield Fault("lower resistor", "shorted", path.ceiling)
    yield Fault("reference", "open", path.ceiling)
    yield Fault("reference", "shorted", max(path.floor, 0.0))
    yield Fault("lead of the divider", "off", regulated(path, OPEN, lower))


def _string(path: Path) -> Iterator[Fault]:
    yield Fault("a zener", "open", path.ceiling)
    yield Fault("a zener", "shorted", min((path.zeners - 1) * path.zener + path.rest, path.ceiling))
    yield Fault("string's resistor", "open", path.ceiling)
    yield Fault("string's resistor", "shorted", path.zeners * path.zener)
    yield Fault("lead of the string", "off", path.ceiling)


def _carried(path: Path) -> Iterator[Fault]:
    """What carries the error over the barrier: an optocoupler whose transistor shortens the pulses as it conducts."""
    yield Fault("optocoupler's diode", "open", path.ceiling)
    yield Fault("optocoupler's diode", "shorted", path.ceiling)
    yield Fault("optocoupler's transistor", "open", path.ceiling)
    yield Fault("optocoupler's transistor", "shorted", path.floor)
