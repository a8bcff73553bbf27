"""The choice that no move within a line-up makes: another line-up on the same brief, where a check holds that no setting mends."""

from collections.abc import Callable, Mapping, Sequence

from rhombos.core.comparison import is_isolated
from rhombos.core.graph.model import Model
from rhombos.core.graph.remedies import Remedy
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import FAILS, HOLDS, TIGHT, UNKNOWN_VERDICT

Solved = tuple[Model, Sheet]


def swaps(now: Solved, others: Mapping[str, Callable[[], Solved]], found: Sequence[Remedy], place: str | None = None) -> list[Remedy]:
    """For each failing or tight check (of a place, or of all) that no offered move of `found` mends without breaking another: the line-up in which less is wrong.

    `others` solve the same brief. The check must hold there or have no meaning there; an isolated output is not given up.
    """
    model, sheet = now
    mended = {r.check for r in found if r.offered and not r.breaks}
    before = _worst(sheet)
    asked = [c.key for c in model.wiring.checks if place in (None, c.place) and before[c.key] in (FAILS, TIGHT) and c.key not in mended]
    if not asked:
        return []
    solved = {id: solve() for id, solve in others.items()}
    after = {id: _worst(s) for id, (m, s) in solved.items() if is_isolated(m) or not is_isolated(model)}
    better = sorted((id for id in after if _wrong(after[id]) < _wrong(before)), key=lambda id: _wrong(after[id]))
    chosen = {check: next((id for id in better if after[id].get(check, HOLDS) > TIGHT), None) for check in asked}
    return [_remedy(check, id, solved[id][0], before, after[id]) for check, id in chosen.items() if id is not None]


def _remedy(check: str, id: str, model: Model, before: Mapping[str, int], after: Mapping[str, int]) -> Remedy:
    fails, tight = _wrong(after)
    told = "all of it holds" if not (fails or tight) else ", ".join(f"{n} {what}" for n, what in ((fails, "fail"), (tight, "tight")) if n)
    breaks = tuple(c.check.title for c in model.wiring.checks if after[c.key] == FAILS and before.get(c.key, HOLDS) != FAILS)
    title = model.wiring.lineup.title
    sentence = f"Swap to {title}: {told} there"
    return Remedy(check, "lineup", title, "line-up", sum(_wrong(before)), fails + tight, sentence, breaks, True, part=id)


def _worst(sheet: Sheet) -> dict[str, int]:
    """The worst verdict of every check."""
    return {c.key: int(code.min()) for c, code in zip(sheet.wiring.checks, sheet.judge().code, strict=True)}


def _wrong(worst: Mapping[str, int]) -> tuple[int, int]:
    """How many checks fail or are not known, and how many are tight."""
    codes = list(worst.values())
    return sum(c in (FAILS, UNKNOWN_VERDICT) for c in codes), codes.count(TIGHT)
