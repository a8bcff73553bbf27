"""JSON from outside, read strictly: what could be read two ways, damaged or not stored is refused in words, with its place."""

import json
from collections.abc import Iterator
from typing import Any

DEEPEST = 40
"""Levels of nesting; a design has four."""
LONGEST_NUMBER = 400
"""Digits of a number as written; a double needs seventeen."""
LARGEST = 2**63


class PlainError(ValueError):
    """What is wrong, and where: `place` is a line and column, or a path."""

    def __init__(self, place: str, what: str) -> None:
        super().__init__(f"{place}: {what}" if place else what)
        self.place, self.what = place, what


def read(raw: bytes) -> Any:
    """Parsed JSON. Raises PlainError for bytes that are not UTF-8, double keys, deep nesting, and numbers that JSON does not have."""
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        raise PlainError(f"line {line}", f"the byte {raw[error.start]:#04x} is not UTF-8: save the file as UTF-8, so that no letter is lost") from None
    if _depth(text) > DEEPEST:
        raise PlainError("the file", f"it is nested deeper than {DEEPEST} levels")
    try:
        found = json.loads(text, object_pairs_hook=_once, parse_constant=_refuse, parse_int=_whole)
    except json.JSONDecodeError as error:
        raise PlainError(f"line {error.lineno}, column {error.colno}", error.msg) from None
    for path, wrong in faults(found):
        raise PlainError(path, wrong)
    return found


def faults(raw: Any, path: str = "") -> Iterator[tuple[str, str]]:
    """Texts and numbers that cannot be kept as they are, each with its path."""
    if isinstance(raw, str):
        wrong = _of_text(raw)
        if wrong:
            yield path, wrong
    elif isinstance(raw, dict):
        for key, value in raw.items():
            wrong = _of_text(str(key))
            if wrong:
                yield path, f"a name {wrong}"
            yield from faults(value, f"{path}.{_shown(str(key))}" if path else _shown(str(key)))
    elif isinstance(raw, list):
        for k, value in enumerate(raw):
            yield from faults(value, f"{path}.{k}" if path else str(k))
    elif isinstance(raw, int) and not isinstance(raw, bool) and abs(raw) >= LARGEST:
        yield path, "is a whole number of more than 63 bits"


def cleaned(text: str) -> str:
    """A text that can be sent: halves of characters are replaced."""
    return text.encode("utf-8", "replace").decode()


def _shown(key: str) -> str:
    return cleaned(key)[:80]


def _of_text(text: str) -> str:
    if any("\ud800" <= c <= "\udfff" for c in text):
        return "holds half of a character (a lone surrogate)"
    return "holds a character without a place in a text (U+0000)" if "\0" in text else ""


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise PlainError(_shown(key), "is said twice")
        found[key] = value
    return found


def _refuse(name: str) -> float:
    raise PlainError("the file", f"{name} is not a number that a design may hold")


def _whole(digits: str) -> int:
    if len(digits) > LONGEST_NUMBER:
        raise PlainError("the file", f"a number of {len(digits)} digits is written in it")
    return int(digits)


def _depth(text: str) -> int:
    """How deeply brackets are nested, strings left out."""
    deepest = depth = 0
    inside = escaped = False
    for c in text:
        if inside:
            inside = escaped or c != '"'
            escaped = c == "\\" and not escaped
        elif c == '"':
            inside = True
        elif c in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif c in "]}":
            depth -= 1
    return deepest
