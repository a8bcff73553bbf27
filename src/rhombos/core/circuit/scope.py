"""What the scope will show: bridge, filter and load over one output period, with harmonics and meter readings (8.4)."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.compiled_trace import reduced, sums
from rhombos.core.circuit.output.circuit import CHOKE, LINK, OUTPUT, Circuit, Drive, Filter
from rhombos.core.circuit.output.period import Solved, solve
from rhombos.core.circuit.output.reading import Reading
from rhombos.core.circuit.output.rectified import Drawn, Rectified, begun
from rhombos.core.circuit.output.slots import slots_of
from rhombos.core.graph.errors import InputError, SolveError, WiringError
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import view, views
from rhombos.core.modulation.sine_pwm import sine_legs

Array = NDArray[np.float64]
SAMPLES = 8192
THD_ORDER = 40
SHOWN_ORDER = 1700
FINE = 1 << 16
"""Samples of the stepped voltage for its harmonics."""
REGULATED, CLOSE = 4, 2e-4
"""How often the modulation index is corrected, and how near the output is to come."""
ROUGH, MOST_ROUNDS = 3, 12
"""Rounds in which who conducts in dead times is looked at once only, and all rounds, where a rectifier's current and the bridge go round with one another."""
TIME_DIGITS, VALUE_DIGITS = 7, 6
"""Of a trace's last time and of its greatest value, as it is told: a ten-millionth of a period, a millionth of what a screen shows."""
NOWHERE: Array = np.empty(0)


@dataclass(frozen=True)
class Setting:
    """Numbers that make one picture; taken from a sheet, or given. `reactive_power` is displacement (lagging), SI units.

    Without the last ones edges are ideal and the link is stiff.
    """

    link: float
    index: float
    frequency: float
    carrier: float
    inductance: float
    resistance: float
    capacitance: float
    damping_capacitance: float
    damping_resistance: float
    power: float
    reactive_power: float
    voltage: float
    unipolar: bool
    natural: bool
    distortion: float = 0.0
    """What the sheet's formulas expect dead time and the link's ripple to add."""
    rectifier_power: float = 0.0
    """Watts of loads with rectifier and capacitor; `power` and `reactive_power` are those of the others."""
    thd_limit: float = float("inf")
    dead_time: float = 0.0
    on_resistance: float = 0.0
    forward: float = 0.0
    link_capacitance: float = float("inf")
    link_series_resistance: float = 0.0
    front_resistance: float = 0.0
    front_inductance: float = 0.0


@dataclass(frozen=True)
class Meter:
    """Three meters on one node: true rms, average-responding, peak-scaled."""

    true_rms: float
    average: float
    peak_scaled: float
    peak: float


@dataclass(frozen=True)
class Picture:
    """Waveforms of one period and what is read from them: peaks and ripple at the even samples and at every bound.

    `node_times` and `node_levels` are the corners of the bridge's stepped voltage.
    """

    period: float
    times: Array
    choke: Array
    output: Array
    link: Array
    front: Array
    node_times: Array
    node_levels: Array
    orders: Array
    amplitudes: Array
    node_amplitudes: Array
    thd: float
    residue: float
    ripple: float
    choke_ripple: float
    choke_peak: float
    link_ripple: float
    index: float
    edges: int
    meters: dict[str, Meter]
    load: Array
    drawn: Drawn | None
    """What the rectifier's load draws of it, if there is one."""


def setting_from(
    sheet: Sheet, corner: str, *, load: str = "brief", unipolar: bool | None = None, natural: bool | None = None, carrier: float | None = None
) -> Setting:
    """The setting of a solved sheet at a corner. `load`: "brief" (R-L of its P and Q), "resistive" (R of its P), "none", or a load's place."""
    roles = view(sheet.wiring, "scope")
    missing = sorted(_NEEDED - roles.keys())
    if missing:
        raise WiringError(f"no place of this line-up shows the scope its {', '.join(missing).replace('_', ' ')}", problems=missing)

    def at(role: str) -> float:
        return _known(sheet, roles[role], corner, above_zero=role in _SIZES)

    power, reactive, rectified = _drawn_by(sheet, corner, load, at)
    peak, link = at("peak"), at("link")
    return Setting(
        link=link,
        index=min(peak / link, 1.0),
        frequency=at("frequency"),
        carrier=carrier or at("carrier"),
        inductance=at("inductance"),
        resistance=at("resistance"),
        capacitance=at("capacitance"),
        damping_capacitance=at("damping_capacitance"),
        damping_resistance=at("damping_resistance"),
        power=power,
        reactive_power=reactive,
        voltage=at("voltage"),
        unipolar=at("carrier_multiple") == 2 if unipolar is None else unipolar,
        distortion=float(np.hypot(at("dead_time_distortion"), at("link_distortion"))),
        rectifier_power=rectified,
        thd_limit=at("thd_limit"),
        **({"natural": at("natural") == 1} | surroundings(sheet, corner) | ({} if natural is None else {"natural": natural})),
    )


def surroundings(sheet: Sheet, corner: str) -> dict[str, Any]:
    """What of bridge, link and front end bends the picture: sampling, dead time, drops, the link's impedances; nothing where the line-up has none."""
    roles = view(sheet.wiring, "scope")
    if not roles.keys() >= _AROUND:
        return {}

    def at(role: str) -> float:
        return _known(sheet, roles[role], corner, above_zero=role in _SIZES)

    return {
        "natural": at("natural") == 1,
        "dead_time": at("dead_time"),
        "on_resistance": 2 * at("switch_resistance") / at("switch_quantity"),
        "forward": at("diode_voltage"),
        "link_capacitance": at("link_capacitance"),
        "link_series_resistance": at("link_series_resistance") / at("link_quantity"),
        "front_resistance": at("front_resistance"),
        "front_inductance": at("front_inductance"),
    }


def _known(sheet: Sheet, key: str, corner: str, *, above_zero: bool = False) -> float:
    value = sheet.at(key, corner)
    node = sheet.node(key)
    if not np.isfinite(value):
        because = sheet.why_missing(node.index, sheet.corners.ids.index(corner))
        raise SolveError(f"nothing can be drawn at this corner: {node.figure.title.lower()} is not known, {because}", key=node.key)
    if above_zero and value <= 0:
        raise SolveError(f"nothing can be drawn: {node.figure.title.lower()} is {value:g}", key=key)
    return value


def loads(sheet: Sheet) -> list[str]:
    """What can hang on the scope's output: all of the brief, the same as resistance, nothing, or one load of the list by its place."""
    return ["brief", "resistive", "none", *(place for place, _ in views(sheet.wiring, "load"))]


def _drawn_by(sheet: Sheet, corner: str, load: str, at: Callable[[str], float]) -> tuple[float, float, float]:
    """Watts and reactive power of what is linear of the loads on the output, and watts of what has a rectifier."""
    if load == "none":
        return 0.0, 0.0, 0.0
    rows = {
        place: [_known(sheet, roles[role], corner) for role in ("power", "reactive_power", "distortion_power")] for place, roles in views(sheet.wiring, "load")
    }
    if load == "resistive":
        return at("power"), 0.0, 0.0
    if load == "brief":
        watts, all_of_it = sum(p for p, _, d in rows.values() if d > 0), sum(p for p, *_ in rows.values())
        rectified = at("power") * watts / all_of_it if all_of_it > 0 and at("distortion_power") > 0 else 0.0
        return at("power") - rectified, at("reactive_power"), rectified
    if load not in rows:
        raise InputError(f"the scope has no load {load!r}", field="load", given=load, allowed=loads(sheet))
    power, reactive, distorted = rows[load]
    return (0.0, reactive, power) if distorted > 0 else (power, reactive, 0.0)


_NEEDED = {
    *("link", "peak", "frequency", "carrier", "carrier_multiple", "natural", "inductance", "resistance", "capacitance", "damping_capacitance"),
    *("damping_resistance", "power", "reactive_power", "distortion_power", "voltage", "dead_time_distortion", "link_distortion", "thd_limit"),
}
"""What bridge, filter and output show the scope between them (the view "scope")."""
_AROUND = {
    *("dead_time", "switch_resistance", "switch_quantity", "diode_voltage", "link_capacitance", "link_series_resistance", "link_quantity"),
    *("front_resistance", "front_inductance", "natural"),
}
"""What bridge and link show beside."""


_SIZES = ("link", "frequency", "carrier", "inductance", "capacitance", "damping_capacitance", "damping_resistance", "voltage", "link_capacitance")
"""What a waveform cannot be without."""


def circuit(setting: Setting) -> Circuit:
    """Link, bridge, choke, capacitor, damping branch and load."""
    apparent = setting.power**2 + setting.reactive_power**2
    resistance, inductance = np.inf, 0.0
    if setting.power > 0:
        resistance = setting.voltage**2 * setting.power / apparent
        if setting.reactive_power > 1e-6 * setting.power:
            inductance = setting.voltage**2 * setting.reactive_power / apparent / (2 * np.pi * setting.frequency)
    drive = Drive(
        setting.link,
        setting.on_resistance,
        setting.forward,
        setting.link_capacitance,
        setting.link_series_resistance,
        setting.front_resistance,
        setting.front_inductance,
    )
    of = (setting.inductance, setting.resistance, setting.capacitance, setting.damping_capacitance, setting.damping_resistance, resistance, inductance)
    return Circuit(drive, Filter(*of), imposed=setting.rectifier_power > 0)


@dataclass(frozen=True)
class Period:
    """A period at rest, its modulation index, and the rectifier's load on it if there is one."""

    seen: Reading
    index: float
    rectified: Rectified | None


def output_period(setting: Setting) -> Period:
    """The period at rest, its modulation index such that the output has its volts, as far as the link reaches."""
    made, index = circuit(setting), setting.index
    direction = _direction(setting)
    rectified = begun(made.filter, setting.rectifier_power, setting.voltage, setting.frequency) if made.imposed else None
    rough = 2 if rectified is None else ROUGH
    for k in range(REGULATED if rectified is None else MOST_ROUNDS):
        legs = sine_legs(index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural)
        slots = slots_of(legs, 1 / setting.frequency, setting.dead_time)
        imposed = None if rectified is None else rectified.imposed(slots)
        solved = solve(made, slots, np.where(direction(slots.begins) >= 0, 1, -1), imposed=imposed, roughly=k < rough)
        seen = Reading(made, solved)
        stands = float(np.sqrt(np.mean(seen.at("output", np.arange(SAMPLES // 2) / (SAMPLES // 2) * solved.period) ** 2)))
        wanted = min(index * setting.voltage / stands, 1.0)
        following = None if rectified is None else rectified.seen(seen)
        if k >= rough and abs(wanted / index - 1) < CLOSE and (rectified is None or rectified.near(following)):
            break
        index, rectified = wanted, following
        direction = _as_solved(solved)
    return Period(seen, index, rectified)


def _as_solved(solved: Solved) -> Callable[[Array], Array]:
    return lambda times: np.interp(times, solved.begins, solved.states[:, CHOKE], period=solved.period)


def _direction(setting: Setting) -> Callable[[Array], Array]:
    """How the choke's current goes, by its fundamental: where a leg is dead its sign decides."""
    omega = 2 * np.pi * setting.frequency
    damping = setting.damping_resistance + 1 / (1j * omega * setting.damping_capacitance)
    drawn = (setting.power + setting.rectifier_power - 1j * setting.reactive_power) / setting.voltage**2 + 1j * omega * setting.capacitance + 1 / damping
    return lambda times: np.sin(omega * times + np.angle(drawn))


def picture(setting: Setting, samples: int = SAMPLES) -> Picture:
    """Solve one output period exactly and read it: rms, THD to the 40th, carrier residue, ripple, meters, harmonics."""
    found = output_period(setting)
    seen, index, solved = found.seen, found.index, found.seen.solved
    times = np.arange(samples) / samples * solved.period
    choke, output, link, front = (seen.at(name, times) for name in ("choke", "output", "link", "front"))
    amplitudes = 2 * np.abs(np.fft.rfft(output))[1:] / samples
    orders = np.arange(1, len(amplitudes) + 1, dtype=float)
    fundamental = amplitudes[0]
    low = np.sqrt(np.sum(amplitudes[1:THD_ORDER] ** 2))
    high = np.sqrt(np.sum(amplitudes[THD_ORDER:] ** 2))
    shown = orders[: min(SHOWN_ORDER, len(orders))]
    # Between bounds choke and output turn round at most once, so the bounds hold the choke's peaks, which even samples pass by.
    choke_there, output_there = solved.states[:, CHOKE], solved.states[:, OUTPUT]
    off_output, off_choke = (_off(wave, times, there, solved.begins, solved.period) for wave, there in ((output, output_there), (choke, choke_there)))
    node_times, node_levels = seen.node()
    return Picture(
        solved.period,
        times,
        choke,
        output,
        link,
        front,
        node_times,
        node_levels,
        shown,
        amplitudes[: len(shown)],
        stepped_harmonics(node_times, node_levels, solved.period, len(shown)),
        float(low / fundamental),
        float(high / fundamental),
        float(np.ptp(off_output)),
        float(np.max(np.abs(off_choke)) * 2),
        float(np.max(np.abs(np.concatenate([choke, choke_there])))),
        float(np.ptp(solved.states[:, LINK])),
        index,
        len(node_times) // 2 - 1,
        {"output": meter(output, output_there), "node": node_meter(node_times, node_levels)},
        seen.at("load", times),
        None if found.rectified is None else found.rectified.drawn(),
    )


def _below(wave: Array) -> Array:
    """The part of an evenly sampled wave up to the 40th harmonic."""
    spectrum = np.fft.rfft(wave)
    spectrum[THD_ORDER + 1 :] = 0.0
    smooth: Array = np.fft.irfft(spectrum, len(wave))
    return smooth


def _off(wave: Array, times: Array, there: Array, at: Array, period: float) -> Array:
    """What a wave is beyond the 40th harmonic, at its even samples and at more places."""
    smooth = _below(wave)
    return np.concatenate([wave - smooth, there - np.interp(at, times, smooth, period=period)])


def meter(wave: Array, more: Array = NOWHERE) -> Meter:
    """What three kinds of meter show on a wave sampled evenly over one period; its peak may lie at `more` places."""
    square, magnitude, greatest = sums(wave)
    peak = max(greatest, sums(more)[2])
    return Meter(float(np.sqrt(square)), float(np.pi / (2 * np.sqrt(2)) * magnitude), peak / float(np.sqrt(2)), peak)


def node_meter(times: Array, levels: Array) -> Meter:
    """The same on the bridge's stepped voltage, from the corners of its line: exact, straight from corner to corner."""
    period = times[-1] - times[0]
    before, after, lengths = levels[:-1], levels[1:], np.diff(times)
    rms = np.sqrt(np.sum(lengths * (before**2 + before * after + after**2)) / 3 / period)
    # No slope of a piece leads through zero: a level is on one side of it.
    mean = np.sum(lengths * np.abs(before + after)) / 2 / period
    peak = np.max(np.abs(levels))
    return Meter(float(rms), float(np.pi / (2 * np.sqrt(2)) * mean), float(peak / np.sqrt(2)), float(peak))


def stepped_harmonics(times: Array, levels: Array, period: float, count: int) -> Array:
    """Peak amplitudes of the first harmonics of a line of straight pieces, steps among them.

    Of its exact integral at so many even times that what is folded back is small; the mean over a sample is undone.
    """
    area = np.concatenate([[0.0], np.cumsum((levels[1:] + levels[:-1]) / 2 * np.diff(times))])
    even = np.arange(FINE + 1) / FINE * period
    at = np.clip(np.searchsorted(times, even, side="right") - 1, 0, len(times) - 2)
    length, since = times[at + 1] - times[at], even - times[at]
    slope = np.divide(levels[at + 1] - levels[at], length, out=np.zeros_like(length), where=length > 0)
    means = np.diff(area[at] + levels[at] * since + slope * since**2 / 2) * FINE / period
    orders = np.arange(1, count + 1)
    amplitudes: Array = 2 * np.abs(np.fft.rfft(means))[1 : count + 1] / FINE / np.sinc(orders / FINE)
    return amplitudes


def reduce_to(times: Array, wave: Array, buckets: int) -> tuple[Array, Array]:
    """Minimum and maximum in each bucket, in the order in which they occur: what a screen of so many pixels can show."""
    if len(wave) > 2 * buckets:
        times, wave = reduced(times, wave, buckets)
    return told(times, wave)


def told(times: Array, wave: Array) -> tuple[Array, Array]:
    """A trace as it is sent: with more digits it would be seen no better, and take as long to send as to work out."""
    return _written(times, TIME_DIGITS), _written(wave, VALUE_DIGITS)


def _written(numbers: Array, digits: int) -> Array:
    """Numbers with so many digits of the greatest."""
    most = float(np.abs(numbers).max(initial=0.0))
    places = digits - 1 - math.floor(math.log10(most)) if 0 < most < math.inf else 0
    written: Array = np.round(numbers, places)
    return written
