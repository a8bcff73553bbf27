"""`make campaign`: what the first answer is worth. Every brief in every line-up, at its defaults; the causes ranked."""

import sys
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from rhombos.core.graph.remedies import remedies
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import FAILS, TIGHT, UNKNOWN_VERDICT
from rhombos.core.lineups import TITLES
from rhombos.core.lineups.opening import opening
from rhombos.formats.design import Design
from tests.campaign.briefs import briefs
from tests.core.trial import applied

MOST_CLICKS = 3


@dataclass
class Answer:
    """One brief in one line-up: what fails, what is tight, what is unknown, and how long it took."""

    lineup: str
    fails: set[str]
    tight: set[str]
    unknown: set[str]
    corners_unknown: int
    seconds: float
    alternating: tuple[str, ...]
    held: tuple[str, ...]
    """Decisions that are not what their formula gives with the numbers of the sheet."""

    @property
    def holds(self) -> bool:
        return not (self.fails or self.tight or self.unknown)

    @property
    def stands(self) -> bool:
        """Nothing fails, nothing is unknown."""
        return not (self.fails or self.unknown)


@dataclass
class Campaign:
    answers: list[list[Answer]] = field(default_factory=list)
    opened: list[Answer] = field(default_factory=list)
    """Of each brief the line-up that its project would open with."""
    designs: list[Design] = field(default_factory=list)
    clicks: list[int | None] = field(default_factory=list)
    """Of each brief how many clicks on what is offered make the line-up that opens hold; None where three are not enough."""


def answer(design: Design, lineup: str) -> tuple[Answer, Sheet]:
    """Solve a brief in a line-up and read the verdicts."""
    design = design.model_copy(update={"lineup": lineup})
    model, inputs = design.model(), design.inputs()
    begin = time.perf_counter()
    sheet = model.solve(inputs)
    took = time.perf_counter() - begin
    code = sheet.judge().code
    code = code.reshape(code.shape[0], -1)
    worst = {kind: {c.key for c, row in zip(sheet.wiring.checks, code, strict=True) if (row == kind).any()} for kind in (FAILS, TIGHT, UNKNOWN_VERDICT)}
    lost = int((code == UNKNOWN_VERDICT).any(axis=0).sum()) if code.shape[1] > 1 else 0
    return Answer(lineup, worst[FAILS], worst[TIGHT], worst[UNKNOWN_VERDICT], lost, took, sheet.alternating, tuple(sheet.held_decisions())), sheet


def clicked(sheet: Sheet, design: Design, lineup: str) -> int | None:
    """How many clicks, each on the offered remedy that leaves the least standing wrong, make a sheet hold."""
    model, inputs = design.model_copy(update={"lineup": lineup}).model(), sheet.inputs
    wrong = _wrong(sheet)
    for clicks in range(MOST_CLICKS + 1):
        if wrong == (0, 0):
            return clicks
        tried = [model.solve(applied(inputs, r)) for r in remedies(model, sheet) if r.offered] if clicks < MOST_CLICKS else []
        best = min(tried, key=_wrong, default=None)
        if best is None or _wrong(best) >= wrong:
            return None
        sheet, inputs, wrong = best, best.inputs, _wrong(best)
    return None


def _wrong(sheet: Sheet) -> tuple[int, int]:
    """How many checks fail or are unknown, and how many are tight."""
    code = sheet.judge().code
    worst = code.reshape(code.shape[0], -1).min(axis=1)
    return int((worst < TIGHT).sum()), int((worst == TIGHT).sum())


def campaign(seed: int, count: int) -> Campaign:
    """All briefs of a seed in all line-ups."""
    done = Campaign()
    for design in briefs(seed, count):
        found = {id: answer(design, id) for id in TITLES}
        done.designs.append(design)
        done.answers.append([told for told, _ in found.values()])
        opened = opening(lambda id: found[id][1]).lineup  # noqa: B023 - asked at once
        done.opened.append(found[opened][0])
        done.clicks.append(clicked(found[opened][1], design, opened))
    return done


def table(done: Campaign) -> list[tuple[str, float]]:
    """The shares that count, in per cent."""
    count = len(done.answers)

    def share(of: Sequence[bool]) -> float:
        return 100 * sum(of) / count

    return [
        ("hold everywhere in at least one line-up", share([any(a.holds for a in row) for row in done.answers])),
        ("nothing fails in at least one line-up", share([any(a.stands for a in row) for row in done.answers])),
        ("hold everywhere in the one that the project opens with", share([a.holds for a in done.opened])),
        ("nothing fails in the one that the project opens with", share([a.stands for a in done.opened])),
        ("hold after at most three clicks on what is offered", share([n is not None for n in done.clicks])),
        *((f"nothing fails: {id}", share([row[k].stands for row in done.answers])) for k, id in enumerate(TITLES)),
        *((f"solved at every corner: {id}", share([not row[k].unknown for row in done.answers])) for k, id in enumerate(TITLES)),
        ("a decision is held in the one that the project opens with", share([bool(a.held) for a in done.opened])),
        ("a decision is held in some line-up in which nothing fails", share([any(a.held for a in row if a.stands) for row in done.answers])),
        ("a decision is held in some line-up", share([any(a.held for a in row) for row in done.answers])),
        ("a decision alternates in some line-up", share([any(a.alternating for a in row) for row in done.answers])),
    ]


def causes(done: Campaign, most: int = 25) -> list[tuple[str, int, int]]:
    """Checks by how many briefs each spoils in the line-up that stands best: failing, tight."""
    failing: Counter[str] = Counter()
    tight: Counter[str] = Counter()
    for row in done.answers:
        best = min(row, key=lambda a: (len(a.unknown), len(a.fails), len(a.tight)))
        # Where corners are lost, all that hangs on them is: that is one cause.
        failing.update(best.fails | ({"(no value at some corner)"} if best.unknown else set()))
        tight.update(best.tight)
    return [(key, failing[key], tight[key]) for key, _ in (failing + tight).most_common(most)]


def main() -> None:
    """Print the table."""
    seed = int(sys.argv[1]) if len(sys.argv) > 1 else 1
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 200
    begin = time.perf_counter()
    done = campaign(seed, count)
    print(f"{count} briefs of seed {seed}, {time.perf_counter() - begin:.0f} s\n")
    for name, share in table(done):
        print(f"{name:60} {share:6.1f} %")
    seconds = [a.seconds for row in done.answers for a in row]
    print(f"{'solve, median and 95th percentile':60} {1e3 * np.median(seconds):6.1f} ms, {1e3 * float(np.quantile(seconds, 0.95)):.1f} ms\n")
    print(f"{'what spoils the best line-up':60} fails  tight")
    for key, fails, tight in causes(done):
        print(f"{key:60} {fails:5} {tight:6}")


if __name__ == "__main__":
    main()
