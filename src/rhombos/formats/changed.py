"""What changed since: two designs of one project side by side, from what was typed to what became of it."""

from collections.abc import Iterator, Mapping
from typing import Any, Literal

import numpy as np
from typing_extensions import TypedDict  # pydantic wants this one before Python 3.12

from rhombos.core.comparison import compare
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import FAILS, HOLDS, TIGHT
from rhombos.core.units import show
from rhombos.formats.design import Design, PinnedValue

Kind = Literal["line-up", "load", "given", "choice", "pin", "part", "decision", "judgement", "total"]
WORDS = {FAILS: "fails", TIGHT: "tight", HOLDS: "holds"}
SAME = 1e-6


class Change(TypedDict):
    """One thing that is otherwise: of which kind, where, what it is called, and what it was and is, in words."""

    kind: Kind
    place: str
    title: str
    before: str
    after: str


Side = tuple[Design, Model, Sheet]


def changes(before: Side, after: Side) -> list[Change]:
    """Everything that is otherwise: what people typed first, then the parts and decisions that followed, then judgements and totals."""
    return [*_typed(before, after), *_parts(before, after), *_decisions(before, after), *_judged(before, after), *_totals(before, after)]


def _change(kind: Kind, key: str, title: str, old: str, new: str) -> Change:
    return {"kind": kind, "place": key.split(".")[0], "title": title, "before": old, "after": new}


def _typed(before: Side, after: Side) -> Iterator[Change]:
    a, b = before[0], after[0]
    if a.lineup != b.lineup:
        yield _change("line-up", "", "Line-up", before[1].wiring.lineup.title, after[1].wiring.lineup.title)
    old, new = ({row.place: row.title for row in d.loads} for d in (a, b))
    for place in sorted(old.keys() | new.keys()):
        if old.get(place) != new.get(place):
            yield _change("load", place, "Load", old.get(place, "none"), new.get(place, "taken out"))
    for key in _differing(a.givens, b.givens):
        yield _change("given", key, _title((after, before), key), _given(before, key), _given(after, key))
    for key in _differing(a.choices, b.choices):
        yield _change("choice", key, _title((after, before), key), _chosen(before, key), _chosen(after, key))
    for key in _differing(a.pins, b.pins):
        yield _change("pin", key, _title((after, before), key), _pin(before, key), _pin(after, key))


def _differing(a: Mapping[str, Any], b: Mapping[str, Any]) -> list[str]:
    return sorted(key for key in a.keys() | b.keys() if a.get(key) != b.get(key))


def _title(sides: tuple[Side, ...], key: str) -> str:
    for _, model, _ in sides:
        if key in model.wiring.index:
            return model.wiring.nodes[model.wiring.index[key]].figure.title
        if key in model.choices:
            return model.choices[key][1].title
    return key


def _given(side: Side, key: str) -> str:
    design, model, sheet = side
    if key not in model.wiring.index:
        return show(design.givens[key], "", 4) if key in design.givens else "not there"
    return _shown(model, sheet, key)


def _shown(model: Model, sheet: Sheet, key: str) -> str:
    return show(float(np.reshape(sheet.value(key), -1)[0]), model.wiring.nodes[model.wiring.index[key]].figure.unit, 4)


def _chosen(side: Side, key: str) -> str:
    design, model, _ = side
    if key not in model.choices:
        return "not there"
    _, choice = model.choices[key]
    return choice.options[design.choices.get(key, choice.default)].title


def _pin(side: Side, key: str) -> str:
    design, model, _ = side
    pin: PinnedValue | None = design.pins.get(key)
    if pin is None:
        return "free"
    if pin.part is not None:
        return f"{pin.quantity} × {pin.part}" if pin.quantity > 1 else pin.part
    unit = model.wiring.nodes[model.wiring.index[key]].figure.unit if key in model.wiring.index else ""
    return show(float(pin.value or 0.0), unit, 4)


def _parts(before: Side, after: Side) -> Iterator[Change]:
    old, new = (_picked(*side[1:]) for side in (before, after))
    for key in sorted(old.keys() | new.keys()):
        a, b = old.get(key), new.get(key)
        if (a and a[1]) != (b and b[1]):
            yield _change("part", key, (b or a or ("", ""))[0], a[1] if a else "none", b[1] if b else "none")


def _picked(model: Model, sheet: Sheet) -> dict[str, tuple[str, str]]:
    """The title of every pick and the part that it took."""
    return {p.key: (p.pick.title, model.candidates[p.index].label(int(np.reshape(sheet.picks[p.index].chosen, -1)[0]))) for p in model.wiring.picks}


def _decisions(before: Side, after: Side) -> Iterator[Change]:
    (_, old, a), (_, new, b) = before, after
    for node in new.wiring.nodes:
        if node.figure.kind == "build" and node.figure.decided and node.key in old.wiring.index:
            x, y = (float(np.reshape(sheet.value(node.key), -1)[0]) for sheet in (a, b))
            if not np.isclose(x, y, rtol=SAME, atol=0, equal_nan=True):
                yield _change("decision", node.key, node.figure.title, _shown(old, a, node.key), _shown(new, b, node.key))


def _judged(before: Side, after: Side) -> Iterator[Change]:
    old, new = (_codes(*side[1:]) for side in (before, after))
    for key in sorted(old.keys() | new.keys()):
        a, b = old.get(key), new.get(key)
        if (a and a[1]) != (b and b[1]):
            title = (b or a or ("", ""))[0]
            yield _change("judgement", key, title, a[1] if a else "not judged", b[1] if b else "not judged")


def _codes(model: Model, sheet: Sheet) -> dict[str, tuple[str, str]]:
    worst = sheet.judge().code.min(axis=-1).reshape(-1)
    return {w.key: (w.check.title, WORDS.get(int(code), "unknown")) for w, code in zip(model.wiring.checks, worst, strict=True)}


def _totals(before: Side, after: Side) -> Iterator[Change]:
    """The numbers that line-ups are compared by."""
    for row in compare({"before": before[1:], "after": after[1:]}).rows:
        old, new = (row.numbers.get(side, [None])[0] for side in ("before", "after"))
        a, b = (np.nan if value is None else value for value in (old, new))
        if not np.isclose(a, b, rtol=1e-4, equal_nan=True):
            yield _change("total", "", row.title, show(a, row.unit, 3), show(b, row.unit, 3))
