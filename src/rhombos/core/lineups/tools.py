"""Stages that stand alone only: what people work out on a bench without a line-up around it."""

from rhombos.core.graph.declare import Stage
from rhombos.core.stages.control.controller_pins import controller_pins
from rhombos.core.stages.control.duty_timer import duty_timer
from rhombos.core.stages.control.resonant_driver import resonant_driver
from rhombos.core.stages.control.self_oscillator import self_oscillator
from rhombos.core.stages.feedback.output_sensing import output_sensing
from rhombos.core.stages.networks.clipper import clipper
from rhombos.core.stages.networks.peak_detector import peak_detector
from rhombos.core.stages.networks.peak_rectifier import peak_rectifier
from rhombos.core.stages.networks.rcd_clamp import rcd_clamp
from rhombos.core.stages.networks.rectifier_load import rectifier_load
from rhombos.core.stages.networks.restorer import doubler, restorer
from rhombos.core.stages.networks.snubbers import snubbers
from rhombos.core.stages.networks.turn_off import half_bridge_clamp, turn_off_snubber
from rhombos.core.stages.source.mains_precharge import mains_precharge

NETWORKS: tuple[Stage, ...] = (clipper, restorer, peak_detector, doubler, rcd_clamp, turn_off_snubber, half_bridge_clamp)
TOOLS: tuple[Stage, ...] = (
    duty_timer,
    self_oscillator,
    resonant_driver,
    controller_pins,
    mains_precharge,
    output_sensing,
    rectifier_load,
    peak_rectifier,
    snubbers,
    *NETWORKS,
)
