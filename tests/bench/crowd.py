"""Many users at once, over loopback: how much is answered, and what a slow question costs the others."""

import asyncio
import itertools
import json
import time
from collections.abc import Callable, Iterator

import numpy as np

from rhombos.demo import tern_islet
from rhombos.formats.design import write_design

Body = Callable[[], tuple[str, bytes]]


def solves() -> Body:
    """Solve the demo, its load another each time."""
    design = json.loads(write_design(tern_islet.first()))
    watts: Iterator[float] = (300 + 0.01 * k for k in itertools.count())

    def body() -> tuple[str, bytes]:
        design["givens"]["load_3.rated_power"] = next(watts)
        return "/api/solve", json.dumps({"design": design}).encode()

    return body


def slow() -> Body:
    """What moves the efficiency: every given upstream both ways, of another brief each time."""
    design = json.loads(write_design(tern_islet.first()))
    watts: Iterator[float] = (250 - 0.01 * k for k in itertools.count())

    def body() -> tuple[str, bytes]:
        design["givens"]["load_3.rated_power"] = next(watts)
        return "/api/sensitivity", json.dumps({"design": design, "key": "totals.efficiency", "corner": "nominal_full"}).encode()

    return body


async def _user(port: int, body: Body, until: float, took: list[float]) -> None:
    """One user without pause, on a connection of their own."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    while time.monotonic() < until:
        path, data = body()
        head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nContent-Type: application/json\r\nContent-Length: {len(data)}\r\n\r\n"
        begin = time.monotonic()
        writer.write(head.encode() + data)
        answer = (await reader.readuntil(b"\r\n\r\n")).decode().lower()
        assert answer.startswith("http/1.1 200"), answer
        length = next(int(line.split(":")[1]) for line in answer.split("\r\n") if line.startswith("content-length"))
        await reader.readexactly(length)
        took.append(time.monotonic() - begin)
    writer.close()


def crowd(port: int, users: list[Body], seconds: float) -> list[list[float]]:
    """All of them at once; what each answer took them, in seconds."""

    async def all_of_them() -> list[list[float]]:
        took: list[list[float]] = [[] for _ in users]
        until = time.monotonic() + seconds
        await asyncio.gather(*(_user(port, body, until, mine) for body, mine in zip(users, took, strict=True)))
        return took

    return asyncio.run(all_of_them())


def rate(port: int, users: int, seconds: float) -> float:
    """Solves a second that so many users get together."""
    return sum(map(len, crowd(port, [solves()] * users, seconds))) / seconds


def delay(port: int, seconds: float) -> float:
    """By how many seconds a slow question puts off the solves of another, at the 95th percentile."""
    alone = crowd(port, [solves()], seconds)[0]
    beside = crowd(port, [solves(), slow()], seconds)[0]
    return float(np.quantile(beside, 0.95) - np.quantile(alone, 0.95))
