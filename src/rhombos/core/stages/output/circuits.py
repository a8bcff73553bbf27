"""The circuit of the output filter between bridge and load."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.modulation.sine_pwm import sine_pwm
from rhombos.core.stages.output.output_filter import output_filter

_LOAD = ("output_power", "output_reactive_power", "delivered_voltage")
NO_LOAD = 1e-4
"""Of a load's volt-amperes squared: what a meter at open terminals draws."""


def _resistance(power, reactive, voltage):
    """Of the series circuit that takes these watts and this reactive power."""
    return voltage**2 * max(power, NO_LOAD) / (max(power, NO_LOAD) ** 2 + reactive**2)


output_filter.draw(
    Schematic(
        (
            Part("source", "bridge", (0, 0), (0, 5), ("link_voltage",), "Bridge node", neighbour=True),
            Part("inductor", "choke", (0, 0), (4, 0), ("filter_inductance",), "Filter choke", order="Output choke", checks=("corner_high", "corner_low")),
            Part("resistor", "choke_resistance", (4, 0), (7, 0), ("choke_resistance",), "Its resistance"),
            Part(
                "capacitor",
                "capacitor",
                (7, 0),
                (7, 5),
                ("filter_capacitance",),
                "Filter capacitor",
                pick="capacitor",
                checks=("corner_high", "corner_low", "reactive", "capacitor_voltage", "capacitor_current"),
            ),
            Part("resistor", "damping", (11, 0), (11, 2.5), ("damping_resistor",), "Damping resistor", order="Damping resistor"),
            Part(
                "capacitor",
                "damper",
                (11, 2.5),
                (11, 5),
                ("damping_capacitance",),
                "Damping capacitor",
                pick="damper",
                checks=("damper_voltage", "damper_current"),
            ),
            Part("resistor", "load", (15, 0), (15, 5), (Worked(_LOAD, _resistance),), "Load, its watts", neighbour=True),
        ),
        (((7, 0), (15, 0)), ((0, 5), (15, 5))),
        ((0, 5),),
        {"bridge": (0, 0), "out": (15, 0)},
    )
)


@output_filter.look("Over an output period", "v out", "i choke", "i damping")
def output_period(seen: Seen) -> Course:
    """The bridge's edges as its modulation makes them on a stiff link, without dead time; the load by its watts."""
    frequency, link = seen.at("output_frequency"), seen.at("link_voltage")
    index = min(seen.at("node_peak_voltage") / link, 1.0)
    edges = sine_pwm(link, index, frequency, seen.at("carrier_frequency"), unipolar=seen.at("carrier_multiple") == 2, natural=False)
    events = [Event(0.0, {}, {"bridge": edges.start})]
    events += [Event(float(t), {}, {"bridge": float(v)}) for t, v in zip(edges.times, edges.levels, strict=True) if t > 0]
    return Course(edges.period, tuple(events))


@output_filter.look("Over two carrier periods", "v bridge", "i choke", "i capacitor")
def carrier_period(seen: Seen) -> Course:
    """At a duty of one half, where the ripple is greatest; the output stands still."""
    half = 1 / (seen.at("carrier_multiple") * seen.at("carrier_frequency"))
    link, bipolar = seen.at("link_voltage"), seen.at("carrier_multiple") < 2
    high, low = (link, -link) if bipolar else (link, 0.0)
    return Course(2 * half, tuple(Event(k * half / 2, {}, {"bridge": high if k % 2 == 0 else low}) for k in range(4)))
