"""The line-ups: which stages follow one another, and what hangs on them. A newcomer adds one here."""

from functools import lru_cache

from rhombos.core.graph.declare import Stage
from rhombos.core.graph.errors import Unknown
from rhombos.core.graph.wiring import LineUp, Place
from rhombos.core.stages.bridge.h_bridge import h_bridge
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.control.gate_drive import gate_drive
from rhombos.core.stages.control.oscillator import oscillator
from rhombos.core.stages.front.clamp import clamp
from rhombos.core.stages.front.front_end import full_bridge, push_pull
from rhombos.core.stages.link.dc_link import dc_link
from rhombos.core.stages.link.rectifier import rectifier
from rhombos.core.stages.magnetics.transformer import transformer
from rhombos.core.stages.output.load import load
from rhombos.core.stages.output.output import output
from rhombos.core.stages.output.output_filter import output_filter
from rhombos.core.stages.output.output_protection import output_protection
from rhombos.core.stages.source.battery import battery
from rhombos.core.stages.source.cutoff import cutoff
from rhombos.core.stages.source.precharge import precharge
from rhombos.core.stages.source.source_input import source_input
from rhombos.core.stages.totals import totals

TITLES = {"ferrite_push_pull_link_bridge": "Push-pull, ferrite, DC link, H-bridge", "ferrite_bridge_link_bridge": "Full bridge, ferrite, DC link, H-bridge"}

STAGES: dict[str, Stage] = {
    s.name: s
    for s in (
        battery,
        cutoff,
        source_input,
        precharge,
        push_pull,
        full_bridge,
        oscillator,
        gate_drive,
        clamp,
        bootstrap,
        transformer,
        rectifier,
        dc_link,
        h_bridge,
        output_filter,
        output_protection,
        output,
        load,
        totals,
    )
}


def _front(id: str) -> tuple[Place, ...]:
    clock = Place("oscillator", oscillator, "front", host="front")
    gates = Place("front_gates", gate_drive, "front", title="Gates", host="front")
    if id == "ferrite_push_pull_link_bridge":
        return (Place("front", push_pull, "front"), clock, gates, Place("clamp", clamp, "front", host="front"))
    return (Place("front", full_bridge, "front"), clock, gates, Place("front_bootstrap", bootstrap, "front", title="Bootstrap", host="front"))


@lru_cache(maxsize=64)
def lineup(id: str, loads: tuple[str, ...] = ("load_1",)) -> LineUp:
    """The line-up `id` with one place for each load row."""
    if id not in TITLES:
        raise Unknown(f"no line-up {id!r}; there are {', '.join(TITLES)}")
    places = (
        Place("battery", battery, "source"),
        Place("cutoff", cutoff, "source", host="battery"),
        Place("input", source_input, "source"),
        Place("precharge", precharge, "source", host="input"),
        *_front(id),
        Place("transformer", transformer, "front"),
        Place("rectifier", rectifier, "front"),
        Place("link", dc_link, "link"),
        Place("bridge", h_bridge, "output"),
        Place("bridge_gates", gate_drive, "output", title="Gates", host="bridge", supply="front"),
        Place("bootstrap", bootstrap, "output", host="bridge", supply="front"),
        Place("filter", output_filter, "output"),
        Place("output", output, "output"),
        Place(
            "trip",
            output_protection,
            "output",
            host="output",
            links={"pulsed_rating": "bridge.pulsed_rating", "choke_peak_current": "filter.choke_peak_current"},
        ),
        *(Place(name, load, "loads", host="output") for name in loads),
        Place("totals", totals, "whole", host="output", links={"converter_power": "input.input_power", "delivered_power": "output.input_power"}),
    )
    return LineUp(id, TITLES[id], places)


JOINTS = (
    ("battery", "input", "battery.terminal_voltage", "battery.source_current", "", ""),
    ("input", "front", "input.output_voltage", "battery.source_current", "", ""),
    ("front", "transformer", "front.driven_voltage", "front.flat_top_current", "±", "pk"),
    ("transformer", "rectifier", "transformer.secondary_amplitude", "transformer.secondary_rms_current", "±", ""),
    ("rectifier", "link", "link.link_voltage", "rectifier.link_current", "", ""),
    ("link", "bridge", "link.link_voltage", "rectifier.link_current", "", ""),
    ("bridge", "filter", "link.link_voltage", "filter.choke_rms_current", "±", ""),
    ("filter", "output", "output.rated_output_voltage", "output.input_current", "", ""),
)
"""What is lettered at the joints: from, to, voltage, current, sign before the voltage, word behind the current."""
