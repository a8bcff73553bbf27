"""What the front end looks like: duty over the window, junctions, and what its switches stand."""

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.pictures import Bar, Bars, Limit, Plot, Seen, Series
from rhombos.core.stages.front.boost_whole import boost
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
        return drain(seen, seen.each("input_voltage") * seen.at("static_factor"))

    declare_junctions(_stage)


@boost.picture("Choke current over two periods")
def choke(seen: Seen) -> Plot:
    """Up while the switch is on, down through the diode, and a rest where it is empty."""
    period, duty, share = 1 / seen.at("ripple_frequency"), seen.at("effective_duty"), seen.at("diode_duty")
    mean, ripple = seen.at("choke_current"), seen.at("choke_ripple")
    valley = max(mean - ripple / 2, 0.0)
    shape = ((0.0, valley), (duty, valley + ripple), (min(duty + share, 1.0), valley), (1.0, valley))
    points = [(period * (k + at), y) for k in (0, 1) for at, y in shape]
    series = [Series("choke", [x for x, _ in points], [y for _, y in points])]
    note = "Without the swing at twice the output frequency, which adds to the peak."
    return Plot("time", "s", "A", series, [Limit("mean", mean), Limit("holds its inductance to", seen.at("choke_saturation_current"))], y_from=0.0, note=note)


@boost.picture("What the switch stands")
def boost_stress(seen: Seen) -> Bars:
    """From the link's voltage to the peak of the spike, corner by corner."""
    return drain(seen, seen.each("output_voltage"))


declare_junctions(boost)


@clamp.picture("What the clamp leaves of the spike", "static_factor")
def clamped(seen: Seen) -> Bars:
    """The same as at the switches: the clamp decides where the bars end."""
    return drain(seen, seen.each("input_voltage") * seen.at("static_factor"))


def drain(seen: Seen, static: Values) -> Bars:
    """Drain voltage at every corner, from `static` to its peak, against the rating and against what of it holds."""
    peak, rating = seen.each("drain_peak_voltage"), seen.at("switch_rated_voltage")
    bars = [Bar(title, a, b, strong=i == seen.corner) for i, (title, a, b) in enumerate(zip(seen.corners, static, peak, strict=True))]
    return Bars("V", bars, [Limit("rating / 1.1", rating / 1.1), Limit("rating", rating)], note="Bar: from the off-state to the peak with its spike.")
