"""Battery, ferrite push-pull, DC link, sine bridge: two switches on the source's negative side, twice its voltage on each."""

from rhombos.core.graph.places import LineUp, Place
from rhombos.core.lineups.common import BATTERY_TO_BULK, BRIDGE_TO_OUTPUT, CLOCK_AND_GATES, FERRITE_TO_RECTIFIER, LINK_BY_TRANSFORMER
from rhombos.core.lineups.samples import FIELD_STATION
from rhombos.core.stages.front.clamp import clamp
from rhombos.core.stages.front.front_end import push_pull
from rhombos.core.stages.output.load import load

FRONT = (Place("front", push_pull, "front"), *CLOCK_AND_GATES, Place("clamp", clamp, "front", host="front"))
LINE_UP = LineUp(
    "ferrite_push_pull_link_bridge",
    "Push-pull, ferrite, DC link, H-bridge",
    (*BATTERY_TO_BULK, *FRONT, *FERRITE_TO_RECTIFIER, *LINK_BY_TRANSFORMER, *BRIDGE_TO_OUTPUT),
    row=load,
    sample=FIELD_STATION,
)
