"""What rectifier and link look like: the link within reach, and the window between what is needed and what is stood."""

import numpy as np

from rhombos.core.graph.pictures import Bar, Bars, Limit, Plot, Seen, Series, Table, Way, least, most
from rhombos.core.modulation import peak_factors
from rhombos.core.stages.link.dc_link_discharge import dc_link
from rhombos.core.stages.link.rectifier import rectifier
from rhombos.core.units import show

TURNED = 8
"""So often the ratio is worked out from what it loses: it settles to a thousandth in three."""


@rectifier.picture("Link over the window, full load", "source_voltage", "needed_valley")
def reach(seen: Seen) -> Plot:
    """The link that the front end could reach, and the one that it holds, the build held."""
    curve = seen.over_source("reachable_voltage", "output_voltage")
    series = [Series("within reach", curve.x, curve.series["reachable_voltage"], "slate", dashed=True), Series("link", curve.x, curve.series["output_voltage"])]
    return Plot("source voltage", "V", "V", series, [Limit("valley needed", most(seen.each("needed_valley")))])


_PASSED = (
    "driven_voltage",
    "turns_ratio",
    "drive_resistance",
    "leakage_inductance",
    "secondary_resistance",
    "switching_frequency",
    "duty_limit",
    "effective_duty",
)


@rectifier.picture("With the averaging choke, and without", *_PASSED, "link_capacitance", "link_setpoint", "flat_top_current")
def schools(seen: Seen) -> Table:
    """What the same transformer, wound for it, would be without a choke: peak charging at the greatest duty, at the load of the corner looked at."""
    duty, flat = seen.at("duty_limit"), seen.at("link_current") / seen.at("duty_limit")
    low, high = least(seen.each("driven_voltage")), most(seen.each("driven_voltage"))
    length, ratio = duty / (2 * seen.at("switching_frequency")), seen.at("turns_ratio")
    for _ in range(TURNED):
        resistance = ratio**2 * seen.at("drive_resistance") + seen.at("secondary_resistance")
        leakage = ratio**2 * seen.at("leakage_inductance")
        shape = resistance * length / leakage, length / np.sqrt(leakage * seen.at("link_capacitance")), duty
        lost = peak_factors.drop_factor(*shape) * flat * (resistance + 2 * leakage / length)
        ratio = (seen.at("link_setpoint") + 2 * seen.at("diode_forward_voltage") + lost) / low
    own, share = seen.at("flat_top_current"), min(2.0, seen.at("choke_ripple") / max(seen.at("link_current"), 1e-9 * seen.at("choke_ripple")))
    effective = own * np.sqrt((1 + share**2 / 12) * seen.at("effective_duty"))
    with_choke = [show(seen.at("turns_ratio"), "", 3), show(own + seen.at("choke_ripple") / 2 * seen.at("turns_ratio"), "A", 3), show(effective, "A", 3)]
    without = [show(ratio, "", 3), show(ratio * peak_factors.peak_factor(*shape) * flat, "A", 3)]
    without += [show(ratio * peak_factors.effective_factor(*shape) * flat * np.sqrt(duty), "A", 3)]
    wanted, stands, highest = seen.at("link_setpoint"), seen.at("output_voltage"), ratio * high
    links = (
        show(stands, "V", 3) + ", regulated" * (stands >= wanted),
        f"{show(wanted, 'V', 3)} to {show(highest, 'V', 3)}" if np.isfinite(highest) else "unknown",
    )
    rows = [Way(["with", *with_choke, links[0]], "", True), Way(["without", *without, links[1]])]
    note = (
        "Primary; its magnetising current and its swing at twice the output frequency are left out. Without a choke nothing regulates the link: it follows the source, without load to the pulses' "
        "peak and above, and everything behind it has to stand that; soft start begins with short pulses. With, whenever the link is regulated."
    )
    return Table(["Choke", "Turns ratio", "Peak", "Rms", "Link"], rows, note)


@rectifier.picture("Diode, from the air inside to the chip")
def diode(seen: Seen) -> Bars:
    """Junction of one diode at every corner against its limit."""
    air = seen.at("ambient_temperature")
    bars = [Bar(title, air, air + rise, strong=i == seen.corner) for i, (title, rise) in enumerate(zip(seen.corners, seen.each("diode_rise"), strict=True))]
    return Bars("K_abs", bars, [Limit("limit", seen.at("diode_maximum_temperature"))])


@dc_link.picture("Link window")
def window(seen: Seen) -> Bars:
    """The link between what the output needs of it and what every part that stands on it allows."""
    valley, crest = least(seen.each("link_valley")), most(seen.each("link_crest"))
    stand = [
        Bar(f"{title.lower().replace('rated voltage', 'rating')}{'' if hold == 1 else f' / {hold:g}'}", 0.0, allows / hold, "hold", weak=True)
        for title, allows, hold in seen.allowed("highest_link")
    ]
    needed = Bar("needed by the output", 0.0, most(seen.each("needed_valley")), "slate", weak=True)
    return Bars("V", [needed, Bar("link, valley to crest", valley, crest), *stand])
