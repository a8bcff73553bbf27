"""What a transformer looks like: its window, with every strand."""

from rhombos.core.graph.pictures import Seen, Winding
from rhombos.core.magnetics.card import winding_card
from rhombos.core.stages.magnetics.transformer import transformer


@transformer.picture("Winding window, to scale")
def section(seen: Seen) -> Winding:
    """Primary, secondary, primary from the core outwards."""
    return Winding(winding_card(seen.sheet, seen.place))
