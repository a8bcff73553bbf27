"""Pieces that line-ups share: what stands before and behind the converter."""

from rhombos.core.graph.places import Place
from rhombos.core.stages.bridge.h_bridge import h_bridge
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.control.gate_drive import gate_drive
from rhombos.core.stages.control.oscillator import oscillator
from rhombos.core.stages.link.dc_link import dc_link
from rhombos.core.stages.link.rectifier import rectifier
from rhombos.core.stages.magnetics.transformer import transformer
from rhombos.core.stages.output.output import output
from rhombos.core.stages.output.output_filter import output_filter
from rhombos.core.stages.output.output_protection import output_protection
from rhombos.core.stages.source.battery import battery
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.precharge import precharge
from rhombos.core.stages.source.source_input import source_input
from rhombos.core.stages.totals import totals

BATTERY_TO_BULK = (
    Place("battery", battery, "source"),
    Place("cutoff", cutoff, "source", host="battery"),
    Place("input", source_input, "source"),
    Place("precharge", precharge, "source", host="input"),
)
CLOCK_AND_GATES = (Place("oscillator", oscillator, "front", host="front"), Place("front_gates", gate_drive, "front", title="Gates", host="front"))
FERRITE_TO_RECTIFIER = (Place("transformer", transformer, "front"), Place("rectifier", rectifier, "front"))
LINK_TO_OUTPUT = (
    Place("link", dc_link, "link"),
    Place("bridge", h_bridge, "output"),
    Place("bridge_gates", gate_drive, "output", title="Gates", host="bridge", supply="front"),
    Place("bootstrap", bootstrap, "output", host="bridge", supply="front"),
    Place("filter", output_filter, "output"),
    Place("output", output, "output"),
    Place(
        "trip", output_protection, "output", host="output", links={"pulsed_rating": "bridge.pulsed_rating", "choke_peak_current": "filter.choke_peak_current"}
    ),
    Place("totals", totals, "whole", host="output", links={"converter_power": "input.input_power", "delivered_power": "output.input_power"}),
)
