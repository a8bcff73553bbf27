"""How the link is sensed and held: set-point from parts, single faults, the control loop."""

from rhombos.core.stages.feedback import circuits as circuits
from rhombos.core.stages.feedback import pictures as pictures
