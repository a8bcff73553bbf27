"""From the secondary to the bridge: rectifier, averaging choke, DC link."""

from rhombos.core.stages.link import circuits as circuits
from rhombos.core.stages.link import pictures as pictures
