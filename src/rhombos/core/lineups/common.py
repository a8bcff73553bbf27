"""Pieces that line-ups share: what stands before and behind the converter."""

from rhombos.core.graph.places import Place
from rhombos.core.stages.bridge.h_bridge import h_bridge
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.control.control_supply_rail import control_supply
from rhombos.core.stages.control.current_limit import current_sensing
from rhombos.core.stages.control.driver_schools import driver_schools
from rhombos.core.stages.control.gate_guard import gate_drive
from rhombos.core.stages.control.oscillator_parts import oscillator
from rhombos.core.stages.feedback.feedback_build import feedback
from rhombos.core.stages.feedback.loop import control_loop
from rhombos.core.stages.front.soft_start import soft_start
from rhombos.core.stages.link.dc_link_discharge import dc_link
from rhombos.core.stages.link.rectifier import rectifier
from rhombos.core.stages.magnetics.transformer import transformer
from rhombos.core.stages.output.output import output
from rhombos.core.stages.output.output_filter import output_filter
from rhombos.core.stages.output.output_protection import output_protection
from rhombos.core.stages.source.battery import battery
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.first_power import first_power
from rhombos.core.stages.source.gauge import gauge
from rhombos.core.stages.source.polarity import polarity
from rhombos.core.stages.source.precharge import precharge
from rhombos.core.stages.source.source_input import source_input
from rhombos.core.stages.totals import totals

BATTERY_TO_BULK = (
    Place("battery", battery, "source"),
    Place("cutoff", cutoff, "source", host="battery"),
    Place("gauge", gauge, "source", host="battery"),
    Place("input", source_input, "source"),
    Place("polarity", polarity, "source", host="input"),
    Place("precharge", precharge, "source", host="input"),
    Place(
        "first_power",
        first_power,
        "source",
        host="input",
        links={"limited_pulse_rating": "front.pulsed_rating", "limited_rating": "front.position_rating", "running_current": "battery.source_current"},
    ),
)
CLOCK_AND_GATES = (
    Place("supply", control_supply, "front", title="Supply", host="front"),
    Place("oscillator", oscillator, "front", host="front"),
    Place("front_gates", gate_drive, "front", title="Gates", host="front"),
    Place("front_driver", driver_schools, "front", host="front"),
)
SENSING = Place("sensing", current_sensing, "front", title="Sensing", host="front")
FERRITE_TO_RECTIFIER = (
    SENSING,
    Place("soft_start", soft_start, "front", host="front"),
    Place("transformer", transformer, "front"),
    Place("rectifier", rectifier, "front"),
)
LOOP = Place("loop", control_loop, "link", title="Loop", host="link", links={"choke_resistance": "rectifier.choke_resistance"})


def feedback_of(reachable: str, peak: str) -> Place:
    """The feedback of the link, with the figures (`place.name`) that say what it reaches without: under load, and charged to the peak."""
    links = {"open_loop_voltage": reachable, "open_loop_peak": peak, "link_switch_rating": "bridge.switch_rated_voltage"}
    return Place("feedback", feedback, "link", host="link", links=links)


LINK = Place("link", dc_link, "link")
LINK_BY_TRANSFORMER = (LINK, feedback_of("rectifier.reachable_voltage", "transformer.secondary_amplitude"), LOOP)
LINK_BY_BOOST = (LINK, feedback_of("front.reachable_voltage", "front.reachable_voltage"))
BRIDGE_TO_OUTPUT = (
    Place("bridge", h_bridge, "output"),
    Place("bridge_gates", gate_drive, "output", title="Gates", host="bridge", supply="front"),
    Place("bridge_driver", driver_schools, "output", host="bridge", supply="front"),
    Place("bootstrap", bootstrap, "output", host="bridge", supply="front"),
    Place("filter", output_filter, "output"),
    Place("output", output, "output"),
    Place(
        "trip", output_protection, "output", host="output", links={"pulsed_rating": "bridge.pulsed_rating", "choke_peak_current": "filter.choke_peak_current"}
    ),
    Place("totals", totals, "whole", host="output", links={"converter_power": "input.input_power", "delivered_power": "output.input_power"}),
)
