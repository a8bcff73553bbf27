"""Compile the formulas of both line-ups before anybody asks: by `make start` once, and by the server while it comes up."""

from rhombos.core.lineups import TITLES
from rhombos.demo import tern_islet
from rhombos.formats.kept_code import keep_code


def warm() -> None:
    """Solve the demo in every line-up; the code is kept for the next start."""
    for lineup in TITLES:
        design = tern_islet.first().model_copy(update={"lineup": lineup})
        design.model().solve(design.inputs())


if __name__ == "__main__":
    keep_code()
    warm()
