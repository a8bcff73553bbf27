"""The converter that lifts the source: switches, duty, clamp."""

from rhombos.core.stages.front import circuits as circuits
from rhombos.core.stages.front import circuits_bridge as circuits_bridge
from rhombos.core.stages.front import pictures as pictures
