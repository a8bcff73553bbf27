"""Server processes, one a core, behind one address; one that dies is started again, and none outlives the process that started it."""

import multiprocessing
import os
import socket
import threading
import time
from collections.abc import Callable, Sequence
from multiprocessing.connection import wait
from multiprocessing.context import ForkProcess

from rhombos.launch.places import LaunchError, say

MOST = 8
"""More would cost memory that no bench has use for."""
PATIENCE = 6.0
"""Seconds for an orderly end: connections under way are given three."""
TOO_SOON = 2.0
"""A server that ends sooner than this, several times in a row, would end every time."""
TOO_OFTEN = 5
FORK = multiprocessing.get_context("fork")
"""What was imported once serves all; their memory is shared until somebody writes to it."""


def wanted_workers() -> int:
    """How many server processes RHOMBOS_WORKERS asks for, else as many as there are cores, at most `MOST`."""
    typed = os.environ.get("RHOMBOS_WORKERS") or str(min(len(os.sched_getaffinity(0)), MOST))
    if not (typed.isascii() and typed.isdigit() and 1 <= int(typed) <= 64):
        raise LaunchError("Reading RHOMBOS_WORKERS", f"{typed!r} is not a number of processes", "give a number from 1 to 64")
    return int(typed)


class Workers:
    """`work` in a process for each listening socket; to be made before other threads are.

    The sockets stay open here, so that whoever connects while a process is started again waits for it.
    """

    def __init__(self, work: Callable[[socket.socket], None], listeners: Sequence[socket.socket]) -> None:
        self.work = work
        self.started: dict[socket.socket, float] = {}
        self.processes = {listener: self._started(listener) for listener in listeners}

    def _started(self, listener: socket.socket) -> ForkProcess:
        process = FORK.Process(target=self._serve, args=(listener,), name="rhombos-server")
        process.start()
        self.started[listener] = time.monotonic()
        return process

    def _serve(self, listener: socket.socket) -> None:
        """In the new process: serve until told to stop, or until the process that started it is gone."""
        threading.Thread(target=_end_with_parent, name="parent", daemon=True).start()
        try:
            self.work(listener)
        except KeyboardInterrupt:
            # Told to stop before it listened.
            return

    def watch(self) -> None:
        """Start again what has died, until interrupted."""
        hasty = 0
        while True:
            ended = wait([p.sentinel for p in self.processes.values()])
            for listener, process in list(self.processes.items()):
                if process.sentinel not in ended:
                    continue
                # Its pipe is closed a moment before it is dead: looked at then, it would seem to end again and again.
                process.join()
                lived = time.monotonic() - self.started[listener]
                hasty = hasty + 1 if lived < TOO_SOON else 0
                if hasty >= TOO_OFTEN:
                    what = "look at what they said above; nothing that was saved is lost"
                    raise LaunchError("Serving", "server processes end as soon as they are started", what)
                say(f"A server process ended ({_how(process.exitcode)}); starting another. Nothing that was saved is lost.")
                self.processes[listener] = self._started(listener)

    def stop(self) -> None:
        """Stop all of them, in order if they can."""
        for process in self.processes.values():
            process.terminate()
        end = time.monotonic() + PATIENCE
        for process in self.processes.values():
            process.join(max(0.0, end - time.monotonic()))
            if process.exitcode is None:
                process.kill()
                process.join()


def _end_with_parent() -> None:
    parent = multiprocessing.parent_process()
    assert parent is not None, "only started by Workers"
    parent.join()
    # As dead as the one that started it: the port is to be free for the next start.
    os._exit(1)


def _how(code: int | None) -> str:
    return f"killed by signal {-code}" if code is not None and code < 0 else f"exit code {code}"
