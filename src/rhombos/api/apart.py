"""Threads of their own for what waits for the database, so that a database that hangs never holds up a solve."""

from collections.abc import Awaitable, Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from anyio import CapacityLimiter
from anyio.to_thread import run_sync

P = ParamSpec("P")
R = TypeVar("R")
AT_ONCE = 16
_limiter: list[CapacityLimiter] = []


def apart(work: Callable[P, R]) -> Callable[P, Awaitable[R]]:
    """A route that runs in one of the store's threads."""

    @wraps(work)
    async def route(*args: P.args, **kwargs: P.kwargs) -> R:
        if not _limiter:
            # Made where the loop runs.
            _limiter.append(CapacityLimiter(AT_ONCE))
        return await run_sync(lambda: work(*args, **kwargs), limiter=_limiter[0])

    return route
