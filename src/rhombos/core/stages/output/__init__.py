"""Filter, trip, terminals and the load list."""

from rhombos.core.stages.output import circuits as circuits
from rhombos.core.stages.output import circuits_trip as circuits_trip
from rhombos.core.stages.output import pictures as pictures
