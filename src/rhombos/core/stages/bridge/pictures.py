"""What the bridge looks like: the sine that it makes of the link, and its junctions."""

import numpy as np

from rhombos.core.graph.pictures import Limit, Plot, Seen, Series
from rhombos.core.stages.bridge.h_bridge import h_bridge
from rhombos.core.stages.switches.pictures import declare_junctions


@h_bridge.picture("The sine that is asked of the link")
def sine(seen: Seen) -> Plot:
    """Mean bridge voltage over one output period, against what the link gives less dead time and shortest pulse."""
    link, limit = seen.at("input_voltage"), seen.at("modulation_limit")
    time = np.linspace(0, 1, 121)
    wanted = seen.at("modulation_index") * link * np.sin(2 * np.pi * time)
    limits = [Limit("greatest", limit * link), Limit("", -limit * link)]
    return Plot("time", "s", "V", [Series("mean voltage", time / seen.at("output_frequency"), wanted)], limits)


declare_junctions(h_bridge)
