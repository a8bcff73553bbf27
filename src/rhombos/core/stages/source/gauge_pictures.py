"""The battery's window with every threshold on it, each over its tolerance."""

from rhombos.core.graph.pictures import Bar, Bars, Limit, Seen, least, most
from rhombos.core.stages.source.gauge import gauge


@gauge.picture("Every threshold on the battery's window")
def thresholds(seen: Seen) -> Bars:
    """From harmed cells to what the capacitors stand: cut-off, alarm, restart, inhibit in their order; alone what the gauge knows of them."""

    def over(name: str, low: str, high: str, at: str, tone: str) -> list[Bar]:
        if not all(seen.has(figure) for figure in (low, high, at)):
            return []
        return [Bar(name, seen.at(low), seen.at(high), tone, ring=seen.at(at))]  # type: ignore[arg-type]

    def from_to(name: str, figure: str, *, lasting: bool) -> list[Bar]:
        if not seen.has(figure):
            return []
        volts = seen.lasting(figure) if lasting else seen.each(figure)
        return [Bar(name, least(volts), most(volts), "slate", strong=not lasting)]

    return Bars(
        "V",
        [
            *from_to("at rest, charging", "open_circuit_voltage", lasting=False),
            *from_to("pack in service", "pack_voltage", lasting=True),
            *over("cut-off", "lowest_falling_threshold", "highest_falling_threshold", "falling_threshold", "fail"),
            *over("alarm", "lowest_alarm", "highest_alarm", "alarm_threshold", "tight"),
            *over("restart", "rising_threshold", "highest_rising_threshold", "rising_threshold", "hold"),
            *over("inhibit", "lowest_inhibit", "highest_inhibit", "inhibit_threshold", "fail"),
        ],
        [Limit(name, seen.at(figure)) for name, figure in (("cells harmed", "least_cutoff"), ("capacitors", "bulk_rated_voltage")) if seen.has(figure)],
        note="Ring: nominal. Bars: over the tolerances of the parts.",
    )
