"""Resistance, core loss, price and mass of a choke scaled from its energy and inductance, until it is designed turn by turn (5.3)."""

from rhombos.core.graph.declare import Stage
from rhombos.core.stages.names import with_names

SCALED = "[judgement] size by the energy at saturation: volume, and with it price, mass and core loss, by its 0.75th power"


def declare_choke(stage: Stage, prefix: str, inductance: str, saturation: str, *, reference: float, price: float, mass: float, core_loss: float) -> None:
    """Declare `energy`, `resistance`, `core_loss`, `price` and `mass` of a choke, named with `prefix`; the numbers are those of a choke of `reference` joules."""

    def declare(name, fn, sentence, names, **options):
        fn.__name__, fn.__doc__ = prefix + name, sentence
        stage.build(**options)(with_names(fn, *names))

    declare(
        "energy",
        lambda henry, ampere: henry * ampere**2 / 2,
        "Energy that the choke holds at the current to which it must not saturate: it sets the size of the core.",
        (inductance, saturation),
        unit="J",
        symbol=r"E_L",
        source="field energy",
        title="Energy of the choke",
        tex=rf"\tfrac12{{{inductance}}}\,{{{saturation}}}^2",
        example=({inductance: 1.5e-3, saturation: 4}, 12e-3),
    )
    declare(
        "resistance",
        lambda henry, seconds: henry / seconds,
        "Resistance of the choke, hot; pin it to what was wound.",
        (inductance, f"{prefix}time_constant"),
        unit="Ω",
        symbol=r"R_L",
        source="[judgement] inductance over resistance of chokes of this kind",
        title="Choke resistance",
        tex=rf"\frac{{{{{inductance}}}}}{{{{{prefix}time_constant}}}}",
    )
    for name, unit, symbol, title, at_reference, sentence in (
        ("core_loss", "W", r"P_\mathrm{Fe}", "Choke core loss", core_loss, "Core loss of the choke at its full ripple; pin it to what was measured."),
        ("price", "credit", "c_L", "Price of the choke", price, "Price of the choke, wound; pin it to what is asked for."),
        ("mass", "kg", "m_L", "Mass of the choke", mass, "Mass of the choke; pin it to what it weighs."),
    ):
        declare(
            name,
            lambda energy, at=at_reference: at * (energy / reference) ** 0.75,
            sentence,
            (f"{prefix}energy",),
            unit=unit,
            symbol=symbol,
            source=SCALED,
            title=title,
            empirical=True,
            tex=rf"{at_reference:g}\left(\frac{{{{{prefix}energy}}}}{{{reference:g}\,\mathrm{{J}}}}\right)^{{0.75}}",
            example=({f"{prefix}energy": 16 * reference}, 8 * at_reference),
        )
