"""Leakage clamp of a push-pull: resistor, capacitor, diode at each drain, returned to the supply (6.1).

The resistor is fixed once chosen, so the clamp's voltage follows the load: the leakage's energy and the share that the
winding adds while it empties go into the capacitor, the resistor takes them out again. R·C is some half millisecond, so
a start of a tenth of a second is a steady state for it, and so is the crest of the output's power.

While the leakage empties the winding holds the rail, if nothing stands in its way: what is counted with unless something
else is chosen. Behind an averaging choke it need not: its rectifier conducts on both sides as soon as a switch opens, and
the winding holds nothing until the other switch closes. Then the leakage empties against all of the clamp's voltage for as
long as the rest lasts, and against what is above the rail afterwards.
"""

import numpy as np

from rhombos.core.formulas.numeric import highest, highest_lasting, known, lowest, nearest_in, next_of
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.stages.sizes import BY_POWER

SEV = "Severns, Design of Snubbers for Power Circuits; clamp energy with the winding's own share"

clamp = Stage("clamp", "Clamp", path=False, telling="{clamp_resistor} · {clamp_capacitor}")
clamp.hazard("dc_voltage", "highest_clamp_voltage")


clamp.give("dynamic_reserve", 1.10, "", r"k_d", 1.0, 1.5, "Rating over highest drain voltage that the clamp is set for.", "Dynamic reserve")
clamp.give("clamp_ripple_fraction", 0.05, "", r"\Delta v_c", 0.005, 0.5, "Ripple of the clamp voltage as a fraction.", "Ripple of the clamp")
clamp.give(
    "resistor_overload",
    5.0,
    "",
    r"k_\mathrm{ol}",
    1,
    20,
    "Power over rating that a resistor stands for the seconds of a start (short-time overload, IEC 60115) [judgement].",
    "Resistor overload",
    judgement=True,
)
clamp.give(
    "clamp_price", 1.8, "credit", r"c_c", 0, 100, "Price of resistor, capacitor and diode of one clamp [judgement].", "Price of one clamp", judgement=True
)
clamp.choice(
    "winding_holds",
    {"rail": Option("the rail", {"rest_share": 0.0}), "rest": Option("nothing in the rest", {"rest_share": 1.0})},
    {"rest_share": ("", r"k_r", "Share of the rest between two pulses in which the winding is taken to hold nothing.")},
    default="rail",
    sentence="What the winding holds while the leakage empties into the clamp: the rail, the safer of the two, or behind a choke that freewheels nothing in the rest.",
    title="Winding holds meanwhile",
)


@clamp.operation(
    unit="s",
    symbol=r"t_r",
    source="half a period less half the duty",
    title="Rest that counts",
    low=0.0,
    tex=r"\frac{{rest_share}\,(1-{total_duty})}{2\,{switching_frequency}}",
    example=({"rest_share": 1, "total_duty": 0.8, "switching_frequency": 40e3}, 2.5e-6),
)
def emptying_rest(rest_share, total_duty, switching_frequency):
    """How long the leakage empties while the winding holds nothing."""
    return rest_share * (1 - total_duty) / (2 * switching_frequency)


def settled(held, energy, leakage, frequency, resistor, rest):
    """Volts where a clamp's resistor burns what the leakage brings: `energy` in W, emptied in `rest` seconds against all of them, then above `held`.

    The charge of a pulse is Q = I·t − V·t²/(2·L) + (L·I − V·t)²/(2·L·(V − V_r)), and V = R·f·Q, in which the squares of t cancel:
    V² − V·V_r·(1 + R·f·t²/(2·L)) = R·(E − f·t·V_r·I). What empties within the rest takes nothing from the winding: V² = E·R.
    Never below `held`, to which the other pulse charges it.
    """
    linkage = np.sqrt(2 * energy * leakage / frequency)
    emptied = np.maximum(held, np.sqrt(energy * resistor))
    sum_of_roots = held * (1 + resistor * frequency * rest**2 / (2 * leakage))
    square = sum_of_roots**2 + 4 * resistor * (energy - frequency * rest * held * linkage / leakage)
    above = (sum_of_roots + np.sqrt(np.maximum(square, 0 * square))) / 2
    return np.where(emptied * rest >= linkage, emptied, above)


_SETTLED = (
    r"\begin{gathered}%s\\V=\begin{cases}U&U{emptying_rest}\ge F\\\tfrac12\left(B+\sqrt{\max(B^2+4C,0)}\right)&\text{else}\end{cases}\\"
    r"U=\max\left({input_voltage},\sqrt{{%s}{clamp_resistor}}\right)\\F=\sqrt{2\,{%s}{leakage_inductance}/{switching_frequency}}\\"
    r"B={input_voltage}\left(1+\frac{{clamp_resistor}{switching_frequency}{emptying_rest}^2}{2\,{leakage_inductance}}\right)\\"
    r"C={clamp_resistor}\left({%s}-\frac{{switching_frequency}{emptying_rest}{input_voltage}F}{leakage_inductance}\right)\end{gathered}"
)
"""As `settled`, of the power named three times; the first line is what is made of V."""
_WITH = {"leakage_inductance": 50e-9, "switching_frequency": 40e3, "clamp_resistor": 820, "emptying_rest": 0}


@clamp.build(
    unit="V",
    symbol=r"V_{c,\mathrm{want}}",
    tex=r"\frac{{switch_rated_voltage}/{dynamic_reserve}-{highest_source_voltage}}{1+{clamp_ripple_fraction}/2}",
    source=SEV,
    title="Clamp voltage wanted",
    example=({"switch_rated_voltage": 100, "dynamic_reserve": 1.1, "highest_source_voltage": 29.2, "clamp_ripple_fraction": 0.05}, 60.204),
)
def wanted_clamp_voltage(switch_rated_voltage, dynamic_reserve, highest_source_voltage, clamp_ripple_fraction):
    """Voltage across the clamp, from the supply it returns to, whose crest leaves the switch its dynamic reserve."""
    return (switch_rated_voltage / dynamic_reserve - highest_source_voltage) / (1 + clamp_ripple_fraction / 2)


@clamp.operation(
    unit="W",
    symbol=r"\hat E",
    source=SEV,
    title="Leakage power in the crest",
    tex=r"\tfrac12{leakage_inductance}\,{peak_current}^2{switching_frequency}",
    example=({"leakage_inductance": 50e-9, "peak_current": 50, "switching_frequency": 40e3}, 2.5),
)
def crest_leakage_power(leakage_inductance, peak_current, switching_frequency):
    """Energy that the leakage holds when the switch opens, at the END of the pulse, times frequency; in the crest of the output's power."""
    return leakage_inductance * peak_current**2 * switching_frequency / 2


@clamp.operation(
    unit="W",
    symbol=r"E",
    source=SEV,
    title="Leakage power, mean",
    tex=r"\tfrac12{leakage_inductance}\left(({peak_current}-{flat_top_swing})^2+\tfrac12{flat_top_swing}^2\right){switching_frequency}",
    example=({"leakage_inductance": 50e-9, "peak_current": 60, "flat_top_swing": 10, "switching_frequency": 40e3}, 2.55),
)
def leakage_power(leakage_inductance, peak_current, flat_top_swing, switching_frequency):
    """The same as a mean over the output's period: the current swings about its mean at twice the output frequency."""
    return leakage_inductance * ((peak_current - flat_top_swing) ** 2 + flat_top_swing**2 / 2) * switching_frequency / 2


@clamp.build(
    unit="Ω",
    symbol="R_c",
    tex=r"\begin{gathered}\mathrm{E12}_\downarrow\!\left(\min\frac{{wanted_clamp_voltage}^2}{{crest_leakage_power}+A}\right)\\A=\frac{{switching_frequency}\,\max\left({leakage_inductance}{peak_current}-{wanted_clamp_voltage}{emptying_rest},\,0\right)^2{input_voltage}}{2\,{leakage_inductance}\left({wanted_clamp_voltage}-{input_voltage}\right)}\end{gathered}",
    source=SEV,
    decided=True,  # no ratchet: a resistor made small by a first guess burns the watts that keep it small
    example=(
        {
            "wanted_clamp_voltage": 60,
            "input_voltage": 24,
            "crest_leakage_power": 2.5,
            "leakage_inductance": 50e-9,
            "peak_current": 50,
            "switching_frequency": 40e3,
            "emptying_rest": 0,
        },
        820,
    ),
)
def clamp_resistor(wanted_clamp_voltage, input_voltage, crest_leakage_power, leakage_inductance, peak_current, switching_frequency, emptying_rest):
    """Resistor that keeps the clamp at its voltage in the worst of all corners, starts included; the next lower preferred value."""
    room = wanted_clamp_voltage - input_voltage
    # What flux linkage the leakage still holds when the rest is over: from there on the winding adds its share.
    left = leakage_inductance * peak_current - wanted_clamp_voltage * emptying_rest
    added = switching_frequency * np.maximum(left, 0 * left) ** 2 * input_voltage / (2 * leakage_inductance * room)
    needed = lowest(wanted_clamp_voltage**2 / (crest_leakage_power + added))
    return nearest_in("E12", "down")(
        known(
            lowest(room) > 0 * lowest(room),
            needed,
            "the clamp would have to stand at {wanted} V over a winding that holds {held} V: no resistor does that, the switch's rating is too low",
            wanted=wanted_clamp_voltage,
            held=highest(input_voltage),
        )
    )


@clamp.build(
    unit="F",
    symbol="C_c",
    tex=r"\mathrm{E6}_\uparrow\!\left(\frac{1}{{clamp_ripple_fraction}\,{clamp_resistor}\,{switching_frequency}}\right)",
    source=SEV,
    safe="up",
    example=({"clamp_ripple_fraction": 0.05, "clamp_resistor": 820, "switching_frequency": 40e3}, 0.68e-6),
)
def clamp_capacitor(clamp_ripple_fraction, clamp_resistor, switching_frequency):
    """Capacitor that keeps the clamp's ripple small."""
    return nearest_in("E6", "up")(1 / (clamp_ripple_fraction * clamp_resistor * switching_frequency))


@clamp.operation(
    unit="V",
    symbol=r"\hat V_c",
    source=SEV,
    title="Clamp voltage in the crest",
    tex=_SETTLED % ("V", *("crest_leakage_power",) * 3),
    example=({"input_voltage": 24, "crest_leakage_power": 2.5, **_WITH}, 58.846),
)
def clamp_voltage(input_voltage, crest_leakage_power, leakage_inductance, switching_frequency, clamp_resistor, emptying_rest):
    """Voltage that the clamp settles at over the winding's own, which it never falls below; without a rest V·(V − V_r) = E·R."""
    return settled(input_voltage, crest_leakage_power, leakage_inductance, switching_frequency, clamp_resistor, emptying_rest)


@clamp.operation(
    unit="V",
    symbol=r"\Delta v",
    source="charge balance",
    title="Ripple of the clamp voltage",
    tex=r"\frac{clamp_voltage}{{clamp_resistor}\,{clamp_capacitor}\,{switching_frequency}}",
)
def clamp_ripple(clamp_voltage, clamp_resistor, clamp_capacitor, switching_frequency):
    """Peak-to-peak ripple of the clamp: what its resistor takes out in one period."""
    return clamp_voltage / (clamp_resistor * clamp_capacitor * switching_frequency)


@clamp.operation(
    unit="V",
    symbol=r"V_\mathrm{DS,pk}",
    tex=r"{input_voltage}+{clamp_voltage}+\frac{clamp_ripple}{2}",
    source=SEV,
    title="Switch voltage with spike",
    example=({"input_voltage": 24, "clamp_voltage": 60, "clamp_ripple": 3}, 85.5),
)
def drain_peak_voltage(input_voltage, clamp_voltage, clamp_ripple):
    """Highest voltage of one drain: supply, clamp, and half the clamp's ripple."""
    return input_voltage + clamp_voltage + clamp_ripple / 2


@clamp.build(unit="V", symbol=r"\hat V_{c,\max}", source="highest over the corners", title="Highest clamp voltage", tex=r"\max({clamp_voltage}+{clamp_ripple})")
def highest_clamp_voltage(clamp_voltage, clamp_ripple):
    """Voltage that the clamp's capacitor and diode must stand."""
    return highest(clamp_voltage + clamp_ripple)


@clamp.operation(
    unit="W",
    symbol=r"P_c",
    source=SEV,
    title="Loss of one clamp",
    tex=_SETTLED % (r"\frac{V^2}{clamp_resistor}", *("leakage_power",) * 3),
    example=({"input_voltage": 24, "leakage_power": 2.5, **_WITH}, 4.22295),
)
def clamp_loss(input_voltage, leakage_power, leakage_inductance, switching_frequency, clamp_resistor, emptying_rest):
    """Power that one clamp's resistor burns: the leakage's, the winding's share, and without load the winding's voltage alone."""
    return settled(input_voltage, leakage_power, leakage_inductance, switching_frequency, clamp_resistor, emptying_rest) ** 2 / clamp_resistor


@clamp.operation(unit="W", symbol=r"P_\mathrm{loss}", start=3.0, grows=BY_POWER, tex=r"{driven_windings}\,{clamp_loss}", source=SEV, title="Loss")
def loss(driven_windings, clamp_loss):
    """Loss of both clamps."""
    return driven_windings * clamp_loss


clamp.rename(pulse_loss="loss")


RATINGS = (1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 30.0, 50.0, 100.0)
"""Watts in which power resistors are sold."""


@clamp.build(
    unit="W",
    symbol=r"P_{R,\mathrm{rat}}",
    source="half its rating at most, next size sold",
    title="Clamp resistor rating",
    empirical=True,
    tex=r"\operatorname{rating}_\uparrow\left(\max\left(\frac{2\,{clamp_loss}}{1+{surge}({resistor_overload}-1)}\right)\right)",
    example=({"clamp_loss": 4.2, "surge": 0, "resistor_overload": 5}, 10.0),
)
def clamp_resistor_rating(clamp_loss, surge, resistor_overload):
    """Power rating of one clamp resistor: twice what it burns, a start counted by what it stands for seconds."""
    return next_of(RATINGS, highest(2 * clamp_loss / (1 + surge * (resistor_overload - 1))))


@clamp.operation(
    unit="W",
    symbol=r"P_{R}",
    source="[judgement] short-time overload of a resistor",
    title="Resistor stands",
    tex=r"{clamp_resistor_rating}\,(1+{surge}({resistor_overload}-1))",
)
def clamp_resistor_stands(clamp_resistor_rating, surge, resistor_overload):
    """Power that one clamp resistor stands: its rating for good, more for the seconds of a start."""
    return clamp_resistor_rating * (1 + surge * (resistor_overload - 1))


@clamp.build(unit="W", symbol=r"P_{c,\mathrm{last}}", tex=r"\max_\mathrm{lasting}({loss})", source="surge left out", title="Lasting loss of the clamps")
def lasting_loss(loss):
    """Highest lasting loss of both clamps."""
    return highest_lasting(loss)


@clamp.build(
    unit="W",
    symbol=r"P_{1\%}",
    tex=r"\frac{\max_\mathrm{lasting}({output_power})}{100}",
    source="[judgement] push-pull while the clamps lose at most 1 %",
    title="One per cent of the power",
    example=({"output_power": 850}, 8.5),
)
def leakage_allowance(output_power):
    """Leakage loss up to which the push-pull is usual: one per cent of the lasting power."""
    return highest_lasting(output_power) / 100


@clamp.build(unit="credit", symbol="c", source="[judgement] small parts", title="Cost", tex=r"{driven_windings}\,{clamp_price}")
def cost(driven_windings, clamp_price):
    """Cost of the clamps."""
    return driven_windings * clamp_price


@clamp.build(unit="", symbol="n", source="count", title="Parts", tex=r"3\,{driven_windings}", example=({"driven_windings": 2}, 6))
def part_count(driven_windings):
    """Resistor, capacitor and diode of each clamp."""
    return 3 * driven_windings


clamp.check(
    "clamp_room",
    title="Clamp above the winding",
    demand="highest_source_voltage",
    capability="wanted_clamp_voltage",
    fail=1.0,
    hold=1.2,
    harm="equipment",
    sentence="The switch's rating leaves the clamp {capability} over a winding that holds {demand}.",
    why="A clamp near the winding's own voltage conducts all the time and burns its resistor.",
    remedies=(Move("dynamic_reserve", "down", 1.1, "yardstick"),),
)
clamp.check(
    "clamp_resistor_power",
    title="Clamp resistor",
    demand="clamp_loss",
    capability="clamp_resistor_stands",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="Each clamp resistor burns {demand}; it stands {capability}.",
    why="At its full rating a resistor glows and drifts.",
    remedies=(Move("clamp_resistor_rating", "up", 5.0), Move("loop_inductance", "down", 3.0, "world")),
)
clamp.check(
    "leakage_share",
    title="Leakage loss",
    demand="lasting_loss",
    capability="leakage_allowance",
    fail=0.5,
    hold=1.0,
    harm="none",
    sentence="The clamps burn up to {demand}; one per cent of the power is {capability}.",
    why="Where leakage costs more than that, the full bridge returns the energy instead.",
    remedies=(Move("loop_inductance", "down", 3.0, "world"), Move("wanted_frequency", "down", 2.0)),
)

clamp.order("Clamp resistor", "{clamp_resistor}", "{clamp_resistor_rating}, non-inductive", count=("driven_windings",), price=("clamp_price", 0.4))
clamp.order("Clamp capacitor", "{clamp_capacitor}", "film, pulse rated, above {wanted_clamp_voltage}", count=("driven_windings",), price=("clamp_price", 0.35))
clamp.order("Clamp diode", "ultra-fast", "above {drain_peak_voltage}", count=("driven_windings",), price=("clamp_price", 0.25))
