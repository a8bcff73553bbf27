"""A rectifier without an averaging choke behind a switched secondary: it charges its capacitor to the peak (4.1, 5.1, 6.2)."""

from typing import Literal

import numpy as np

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.solved import circuit_of
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen, Table, Way
from rhombos.core.modulation import peak_factors
from rhombos.core.stages.link.circuits import TURNED
from rhombos.core.units import show

PERIODIC = "periodic solution of resistance, leakage inductance and capacitor, as a table"
SLOPE = 0.02
HOLDS = 1.25
"""How far a diode's repetitive peak is to stand above the pulses'."""

peak_rectifier = Stage("peak_rectifier", "Rectifier without choke", path=False, telling="{loaded_link} · {pulse_peak}")
peak_rectifier.hazard("dc_voltage", "unloaded_link")
peak_rectifier.give(
    "pulse_height",
    360.0,
    "V",
    r"V_s",
    1,
    1e5,
    "Height of the secondary's pulses at the lowest source: turns ratio times source, no drops.",
    "Secondary, lowest",
)
peak_rectifier.give("highest_pulse", 430.0, "V", r"\hat V_s", 1, 1e5, "The same at the highest source, where the link stands highest.", "Secondary, highest")
peak_rectifier.give("pulse_frequency", 25e3, "Hz", r"f_{sw}", 100, 1e6, "Switching frequency: two pulses a period.", "Switching frequency")
peak_rectifier.give("pulse_share", 0.9, "", r"D_\mathrm{tot}", 0.5, 0.98, "Share of time in which the secondary is driven.", "Total duty")
peak_rectifier.give(
    "loop_resistance",
    3.0,
    "Ω",
    r"R",
    1e-3,
    1e4,
    "Resistance that a pulse passes, seen from the secondary: source, switches and primary times the ratio's square, secondary.",
    "Resistance of the loop",
)
peak_rectifier.give(
    "loop_inductance", 15e-6, "H", r"L_\mathrm{lk}", 1e-9, 0.1, "Leakage inductance seen from the secondary, with that of the leads.", "Leakage inductance"
)
peak_rectifier.give("link_capacitor", 220e-6, "F", "C", 1e-8, 0.1, "Capacitor behind the rectifier.", "Link capacitor")
peak_rectifier.give("direct_current", 1.5, "A", "I", 1e-4, 1e3, "Mean current that the link gives.", "Link current")
peak_rectifier.give("rectifier_drop", 1.0, "V", "V_F", 0.05, 5, "Forward voltage of a diode; two lie in series.", "Forward voltage")
peak_rectifier.give("winding_ratio", 16.0, "", "N", 0.01, 1e3, "Turns of the secondary over those of the primary, or of its half.", "Turns ratio")
peak_rectifier.give("first_share", 0.012, "", r"\delta_1", 1e-3, 1, "Length of the first pulses over that of full ones: soft start.", "First pulses")
peak_rectifier.give(
    "unloaded_rise", 0.05, "", r"\delta_0", 0, 1, "How far the unloaded link rings up above the pulses [judgement].", "Rise without load", judgement=True
)
peak_rectifier.give("wanted_link", 330.0, "V", r"V_\mathrm{min}", 1, 1e5, "Lowest link with which the bridge makes its sine.", "Link needed")
peak_rectifier.give("link_rating", 500.0, "V", r"V_C", 1, 1e5, "Rated voltage of the link's capacitors.", "Capacitors stand")
peak_rectifier.give("diode_crest", 15.0, "A", r"I_\mathrm{FRM}", 1e-2, 1e5, "Peak that a diode stands in every period.", "Diodes stand")
peak_rectifier.give(
    "primary_limit", 120.0, "A", r"I_\mathrm{trip}", 0.1, 1e5, "Where the front end's limit per pulse acts, in the primary.", "Limit of the primary"
)


@peak_rectifier.build(
    unit="s",
    symbol="t",
    source="two pulses a period",
    title="Length of a pulse",
    tex=r"\frac{pulse_share}{2\,{pulse_frequency}}",
    example=({"pulse_share": 0.9, "pulse_frequency": 25e3}, 18e-6),
)
def pulse_length(pulse_share, pulse_frequency):
    """How long the secondary is driven at a time."""
    return pulse_share / (2 * pulse_frequency)


@peak_rectifier.build(
    unit="A",
    symbol=r"I_\mathrm{flat}",
    source="charge balance",
    title="Mean current of a pulse",
    tex=r"\frac{direct_current}{pulse_share}",
    example=({"direct_current": 1.8, "pulse_share": 0.9}, 2.0),
)
def flat_current(direct_current, pulse_share):
    """What a choke would make of it: the flat top."""
    return direct_current / pulse_share


@peak_rectifier.build(
    unit="",
    symbol=r"t/\tau",
    source="time constant of the loop",
    title="Pulse over time constant",
    tex=r"\frac{{loop_resistance}\,{pulse_length}}{loop_inductance}",
    example=({"loop_resistance": 3, "pulse_length": 20e-6, "loop_inductance": 15e-6}, 4.0),
)
def pulse_decay(loop_resistance, pulse_length, loop_inductance):
    """Below 1 leakage shapes the current to a ramp, far above 1 resistance to a flat top."""
    return loop_resistance * pulse_length / loop_inductance


@peak_rectifier.build(
    unit="",
    symbol=r"\theta",
    source="resonance of leakage and link",
    title="Pulse over ringing",
    tex=r"\frac{pulse_length}{\sqrt{{loop_inductance}\,{link_capacitor}}}",
    example=({"pulse_length": 20e-6, "loop_inductance": 16e-6, "link_capacitor": 1e-6}, 5.0),
)
def pulse_ring(pulse_length, loop_inductance, link_capacitor):
    """Above 3.1 a half sine is over before the pulse is: the capacitor is small."""
    return pulse_length / np.sqrt(loop_inductance * link_capacitor)


@peak_rectifier.build(
    unit="",
    symbol=r"k_\mathrm{pk}",
    source=PERIODIC,
    title="Peak factor",
    empirical=True,
    tex=r"\operatorname{pk}({pulse_decay},\,{pulse_ring},\,{pulse_share})",
    example=({"pulse_decay": 1.2, "pulse_ring": 0, "pulse_share": 0.85}, 1.673),
)
def peak_factor(pulse_decay, pulse_ring, pulse_share):
    """Highest current of a pulse over its mean: 1 with a choke, 2 for a ramp, more for half sines."""
    return peak_factors.peak_factor(pulse_decay, pulse_ring, pulse_share)


@peak_rectifier.build(
    unit="",
    symbol=r"k_\mathrm{rms}",
    source=PERIODIC,
    title="Rms factor",
    empirical=True,
    tex=r"\operatorname{eff}({pulse_decay},\,{pulse_ring},\,{pulse_share})",
    example=({"pulse_decay": 1.2, "pulse_ring": 0, "pulse_share": 0.85}, 1.108),
)
def effective_factor(pulse_decay, pulse_ring, pulse_share):
    """Rms of the current within the pulses over its mean there."""
    return peak_factors.effective_factor(pulse_decay, pulse_ring, pulse_share)


@peak_rectifier.build(
    unit="A",
    symbol=r"\hat I",
    source="flat top times its peak factor",
    title="Peak of a pulse",
    tex=r"{peak_factor}\,{flat_current}",
    example=({"peak_factor": 1.6, "flat_current": 2}, 3.2),
)
def pulse_peak(peak_factor, flat_current):
    """Highest current of secondary and diodes, load alone."""
    return peak_factor * flat_current


@peak_rectifier.build(
    unit="A",
    symbol=r"I_\mathrm{rms}",
    source="flat top times its rms factor",
    title="Rms current of the secondary",
    tex=r"{effective_factor}\,{flat_current}\sqrt{pulse_share}",
    example=({"effective_factor": 1.1, "flat_current": 2, "pulse_share": 0.81}, 1.98),
)
def pulse_rms(effective_factor, flat_current, pulse_share):
    """What copper and switches are warmed by, times the ratio in the primary."""
    return effective_factor * flat_current * np.sqrt(pulse_share)


@peak_rectifier.build(
    unit="",
    symbol=r"k_\mathrm{Cu}",
    source="Joule's law",
    title="Copper loss over that with a choke",
    tex=r"{effective_factor}^2",
    example=({"effective_factor": 1.1}, 1.21),
)
def copper_factor(effective_factor):
    """Conduction and copper loss over what a flat top of the same mean would make."""
    return effective_factor**2


@peak_rectifier.build(
    unit="V",
    symbol=r"V_\mathrm{link}",
    source=PERIODIC,
    title="Link under load",
    empirical=True,
    tex=r"{pulse_height}-2\,{rectifier_drop}-\operatorname{drop}({pulse_decay},\,{pulse_ring},\,{pulse_share})\,{flat_current}\left({loop_resistance}+\frac{2\,{loop_inductance}}{pulse_length}\right)",
    example=(
        {
            "pulse_height": 360,
            "rectifier_drop": 1,
            "pulse_decay": 4,
            "pulse_ring": 0,
            "pulse_share": 0.85,
            "flat_current": 2,
            "loop_resistance": 3,
            "loop_inductance": 15e-6,
            "pulse_length": 20e-6,
        },
        350.07,
    ),
)
def loaded_link(pulse_height, rectifier_drop, pulse_decay, pulse_ring, pulse_share, flat_current, loop_resistance, loop_inductance, pulse_length):
    """Mean of the link at the lowest source: the pulses' height less two diodes, less what resistance and leakage take."""
    lost = peak_factors.drop_factor(pulse_decay, pulse_ring, pulse_share)
    return pulse_height - 2 * rectifier_drop - lost * flat_current * (loop_resistance + 2 * loop_inductance / pulse_length)


@peak_rectifier.build(
    unit="V",
    symbol=r"V_0",
    source="peak of the pulses, no current",
    title="Link without load",
    tex=r"{highest_pulse}\,(1+{unloaded_rise})",
    example=({"highest_pulse": 400, "unloaded_rise": 0.05}, 420),
)
def unloaded_link(highest_pulse, unloaded_rise):
    """Where the link stands at the highest source with nothing drawn: nothing regulates it, and it rings up."""
    return highest_pulse * (1 + unloaded_rise)


@peak_rectifier.build(
    unit="A",
    symbol=r"\hat I_p",
    source="through the turns ratio",
    title="Peak in the primary",
    tex=r"{winding_ratio}\,{pulse_peak}",
    example=({"winding_ratio": 16, "pulse_peak": 3}, 48),
)
def primary_peak(winding_ratio, pulse_peak):
    """What switches and limit see under load, magnetising current left out."""
    return winding_ratio * pulse_peak


@peak_rectifier.build(
    unit="A",
    symbol=r"\hat I_{p,1}",
    source="the first pulse into an empty capacitor",
    title="Peak of the first pulse, primary",
    tex=r"{winding_ratio}\,\frac{{highest_pulse}-2\,{rectifier_drop}}{loop_resistance}\left(1-\exp\left(-{first_share}\,{pulse_decay}\right)\right)",
    example=({"winding_ratio": 16, "highest_pulse": 432, "rectifier_drop": 1, "loop_resistance": 4, "first_share": 0.1, "pulse_decay": 4}, 567.05),
)
def first_peak(winding_ratio, highest_pulse, rectifier_drop, loop_resistance, first_share, pulse_decay):
    """An empty link is a short: only the pulse's length, its loop's resistance and leakage hold the current back."""
    return winding_ratio * (highest_pulse - 2 * rectifier_drop) / loop_resistance * (1 - np.exp(-first_share * pulse_decay))


peak_rectifier.check(
    "reaches",
    title="Link under load",
    demand="wanted_link",
    capability="loaded_link",
    fail=1.0,
    hold=1.02,
    harm="none",
    sentence="The bridge needs {demand}; at the lowest source the link stands at {capability}.",
    why="The sine's crests are cut: nothing regulates the link, it follows the source.",
    remedies=(Move("winding_ratio", "up", 1.4), Move("pulse_height", "up", 1.4), Move("loop_inductance", "down", 5.0), Move("loop_resistance", "down", 5.0)),
)
peak_rectifier.check(
    "unloaded",
    title="Link without load",
    demand="unloaded_link",
    capability="link_rating",
    fail=1.0,
    hold=1.1,
    harm="people",
    sentence="At the highest source and without load the link rises to {demand}; its capacitors stand {capability}.",
    why="Capacitors vent, and the bridge's switches stand more than they are chosen for: an over-voltage cut-out must act.",
    remedies=(Move("link_rating", "up", 2.0), Move("highest_pulse", "down", 1.5)),
)
peak_rectifier.check(
    "diode_crest",
    title="Diodes stand the peaks",
    demand="pulse_peak",
    capability="diode_crest",
    fail=1.0,
    hold=HOLDS,
    harm="equipment",
    sentence="The pulses peak at {demand}; a diode stands {capability} in every period.",
    why="The diodes age by every peak.",
    remedies=(Move("diode_crest", "up", 10.0), Move("link_capacitor", "up", 10.0), Move("direct_current", "down", 10.0)),
)
peak_rectifier.check(
    "below_limit",
    title="Load stays below the limit",
    demand="primary_peak",
    capability="primary_limit",
    fail=1.0,
    hold=1.2,
    harm="none",
    sentence="Under load the primary peaks at {demand}; its limit acts at {capability}.",
    why="The limit ends pulses that should carry the load.",
    remedies=(Move("primary_limit", "up", 10.0), Move("direct_current", "down", 10.0)),
)
peak_rectifier.check(
    "start",
    title="First pulses",
    demand="first_peak",
    capability="primary_limit",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The first pulses into the empty link peak at {demand} in the primary; its limit acts at {capability}.",
    why="Without soft start switches see a short until the link has come up.",
    remedies=(Move("first_share", "down", 50.0), Move("primary_limit", "up", 20.0)),
)

_DIODES = (
    ("first", (9, 1), (9, -2), "Diode 1"),
    ("second", (9, 7), (9, 5), "Diode 2"),
    ("third", (12, 4), (12, -2), "Diode 3"),
    ("fourth", (12, 7), (12, 5), "Diode 4"),
)
peak_rectifier.draw(
    Schematic(
        (
            Part("source", "secondary", (0, 1), (0, 4), ("pulse_height",), "Secondary", neighbour=True),
            Part("resistor", "resistance", (0, 1), (4, 1), ("loop_resistance",), "Resistance", neighbour=True),
            Part("inductor", "leakage", (4, 1), (9, 1), ("loop_inductance",), "Leakage", neighbour=True),
            *(Part("diode", name, start, end, (SLOPE,), title, forward="rectifier_drop", checks=("diode_crest",)) for name, start, end, title in _DIODES),
            Part("capacitor", "link", (16, -2), (16, 7), ("link_capacitor",), "Link", checks=("unloaded", "reaches")),
            Part("current", "load", (20, -2), (20, 7), ("direct_current",), "Load", neighbour=True),
        ),
        (((9, 5), (9, 1)), ((0, 4), (12, 4)), ((12, 5), (12, 4)), ((9, -2), (20, -2)), ((9, 7), (20, 7))),
        ((20, 7),),
        {"pulse": (0, 1), "bridge": (9, 1), "plus": (20, -2)},
    )
)


def _course(at) -> Course:
    """A pulse each way, with the rest between them in which the winding stands at none."""
    seconds, length, volts = 1 / at("pulse_frequency"), at("pulse_length"), at("pulse_height")
    levels = ((0.0, volts), (length, 0.0), (seconds / 2, -volts), (seconds / 2 + length, 0.0))
    events = tuple(Event(time, levels={"secondary": level}) for time, level in levels)
    return Course(seconds, events, start={"link": at("loaded_link")}, mirror={"leakage": ("leakage", -1.0), **TURNED})


@peak_rectifier.look("Over a switching period", "v secondary", "v link", "i leakage", "i first")
def period(seen: Seen) -> Course:
    """What repeats itself under load."""
    return _course(seen.at)


@peak_rectifier.look("First pulses into the empty link", "i leakage", "v link")
def begun(seen: Seen) -> Course:
    """Ten short pulses as soft start begins with them, at the highest source."""
    half, length, volts = 0.5 / seen.at("pulse_frequency"), seen.at("first_share") * seen.at("pulse_length"), seen.at("highest_pulse")
    events = [Event(k * half + t, levels={"secondary": v}) for k in range(10) for t, v in ((0.0, volts * (-1) ** k), (length, 0.0))]
    return Course(10 * half, tuple(events), False)


@peak_rectifier.picture("What it is not to have a choke", "loop_inductance", "link_capacitor")
def compared(seen: Seen) -> Table:
    """A flat top of the same mean, this rectifier, others about it: simulated."""
    flat, share = seen.at("flat_current"), seen.at("pulse_share")

    def verdict(peak: float) -> Literal["holds", "tight", "fails"]:
        return "holds" if HOLDS * peak <= seen.at("diode_crest") else "tight" if peak <= seen.at("diode_crest") else "fails"

    rows = [Way(["with a choke", show(flat, "A", 3), show(flat * np.sqrt(share), "A", 3), "1.00", "the duty regulates it"], verdict(flat))]
    for title, change in (("this rectifier", {}), ("half its leakage", {"loop_inductance": 0.5}), ("twice its leakage", {"loop_inductance": 2.0})):

        def at(name: str, change: dict[str, float] = change) -> float:
            return seen.at(name) * change.get(name, 1.0)

        try:
            drawn = seen.place.stage.schematic
            assert drawn is not None
            course = _course(at)
            run = repeat(circuit_of(drawn, at), course.events, course.seconds, mirror=course.mirror)
        except CircuitError:
            rows.append(Way([title, *["not known"] * 4], "unknown", not change))
            continue
        peak = float(np.abs(run.current("leakage", run.times(4000))).max())
        ((mean, _),), ((_, rms),) = run.told(["plus"], ["leakage"])
        copper = (rms / flat) ** 2 / share
        rows.append(Way([title, show(peak, "A", 3), show(rms, "A", 3), f"{copper:.2f}", show(mean, "V", 3)], verdict(peak), not change))
    note = "At the same mean current. Without a choke the link follows the source, and without load it rises to the pulses' peak and above."
    return Table(["", "Peak, secondary", "Rms", "Copper loss, times", "Link"], rows, note)
