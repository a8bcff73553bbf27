"""What the front end looks like: duty over the window, junctions, and what its switches stand."""

from rhombos.core.graph.pictures import Bar, Bars, Limit, Plot, Seen, Series
from rhombos.core.stages.front.clamp import clamp
from rhombos.core.stages.front.front_end import full_bridge, push_pull
from rhombos.core.stages.switches.pictures import declare_junctions

for _stage in (push_pull, full_bridge):

    @_stage.picture("Total duty over the window, full load", "source_voltage")
    def duty(seen: Seen) -> Plot:
        """Total duty with the build held, against what the clock allows."""
        curve = seen.over_source("total_duty")
        return Plot("source voltage", "V", "", [Series("total duty", curve.x, curve.series["total_duty"])], [Limit("greatest duty", seen.at("duty_limit"))])

    @_stage.picture("What a switch stands")
    def stress(seen: Seen) -> Bars:
        """From the steady off-state voltage to the peak of the spike, corner by corner."""
        return drain(seen)

    declare_junctions(_stage)


@clamp.picture("What the clamp leaves of the spike", "static_factor")
def clamped(seen: Seen) -> Bars:
    """The same as at the switches: the clamp decides where the bars end."""
    return drain(seen)


def drain(seen: Seen) -> Bars:
    """Drain voltage at every corner against the rating, and against what of it holds."""
    static, peak, rating = seen.each("input_voltage") * seen.at("static_factor"), seen.each("drain_peak_voltage"), seen.at("switch_rated_voltage")
    bars = [Bar(title, a, b, strong=i == seen.corner) for i, (title, a, b) in enumerate(zip(seen.corners, static, peak, strict=True))]
    return Bars("V", bars, [Limit("rating / 1.1", rating / 1.1), Limit("rating", rating)], note="Bar: from the off-state to the peak with its spike.")
