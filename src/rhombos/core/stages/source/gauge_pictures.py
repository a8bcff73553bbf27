"""The battery's window with every threshold on it, each over its tolerance."""

from rhombos.core.graph.pictures import Bar, Bars, Limit, Seen, least, most
from rhombos.core.stages.source.gauge import gauge


@gauge.picture("Every threshold on the battery's window", "pack_voltage", "open_circuit_voltage", "falling_threshold", "lowest_falling_threshold")
def thresholds(seen: Seen) -> Bars:
    """From harmed cells to what the capacitors stand: cut-off, alarm, restart, inhibit in their order."""
    rest, pack = seen.each("open_circuit_voltage"), seen.lasting("pack_voltage")

    def over(name: str, low: str, high: str, at: str, tone: str) -> Bar:
        return Bar(name, seen.at(low), seen.at(high), tone, ring=seen.at(at))  # type: ignore[arg-type]

    return Bars(
        "V",
        [
            Bar("at rest, charging", least(rest), most(rest), "slate", strong=True),
            Bar("pack in service", least(pack), most(pack), "slate"),
            over("cut-off", "lowest_falling_threshold", "highest_falling_threshold", "falling_threshold", "fail"),
            over("alarm", "lowest_alarm", "highest_alarm", "alarm_threshold", "tight"),
            over("restart", "rising_threshold", "highest_rising_threshold", "rising_threshold", "hold"),
            over("inhibit", "lowest_inhibit", "highest_inhibit", "inhibit_threshold", "fail"),
        ],
        [Limit("cells harmed", seen.at("least_cutoff")), Limit("capacitors", seen.at("bulk_rated_voltage"))],
        note="Ring: nominal. Bars: over the tolerances of the parts.",
    )
