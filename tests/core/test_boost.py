"""The boost converter against its own choke stepped in time, and its line-up: what it says at the edges of what it can do."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rhombos.core.comparison import ISOLATION, compare
from rhombos.core.graph.telling import hazards
from rhombos.core.graph.verdicts import FAILS, HOLDS
from rhombos.formats.design import of_sample
from tests.core.formula import figure

STEPS = 20_000
FREQUENCY, CHOKE = 80e3, 500e-6


@dataclass
class Stepped:
    """A period of the choke's current and which of it the diode carries, stepped until it repeats."""

    current: np.ndarray
    through_diode: np.ndarray

    @property
    def mean(self) -> float:
        return float(self.current.mean())


def stepped(source: float, link: float, duty: float, choke_resistance: float, switch_resistance: float, diode: float) -> Stepped:
    """Switch on for `duty` of the period; with resistance the affine map from a period's first current to its last is solved for where they are one."""
    step = 1 / (FREQUENCY * STEPS)
    on = np.arange(STEPS) < duty * STEPS

    def period(first: float) -> tuple[np.ndarray, float]:
        wave, now = np.zeros(STEPS), first
        for k in range(STEPS):
            volts = source - now * (choke_resistance + switch_resistance) if on[k] else source - now * choke_resistance - diode - link
            following = max(now + volts * step / CHOKE, 0.0)
            wave[k] = (now + following) / 2
            now = following
        return wave, now

    first = 0.0
    if choke_resistance > 0:
        low, high = (period(start)[1] for start in (50.0, 100.0))
        slope = (high - low) / 50
        first = max((low - 50 * slope) / (1 - slope), 0.0)
    wave, _ = period(first)
    return Stepped(wave, np.where(on, 0.0, wave))


@pytest.mark.parametrize(("source", "duty"), [(190.0, 0.5), (64.0, 0.84), (300.0, 0.22)])
def test_the_duty_above_the_boundary_balances_the_volt_seconds(source, duty):
    """Duty fixed and the link's voltage sought at which the choke carries some ten amperes: the formula then gives that duty."""
    losses = {"choke_resistance": 0.15, "switch_resistance": 0.08, "diode": 1.3}
    low, high = source, source / (1 - duty) + 20
    for _ in range(40):
        link = (low + high) / 2
        wave = stepped(source, link, duty, **losses)
        low, high = (link, high) if wave.mean > 10 else (low, link)
        if abs(wave.mean - 10) < 0.05:
            break
    assert wave.current.min() > 0
    given_ = {"input_voltage": source, "output_voltage": link, "diode_forward_voltage": 1.3, "choke_resistance": 0.15, "position_resistance": 0.08}
    assert figure("boost", "continuous_duty", choke_current=wave.mean, **given_) == pytest.approx(duty, abs=1e-3)
    ripple = ripple_of(source, duty, wave.mean, 0.15, 0.08)
    assert ripple == pytest.approx(np.ptp(wave.current), rel=5e-3)
    assert_currents(wave, duty, 1 - duty, ripple)
    reach = figure("boost", "reachable_voltage", duty_limit=duty, choke_current=wave.mean, **{k: v for k, v in given_.items() if k != "output_voltage"})
    assert reach == pytest.approx(link, rel=2e-3)


@given(source=st.floats(40, 300), duty=st.floats(0.05, 0.3))
@settings(max_examples=12)
def test_below_the_boundary_the_choke_empties_in_every_period(source, duty):
    link, diode = 380.0, 1.3
    wave = stepped(source, link, duty, 0.0, 0.0, diode)
    lifted = link + diode - source
    if duty * source > 0.9 * lifted * (1 - duty):
        return  # the current would not stop
    link_current = float(wave.through_diode.mean())
    ours = figure("boost", "discontinuous_duty", choke_inductance=CHOKE, ripple_frequency=FREQUENCY, link_current=link_current, output_voltage=link, diode_forward_voltage=diode, input_voltage=source)  # fmt: skip
    assert ours == pytest.approx(duty, rel=5e-3)
    ripple = ripple_of(source, duty, wave.mean, 0.0, 0.0)
    diode_duty = figure("boost", "diode_duty", effective_duty=duty, link_current=link_current, choke_ripple=ripple)
    assert diode_duty == pytest.approx(np.mean(wave.through_diode > 0), abs=2e-3)
    assert source * wave.mean == pytest.approx((link + diode) * link_current, rel=5e-3), "nothing is lost but in the diode"
    assert_currents(wave, duty, diode_duty, ripple)


def ripple_of(source: float, duty: float, mean: float, choke: float, switch: float) -> float:
    return figure("boost", "choke_ripple", input_voltage=source, choke_current=mean, choke_resistance=choke, position_resistance=switch, effective_duty=duty, ripple_frequency=FREQUENCY, choke_inductance=CHOKE)  # fmt: skip


def assert_currents(wave: Stepped, duty: float, diode_duty: float, ripple: float) -> None:
    """Peak, rms of switch and choke, and ripple to both sides, from the wave."""
    near = pytest.approx
    square = figure("boost", "choke_mean_square", choke_current=wave.mean, choke_ripple=ripple)
    assert figure("boost", "peak_current", choke_current=wave.mean, choke_ripple=ripple, choke_swing=0.0, effective_duty=duty) == near(
        wave.current.max(), rel=5e-3
    )
    through_switch = wave.current - wave.through_diode
    assert figure("boost", "switch_rms_current", effective_duty=duty, choke_mean_square=square, choke_swing=0.0) == near(
        np.sqrt((through_switch**2).mean()), rel=1e-2
    )
    assert figure("boost", "choke_rms_current", effective_duty=duty, diode_duty=diode_duty, choke_mean_square=square, choke_swing=0.0) == near(
        np.sqrt((wave.current**2).mean()), rel=5e-3
    )
    drawn = figure("boost", "drawn_ripple_current", effective_duty=duty, diode_duty=diode_duty, choke_mean_square=square, choke_current=wave.mean)
    assert drawn == near(wave.current.std(), rel=3e-2)
    feed = figure("boost", "feed_ripple_current", diode_duty=diode_duty, choke_mean_square=square, link_current=float(wave.through_diode.mean()))
    assert feed == near(wave.through_diode.std(), rel=2e-2)
    charge = figure("boost", "drawn_ripple_charge", choke_ripple=ripple, choke_current=wave.mean, ripple_frequency=FREQUENCY)
    assert charge == near(np.maximum(wave.current - wave.mean, 0).mean() / FREQUENCY, rel=3e-2)


@pytest.fixture(scope="module", name="sample")
def _sample():
    design = of_sample("boost_link_bridge")
    model = design.model()
    return model, design.inputs(), model.solve(design.inputs())


def test_its_sample_brief_holds_and_its_power_balances(sample):
    _, _, sheet = sample
    assert sheet.judge().code.min() >= HOLDS
    losses = sum(np.asarray(sheet.value(n.key)) for n in sheet.wiring.nodes if n.figure.name == "loss" and n.place not in ("battery", "cutoff", "precharge"))
    np.testing.assert_allclose(sheet.value("input.input_power"), sheet.value("output.input_power") + losses, rtol=1e-6)


def test_nothing_isolates_and_it_is_said(sample):
    model, _, _ = sample
    told = hazards(model.wiring, model.wiring.lineup.place("front"))
    assert "not_isolated" in {h["kind"] for h in told}


def test_a_source_above_the_link_fails_and_passes_the_diode(sample):
    model, inputs, _ = sample
    sheet = model.solve(inputs.with_given("battery.cells", 120.0))
    row, _ = sheet.check("front.source_below_link")
    assert sheet.judge().code[row, sheet.corners.ids.index("highest_full")] == FAILS
    assert sheet.at("front.effective_duty", "highest_full") == 0
    assert sheet.at("front.output_voltage", "highest_full") == pytest.approx(sheet.at("battery.terminal_voltage", "highest_full"), rel=0.01)
    assert sheet.at("front.choke_ripple", "highest_full") == 0


def test_a_low_source_comes_out_of_reach(sample):
    model, inputs, _ = sample
    sheet = model.solve(inputs.with_given("battery.cells", 4.0).with_given("oscillator.off_fraction", 0.2))
    row, _ = sheet.check("front.reach")
    assert sheet.judge().code[row].min() < HOLDS


def test_the_comparison_says_which_line_up_isolates():
    designs = {id: of_sample("boost_link_bridge").model_copy(update={"lineup": id}) for id in ("boost_link_bridge", "ferrite_bridge_link_bridge")}
    solved = {id: (d.model(), d.model().solve(d.inputs())) for id, d in designs.items()}
    row = next(row for row in compare(solved).rows if row.title == ISOLATION)
    assert row.parts["boost_link_bridge"].startswith("none")
    assert row.parts["ferrite_bridge_link_bridge"] == "isolated"
