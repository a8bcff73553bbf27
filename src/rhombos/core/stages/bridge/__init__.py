"""The sine PWM bridge."""

from rhombos.core.stages.bridge import pictures as pictures
