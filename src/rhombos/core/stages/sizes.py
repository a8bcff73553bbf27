"""The sizes of a brief, and how starting values grow with them.

Starting values are written down for a usual brief (26 V, 800 W, 230 V); in another they begin where such a thing stands there:
a current as watts over volts, a resistance or an inductance as volts squared over watts. So the first parts and turns are sized by
what is asked for, and a pack of 12 V does not begin from what suits one of 24 V. What has a number at every corner begins with that
corner's sizes: without load a choke's ripple lies on hardly any current, and the rms of the two together must not size a winding.
"""

SOURCE_VOLTAGE, POWER, OUTPUT_VOLTAGE = "source_voltage", "power", "output_voltage"
DRAWN = "drawn_power"
"""What is drawn at the corner; `POWER` is what can be drawn for long."""

BY_POWER = {POWER: 1.0}
BY_DRAWN = {DRAWN: 1.0}
BY_SHARE = {DRAWN: 1.0, POWER: -1.0}
"""Volts that are there under load only."""
BY_SOURCE_VOLTAGE = {SOURCE_VOLTAGE: 1.0}
BY_SOURCE_CURRENT = {POWER: 1.0, SOURCE_VOLTAGE: -1.0}
BY_DRAWN_SOURCE_CURRENT = {DRAWN: 1.0, SOURCE_VOLTAGE: -1.0}
BY_SOURCE_RESISTANCE = {SOURCE_VOLTAGE: 2.0, POWER: -1.0}
"""Of inductances as well."""
BY_OUTPUT_VOLTAGE = {OUTPUT_VOLTAGE: 1.0}
"""On the link, too: it is as far above the output's crest."""
BY_OUTPUT_CURRENT = {POWER: 1.0, OUTPUT_VOLTAGE: -1.0}
BY_DRAWN_OUTPUT_CURRENT = {DRAWN: 1.0, OUTPUT_VOLTAGE: -1.0}
BY_OUTPUT_RESISTANCE = {OUTPUT_VOLTAGE: 2.0, POWER: -1.0}
BY_RATIO = {OUTPUT_VOLTAGE: 1.0, SOURCE_VOLTAGE: -1.0}
"""Of turns from the source's side to the output's."""
