"""Clock, gates and their supplies: what hangs on the switches."""

from rhombos.core.stages.control import circuits as circuits
from rhombos.core.stages.control import circuits_small as circuits_small
from rhombos.core.stages.control import pictures as pictures
