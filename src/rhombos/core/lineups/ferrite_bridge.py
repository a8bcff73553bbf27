"""Battery, ferrite full bridge, DC link, sine bridge: four switches at the source's own voltage, high sides on bootstraps."""

from rhombos.core.graph.places import LineUp, Place
from rhombos.core.lineups.common import BATTERY_TO_BULK, BRIDGE_TO_OUTPUT, CLOCK_AND_GATES, FERRITE_TO_RECTIFIER, LINK_BY_TRANSFORMER
from rhombos.core.lineups.samples import FIELD_STATION
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.front.front_end import full_bridge
from rhombos.core.stages.output.load import load

FRONT = (Place("front", full_bridge, "front"), *CLOCK_AND_GATES, Place("front_bootstrap", bootstrap, "front", title="Bootstrap", host="front"))
LINE_UP = LineUp(
    "ferrite_bridge_link_bridge",
    "Full bridge, ferrite, DC link, H-bridge",
    (*BATTERY_TO_BULK, *FRONT, *FERRITE_TO_RECTIFIER, *LINK_BY_TRANSFORMER, *BRIDGE_TO_OUTPUT),
    row=load,
    sample=FIELD_STATION,
)
