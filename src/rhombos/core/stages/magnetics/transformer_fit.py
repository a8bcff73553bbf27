"""Ferrite transformer, second part (5.1): windings, fit, leakage."""

import numpy as np

from rhombos.core.magnetics.copper import MU0
from rhombos.core.stages.magnetics.transformer_turns import transformer
from rhombos.core.stages.magnetics.transformer_windings import declare_winding
from rhombos.core.stages.sizes import BY_SOURCE_RESISTANCE

MCL = "McLyman, Transformer and Inductor Design Handbook"

for _side, _windings in (("primary", "driven_windings"), ("secondary", "single_winding")):
    declare_winding(transformer, _side, _windings)


@transformer.build(
    unit="",
    symbol="K_u",
    source=MCL,
    title="Copper fill",
    tex=r"\frac{{driven_windings}{primary_turns}{primary_strands}\tfrac{\pi}{4}{primary_strand_diameter}^2+{secondary_turns}{secondary_strands}\tfrac{\pi}{4}{secondary_strand_diameter}^2}{core_window_area}",
    example=(
        {
            "driven_windings": 2,
            "primary_turns": 4,
            "primary_strands": 36,
            "primary_strand_diameter": 0.5e-3,
            "secondary_turns": 77,
            "secondary_strands": 3,
            "secondary_strand_diameter": 0.5e-3,
            "core_window_area": 2.5e-4,
        },
        0.407621,
    ),
)
def copper_fill(
    driven_windings, primary_turns, primary_strands, primary_strand_diameter, secondary_turns, secondary_strands, secondary_strand_diameter, core_window_area
):
    """Bare copper over the window."""
    copper = driven_windings * primary_turns * primary_strands * primary_strand_diameter**2 + secondary_turns * secondary_strands * secondary_strand_diameter**2
    return np.pi / 4 * copper / core_window_area


@transformer.build(
    unit="",
    symbol="K_i",
    source=MCL,
    title="Insulated fill",
    tex=r"\frac{{driven_windings}{primary_turns}{primary_strands}\tfrac{\pi}{4}{primary_strand_insulated_diameter}^2+{secondary_turns}{secondary_strands}\tfrac{\pi}{4}{secondary_strand_insulated_diameter}^2}{core_window_area}",
    example=(
        {
            "driven_windings": 2,
            "primary_turns": 4,
            "primary_strands": 36,
            "primary_strand_insulated_diameter": 0.5e-3,
            "secondary_turns": 77,
            "secondary_strands": 3,
            "secondary_strand_insulated_diameter": 0.5e-3,
            "core_window_area": 2.5e-4,
        },
        0.407621,
    ),
)
def insulated_fill(
    driven_windings,
    primary_turns,
    primary_strands,
    primary_strand_insulated_diameter,
    secondary_turns,
    secondary_strands,
    secondary_strand_insulated_diameter,
    core_window_area,
):
    """Insulated wire circles over the window."""
    wire = (
        driven_windings * primary_turns * primary_strands * primary_strand_insulated_diameter**2
        + secondary_turns * secondary_strands * secondary_strand_insulated_diameter**2
    )
    return np.pi / 4 * wire / core_window_area


@transformer.build(
    unit="m",
    symbol=r"\sum h",
    source=MCL,
    title="Built height",
    tex=r"\begin{gathered}\frac{\min(A+B,\;{core_window_area})}{core_winding_breadth}\\A={driven_windings}{primary_turns}{primary_strands}{primary_strand_insulated_diameter}^2\\B={secondary_turns}{secondary_strands}{secondary_strand_insulated_diameter}^2\end{gathered}",
    example=(
        {
            "driven_windings": 2,
            "primary_turns": 4,
            "primary_strands": 36,
            "primary_strand_insulated_diameter": 0.5e-3,
            "secondary_turns": 77,
            "secondary_strands": 3,
            "secondary_strand_insulated_diameter": 0.5e-3,
            "core_winding_breadth": 26e-3,
            "core_window_area": 250e-6,
        },
        4.9904e-3,
    ),
)
def winding_height(
    driven_windings,
    primary_turns,
    primary_strands,
    primary_strand_insulated_diameter,
    secondary_turns,
    secondary_strands,
    secondary_strand_insulated_diameter,
    core_winding_breadth,
    core_window_area,
):
    """Height that all windings build on the bobbin, strand beside strand in layers: the leakage field fills it, enamel and gaps included.

    At most the window's: what does not fit is judged by the fill, and no field spreads where no winding is.
    """
    wire = (
        driven_windings * primary_turns * primary_strands * primary_strand_insulated_diameter**2
        + secondary_turns * secondary_strands * secondary_strand_insulated_diameter**2
    )
    return np.minimum(wire, core_window_area) / core_winding_breadth


@transformer.build(
    unit="H",
    symbol=r"L_{lk}",
    source="field energy in the window [estimate]",
    title="Leakage inductance",
    start=26e-9,
    grows=BY_SOURCE_RESISTANCE,
    tex=r"\mu_0\frac{{primary_turns}^2{core_mean_turn_length}}{{core_winding_breadth}\,{interfaces}^2}\left(\frac{winding_height}{3}+{interfaces}\,{insulation_height}\right)+{loop_inductance}",
    example=(
        {
            "primary_turns": 4,
            "core_mean_turn_length": 0.1,
            "core_winding_breadth": 26e-3,
            "interfaces": 2,
            "winding_height": 4e-3,
            "insulation_height": 0.15e-3,
            "loop_inductance": 10e-9,
        },
        41.58e-9,
    ),
)
def leakage_inductance(primary_turns, core_mean_turn_length, core_winding_breadth, interfaces, winding_height, insulation_height, loop_inductance):
    """Leakage seen from the driven winding with the secondary shorted, the switching loop included (estimate: measure it)."""
    mu0 = type(loop_inductance)(MU0, "henry/meter") if hasattr(loop_inductance, "magnitude") else MU0
    return (
        mu0 * primary_turns**2 * core_mean_turn_length / (core_winding_breadth * interfaces**2) * (winding_height / 3 + interfaces * insulation_height)
        + loop_inductance
    )


__all__ = ["transformer"]
