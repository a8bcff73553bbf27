"""Compiled code kept between runs, in the person's cache folder: named by everything that it hangs on.

What cannot be named for certain (a formula that closes over something other than numbers, words and functions) is
compiled anew. A file that is damaged, missing or not writable costs time, nothing else.
"""

import hashlib
import json
import os
import sys
import tempfile
from collections.abc import Sequence
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import Any

import llvmlite

import rhombos.core
from rhombos.core.graph.compiled.machine import MACHINE, Compiled, Fact, Key

MOST_FILES = 24


class _Nameless(Exception):
    """A formula closes over something that has no certain name."""


def folder() -> Path:
    """Where compiled code is kept: RHOMBOS_CACHE, else in the person's cache folder."""
    named = os.environ.get("RHOMBOS_CACHE")
    return Path(named) if named else Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "rhombos"


class KeptCode:
    """The keeper that the core's machine asks before it compiles."""

    def __init__(self, where: Path) -> None:
        self.where = where

    def load(self, formulas: Sequence[Key], host: str) -> Compiled | None:
        """The code kept for these formulas on this machine, or None."""
        name = name_of(formulas, host)
        if name is None:
            return None
        try:
            head, code = (self.where / name).read_bytes().split(b"\n", 1)
            said = json.loads(head)
            if hashlib.sha256(code).hexdigest() != said["sum"]:
                return None
            return code, [None if fact is None else Fact(**fact) for fact in said["facts"]]
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def save(self, formulas: Sequence[Key], host: str, compiled: Compiled) -> None:
        """Keep code for these formulas; the oldest files go when there are many."""
        name = name_of(formulas, host)
        if name is None:
            return
        code, facts = compiled
        head = json.dumps({"sum": hashlib.sha256(code).hexdigest(), "facts": [None if f is None else vars(f) for f in facts]})
        try:
            self.where.mkdir(parents=True, exist_ok=True, mode=0o700)
            with tempfile.NamedTemporaryFile(dir=self.where, delete=False) as file:
                file.write(head.encode() + b"\n" + code)
            Path(file.name).replace(self.where / name)
            for old in sorted(self.where.iterdir(), key=lambda p: p.stat().st_mtime, reverse=True)[MOST_FILES:]:
                old.unlink(missing_ok=True)
        except OSError:
            return


def keep_code() -> None:
    """Let this process keep its compiled code, and use what an earlier one kept; without a home it compiles anew."""
    with suppress(RuntimeError):
        MACHINE.keeper = KeptCode(folder())


def name_of(formulas: Sequence[Key], host: str) -> str | None:
    """A name for the code of `formulas` on this machine: of their source, what they close over, the compiler and the processor."""
    try:
        identities = [(_identity(fn), count) for fn, count in formulas]
    except _Nameless:
        return None
    text = repr((_sources(), llvmlite.__version__, sys.version, host, identities))
    return hashlib.sha256(text.encode()).hexdigest()[:32]


@lru_cache(maxsize=1)
def _sources() -> str:
    """One sum over the core's source files: formulas call each other's modules."""
    core = Path(rhombos.core.__file__).resolve().parent
    total = hashlib.sha256()
    for path in sorted(core.rglob("*.py")):
        total.update(path.relative_to(core).as_posix().encode() + b"\0" + path.read_bytes())
    return total.hexdigest()


def _identity(x: Any) -> Any:
    if x is None or isinstance(x, bool | int | float | str):
        return repr(x)
    if isinstance(x, tuple | list):
        return [_identity(item) for item in x]
    fn = getattr(x, "fn", x)  # a pick stands for its formula
    code = getattr(fn, "__code__", None)
    if code is None or not str(fn.__module__).startswith("rhombos.core."):
        raise _Nameless
    cells = [cell.cell_contents for cell in fn.__closure__ or ()]
    return [fn.__module__, fn.__qualname__, code.co_firstlineno, hashlib.sha256(code.co_code).hexdigest(), [_identity(c) for c in cells]]
