"""What the output looks like: the filter's response, the trip between working peak and weakest part, the loads."""

import numpy as np

from rhombos.core.graph.pictures import Bar, Bars, Limit, Mark, Plot, Seen, Series, most
from rhombos.core.stages.output import output_window as output_window
from rhombos.core.stages.output.load import load
from rhombos.core.stages.output.output import output
from rhombos.core.stages.output.output_filter import output_filter
from rhombos.core.stages.output.output_protection import output_protection


@output_filter.picture("Response without load")
def response(seen: Seen) -> Plot:
    """Output over bridge voltage, choke and damping branch with their resistances, from the output to ten times the carrier's ripple."""
    carrier, low = seen.at("carrier_multiple") * seen.at("carrier_frequency"), seen.at("output_frequency")
    frequency = np.geomspace(low, 10 * carrier, 160)

    def gain(f: np.ndarray) -> np.ndarray:
        s = 2j * np.pi * f
        damped = s * seen.at("damping_capacitance") / (1 + s * seen.at("damping_capacitance") * seen.at("damping_resistor"))
        series = seen.at("choke_resistance") + s * seen.at("filter_inductance")
        return 20 * np.log10(np.abs(1 / (1 + series * (s * seen.at("filter_capacitance") + damped))))

    marks = [Mark(name, at, float(gain(np.array([at]))[0])) for name, at in (("output", low), ("corner", seen.at("corner_frequency")), ("ripple", carrier))]
    return Plot("frequency", "Hz", "dB", [Series("output over bridge", frequency, gain(frequency))], marks=marks, log=True)


@output_protection.picture("The trip between working and breaking", "choke_peak_current")
def trip(seen: Seen) -> Bars:
    """Currents in the choke's path, from the working peak to what the weakest part stands."""
    bars = [Bar(title, 0.0, peak, strong=i == seen.corner) for i, (title, peak) in enumerate(zip(seen.corners, seen.each("choke_peak_current"), strict=True))]
    limits = [
        Limit("trip", seen.at("output_trip_level")),
        Limit("choke saturates", seen.at("choke_saturation_current")),
        Limit("switches", seen.at("pulsed_rating")),
    ]
    return Bars("A", bars, limits, note="Bar: the choke's highest working peak.", from_zero=True)


@output_protection.picture("Who acts first: current against time", "choke_peak_current", "surge_time")
def coordination(seen: Seen) -> Plot:
    """A dead short behind the choke against the trip and what stands it; what runs and starts below."""
    level, weakest, acts = seen.at("output_trip_level"), seen.at("weakest_rating"), seen.at("time_to_act")
    slope = seen.at("highest_link") / seen.at("lowest_inductance")
    time = np.geomspace(1e-6, max(1.3 * weakest / slope, 2e-6), 40)
    peaks, starts = seen.each("choke_peak_current"), seen.each("surge") > 0
    marks = [Mark("runs", 100.0, most(peaks[~starts]))]
    if starts.any() and np.isfinite(peaks[starts]).any():
        k = int(np.nanargmax(np.where(starts, peaks, np.nan)))
        marks.append(Mark("starts", float(max(seen.each("surge_time")[k], 1e-3)), float(peaks[k])))
    reached = level + slope * acts
    marks.append(Mark("short is off", level / slope + acts, reached))
    gaps = [
        said
        for bad, said in (
            (most(peaks) > level, "Gap: a start reaches the trip."),
            (level > weakest, "Gap: the trip lies above what the switches stand."),
            (reached > weakest, "Gap: before the switches are off a short has passed what they stand."),
        )
        if bad
    ]
    return Plot(
        "time",
        "s",
        "A",
        [Series("dead short", time, slope * time, "fail"), Series("trip acts", [max(acts, 1e-6), 1e3], [level, level])],
        [Limit("switches stand", weakest), Limit("choke saturates", seen.at("choke_saturation_current"))],
        marks,
        log=True,
        log_y=True,
        y_from=max(0.3 * most(peaks[~starts]), 1e-2),
        note=" ".join(gaps) or "In order: what runs and starts stays below the trip, a short is off before the switches' rating.",
    )


@output.picture("The load list, running and starting")
def loads(seen: Seen) -> Bars:
    """What every row draws at rest, and while it starts on top of all the others."""
    running, starting = seen.every("load_apparent_power"), seen.every("starting_apparent_power")
    bars = []
    for (name, draws), (_, start) in zip(running, starting, strict=True):
        bars.append(Bar(name, 0.0, draws))
        if start > seen.at("rated_apparent_power"):
            bars.append(Bar("starts", 0.0, start, "slate", weak=True))
    bars.append(Bar("all together", 0.0, seen.at("rated_apparent_power"), strong=True))
    return Bars("VA", bars, note="A start counts the others running: what the inverter must carry for its seconds.", from_zero=True)


@load.picture("Running and starting")
def running(seen: Seen) -> Bars:
    """Watts and VA of the row, at rest and while one unit of it starts."""
    rows = (("active", "load_active_power", "copper"), ("apparent", "load_apparent_power", "copper"), ("starting, apparent", "start_apparent_power", "slate"))
    return Bars("VA", [Bar(name, 0.0, seen.at(figure), tone) for name, figure, tone in rows], from_zero=True)  # type: ignore[arg-type]
