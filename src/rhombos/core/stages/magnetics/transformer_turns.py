"""Ferrite transformer, turns (5.1): whole turns, flux in service and in transients, copper areas."""

import numpy as np

from rhombos.core.formulas.numeric import highest, highest_lasting, up
from rhombos.core.magnetics.copper import MU0, RHO_100
from rhombos.core.stages.magnetics.transformer_core import MCL, surface_rise, transformer
from rhombos.core.stages.sizes import BY_RATIO

transformer.give(
    "first_pulse_duty", 0.3, "", r"D_1", 0.01, 1, "Total duty of the first pulse: soft start begins there [judgement].", "First pulse", judgement=True
)

transformer.give(
    "duty_step",
    0.25,
    "",
    r"\Delta D",
    0.001,
    1,
    "How far the compensation lets the total duty jump from one half cycle to the next [judgement].",
    "Duty step",
    judgement=True,
)

transformer.give(
    "pulse_mismatch", 20e-9, "s", r"\Delta t", 0, 1e-6, "How far the two halves' pulses differ in width [judgement].", "Pulse mismatch", judgement=True
)


@transformer.build(
    unit="",
    whole=True,
    symbol="N_p",
    source=MCL,
    title="Primary turns",
    safe="up",
    tex=r"\left\lceil\frac{volt_seconds}{2\,{flux_limit}\,{core_effective_area}}\right\rceil",
    example=({"volt_seconds": 250e-6, "flux_limit": 0.17, "core_effective_area": 2.36e-4}, 4),
)
def primary_turns(volt_seconds, flux_limit, core_effective_area):
    """Turns of the primary (of each half) that keep the flux below its limit."""
    return np.maximum(up(volt_seconds / (2 * flux_limit * core_effective_area)), 1.0)


@transformer.build(
    unit="", whole=True, symbol="N_s", source=MCL, title="Secondary turns", tex=r"\left\lceil{primary_turns}\,{needed_ratio}\right\rceil", safe="up"
)
def secondary_turns(primary_turns, needed_ratio):
    """Turns of the secondary: the next whole number that reaches the ratio."""
    return up(primary_turns * needed_ratio)


@transformer.build(
    unit="", symbol="N_s/N_p", source="ratio of turns", title="Turns ratio", start=18.25, grows=BY_RATIO, tex=r"\frac{secondary_turns}{primary_turns}"
)
def turns_ratio(secondary_turns, primary_turns):
    """Secondary over primary turns as wound."""
    return secondary_turns / primary_turns


@transformer.operation(
    unit="T",
    symbol=r"B_\mathrm{pk}",
    source="Faraday's law",
    title="Peak flux density",
    tex=r"\frac{{driven_voltage}\,{total_duty}}{4\,{primary_turns}\,{core_effective_area}\,{lowest_switching_frequency}}",
    example=({"driven_voltage": 24, "total_duty": 0.85, "primary_turns": 4, "core_effective_area": 2e-4, "lowest_switching_frequency": 40e3}, 0.159375),
)
def peak_flux(driven_voltage, total_duty, primary_turns, core_effective_area, lowest_switching_frequency):
    """Peak flux density at the lowest frequency by tolerance: half of V_p·D/(N·A_e·f), D half the total duty."""
    return driven_voltage * total_duty / (4 * primary_turns * core_effective_area * lowest_switching_frequency)


@transformer.build(
    unit="T",
    symbol=r"B_\mathrm{full}",
    source="Faraday's law at full duty",
    title="Flux at full duty",
    tex=r"\frac{\max({driven_voltage})\,{duty_limit}}{4\,{primary_turns}\,{core_effective_area}\,{lowest_switching_frequency}}",
    example=({"driven_voltage": 29.2, "duty_limit": 0.95, "primary_turns": 4, "core_effective_area": 2e-4, "lowest_switching_frequency": 40e3}, 0.216719),
)
def full_duty_flux(driven_voltage, duty_limit, primary_turns, core_effective_area, lowest_switching_frequency):
    """Flux density at the highest source with full duty, both halves alike."""
    return highest(driven_voltage) * duty_limit / (4 * primary_turns * core_effective_area * lowest_switching_frequency)


@transformer.build(
    unit="T",
    symbol=r"B_1",
    source="Faraday's law from zero: in steady state the swing starts from −B",
    title="Flux of the first pulse",
    tex=r"\frac{\max({driven_voltage})\,{first_pulse_duty}}{2\,{primary_turns}\,{core_effective_area}\,{lowest_switching_frequency}}",
    example=({"driven_voltage": 29.2, "first_pulse_duty": 0.95, "primary_turns": 4, "core_effective_area": 2e-4, "lowest_switching_frequency": 40e3}, 0.433438),
)
def first_pulse_flux(driven_voltage, first_pulse_duty, primary_turns, core_effective_area, lowest_switching_frequency):
    """Flux density at the end of the first pulse, twice what the same duty makes in steady state."""
    return highest(driven_voltage) * first_pulse_duty / (2 * primary_turns * core_effective_area * lowest_switching_frequency)


@transformer.build(
    unit="T",
    symbol=r"B_\mathrm{step}",
    source="Faraday's law: from −B of light load, one half cycle with a longer pulse",
    title="Flux after a load step",
    tex=r"\max\frac{{driven_voltage}\left(2\min({total_duty}+{duty_step},\,{duty_limit})-{total_duty}\right)}{4\,{primary_turns}\,{core_effective_area}\,{lowest_switching_frequency}}",
    example=(
        {
            "driven_voltage": 29.2,
            "total_duty": 0.2,
            "duty_step": 1.0,
            "duty_limit": 0.95,
            "primary_turns": 4,
            "core_effective_area": 2e-4,
            "lowest_switching_frequency": 40e3,
        },
        0.387813,
    ),
)
def step_flux(driven_voltage, total_duty, duty_step, duty_limit, primary_turns, core_effective_area, lowest_switching_frequency):
    """Flux density at the end of the first half cycle after a load step: −B of the corner, plus twice what the longer pulse makes."""
    longer = np.minimum(total_duty + duty_step, duty_limit)
    return highest(driven_voltage * (2 * longer - total_duty)) / (4 * primary_turns * core_effective_area * lowest_switching_frequency)


@transformer.build(
    unit="T",
    symbol=r"\Delta B_\mathrm{walk}",
    source="difference of the two halves' volt-seconds",
    title="Flux walk per cycle",
    tex=r"\frac{\max({driven_voltage})\,{pulse_mismatch}}{{primary_turns}\,{core_effective_area}}",
)
def flux_walk(driven_voltage, pulse_mismatch, primary_turns, core_effective_area):
    """How far the flux walks in one cycle by unequal pulses, until the unequal currents' drops stop it: what the flux limit keeps room for."""
    return highest(driven_voltage) * pulse_mismatch / (primary_turns * core_effective_area)


@transformer.build(
    unit="m",
    symbol=r"\delta",
    source="skin effect in copper at 100 °C",
    title="Skin depth",
    tex=r"\sqrt{\frac{\rho_{100}}{\pi\,\mu_0\,{switching_frequency}}}",
    empirical=True,
    example=({"switching_frequency": 40e3}, 0.379e-3),
)
def skin_depth(switching_frequency):
    """Skin depth of copper at 100 °C and the switching frequency (75.8 mm·√Hz/√f)."""
    return np.sqrt(RHO_100 / (np.pi * MU0 * switching_frequency))


@transformer.build(
    unit="m^2",
    symbol=r"A_\mathrm{Cu,p}",
    source="current density",
    title="Primary copper",
    tex=r"\frac{\max_\mathrm{lasting}({primary_rms_current})}{current_density}",
)
def primary_copper_area(primary_rms_current, current_density):
    """Copper area of one primary winding, for the lasting current."""
    return highest_lasting(primary_rms_current) / current_density


@transformer.build(
    unit="m^2",
    symbol=r"A_\mathrm{Cu,s}",
    source="current density",
    title="Secondary copper",
    tex=r"\frac{\max_\mathrm{lasting}({secondary_rms_current})}{current_density}",
)
def secondary_copper_area(secondary_rms_current, current_density):
    """Copper area of the secondary, for the lasting current."""
    return highest_lasting(secondary_rms_current) / current_density


__all__ = ["surface_rise", "transformer"]
