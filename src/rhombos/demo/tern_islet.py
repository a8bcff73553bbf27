"""Tern Islet field station: 24 V LiFePO4 to 230 V 50 Hz sine for a sample freezer, laptops and lamps."""

from rhombos.formats.design import Design, LoadRow, PinnedValue

LOADS = [
    LoadRow(place="load_1", title="Sample freezer (compressor)"),
    LoadRow(place="load_2", title="Laptops, active input"),
    LoadRow(place="load_3", title="Drying oven"),
    LoadRow(place="load_4", title="Bench lamp"),
]
GIVENS = {
    "battery.cells": 8.0,
    "battery.capacity": 200 * 3600.0,
    "battery.cell_resistance": 0.7e-3,
    "load_1.rated_power": 120.0,
    "load_2.rated_power": 90.0,
    "load_2.count": 3.0,
    "load_3.rated_power": 370.0,
    "load_4.rated_power": 40.0,
    "precharge.resistor_pulse_energy": 150.0,
    "transformer.current_density": 4.8e6,
    "transformer.loop_inductance": 7.5e-9,
    "front.bus_inductance": 6e-9,
    "cutoff.reference_tolerance": 0.004,
    "cutoff.resistor_tolerance": 0.005,
}
CHOICES = {"load_1.type": "induction_motor", "load_2.type": "active_pfc", "load_3.type": "heater", "load_4.type": "filament_lamp"}


def first() -> Design:
    """The first revision: holds everywhere."""
    return Design(
        title="Tern Islet field station",
        lineup="ferrite_push_pull_link_bridge",
        loads=LOADS,
        givens=dict(GIVENS),
        choices=dict(CHOICES),
        pins={
            "load_1.start_time": PinnedValue(value=2.0, reason="cold compressor, measured on the quay"),
            "transformer.core": PinnedValue(part="ETD59", reason="bobbins in the drawer"),
        },
    )


def second() -> Design:
    """The second revision: two turns of foil and a smaller precharge resistor at hand, and a second freezer."""
    base = first()
    return base.model_copy(
        update={
            "givens": {**base.givens, "load_1.count": 2.0, "precharge.resistor_pulse_energy": 95.0},
            "pins": {**base.pins, "transformer.primary_turns": PinnedValue(value=2.0, reason="the foil at hand makes two turns")},
        }
    )
