"""What a precharge looks like: the start as it should go, and as it goes with every fault that is chosen (2.5)."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.pictures import Limit, Mark, Plot, Scene, Scenes, Seen, Series, Track
from rhombos.core.sequence.bank import Bank, Played, advanced, play
from rhombos.core.sequence.precharge import SENTENCES, Settings
from rhombos.core.stages.source import precharge_bus as precharge_bus
from rhombos.core.stages.source import precharge_parts as precharge_parts
from rhombos.core.stages.source.precharge import precharge
from rhombos.core.units import show

POINTS, STEPS = 140, 200
NOTE = "The inrush at closing lasts microseconds: it is a figure of the sheet. The simulated sequence is the one that a controller is to run."


def _settings(seen: Seen) -> Settings:
    tau = seen.at("time_constant")
    return Settings(tau, seen.at("closing_fraction"), seen.at("timeout"), overlap=0.25 * tau, fall_time=2 * tau)


def _bank(seen: Seen) -> Bank:
    return Bank(
        seen.at("highest_source_voltage"),
        seen.at("precharge_resistor"),
        seen.at("bank_capacitance"),
        loop=seen.at("loop_resistance"),
        load_resistance=seen.at("bus_load_resistance"),
        load_power=seen.at("bus_load_power"),
        wakes_at=seen.at("wake_voltage"),
    )


def _faults(bank: Bank, tau: float) -> list[tuple[str, Bank, float]]:
    """The name of every fault, the bank that has it, and when the bus is no longer wanted, in time constants."""

    def missing(now: float, volts: float) -> float | None:
        return volts if now < 0.8 * tau else None

    def stuck(now: float, volts: float) -> float:
        return volts if now < 0.8 * tau else 0.55 * bank.pack

    return [
        ("healthy start", bank, np.inf),
        ("resistor or wire open", replace(bank, resistor=1e9), np.inf),
        ("bus shorted", replace(bank, load_resistance=bank.resistor / 200), np.inf),
        ("load on the bus", replace(bank, load_resistance=4 * bank.resistor), np.inf),
        ("converter wakes too soon", replace(bank, load_power=0.3 * bank.pack**2 / bank.resistor, wakes_at=0.3 * bank.pack), np.inf),
        ("capacitor missing", replace(bank, capacitance=bank.capacitance / 30), np.inf),
        ("contactor welded before", replace(bank, welded=True), np.inf),
        ("contactor welds", replace(bank, welds=True), 5.0),
        ("reading lost", replace(bank, reads=missing), np.inf),
        ("reading stuck", replace(bank, reads=stuck), np.inf),
    ]


def _scene(name: str, bank: Bank, settings: Settings, stop: float) -> Scene:
    tau = settings.time_constant
    until = 9.0 * tau if np.isfinite(stop) else max(settings.charging_time + 1.5 * settings.overlap, 1.2 * settings.charging_time, settings.timeout * 1.05)
    played = play(bank, settings, until, stop * tau, steps=STEPS)
    end = next((k for k, state in enumerate(played.states) if state.fault), len(played.states) - 1)
    fault = played.states[end].fault
    ((first, _),) = played.spans(lambda s: s.contactor) or [(np.nan, np.nan)]
    said = SENTENCES[fault] if fault else f"The contactor closes after {show(first, 's', 3)}, the relay opens {show(settings.overlap, 's', 3)} later."
    if fault is None and not np.isfinite(first):
        said = "The bank is still being charged when the time-out comes near."
    marks = [Mark("given up", float(played.time[end]), float(played.bus[end]))] if fault else [Mark("closes", first, settings.closing_fraction * bank.pack)]
    rows = _rows(played)
    time = played.time[rows]
    tracks = [Track("precharge relay", played.spans(lambda s: s.relay)), Track("main contactor", played.spans(lambda s: s.contactor))]
    tracks.append(Track("fault", played.spans(lambda s: s.phase == "fault")))
    plots = _plots(bank, time, played.bus[rows], played.current[rows], marks)
    return Scene(name, plots, tracks, said, fault is None and bool(np.isfinite(first)))


def _rows(played: Played) -> NDArray[np.intp]:
    """A hundred and forty points or so, with all at which something is switched."""
    closed = np.array([(s.relay, s.contactor) for s in played.states])
    turns = np.flatnonzero((closed[1:] != closed[:-1]).any(axis=1))
    even = np.linspace(0, len(played.time) - 1, POINTS).astype(int)
    return np.unique(np.concatenate([even, turns, turns + 1]))


@precharge.picture("A start, and what may go wrong", "highest_source_voltage", "bank_capacitance")
def starts(seen: Seen) -> Scenes:
    """The bus through its resistor with the sequence under it; of a permanent resistor only the bank."""
    numbers = [seen.at(n) for n in ("time_constant", "timeout", "bank_capacitance", "precharge_resistor", "loop_resistance")]
    if not np.isfinite(numbers).all():
        return Scenes([])
    settings, bank = _settings(seen), _bank(seen)
    if seen.at("sequenced") == 1:
        return Scenes([_scene(name, broken, settings, stop) for name, broken, stop in _faults(bank, settings.time_constant)], NOTE)
    shorted = replace(bank, load_resistance=bank.resistor / 200)
    fills = "The bank fills as soon as the pack is connected, and is never dead while the resistor stays."
    burns = "The resistor burns all that the source gives, for as long as the pack lasts."
    ways = (("pack connected", bank, fills, True), ("bank shorted", shorted, burns, False))
    return Scenes([_left_alone(*way, tau=settings.time_constant) for way in ways], "No relay, no logic: nothing gives up.")


def _left_alone(name: str, bank: Bank, said: str, good: bool, tau: float) -> Scene:
    """A bank that nothing watches over."""
    time = np.linspace(0, 6 * tau, POINTS)
    volts = [0.0]
    for passed in np.diff(time):
        volts.append(advanced(bank, volts[-1], True, False, float(passed)))
    return Scene(name, _plots(bank, time, np.array(volts), (bank.pack - np.array(volts)) / bank.resistor, []), [], said, good)


def _plots(bank: Bank, time: Values, volts: Values, amperes: Values, marks: list[Mark]) -> list[Plot]:
    most = bank.pack / min(bank.resistor, 1e6)
    return [
        Plot("time", "s", "V", [Series("bus", time, volts)], [Limit("source", bank.pack)], marks, y_from=0.0, y_to=1.12 * bank.pack),
        Plot("time", "s", "A", [Series("through the resistor", time, amperes, "slate")], y_from=0.0, y_to=1.1 * max(most, 1e-3)),
    ]
