"""Battery, boost converter, DC link, sine bridge: no transformer, so nothing isolates the output from the battery."""

from rhombos.core.graph.places import LineUp, Place
from rhombos.core.lineups.common import BATTERY_TO_BULK, BRIDGE_TO_OUTPUT, CLOCK_AND_GATES, LINK_BY_BOOST
from rhombos.core.lineups.samples import LIGHTHOUSE
from rhombos.core.stages.front.boost_whole import boost
from rhombos.core.stages.output.load import load

LINE_UP = LineUp(
    "boost_link_bridge",
    "Boost, DC link, H-bridge",
    (*BATTERY_TO_BULK, Place("front", boost, "front"), *CLOCK_AND_GATES, *LINK_BY_BOOST, *BRIDGE_TO_OUTPUT),
    row=load,
    sample=LIGHTHOUSE,
)
