"""What the stages before the converter look like: the battery's window, the cut-off's thresholds, fuse and cable, precharge."""

import numpy as np

from rhombos.core.graph.pictures import Bar, Bars, Limit, Mark, Plot, Seen, Series, least, most
from rhombos.core.stages.source import cutoff_setting as cutoff_setting
from rhombos.core.stages.source import cutoff_tolerance as cutoff_tolerance
from rhombos.core.stages.source import cutoff_trim as cutoff_trim
from rhombos.core.stages.source import gauge_pictures as gauge_pictures
from rhombos.core.stages.source import precharge_pictures as precharge_pictures
from rhombos.core.stages.source import source_dynamics as source_dynamics
from rhombos.core.stages.source import source_input_cable as source_input_cable
from rhombos.core.stages.source import source_input_fuse as source_input_fuse
from rhombos.core.stages.source import source_kind as source_kind
from rhombos.core.stages.source.battery import battery
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.source_input import source_input
from rhombos.core.stages.source.source_input_line import carried
from rhombos.core.units import show

COPPER_HEAT = 115e6
"""A·√s/m²: what copper under PVC takes from 70 to 160 °C without losing heat."""
SENSED = "Bar: from open circuit down to the converter's terminals. Ring: at the pack, where the cut-off senses."


@battery.picture("Battery window")
def window(seen: Seen) -> Bars:
    """The battery's voltage at every corner against the cut-off's thresholds."""
    rest, terminals, pack = seen.each("open_circuit_voltage"), seen.each("terminal_voltage"), seen.each("pack_voltage")
    thresholds = [(name, figure) for name, figure in (("cut-off", "falling_threshold"), ("restart", "rising_threshold")) if seen.has(figure)]
    return Bars(
        "V",
        [
            Bar(title, low, high, ring=ring, strong=i == seen.corner)
            for i, (title, low, high, ring) in enumerate(zip(seen.corners, terminals, rest, pack, strict=True))
        ],
        [Limit(name, seen.at(figure)) for name, figure in thresholds],
        note=SENSED,
    )


@cutoff.picture("Thresholds over their tolerances")
def thresholds(seen: Seen) -> Bars:
    """Where the cut-off opens and closes, and where the pack stands in service and at rest after it."""
    pack = seen.lasting("pack_voltage")
    return Bars(
        "V",
        [
            Bar("opens", seen.at("lowest_falling_threshold"), seen.at("highest_falling_threshold"), ring=seen.at("falling_threshold")),
            Bar("closes again", seen.at("rising_threshold"), seen.at("highest_rising_threshold"), ring=seen.at("rising_threshold")),
            Bar("pack in service", least(pack), most(pack), "slate"),
            Bar("pack rested after it", seen.at("rested_voltage"), seen.at("rested_voltage"), "slate"),
        ],
        [Limit("cells harmed below", seen.at("least_cutoff"))],
        note="Ring: with nominal parts. Bars: over the tolerances of resistors and reference.",
    )


@source_input.picture("Who acts first: current against time", "fuse_rated_current", "fault_current")
def coordination(seen: Seen) -> Plot:
    """What the fuse and the cable carry for how long, against what runs, what starts, and a short."""
    time = np.geomspace(1e-3, 3600, 90)
    share = [seen.at(n) for n in ("fuse_carried_short", "fuse_carried_overload", "continuous_share")]
    fuse = seen.at("fuse_rated_current") * carried(time, *share)
    cable = np.maximum(seen.at("cable_ampacity"), COPPER_HEAT * seen.at("cable_area") / np.sqrt(time))
    current, starts = seen.each("source_rms_current"), seen.each("surge") > 0
    running = most(current[~starts])
    marks = [Mark("runs", 20.0, running)]
    if starts.any() and np.isfinite(current[starts]).any():
        k = int(np.nanargmax(np.where(starts, current, np.nan)))
        marks.append(Mark("starts", float(max(seen.each("surge_time")[k], time[0])), float(current[k])))
    gap = time[fuse > cable]
    said = (
        "At every time the cable stands what the fuse carries."
        if gap.size == 0
        else f"Gap: from {show(gap[0], 's', 2)} to {show(gap[-1], 's', 2)} the fuse carries more than the cable."
    )
    return Plot(
        "time",
        "s",
        "A",
        [Series("fuse carries", time, fuse), Series("cable stands", time, cable, "slate", dashed=True)],
        [Limit("short at the battery", most(seen.each("fault_current")))],
        marks,
        log=True,
        log_y=True,
        note=said + " Cable: its ampacity, and 115 A·√s/mm² for a short (copper, 70 to 160 °C, IEC 60364-4-43).",
    )


@source_input.picture("Battery current over the window, full load", "source_voltage")
def currents(seen: Seen) -> Plot:
    """Rms current in fuse and cable, the build held, against what they carry."""
    curve = seen.over_source("source_rms_current")
    limits = [Limit("fuse carries", least(seen.lasting("fuse_carries"))), Limit("cable carries", seen.at("cable_ampacity"))]
    return Plot("source voltage", "V", "A", [Series("battery current", curve.x, curve.series["source_rms_current"])], limits, y_from=0.0)
