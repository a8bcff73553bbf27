"""The sine PWM bridge."""

from rhombos.core.stages.bridge import circuits as circuits
from rhombos.core.stages.bridge import pictures as pictures
