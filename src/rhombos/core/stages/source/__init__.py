"""From the battery to the bulk capacitors: what feeds the converter, guards the cells and fills the bank."""

from rhombos.core.stages.source import circuits as circuits
from rhombos.core.stages.source import circuits_gauge as circuits_gauge
from rhombos.core.stages.source import pictures as pictures
