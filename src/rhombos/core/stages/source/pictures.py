"""What the stages before the converter look like: the battery's window, the cut-off's thresholds, fuse and cable, precharge."""

from rhombos.core.graph.pictures import Bar, Bars, Limit, Plot, Seen, Series, least, most
from rhombos.core.stages.source import precharge_pictures as precharge_pictures
from rhombos.core.stages.source.battery import battery
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.source_input import source_input

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


@source_input.picture("Battery current over the window, full load", "source_voltage")
def currents(seen: Seen) -> Plot:
    """Rms current in fuse and cable, the build held, against what they carry."""
    curve = seen.over_source("source_rms_current")
    limits = [Limit("fuse carries", least(seen.lasting("fuse_carries"))), Limit("cable carries", seen.at("cable_ampacity"))]
    return Plot("source voltage", "V", "A", [Series("battery current", curve.x, curve.series["source_rms_current"])], limits, y_from=0.0)
