"""Transformer and chokes."""

from rhombos.core.stages.magnetics import circuits as circuits
from rhombos.core.stages.magnetics import pictures as pictures
