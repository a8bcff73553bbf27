"""What each waveform may feed (judgement), row by row of the load list."""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Suits:
    """Whether a load may stand on a waveform, in words; `people` marks where a wrong choice harms people."""

    verdict: Literal["holds", "tight", "fails"]
    words: str
    people: bool = False


def _yes(words: str = "") -> Suits:
    return Suits("holds", f"yes, {words}" if words else "yes")


def _no(words: str = "", *, people: bool = False) -> Suits:
    return Suits("fails", f"no: {words}" if words else "no", people)


def _if(words: str) -> Suits:
    return Suits("tight", words)


WAVEFORMS = ("square", "stepped", "sine", "high-frequency AC", "DC link")
_ROWS: dict[str, tuple[Suits, Suits, Suits, Suits, Suits]] = {
    "heater": (
        _yes("if its rms is matched"),
        _yes(),
        _yes(),
        _no("switch and thermostat are not made for it"),
        _no("contacts rated for AC do not break DC, the arc stays", people=True),
    ),
    "filament_lamp": (_yes("if its rms is matched"), _yes(), _yes(), _yes(), _yes("up to its rated rms voltage")),
    "rectifier": (_if("only if the peak suits"), _yes(), _yes(), _no("its diodes are too slow"), _yes("if the input has no AC-only part")),
    "active_pfc": (_if("may trip"), _if("often trips"), _yes(), _no(), _if("ask the maker")),
    "induction_motor": (_no(), _if("derate by 25 to 50 %: hot, noisy"), _yes(), _no(), _no()),
    "universal_motor": (_if("hot, noisy"), _if("usually, derate"), _yes(), _no(), _if("only without an AC switch in the path")),
    "transformer_input": (_no("saturation and peak"), _no("unless tested"), _yes(), _no(), _no()),
}
SUITABILITY: dict[str, dict[str, Suits]] = {kind: dict(zip(WAVEFORMS, row, strict=True)) for kind, row in _ROWS.items()}
