"""What can be done about the energy of a leakage: every snubber and clamp on the same leakage, current and frequency (6.1)."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from rhombos.core.circuit.network import CircuitError, Element
from rhombos.core.circuit.switched.elements import Diode, Event, Switch, Switched
from rhombos.core.circuit.switched.march import Run
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Limit, Plot, Seen, Series, Table, Way
from rhombos.core.units import show

RINGING = "two frequencies of the same ringing, measured without and with a known capacitor across it"
SEV = "Severns, Design of Snubbers for Power Circuits"

snubbers = Stage("snubbers", "Snubber chooser", path=False, telling="{snubbing_capacitor} · {snubbing_resistor}")
snubbers.hazard("pulsed_voltage", "switch_rating")
snubbers.give("bare_ringing", 8e6, "Hz", r"f_0", 1e3, 1e9, "Frequency at which it rings, as measured.", "Rings at")
snubbers.give("added_capacitor", 3e-9, "F", r"C_+", 1e-13, 1e-4, "Capacitor that was put across it.", "Capacitor put across")
snubbers.give("slowed_ringing", 4e6, "Hz", r"f_1", 1e3, 1e9, "Frequency at which it rings with that capacitor.", "Then rings at")
snubbers.give("end_current", 20.0, "A", r"\hat I", 1e-3, 1e4, "Current at the end of the pulse.", "Current at turn-off")
snubbers.give("snubber_frequency", 40e3, "Hz", "f", 1, 1e7, "How often it is switched off.", "Frequency")
snubbers.give("rail_voltage", 24.0, "V", r"V_\mathrm{in}", 0.1, 1e4, "Rail.", "Rail")
snubbers.give("held_voltage", 24.0, "V", r"V_r", 0.1, 1e4, "What the winding still holds after turn-off, from the rail.", "Winding holds")
snubbers.give("switch_rating", 100.0, "V", r"V_{DSS}", 1, 1e4, "Voltage that the switch stands.", "Switch stands")
snubbers.give("dynamic_reserve", 1.1, "", r"k_d", 1, 2, "Rating over the highest peak.", "Dynamic reserve")
snubbers.give("capacitor_factor", 4.0, "", r"k_C", 1, 10, "Snubber capacitor over the parasitic one (3 to 4).", "Capacitor, relative")
snubbers.give("fall_time", 30e-9, "s", r"t_f", 1e-10, 1e-4, "Fall time of the switch's current.", "Fall time")
snubbers.choice(
    "rest",
    {"dead": Option("an interval with both off", {"charges": 2}), "none": Option("none", {"charges": 4})},
    {"charges": ("", r"k_Q", "How often in a period the square of the rail's step is lost.")},
    default="dead",
    sentence="Whether a push-pull rests between its pulses: the drain then steps by the rail, else by twice of it at once.",
    title="Rest between pulses",
)


@snubbers.build(
    unit="F",
    symbol=r"C_\mathrm{par}",
    source=RINGING,
    title="Parasitic capacitance",
    tex=r"\frac{added_capacitor}{\left({bare_ringing}/{slowed_ringing}\right)^2-1}",
    example=({"added_capacitor": 3e-9, "bare_ringing": 8e6, "slowed_ringing": 4e6}, 1e-9),
)
def parasitic_capacitance(added_capacitor, bare_ringing, slowed_ringing):
    """What rings with the leakage; a third of the capacitor that halves the frequency."""
    return added_capacitor / ((bare_ringing / slowed_ringing) ** 2 - 1)


@snubbers.build(
    unit="H",
    symbol=r"L_\mathrm{par}",
    source=RINGING,
    title="Parasitic inductance",
    tex=r"\frac{1}{\left(2\pi\,{bare_ringing}\right)^2{parasitic_capacitance}}",
    example=({"bare_ringing": 8e6, "parasitic_capacitance": 1e-9}, 395.8e-9),
)
def parasitic_inductance(bare_ringing, parasitic_capacitance):
    """The leakage, as it rings."""
    return 1 / ((2 * np.pi * bare_ringing) ** 2 * parasitic_capacitance)


@snubbers.build(
    unit="Ω",
    symbol="R",
    source=SEV,
    title="Snubber resistor",
    safe="up",
    tex=r"\mathrm{E12}\left(\sqrt{{parasitic_inductance}/{parasitic_capacitance}}\right)",
    example=({"parasitic_inductance": 395.8e-9, "parasitic_capacitance": 1e-9}, 18.0),
)
def snubbing_resistor(parasitic_inductance, parasitic_capacitance):
    """The impedance of what rings."""
    return nearest_in("E12")(np.sqrt(parasitic_inductance / parasitic_capacitance))


@snubbers.build(
    unit="F",
    symbol=r"C_s",
    source=SEV,
    title="Snubber capacitor",
    safe="up",
    tex=r"\mathrm{E6}_\uparrow\left({capacitor_factor}\,{parasitic_capacitance}\right)",
    example=({"capacitor_factor": 4, "parasitic_capacitance": 1e-9}, 4.7e-9),
)
def snubbing_capacitor(capacitor_factor, parasitic_capacitance):
    """Three to four times what rings: a capacitor alone would only lower and slow the ring."""
    return nearest_in("E6", "up")(capacitor_factor * parasitic_capacitance)


@snubbers.build(
    unit="W",
    symbol=r"P_{RC}",
    source=SEV,
    title="Loss of the R-C",
    tex=r"{charges}\,{snubbing_capacitor}\,{rail_voltage}^2\,{snubber_frequency}",
    example=({"charges": 2, "snubbing_capacitor": 4.7e-9, "rail_voltage": 24, "snubber_frequency": 40e3}, 0.21658),
)
def snubbing_loss(charges, snubbing_capacitor, rail_voltage, snubber_frequency):
    """From drain to ground of a push-pull, by the steps of its drain alone; the leakage's own energy comes on top."""
    return charges * snubbing_capacitor * rail_voltage**2 * snubber_frequency


@snubbers.build(
    unit="W",
    symbol="E",
    source="energy of the leakage",
    title="Power of the leakage",
    tex=r"\tfrac12{parasitic_inductance}\,{end_current}^2\,{snubber_frequency}",
    example=({"parasitic_inductance": 400e-9, "end_current": 20, "snubber_frequency": 40e3}, 3.2),
)
def leakage_power(parasitic_inductance, end_current, snubber_frequency):
    """What the leakage holds, every time."""
    return parasitic_inductance * end_current**2 / 2 * snubber_frequency


@snubbers.build(
    unit="V",
    symbol=r"V_c",
    source="what the dynamic guard leaves",
    title="Level of a clamp",
    tex=r"\frac{switch_rating}{dynamic_reserve}-{rail_voltage}",
    example=({"switch_rating": 100, "dynamic_reserve": 1.1, "rail_voltage": 24}, 66.909),
    low=-1e6,
)
def clamp_level(switch_rating, dynamic_reserve, rail_voltage):
    """From the rail."""
    return switch_rating / dynamic_reserve - rail_voltage


@snubbers.build(
    unit="W",
    symbol=r"P_c",
    source="energy of the leakage, and what the winding adds while its current falls",
    title="Loss of a clamp",
    tex=r"{leakage_power}\frac{clamp_level}{\max({clamp_level}-{held_voltage},\,0.01\,{held_voltage})}",
    example=({"leakage_power": 3.2, "clamp_level": 66.9, "held_voltage": 24}, 4.99),
)
def clamp_loss(leakage_power, clamp_level, held_voltage):
    """Of a resistor or a zener alike."""
    return leakage_power * clamp_level / np.maximum(clamp_level - held_voltage, 0.01 * held_voltage)


@snubbers.build(
    unit="V",
    symbol=r"\hat V_0",
    source="the current charges the parasitic capacitance",
    title="Peak without anything",
    tex=r"{rail_voltage}+{held_voltage}+{end_current}\sqrt{\frac{parasitic_inductance}{parasitic_capacitance}}",
    example=({"rail_voltage": 24, "held_voltage": 24, "end_current": 20, "parasitic_inductance": 395.8e-9, "parasitic_capacitance": 1e-9}, 445.9),
)
def bare_peak(rail_voltage, held_voltage, end_current, parasitic_inductance, parasitic_capacitance):
    """Where the ring would lead if the switch did not break down first."""
    return rail_voltage + held_voltage + end_current * np.sqrt(parasitic_inductance / parasitic_capacitance)


snubbers.check(
    "measured",
    title="Frequencies tell the parasitics",
    demand="slowed_ringing",
    capability="bare_ringing",
    fail=1.0,
    hold=1.3,
    harm="none",
    sentence="With the capacitor it rings at {demand}, without at {capability}.",
    why="Frequencies that lie close together tell nothing: put a larger capacitor across.",
    remedies=(Move("slowed_ringing", "down", 4.0),),
)
snubbers.check(
    "clamp_above",
    title="Room for a clamp",
    demand="held_voltage",
    capability="clamp_level",
    fail=1.0,
    hold=1.3,
    harm="equipment",
    sentence="The winding holds {demand}; a clamp that the switch stands lies at {capability}.",
    why="Near the winding's own voltage a clamp takes the load's power.",
    remedies=(Move("switch_rating", "up", 3.0),),
)

LOSS_OF_THE_RING, CONTACT, DROP = 1 / 30, 1e-3, 0.7
"""Share of its impedance that a bare ring has as resistance, beside its capacitance [judgement]; Ω of the switch; V of a diode."""


READ = (
    *("parasitic_inductance", "parasitic_capacitance", "end_current", "snubber_frequency", "rail_voltage", "held_voltage", "fall_time"),
    *("clamp_level", "clamp_loss", "snubbing_resistor", "snubbing_capacitor"),
)
"""What the ways are made from."""


@dataclass(frozen=True)
class _Way:
    """One way: its parts between drain and the rail, of what they are, and the price of them [judgement]."""

    title: str
    elements: tuple[Element, ...]
    diodes: tuple[Diode, ...]
    said: str
    price: float


def _ways(at: Callable[[str], float]) -> list[_Way]:
    level, power, frequency = at("clamp_level"), at("clamp_loss"), at("snubber_frequency")
    r, c = at("snubbing_resistor"), at("snubbing_capacitor")
    clamp_r = nearest_in("E24", "down")(level**2 / power)
    clamp_c = nearest_in("E6", "up")(1 / (0.05 * clamp_r * frequency))
    zener = nearest_in("E24", "down")(level)
    turn_off = nearest_in("E6")(at("end_current") * at("fall_time") / (2 * (at("held_voltage") + at("rail_voltage"))))
    again = nearest_in("E12", "up")((at("held_voltage") + at("rail_voltage")) / at("end_current"))
    ohm, farad = lambda x: show(x, "Ω", 3), lambda x: show(x, "F", 3)
    return [
        _Way("nothing", (), (), "the switch's avalanche", 0.0),
        _Way("R-C", (Element("R", "r", "drain", "x", r), Element("C", "c", "x", "0", c)), (), f"{ohm(r)}, {farad(c)}", 0.8),
        _Way(
            "diode, capacitor, resistor to the rail",
            (Element("C", "c", "x", "0", clamp_c), Element("R", "r", "x", "0", clamp_r)),
            (Diode("d", "drain", "x", DROP, 0.01),),
            f"{farad(clamp_c)}, {ohm(clamp_r)}",
            2.6,
        ),
        _Way("diode and zener", (), (Diode("d", "drain", "0", zener, 0.2),), show(zener, "V", 3), 1.9),
        _Way(
            "diode, capacitor, resistor: slows the edge",
            (Element("C", "c", "x", "0", turn_off), Element("R", "r", "drain", "x", again)),
            (Diode("d", "drain", "x", DROP, 0.01),),
            f"{farad(turn_off)}, {ohm(again)}",
            1.6,
        ),
    ]


def _run(at: Callable[[str], float], way: _Way) -> Run:
    """The leakage charged to the current, let go and held by the winding; volts from the rail."""
    inductance, capacitance = at("parasitic_inductance"), at("parasitic_capacitance")
    impedance, rail = np.sqrt(inductance / capacitance), at("rail_voltage")
    seconds = 1 / at("snubber_frequency")
    on = min(inductance * at("end_current") / rail, seconds / 2)
    circuit = Switched(
        (
            Element("V", "winding", "w", "0", rail),
            Element("L", "leakage", "w", "drain", inductance),
            Element("R", "lossy", "drain", "p", LOSS_OF_THE_RING * impedance),
            Element("C", "parasitic", "p", "0", capacitance),
            *way.elements,
        ),
        (Switch("switch", "drain", "0", CONTACT),),
        way.diodes,
    )
    held = max(at("held_voltage"), 1e-6)
    return repeat(circuit, (Event(0.0, {"switch": True}, {"winding": rail}), Event(on, {"switch": False}, {"winding": held})), seconds)


def runs(seen: Seen) -> list[tuple[_Way, Run | None]]:
    """Every way with its period in steady state, None where none was found."""
    return _all(tuple(seen.at(name) for name in READ))


@lru_cache(maxsize=8)
def _all(numbers: tuple[float, ...]) -> list[tuple[_Way, Run | None]]:
    """All ways for these numbers: table and traces show the same runs, so they are made once."""
    at = dict(zip(READ, numbers, strict=True)).__getitem__
    found: list[tuple[_Way, Run | None]] = []
    for way in _ways(at):
        try:
            found.append((way, _run(at, way)))
        except (CircuitError, ArithmeticError):
            found.append((way, None))
    return found


@snubbers.picture("What would hold this leakage")
def compared(seen: Seen) -> Table:
    """Every way in the same circuit, period after period: the peak across the switch, what its parts burn, and what they are."""
    rows, rating, guard = [], seen.at("switch_rating"), seen.at("dynamic_reserve")
    for way, run in runs(seen):
        if run is None:
            rows.append(Way([way.title, "not known", "not known", way.said, ""], "unknown"))
            continue
        peak = seen.at("rail_voltage") + float(run.voltage("drain", "0", run.times(4000)).max())
        names = [e.name for e in way.elements if e.kind == "R"] + [d.name for d in way.diodes]
        watts = run.heat(*names) / run.seconds if names else 0.0
        verdict = "holds" if peak * guard <= rating else "tight" if peak <= rating else "fails"
        rows.append(Way([way.title, show(peak, "V", 3), show(watts, "W", 3), way.said, f"{way.price:.1f} cr"], verdict))  # type: ignore[arg-type]
    note = (
        f"Simulated with {show(seen.at('parasitic_inductance'), 'H', 3)} and {show(seen.at('parasitic_capacitance'), 'F', 3)}; the switch lets go at once. "
        "A full bridge needs none of them for its leakage: its diodes lead it back to the rail."
    )
    return Table(["Way", "Peak", "Burnt", "Parts", "About"], rows, note)


@snubbers.picture("The drain after turn-off")
def traces(seen: Seen) -> Plot:
    """All ways one over another, from the moment the switch lets go."""
    tones = ("slate", "copper", "hold", "tight", "fail")
    series = []
    for k, (_, run) in enumerate(runs(seen)):
        if run is None:
            continue
        begin = next(s.begin for s in run.stretches if s.begin > 0)
        times = np.linspace(0, min(8 / seen.at("bare_ringing"), run.seconds - begin), 500)
        volts = seen.at("rail_voltage") + run.voltage("drain", "0", begin + times)
        series.append(Series(SHORT[k], times, volts, tones[k], dashed=k == 0))  # type: ignore[arg-type]
    return Plot("after turn-off", "s", "V", series, [Limit("switch stands", seen.at("switch_rating"))], y_from=0.0)


SHORT = ("none", "R-C", "clamp", "zener", "slowed")
