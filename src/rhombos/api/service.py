"""Between the routers and the core: solved sheets are kept for the questions that follow an edit."""

from functools import partial
from typing import Any

import numpy as np

from rhombos.api.once import Once
from rhombos.core.circuit.drawn import looked_at
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.scope import Picture, Setting, picture, reduce_to, setting_from, told
from rhombos.core.circuit.solved import Probable
from rhombos.core.comparison import Comparison, compare
from rhombos.core.graph.errors import InputError, SolveError, WiringError
from rhombos.core.graph.model import Model
from rhombos.core.graph.pictures import Seen
from rhombos.core.graph.places import Place
from rhombos.core.graph.remedies import Remedy, remedies
from rhombos.core.graph.sheet import Sheet
from rhombos.core.lineups import LINE_UPS
from rhombos.core.swaps import swaps
from rhombos.core.units import show
from rhombos.formats.design import Design, write_design
from rhombos.formats.sheet.explain import pick_json

KEPT, RUNS = 48, 24
SHORT = 0.998
"""Of the output's volts: below, the modulation is at its end."""
UNITS = {"node": "V", "choke": "A", "output": "V", "link": "V", "front": "A", "load": "A"}
RECTIFIERS = (
    "Loads with rectifier input ({watts} of them) have a diode bridge and a capacitor of 1 µF/W at 230 V behind 2 % of their own resistance here, "
    "and draw what this filter and this bridge let them; the list counts with the power factor and crest factor of their type."
)


class Sheets:
    """The last solved sheets by their design, and the last circuits that were run of them."""

    def __init__(self) -> None:
        self._sheets: Once[str, tuple[Model, Sheet]] = Once(KEPT)
        self._runs: Once[tuple[str, str, str, str], Probable] = Once(RUNS)

    @property
    def solved(self) -> int:
        """How many sheets were solved, for those who measure."""
        return self._sheets.made

    @property
    def run(self) -> int:
        """How many circuits were run."""
        return self._runs.made

    def solve(self, design: Design) -> tuple[Model, Sheet]:
        """The model and the solved sheet of a design."""

        def made() -> tuple[Model, Sheet]:
            model = design.model()
            return model, model.solve(design.inputs())

        return self._sheets.of(_name(design), made)

    def look(self, design: Design, seen: Seen, look: str) -> Probable:
        """A place's circuit as it runs in one of its looks. Raises Unknown, CircuitError."""
        at = seen.sheet.corners.ids[seen.corner]
        return self._runs.of((_name(design), seen.place.name, at, look), lambda: looked_at(seen, look))


def _name(design: Design) -> str:
    """What a design is solved from, whatever it is called."""
    return write_design(design.model_copy(update={"parts": {}, "title": "-"}))


def with_parts(design: Design) -> Design:
    """The design with the records of the parts it picks, as a revision keeps them."""
    model = design.model()
    sheet = model.solve(design.inputs())
    return design.model_copy(update={"parts": {p.key: pick_json(model, sheet, p.key)["record"] for p in model.wiring.picks}})


def changed_parts(design: Design) -> list[dict[str, Any]]:
    """Parts whose record in the design differs from the catalogue's now: reported on reopening, never silent.

    A design whose line-up cannot be put together has none; why it cannot is said when it is solved.
    """
    try:
        model = design.model()
    except WiringError:
        return []
    rows = []
    for wired in model.wiring.picks:
        record = design.parts.get(wired.key)
        if record is None:
            continue
        table = model.catalogue[wired.pick.part_type]
        code = str(record.get("code", ""))
        if code not in table.row_of:
            rows.append({"pick": wired.key, "part": code, "what": "is no longer in the catalogue"})
            continue
        now = table.record(code)
        moved = [k for k in now if record.get(k) != now[k]]
        if moved:
            rows.append({"pick": wired.key, "part": code, "what": "changed in the catalogue: " + ", ".join(moved)})
    return rows


def compare_lineups(sheets: Sheets, design: Design) -> Comparison:
    """Every line-up solved on the same brief, side by side."""
    return compare({id: sheets.solve(design.model_copy(update={"lineup": id})) for id in LINE_UPS})


def remedies_of(sheets: Sheets, design: Design, place: str | None) -> list[Remedy]:
    """The moves that mend a place's checks, or all, and where none does the line-up in which less is wrong."""
    model, sheet = sheets.solve(design)
    if place is not None:
        place_of(model, place)
    found = remedies(model, sheet, place)
    others = {id: partial(sheets.solve, design.model_copy(update={"lineup": id})) for id in LINE_UPS if design.lineup in LINE_UPS and id != design.lineup}
    return [*found, *swaps((model, sheet), others, found, place)]


def scope(sheet: Sheet, corner: str, load: str, modulation: str | None, sampling: str | None, pixels: int) -> dict[str, Any]:
    """One output period as a screen of `pixels` can show it, with harmonics and meters."""
    setting = setting_from(
        sheet, corner, load=load, unipolar=None if modulation is None else modulation == "unipolar", natural=None if sampling is None else sampling == "natural"
    )
    try:
        with np.errstate(all="ignore"):
            seen = picture(setting)
    except (ArithmeticError, ValueError, CircuitError) as error:
        # Values within their ranges, yet beyond what a circuit of doubles can hold (a filter of 1e-300 H).
        raise SolveError(f"nothing can be drawn at this corner: the circuit of bridge, filter and load has no steady state ({error})") from error
    drawn = {
        name: reduce_to(seen.times, wave, pixels)
        for name, wave in (("choke", seen.choke), ("output", seen.output), ("link", seen.link), ("front", seen.front), ("load", seen.load))
    }
    carrier = setting.carrier * (2 if setting.unipolar else 1) / setting.frequency
    near = [i for i in range(len(seen.orders)) if i < 40 or abs(seen.orders[i] - carrier) <= 8 or abs(seen.orders[i] - 2 * carrier) <= 8]
    return {
        "period": seen.period,
        "traces": {name: {"t": t, "v": v, "unit": UNITS[name]} for name, (t, v) in {"node": told(seen.node_times, seen.node_levels), **drawn}.items()},
        "harmonics": [{"order": int(seen.orders[i]), "output": float(seen.amplitudes[i]), "node": float(seen.node_amplitudes[i])} for i in near],
        "carrier_order": carrier,
        "thd": seen.thd,
        "thd_limit": setting.thd_limit,
        "residue": seen.residue,
        "ripple": seen.ripple,
        "choke_ripple": seen.choke_ripple,
        "choke_peak": seen.choke_peak,
        "sampling": "natural sampling" if setting.natural else "regular sampling, asymmetric",
        "expected_distortion": setting.distortion,
        "dead_time": setting.dead_time,
        "link_ripple": seen.link_ripple,
        "index": seen.index,
        "edges": seen.edges,
        "meters": {k: {"true_rms": m.true_rms, "average": m.average, "peak_scaled": m.peak_scaled, "peak": m.peak} for k, m in seen.meters.items()},
        "rectifier": None if seen.drawn is None else {name: getattr(seen.drawn, name) for name in ("rms", "peak", "watts", "crest_factor", "power_factor")},
        "note": " ".join(_notes(setting, seen)),
    }


def _notes(setting: Setting, seen: Picture) -> list[str]:
    """What has to be said beside the picture."""
    stands = seen.meters["output"].true_rms
    short = f"The link does not reach the sine's crest: fully modulated the output has {show(stands, 'V')} of {show(setting.voltage, 'V')}."
    return [short] * (stands < SHORT * setting.voltage) + [RECTIFIERS.format(watts=show(setting.rectifier_power, "W"))] * (setting.rectifier_power > 0)


def place_of(model: Model, name: str) -> Place:
    """The place of that name. Raises InputError."""
    places = {p.name: p for p in model.wiring.lineup.places}
    if name not in places:
        raise InputError(f"the line-up has no place {name!r}", field="place", given=name, allowed=list(places))
    return places[name]


def corner_of(sheet: Sheet, id: str) -> int:
    """The corner of that name. Raises InputError."""
    if id not in sheet.corners.ids:
        raise InputError(f"there is no corner {id!r}", field="corner", given=id, allowed=list(sheet.corners.ids))
    return sheet.corners.ids.index(id)
