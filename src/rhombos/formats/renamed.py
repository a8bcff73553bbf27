"""Names that designs of earlier days carry: where they stand now, so that what was typed is not lost."""

from typing import Any

GIVENS = {
    "precharge.closing_fraction": "precharge.usual_closing_fraction",
    "front.ambient_temperature": "output.ambient_temperature",
    "bridge.ambient_temperature": "output.ambient_temperature",
    "bridge.carrier_frequency": "bridge.wanted_carrier",
    "oscillator.cost": "oscillator.controller_price",
    "bootstrap.gate_pull_down": "bridge_gates.pull_down",
    "front_bootstrap.gate_pull_down": "front_gates.pull_down",
}
"""A given that stands elsewhere."""

FIGURES = (
    "front.target_temperature",
    "bridge.target_temperature",
    "rectifier.choke_resistance",
    "rectifier.choke_core_loss",
    "rectifier.choke_price",
    "rectifier.choke_mass",
    "filter.choke_resistance",
    "filter.choke_price",
    "filter.choke_mass",
    "transformer.rise_limit",
    "bootstrap.low_side_drop",
    "front_bootstrap.low_side_drop",
    "input.cable_price",
    "precharge.resistor_pulse_energy",
    "clamp.clamp_resistor_rating",
    "bootstrap.bootstrap_resistor",
    "front_bootstrap.bootstrap_resistor",
    "battery.cell_resistance",
    "cutoff.resistor_tolerance",
    "cutoff.filter_time",
    "cutoff.reference_tolerance",
    "front.sink_resistance",
    "front.sink_capacity",
    "bridge.sink_resistance",
    "bridge.sink_capacity",
    "rectifier.diode_sink_resistance",
    "rectifier.diode_sink_capacity",
)
"""Givens that are figures now: what was typed becomes a pin (the low-side drop belongs to the host)."""

MOVED_FIGURES = {
    "bootstrap.low_side_drop": "bridge.low_side_drop",
    "front_bootstrap.low_side_drop": "front.low_side_drop",
    "filter.choke_ripple_loss": "filter.choke_core_loss",
}

GONE = (
    "transformer.ac_allowance",
    "front.thermal_settling_time",
    "bridge.thermal_settling_time",
    "oscillator.frequency_tolerance",
    "oscillator.control_power",
    "oscillator.part_count",
)
"""Givens that no formula reads any more."""


def brought_up(raw: Any) -> Any:
    """A design's fields with the names of today; what is no mapping is left to be refused."""
    if not isinstance(raw, dict) or not isinstance(raw.get("givens"), dict):
        return raw
    givens, pins = dict(raw["givens"]), dict(raw.get("pins") or {})
    stage, alone, _ = str(raw.get("lineup")).partition("_alone")
    for old, moved in GIVENS.items():
        place, _, name = moved.partition(".")
        new = f"outside.{name}" if alone and place != stage else moved
        if old in givens:
            givens.setdefault(new, givens.pop(old))
            givens.pop(old, None)
    for key in (*FIGURES, *MOVED_FIGURES):
        if key in givens:
            pins.setdefault(MOVED_FIGURES.get(key, key), {"value": givens.pop(key), "reason": "given in an earlier version"})
    for key in GONE:
        givens.pop(key, None)
    return {**raw, "givens": givens, "pins": pins}
