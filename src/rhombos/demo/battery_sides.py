"""Battery sides of two units whose converters are still to come: cut behind the input, the load a given at that joint."""

from rhombos.formats.design import Design, PinnedValue

BATTERY_SIDE = "ferrite_push_pull_link_bridge_to_input"
IDLE = PinnedValue(value=0.15, reason="what the stage to come may draw idling")


def cider_press() -> Design:
    """36 V Li-ion (ten in series) for a heater and lamps of 350 W, 120 V 60 Hz stepped."""
    return Design(
        title="Cider press heater & lamps",
        lineup=BATTERY_SIDE,
        givens={
            "battery.cells": 10.0,
            "battery.capacity": 40 * 3600.0,
            "input.cable_length": 1.2,
            "outside.output_power": 385.0,
            "outside.rated_active_power": 350.0,
            "outside.surge_time": 0.3,
            "outside.link_voltage": 190.0,
            "outside.choke_swing": 0.6,
            "outside.drawn_ripple_current": 7.0,
            "outside.drawn_ripple_charge": 60e-6,
            "outside.drawn_step": 22.0,
            "outside.limited_pulse_rating": 220.0,
            "outside.limited_rating": 45.0,
            "cutoff.cutoff_trim_share": 0.1,
        },
        choices={"battery.chemistry": "nmc"},
        pins={"battery.cell_resistance": PinnedValue(value=3.0e-3, reason="measured on the press's old pack"), "first_power.idle_current": IDLE},
    )


def ferry_buoy() -> Design:
    """12 V lead-acid (six cells) for a siren: 115 V 60 Hz, 120 VA, by iron at the line's frequency."""
    return Design(
        title="Ferry buoy siren",
        lineup=BATTERY_SIDE,
        givens={
            "battery.cells": 6.0,
            "battery.capacity": 60 * 3600.0,
            "input.cable_length": 0.6,
            "outside.output_power": 145.0,
            "outside.rated_active_power": 120.0,
            "outside.surge_time": 0.5,
            "outside.link_voltage": 12.0,
            "outside.choke_swing": 0.0,
            "outside.drawn_ripple_current": 6.5,
            "outside.drawn_ripple_charge": 250e-6,
            "outside.drawn_step": 16.0,
            "outside.limited_pulse_rating": 180.0,
            "outside.limited_rating": 40.0,
        },
        choices={"battery.chemistry": "lead_acid", "polarity.polarity_school": "series_switch"},
        pins={"first_power.idle_current": IDLE},
    )
