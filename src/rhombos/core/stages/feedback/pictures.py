"""What the feedback looks like: its set-point over pot and tolerances, the table of single faults, the loop's gain and phase."""

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.pictures import Bar, Bars, Limit, Mark, Plot, Seen, Series, Table, Way, least, most
from rhombos.core.stages.feedback.feedback_build import feedback
from rhombos.core.stages.feedback.loop import control_loop
from rhombos.core.stages.feedback.single_faults import Fault, Path, faults
from rhombos.core.units import show


@feedback.picture("Set-point, pot and ratings", "link_setpoint", "highest_link")
def setpoints(seen: Seen) -> Bars:
    """Where the link may be set, by mistake too, and what is above it."""
    if seen.at("senses") < 1:
        open_loop = seen.each("open_loop_voltage")
        return Bars("V", [Bar("open loop", least(open_loop), most(open_loop))], [Limit("weakest part", seen.at("weakest_link_rating"))])
    wanted, spread = seen.at("link_setpoint"), seen.at("setpoint_spread")
    bars = [Bar("set-point", wanted * (1 - spread), wanted * (1 + spread), ring=wanted, strong=True)]
    if seen.at("by_zeners") < 1 and seen.at("trim_share") > 0:
        bars.append(Bar("pot, end to end", seen.at("setpoint_at_bottom"), seen.at("setpoint_at_top"), "slate", ring=wanted))
    if seen.has("link_valley"):
        bars.append(Bar("link in service", least(seen.each("link_valley")), seen.at("highest_link"), "slate"))
    if seen.at("detects") > 0:
        trip = [seen.at(n) for n in ("lowest_overvoltage_trip", "highest_overvoltage_trip", "overvoltage_trip")]
        bars.append(Bar("over-voltage trip", trip[0], trip[1], "tight", ring=trip[2]))
        bars.append(Bar("one fault", seen.at("link_in_fault"), seen.at("link_in_fault"), "fail"))
    return Bars("V", bars, [Limit("weakest part", seen.at("weakest_link_rating"))], note="Ring: nominal. Bars: over tolerances, travel and corners.")


@feedback.picture("One part open or shorted", "link_setpoint", "feed_power")
def single_faults(seen: Seen) -> Table:
    """For every single fault of the path: where the link goes, how soon the weakest part is passed, and what acts."""
    if seen.at("senses") < 1:
        return Table([], [], "Nothing is sensed, so nothing in the path can fail; nor does anything hold the link.")
    path = Path(
        seen.at("feedback_reference"),
        seen.at("upper_piece"),
        int(np.nan_to_num(seen.at("upper_pieces"))),
        seen.at("lower_fixed"),
        seen.at("trim_pot"),
        seen.at("wiper_position"),
        seen.at("link_ceiling"),
        zener=seen.at("zener_voltage"),
        zeners=int(seen.at("zeners")) if seen.at("by_zeners") > 0 else 0,
        rest=seen.at("link_setpoint") - seen.at("zeners") * seen.at("zener_voltage"),
        isolated=seen.at("isolates") > 0,
    )
    if not np.isfinite([path.upper_piece, path.lower_fixed, path.wiper, path.ceiling]).all():
        return Table([], [])
    columns = ["Part and fault", "Link goes", "Too high after", "What acts"]
    note = "Unregulated the link runs up with the surplus of the front end. The check “One fault in the feedback” counts with the trip's delay."
    return Table(columns, [_row(seen, fault) for fault in faults(path)], note)


def _row(seen: Seen, fault: Fault) -> Way:
    """One fault: where the link goes, when it passes its weakest part, and what acts before."""
    rating, setpoint, trip = seen.at("weakest_link_rating"), seen.at("link_setpoint"), seen.at("highest_overvoltage_trip")
    detects, name, volts = seen.at("detects") > 0, f"{fault.part} {fault.what}", show(fault.link, "V", 3)
    if fault.link <= setpoint * 1.001:
        return Way([name, f"down to {volts}", "never", "output stops"], "holds")
    if fault.link <= rating:
        acts = detects and fault.link > trip
        return Way([name, f"up to {volts}", "never", "trip" if acts else "nothing: it stays"], "holds" if acts else "tight")
    stopped = detects and seen.at("link_in_fault") <= rating
    acting = f"trip, at {show(seen.at('link_in_fault'), 'V', 3)}" if detects else "nothing"
    return Way([name, f"up to {volts}", show(seen.at("time_to_rating"), "s", 2), acting], "holds" if stopped else "fails")


LOADS = (("lightest load", most, "copper"), ("heaviest load", least, "slate"))


@control_loop.picture("Loop gain", "choke_inductance", "feed_power")
def gain(seen: Seen) -> Plot:
    """|G(jω)| in decibels at the lightest and the heaviest load; where its phase is −180° it must lie well below nought."""
    corner, crossover = seen.at("corner_frequency"), seen.at("crossover")
    frequency, u = _over(corner, crossover)
    series = []
    for name, which, tone in LOADS:
        q = which(seen.each("loop_quality"))
        decibels = 20 * np.log10(crossover / frequency / np.sqrt((1 - u**2) ** 2 + (u / q) ** 2))
        series.append(Series(name, frequency, decibels, tone))  # type: ignore[arg-type]
    margin = least(seen.each("gain_margin"))
    worst = f"{20 * np.log10(margin):.3g} dB" if margin > 0 else "unknown"
    note = f"Gain margin {worst} at the worst corner (6 dB are wanted); crossover {show(crossover, 'Hz', 3)}, corner {show(corner, 'Hz', 3)}."
    return Plot("frequency", "Hz", "dB", series, [Limit("gain of one", 0.0)], [Mark("margin", corner, -20 * np.log10(margin))], log=True, note=note)


@control_loop.picture("Loop phase", "choke_inductance", "feed_power")
def phase(seen: Seen) -> Plot:
    """Phase of G(jω): an integrator, the resonance, and the delay."""
    corner, crossover, delay = seen.at("corner_frequency"), seen.at("crossover"), seen.at("sample_delay")
    frequency, u = _over(corner, crossover)
    series = []
    for name, which, tone in LOADS:
        q = which(seen.each("loop_quality"))
        degrees = -90 - 360 * frequency * delay - np.degrees(np.arctan2(u / q, 1 - u**2))
        series.append(Series(name, frequency, degrees, tone))  # type: ignore[arg-type]
    note = f"Phase margin {least(seen.each('phase_margin')):.3g}° at the worst corner ({seen.at('phase_wanted'):.0f}° are wanted); delay {show(delay, 's', 2)}."
    return Plot("frequency", "Hz", "°", series, [Limit("oscillates", -180.0)], log=True, note=note)


def _over(corner: float, crossover: float) -> tuple[Values, Values]:
    """Frequencies from below the crossover to well past the corner, and the same over the corner's."""
    frequency = np.geomspace(max(crossover, 1e-3) / 5, 6 * corner, 160)
    return frequency, frequency / corner
