"""Errors of the figure graph.

GraphError
├── DeclarationError   a stage or figure is declared wrongly
├── WiringError        a line-up cannot be put together (unlinked, ambiguous, duplicate, cyclic)
├── Unknown            something is named that does not exist: a line-up, a figure, a check
├── InputError         a given, choice or pin names or holds something that is not allowed
└── SolveError         a build figure has no single value, or a loop cannot be entered
"""

from typing import Any


class GraphError(Exception):
    """Root of the tree. Fields are keyword attributes; the error survives pickling."""

    def __init__(self, message: str, **fields: Any) -> None:
        super().__init__(message)
        self.message = message
        self.fields = fields

    def __reduce__(self) -> tuple[Any, ...]:
        return (_rebuild, (type(self), self.message, self.fields))


def _rebuild(kind: type[GraphError], message: str, fields: dict[str, Any]) -> GraphError:
    return kind(message, **fields)


class DeclarationError(GraphError):
    """A stage, figure, pick or check contradicts its own declaration."""


class WiringError(GraphError):
    """A line-up cannot be put together; the message names the parties."""


class Unknown(GraphError):
    """Something is named that does not exist; the message says what there is."""


class InputError(GraphError):
    """A value was typed that the sheet cannot take; fields: `field`, `given`, `allowed`."""


class SolveError(GraphError):
    """The sheet cannot be solved at all; fields name the figure."""
