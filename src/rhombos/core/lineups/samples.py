"""Briefs that line-ups are tried on: invented, and such as a line-up is built for."""

from rhombos.core.graph.places import Sample

FIELD_STATION = Sample(
    "Tern Islet field station",
    {"load_1": "Sample freezer (compressor)", "load_2": "Laptops, active input", "load_3": "Drying oven", "load_4": "Bench lamp"},
    {
        "battery.cells": 8.0,
        "battery.capacity": 200 * 3600.0,
        "load_1.rated_power": 120.0,
        "load_2.rated_power": 90.0,
        "load_2.count": 3.0,
        "load_3.rated_power": 370.0,
        "load_4.rated_power": 40.0,
        "transformer.current_density": 4.8e6,
        "transformer.loop_inductance": 7.5e-9,
        "front.bus_inductance": 6e-9,
    },
    {"load_1.type": "induction_motor", "load_2.type": "active_pfc", "load_3.type": "heater", "load_4.type": "filament_lamp"},
    {
        "battery.cell_resistance": (0.7e-3, "stated by the maker"),
        "load_1.start_time": (2.0, "cold compressor, measured on the quay"),
        "transformer.core": ("ETD59", "bobbins in the drawer"),
    },
)
LIGHTHOUSE = Sample(
    "Skerry light",
    {"load_1": "Lamp changer (motor)", "load_2": "Radio and charger", "load_3": "Room heater"},
    {"battery.cells": 20.0, "battery.capacity": 100 * 3600.0, "load_1.rated_power": 90.0, "load_2.rated_power": 150.0, "load_3.rated_power": 500.0},
    {"load_1.type": "induction_motor", "load_2.type": "active_pfc", "load_3.type": "heater"},
    {"battery.cell_resistance": (1.5e-3, "measured on the old cells")},
)
