"""What the scope will show: bridge, filter and load over one output period, with harmonics and meter readings (8.4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import Element, state_space
from rhombos.core.circuit.periodic import steady_state
from rhombos.core.graph.errors import SolveError, WiringError
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import view
from rhombos.core.modulation.sine_pwm import Edges, sine_pwm

Array = NDArray[np.float64]
SAMPLES = 8192
THD_ORDER = 40
SHOWN_ORDER = 1700
NOWHERE: Array = np.empty(0)


@dataclass(frozen=True)
class Setting:
    """Numbers that make one picture; taken from a sheet, or given. `reactive_power` is displacement (lagging), SI units."""

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
    """What dead time and the link's ripple are expected to add, which the picture does not show."""
    rectifier_load: bool = False
    thd_limit: float = float("inf")


@dataclass(frozen=True)
class Meter:
    """Three meters on one node: true rms, average-responding, peak-scaled."""

    true_rms: float
    average: float
    peak_scaled: float
    peak: float


@dataclass(frozen=True)
class Picture:
    """Waveforms of one period and what is read from them: peaks and ripple at the even samples and at every edge."""

    times: Array
    node: Array
    choke: Array
    output: Array
    edges: Edges
    orders: Array
    amplitudes: Array
    node_amplitudes: Array
    thd: float
    residue: float
    ripple: float
    choke_ripple: float
    choke_peak: float
    meters: dict[str, Meter]


def setting_from(
    sheet: Sheet, corner: str, *, load: str = "brief", unipolar: bool | None = None, natural: bool | None = None, carrier: float | None = None
) -> Setting:
    """The setting of a solved sheet at a corner. `load`: "brief" (R-L of its P and Q), "resistive" (R of its P), "none"."""
    roles = view(sheet.wiring, "scope")
    missing = sorted(_NEEDED - roles.keys())
    if missing:
        raise WiringError(f"no place of this line-up shows the scope its {', '.join(missing).replace('_', ' ')}", problems=missing)

    def at(role: str) -> float:
        value = sheet.at(roles[role], corner)
        if not np.isfinite(value):
            node = sheet.node(roles[role])
            raise SolveError(
                f"nothing can be drawn at this corner: {node.figure.title.lower()} is not known, {_because(sheet, node.index, corner)}", key=node.key
            )
        if role in _SIZES and value <= 0:
            raise SolveError(f"nothing can be drawn: {sheet.node(roles[role]).figure.title.lower()} is {value:g}", key=roles[role])
        return value

    power, reactive = at("power"), at("reactive_power")
    if load == "none":
        power = reactive = 0.0
    elif load == "resistive":
        reactive = 0.0
    elif load != "brief":
        raise ValueError(f"load {load!r} is not one of brief, resistive, none")
    return Setting(
        link=at("link"),
        index=at("peak") / at("link"),
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
        natural=at("natural") == 1 if natural is None else natural,
        distortion=float(np.hypot(at("dead_time_distortion"), at("link_distortion"))),
        rectifier_load=at("distortion_power") > 0,
        thd_limit=at("thd_limit"),
    )


_NEEDED = {
    *("link", "peak", "frequency", "carrier", "carrier_multiple", "natural", "inductance", "resistance", "capacitance", "damping_capacitance"),
    *("damping_resistance", "power", "reactive_power", "distortion_power", "voltage", "dead_time_distortion", "link_distortion", "thd_limit"),
}
"""What bridge, filter and output show the scope between them (the view "scope")."""


_SIZES = ("link", "frequency", "carrier", "inductance", "capacitance", "damping_capacitance", "damping_resistance", "voltage")
"""What a waveform cannot be without."""


def _because(sheet: Sheet, index: int, corner: str) -> str:
    return sheet.why_missing(index, sheet.corners.ids.index(corner))


def circuit(setting: Setting) -> list[Element]:
    """Bridge, choke, capacitor, damping branch and load as elements."""
    elements = [
        Element("V", "bridge", "node", "0"),
        Element("R", "choke_resistance", "node", "a", max(setting.resistance, 1e-6)),
        Element("L", "choke", "a", "out", setting.inductance),
        Element("C", "filter", "out", "0", setting.capacitance),
        Element("R", "damping", "out", "d", setting.damping_resistance),
        Element("C", "damper", "d", "0", setting.damping_capacitance),
    ]
    apparent = setting.power**2 + setting.reactive_power**2
    if setting.power > 0:
        resistance = setting.voltage**2 * setting.power / apparent
        if setting.reactive_power > 1e-6 * setting.power:
            reactance = setting.voltage**2 * setting.reactive_power / apparent
            elements += [Element("R", "load", "out", "l", resistance), Element("L", "load_inductance", "l", "0", reactance / (2 * np.pi * setting.frequency))]
        else:
            elements.append(Element("R", "load", "out", "0", resistance))
    return elements


def picture(setting: Setting, samples: int = SAMPLES) -> Picture:
    """Solve one output period exactly and read it: rms, THD to the 40th, carrier residue, ripple, meters, harmonics."""
    edges = sine_pwm(setting.link, setting.index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural)
    system = state_space(circuit(setting))
    times = np.arange(samples) / samples * edges.period
    solved = steady_state(system, edges, times)
    choke = solved.states[system.states.index("choke")]
    output = solved.states[system.states.index("filter")]
    amplitudes = 2 * np.abs(np.fft.rfft(output))[1:] / samples
    orders = np.arange(1, len(amplitudes) + 1, dtype=float)
    fundamental = amplitudes[0]
    low = np.sqrt(np.sum(amplitudes[1:THD_ORDER] ** 2))
    high = np.sqrt(np.sum(amplitudes[THD_ORDER:] ** 2))
    shown = orders[: min(SHOWN_ORDER, len(orders))]
    # Between edges choke and output turn round at most once, so the edges hold the choke's peaks, which even samples pass by.
    corner = steady_state(system, edges, edges.times)
    choke_there, output_there = (corner.states[system.states.index(name)] for name in ("choke", "filter"))
    off_output = np.concatenate([output - _below(output, times, edges.period), output_there - _below(output, edges.times, edges.period)])
    off_choke = np.concatenate([choke - _below(choke, times, edges.period), choke_there - _below(choke, edges.times, edges.period)])
    return Picture(
        times,
        solved.level,
        choke,
        output,
        edges,
        shown,
        amplitudes[: len(shown)],
        edges.harmonics(shown),
        float(low / fundamental),
        float(high / fundamental),
        float(np.ptp(off_output)),
        float(np.max(np.abs(off_choke)) * 2),
        float(np.max(np.abs(np.concatenate([choke, choke_there])))),
        {"output": meter(output, output_there), "node": node_meter(edges)},
    )


def _below(wave: Array, times: Array, period: float) -> Array:
    """The part of an evenly sampled wave up to the 40th harmonic, at any times."""
    spectrum = np.fft.rfft(wave)[: THD_ORDER + 1] / len(wave)
    turns = np.exp(2j * np.pi * np.outer(times / period, np.arange(THD_ORDER + 1)))
    smooth: Array = (turns[:, 1:] @ spectrum[1:]).real * 2 + spectrum[0].real
    return smooth


def meter(wave: Array, more: Array = NOWHERE) -> Meter:
    """What three kinds of meter show on a wave sampled evenly over one period; its peak may lie at `more` places."""
    peak = float(np.max(np.abs(np.concatenate([wave, more]))))
    return Meter(float(np.sqrt(np.mean(wave**2))), float(np.pi / (2 * np.sqrt(2)) * np.mean(np.abs(wave))), peak / float(np.sqrt(2)), peak)


def node_meter(edges: Edges) -> Meter:
    """The same on the stepped bridge voltage, from its exact edges."""
    widths = np.diff(np.concatenate([[0.0], edges.times, [edges.period]])) / edges.period
    levels = np.concatenate([[edges.start], edges.levels])
    rms = np.sqrt(np.sum(widths * levels**2))
    mean = np.sum(widths * np.abs(levels))
    peak = np.max(np.abs(levels))
    return Meter(float(rms), float(np.pi / (2 * np.sqrt(2)) * mean), float(peak / np.sqrt(2)), float(peak))


def reduce_to(times: Array, wave: Array, buckets: int) -> tuple[list[float], list[float]]:
    """Minimum and maximum in each bucket, in the order in which they occur: what a screen of so many pixels can show."""
    if len(wave) <= 2 * buckets:
        return times.tolist(), wave.tolist()
    edge = np.linspace(0, len(wave), buckets + 1).astype(int)[:-1]
    low, high = np.minimum.reduceat(wave, edge), np.maximum.reduceat(wave, edge)
    at = times[edge]
    width = times[-1] / buckets
    counts = np.diff(np.append(edge, len(wave)))
    lowest, highest = (np.flatnonzero(wave == np.repeat(level, counts)) for level in (low, high))
    # The first of each bucket: positions ascend, and every bucket has one.
    first_low = lowest[np.searchsorted(lowest, edge)] < highest[np.searchsorted(highest, edge)]
    one, two = np.where(first_low, low, high), np.where(first_low, high, low)
    out_times = np.column_stack([at, at + width / 2]).ravel()
    return out_times.tolist(), np.column_stack([one, two]).ravel().tolist()
