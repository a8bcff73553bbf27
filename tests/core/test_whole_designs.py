"""Ordinary designs looked at whole: what a motor start, a lamp, a low pack and two line-ups really do, by a route of its own."""

import math
from functools import cache
from typing import NamedTuple

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import hazards
from rhombos.core.lineups import LINE_UPS, TITLES
from rhombos.core.lineups.samples import FIELD_STATION
from rhombos.formats.design import Design, LoadRow, of_sample

PUSH_PULL, BRIDGE = "ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"
HOLDS, FAILS = 3, 0


class Whole(NamedTuple):
    """A brief of 24 V on LiFePO4, solved."""

    model: Model
    sheet: Sheet

    def all(self, key: str) -> np.ndarray:
        return np.broadcast_to(self.sheet.value(key), (11,))

    def verdict(self, check: str) -> int:
        return int(self.sheet.judge().code[[c.key for c in self.model.wiring.checks].index(check)].min())

    def hazards(self) -> set[tuple[str, str]]:
        """Places and kinds of what is told, by the numbers."""
        wiring = self.model.wiring
        told = ((place.name, h) for place in wiring.lineup.places for h in hazards(wiring, place))
        return {(place, h["kind"]) for place, h in told if np.nanmax(self.sheet.value(h["figure"])) > h["above"]}


@cache
def brief(lineup: str, loads: tuple[tuple[str, float], ...], **givens: float) -> Whole:
    names = [f"load_{n + 1}" for n in range(len(loads))]
    design = Design(
        title="As typed",
        lineup=lineup,
        loads=[LoadRow(place=name, title=kind) for name, (kind, _) in zip(names, loads, strict=True)],
        givens={
            "battery.cells": 8.0,
            "battery.capacity": 360e3,
            **{f"{name}.rated_power": watts for name, (_, watts) in zip(names, loads, strict=True)},
            **{key.replace("__", "."): value for key, value in givens.items()},
        },
        choices={"battery.chemistry": "lifepo4", **{f"{name}.type": kind for name, (kind, _) in zip(names, loads, strict=True)}},
    )
    model = design.model()
    return Whole(model, model.solve(design.inputs()))


TIRED = 5.0
"""Resistance of old cells over that of new ones."""
MOTOR = (("induction_motor", 300.0),)


def test_a_motor_start_lifts_the_clamp_as_far_as_its_pulses_do():
    """Each corner's clamp, pulse by pulse from the corner's own end-of-pulse current: the start at the highest source is the one that counts."""
    whole = brief(PUSH_PULL, MOTOR)
    held, leak, peak = whole.all("front.driven_voltage"), whole.all("transformer.leakage_inductance"), whole.all("front.peak_current")
    r, c, f = (whole.all(k)[0] for k in ("clamp.clamp_resistor", "clamp.clamp_capacitor", "oscillator.switching_frequency"))
    v = whole.all("clamp.clamp_voltage") * 0.9
    for _ in range(int(14 * r * c * f)):
        top = held + np.sqrt((v - held) ** 2 + leak * peak**2 / c)
        v = top * np.exp(-1 / (r * c * f))
    drain = whole.all("clamp.drain_peak_voltage")
    np.testing.assert_array_less(held + top, drain * 1.01)
    assert np.argmax(drain) in (7, 10), "a surge at the highest source"
    assert whole.sheet.at("clamp.highest_clamp_voltage", "nominal_full") == pytest.approx(np.max(drain - held + whole.all("clamp.clamp_ripple") / 2), rel=0.01)
    assert np.max(drain) > 1.3 * drain[6], "a lasting corner alone would have told far less"


@pytest.mark.parametrize("lineup", TITLES)
def test_a_start_on_tired_cells_trips_the_cut_off(lineup):
    """The battery's own quadratic for the watts of the start, and the cells' drop of it: below the threshold that the parts' tolerances allow."""
    design = of_sample(lineup)
    model, inputs = design.model(), design.inputs()
    fresh = Whole(model, model.solve(inputs))
    tired = TIRED * fresh.all("battery.cell_resistance")[0]
    quick = inputs.with_pin("cutoff.filter_time", 0.05, "sees every start")
    whole = Whole(model, model.solve(quick.with_pin("battery.cell_resistance", float(tired), "tired")))
    at = whole.sheet.corners.ids.index("lowest_surge_watts")
    open_, r = whole.all("battery.open_circuit_voltage")[at], whole.all("battery.source_resistance")[at]
    watts = whole.all("battery.terminal_voltage")[at] * whole.all("battery.source_current")[at]
    volts = (open_ + math.sqrt(open_**2 - 4 * watts * r)) / 2
    assert whole.all("battery.terminal_voltage")[at] == pytest.approx(volts, rel=1e-9), "a start is over before the cut-off acts: the cells stand alone"
    assert whole.all("battery.resting_pack_voltage")[at] == pytest.approx(open_ - watts / volts * whole.all("battery.cells")[0] * tired, rel=5e-4)
    assert whole.verdict("cutoff.no_trip_in_service") == FAILS
    assert Whole(model, model.solve(quick)).verdict("cutoff.no_trip_in_service") == HOLDS


@pytest.mark.parametrize(
    ("cells", "loads"), [(4.0, (("heater", 300.0),)), (8.0, (("induction_motor", 250.0),)), (16.0, (("heater", 500.0), ("active_pfc", 200.0)))]
)
@pytest.mark.parametrize("lineup", [PUSH_PULL, BRIDGE])
def test_an_ordinary_brief_has_an_operation_at_every_corner(lineup, cells, loads):
    """A corner whose loop runs away from the declared start begins again where its neighbours came to rest (12 V: without load, highest source)."""
    sheet = brief(lineup, loads, battery__cells=cells).sheet
    assert np.isfinite(sheet.value("battery.terminal_voltage")).all()
    assert np.isfinite(sheet.value("front.flat_top_current")).all()


@pytest.mark.parametrize("lineup", TITLES)
def test_the_start_with_the_most_watts_is_the_source_s_the_one_with_the_most_va_the_bridge_s(lineup):
    design = of_sample(lineup)
    model = design.model()
    sheet = model.solve(design.inputs())
    corners = list(sheet.corners.ids)
    va, watts = corners.index("lowest_surge"), corners.index("lowest_surge_watts")
    source, bridge, seconds = (sheet.value(k) for k in ("battery.source_current", "bridge.sine_crest_current", "output.surge_time"))
    assert source[watts] == source.max()
    assert bridge[va] == bridge.max()
    if LINE_UPS[lineup].sample is not FIELD_STATION:
        # There one load starts with both.
        assert [source[va], bridge[va], seconds[va]] == pytest.approx([source[watts], bridge[watts], seconds[watts]])
        return
    assert source[watts] > 1.02 * source[va]
    assert bridge[va] > 1.1 * bridge[watts]
    assert seconds[va] > 10 * seconds[watts] > 0


def test_the_two_line_ups_cost_what_their_parts_cost():
    """Two windings, two switches, a clamp against one winding, four switches, a bootstrap: not the same money, nor the same count."""
    one, other = brief(PUSH_PULL, MOTOR), brief(BRIDGE, MOTOR)
    for figure in ("totals.total_cost", "totals.total_mass", "totals.total_parts"):
        assert one.all(figure)[0] != pytest.approx(other.all(figure)[0], rel=1e-4), figure
    for whole in (one, other):
        costs = [n.key for n in whole.model.wiring.nodes if n.figure.name == "cost"]
        assert sum(whole.all(k)[0] for k in costs) == pytest.approx(whole.all("totals.total_cost")[0], rel=1e-9)


def test_people_are_told_by_the_numbers_of_their_own_design():
    low = brief(PUSH_PULL, (("heater", 400.0),)).hazards()
    assert ("link", "dc_voltage") in low
    assert ("output", "ac_voltage") in low
    assert ("battery", "fault_current") in low
    assert ("battery", "dc_voltage") not in low, "29 V"
    high = brief(BRIDGE, (("heater", 400.0),), battery__cells=28.0).hazards()
    assert {("battery", "dc_voltage"), ("input", "dc_voltage")} <= high, "102 V"
    assert {p for p, kind in low if kind == "pulsed_voltage"} == {"front", "transformer"}


@pytest.mark.parametrize("lineup", TITLES)
def test_choke_and_link_swing_as_their_circuit_does_stepped_through_time(lineup):
    """What the bridge takes at twice the output frequency, out of capacitor and choke as they stand in the sheet."""
    design = of_sample(lineup)
    sheet = design.model().solve(design.inputs())
    choke = "rectifier.choke_inductance" if "rectifier.choke_inductance" in sheet.wiring.index else "front.front_inductance"
    names = ("bridge.bridge_apparent_power", "link.link_voltage", "link.link_capacitance", choke, f"{choke.split('.')[0]}.front_resistance")
    for corner in ("lowest_full", "nominal_full", "highest_surge"):
        apparent, volts, c, inductance, r = (sheet.at(k, corner) for k in names)
        omega = 4 * math.pi * sheet.at("output.output_frequency", corner)
        taken, period = apparent / volts, 2 * math.pi / omega

        def through(start, taken=taken, omega=omega, c=c, inductance=inductance, r=r, period=period):
            def slope(t, y):
                return [(y[1] - taken * math.cos(omega * t)) / c, -(y[0] + r * y[1]) / inductance]

            return solve_ivp(slope, (0, period), start, t_eval=np.linspace(0, period, 1001), rtol=1e-10, atol=1e-10).y

        # The state that a period leads back to itself: a lightly damped choke would take seconds to find it.
        from_rest = through([0.0, 0.0])[:, -1]
        carried = np.array([through(unit)[:, -1] - from_rest for unit in ([1.0, 0.0], [0.0, 1.0])]).T
        steps = through(np.linalg.solve(np.eye(2) - carried, from_rest))
        volts_swing, amperes = np.ptp(steps[0]), np.ptp(steps[1]) / 2
        place = choke.split(".")[0]
        # Through diodes the current does not reverse: where the circuit would, it rests in its valleys, and the link swings more.
        valley = sheet.at(f"{place}.link_current", corner) - sheet.at(f"{place}.choke_ripple", corner) / 2 if place == "rectifier" else math.inf
        assert sheet.at(f"{place}.choke_swing", corner) == pytest.approx(min(amperes, max(valley, 0.0)), rel=2e-3)
        if amperes > valley:
            continue
        assert sheet.at("link.link_ripple", corner) == pytest.approx(volts_swing, rel=2e-3)
