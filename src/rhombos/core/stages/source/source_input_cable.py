"""Input, fourth part: a cable thick enough that starts stay far from what the source can give at most (2.1)."""

import numpy as np

from rhombos.core.formulas.numeric import lowest, one_of
from rhombos.core.magnetics.copper import DENSITY, RHO_70
from rhombos.core.stages.source.source_input_line import source_input

FAR = 2.0
"""How far from the most that the source can give a start should stay: what its check asks for."""

LEFT = 1e-6
"""Ω that count as left to the cable where there are less, or none."""

source_input.give(
    "cable_thickening",
    4.0,
    "",
    r"k_A",
    1,
    20,
    "How many times the area that lasting current asks for a cable may have for the sake of starts [judgement].",
    "Cable thickened for starts",
    judgement=True,
)


@source_input.operation(
    unit="Ω",
    symbol=r"R_\mathrm{free}",
    source="maximum power of a source behind a resistance",
    title="Resistance left to the cable",
    low=-10.0,
    tex=r"\frac{{open_circuit_voltage}^2}{8\,{input_power}}-{pack_resistance}\cdot\min(1,\,2-{source_level})-{contact_resistance}-{polarity_resistance}",
    example=(
        {"open_circuit_voltage": 10.0, "input_power": 1000, "pack_resistance": 0.004, "source_level": 0, "contact_resistance": 1e-3, "polarity_resistance": 0},
        7.5e-3,
    ),
)
def cable_allowance(open_circuit_voltage, input_power, pack_resistance, source_level, contact_resistance, polarity_resistance):
    """What the cable may have if half of the power that could be had at most is to be drawn; below zero where the pack alone has too much."""
    rest = pack_resistance * np.minimum(1.0, 2.0 - source_level) + contact_resistance + polarity_resistance
    return open_circuit_voltage**2 / (4 * FAR * input_power) - rest


@source_input.build(
    unit="m^2",
    symbol=r"A_\mathrm{start}",
    source="resistivity of copper at 70 °C",
    title="Cable area for starts",
    empirical=True,
    tex=r"\frac{2\rho_{70}\,{cable_length}}{\max\left(\min({cable_allowance}),\,10^{-6}\right)}",
    example=({"cable_length": 1, "cable_allowance": 2e-3}, 20.6e-6),
)
def starting_cable_area(cable_length, cable_allowance):
    """Copper area with which starts stay far enough from what the source can give: of any size where no cable would do, since what there is may only be thickened so far."""
    left = np.maximum(lowest(cable_allowance), one_of("ohm", cable_allowance) * LEFT)
    return 2 * RHO_70 * cable_length / left


source_input.give("lug_price", 2.5, "credit", r"c_\mathrm{lug}", 0, 100, "Price of lugs and their crimping [judgement].", "Price of the lugs", judgement=True)
source_input.give(
    "cable_kilogram_price",
    16.0,
    "credit",
    r"p_\mathrm{Cu}",
    0,
    500,
    "Price of a kilogram of flexible copper cable [judgement].",
    "Price of cable",
    judgement=True,
)


@source_input.build(
    unit="kg",
    symbol=r"m_\mathrm{cable}",
    source="density of copper",
    title="Copper of the cable",
    tex=r"2\cdot8960\,\tfrac{\mathrm{kg}}{\mathrm{m}^3}\,{cable_length}\,{cable_area}",
    example=({"cable_length": 0.8, "cable_area": 16e-6}, 0.2294),
)
def cable_mass(cable_length, cable_area):
    """Copper of both ways, in kg."""
    return 2 * DENSITY * one_of("kilogram/meter**3", cable_length) * cable_length * cable_area


@source_input.build(
    unit="credit",
    symbol=r"c_\mathrm{cable}",
    source="catalogue",
    title="Price of the cable",
    tex=r"{lug_price}+{cable_kilogram_price}\,{cable_mass}",
    example=({"lug_price": 2.5, "cable_kilogram_price": 16, "cable_mass": 0.23}, 6.18),
)
def cable_price(lug_price, cable_kilogram_price, cable_mass):
    """Price of the battery cable: copper by its mass, and the lugs."""
    return lug_price + cable_kilogram_price * cable_mass * one_of("1/kilogram", cable_mass)
