"""Native code of the kernels kept beside them: made once on a machine, by the text of what it is made from and by the processor.

Where nothing can be written beside the sources it is made anew in every process.
"""

import os
import tempfile
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path

import llvmlite

_ENGINE = Path(__file__).parent
_KEPT = _ENGINE / "__pycache__"
SOURCES = (*sorted(_ENGINE.glob("*.py")), *sorted((_ENGINE.parents[1] / "formulas").glob("*.py")), _ENGINE.parent / "picked.py", _ENGINE.parent / "loops.py")
"""All that the kernels are written by, or read a number from."""


def kept(processor: str, make: Callable[[], bytes]) -> bytes:
    """The object code for a `processor` (its name, what it can do, whether the vector library is there), made where there is none."""
    place = _KEPT / f"kernels.{_key(processor)}.o"
    try:
        return place.read_bytes()
    except OSError:
        made = make()
    _keep(place, made)
    return made


def _key(processor: str) -> str:
    text = b"".join(source.read_bytes() for source in SOURCES)
    return sha256(text + processor.encode() + llvmlite.__version__.encode()).hexdigest()[:24]


def _keep(place: Path, made: bytes) -> None:
    """Put it there as a whole or not at all; what former sources made goes."""
    try:
        _KEPT.mkdir(exist_ok=True)
        handle, name = tempfile.mkstemp(dir=_KEPT)
        with os.fdopen(handle, "wb") as file:
            file.write(made)
        os.chmod(name, 0o644)
        for former in _KEPT.glob("kernels.*.o"):
            former.unlink(missing_ok=True)
        os.replace(name, place)
    except OSError:
        return
