"""The output filter, between its parts and its currents: what loads with rectifier draw behind its choke (1.1, 9.1)."""

import numpy as np

from rhombos.core.formulas.numeric import applies
from rhombos.core.modulation.rectifier_factors import crest_factor, power_factor
from rhombos.core.stages.output.output_filter_parts import output_filter

SOLVED = "periodic solution of a rectifier with its capacitor behind the choke (8.4), by a table over the choke's reactance"
NONE = "no load of the list has a rectifier input"


@output_filter.build(
    group="Rectifier loads",
    unit="",
    symbol="x_r",
    low=0.0,
    source="reactance over the resistance that draws the watts",
    title="Choke as rectifiers see it",
    tex=r"\frac{2\pi\,{output_frequency}\,{filter_inductance}\,{brief_rectifier_power}}{{rated_output_voltage}^2}",
    example=({"output_frequency": 50, "filter_inductance": 1.5e-3, "brief_rectifier_power": 370, "rated_output_voltage": 230}, 3.29601e-3),
)
def rectifier_reactance(output_frequency, filter_inductance, brief_rectifier_power, rated_output_voltage):
    """The choke's reactance over the resistance that the loads with rectifier are by their watts: none is a stiff source."""
    return 2 * np.pi * output_frequency * filter_inductance * brief_rectifier_power / rated_output_voltage**2


@output_filter.build(
    group="Rectifier loads",
    unit="",
    symbol=r"\mathrm{CF}_r",
    source=SOLVED,
    title="Crest factor of rectifiers",
    empirical=True,
    tex=r"\operatorname{CF}({rectifier_reactance})",
    example=({"rectifier_reactance": 0.007}, 2.667),
)
def rectifier_crest_factor(rectifier_reactance):
    """Peak over rms of what the loads with rectifier draw together behind this choke; the list counts each with its type's."""
    return applies(rectifier_reactance > 0, crest_factor(rectifier_reactance), NONE)


@output_filter.build(
    group="Rectifier loads",
    unit="",
    symbol=r"\mathrm{PF}_r",
    source=SOLVED,
    title="Power factor of rectifiers",
    empirical=True,
    tex=r"\operatorname{PF}({rectifier_reactance})",
    example=({"rectifier_reactance": 0.007}, 0.6664),
)
def rectifier_power_factor(rectifier_reactance):
    """Watts over volt-amperes of what they draw together behind this choke."""
    return applies(rectifier_reactance > 0, power_factor(rectifier_reactance), NONE)


@output_filter.build(
    group="Rectifier loads",
    unit="A",
    low=0.0,
    symbol=r"\hat I_r",
    source=SOLVED,
    title="Crest of rectifiers",
    empirical=True,
    tex=r"\operatorname{CF}({rectifier_reactance})\frac{brief_rectifier_power}{\operatorname{PF}({rectifier_reactance})\,{rated_output_voltage}}",
    example=({"rectifier_reactance": 0.007, "brief_rectifier_power": 370, "rated_output_voltage": 230}, 6.43813),
)
def rectifier_crest_current(rectifier_reactance, brief_rectifier_power, rated_output_voltage):
    """Peak that all loads with rectifier draw together at the sine's crest: crest factor times rms current."""
    return crest_factor(rectifier_reactance) * brief_rectifier_power / (power_factor(rectifier_reactance) * rated_output_voltage)


__all__ = ["output_filter"]
