"""Serve API and page on loopback, from as many processes as there are cores."""

import gc
import socket
import threading
import time
from collections.abc import Callable
from functools import partial
from typing import IO

import uvicorn

from rhombos import __version__
from rhombos.api.app import make_app
from rhombos.launch.places import MOST_PORTS, ROOT, LaunchError, say, wanted_port
from rhombos.launch.seed import load_demo
from rhombos.launch.warm import warm
from rhombos.launch.workers import Workers, wanted_workers
from rhombos.store.migrate import migrate
from rhombos.store.repository import Store

PAGE = ROOT / "web" / "dist"


def serve(url: str, lock: IO[str], watch_database: Callable[[], None]) -> None:
    """Bring the schema and the demo data up to date, then serve API and page until told to stop.

    `watch_database` is called once the server processes are there: they are to begin with a single thread.
    """
    began = time.monotonic()
    store = Store(url)
    try:
        migrate(url)
        load_demo(store)
    except Exception as error:
        raise LaunchError(
            "Preparing the database", str(error).split("\n")[0][:400], "check RHOMBOS_DATABASE_URL, if you set it; nothing that was saved is lost"
        ) from error
    store.engine.dispose()
    if not (PAGE / "index.html").exists():
        raise LaunchError("Finding the page", f"{PAGE} holds no build", "run `make start`, which builds it")
    listeners, port = _listen(wanted_workers())
    address = f"http://127.0.0.1:{port}/"
    lock.seek(0)
    lock.truncate()
    lock.write(address)
    lock.flush()
    workers = Workers(partial(_work, url, lock), listeners)
    try:
        watch_database()
        say(f"Rhombos {__version__} is at {address}  (ready in {time.monotonic() - began:.1f} s; Ctrl-C stops it)")
        workers.watch()
    finally:
        workers.stop()


def _work(url: str, lock: IO[str], listener: socket.socket) -> None:
    """One server process."""
    # Its copy: the lock goes with the process that started us.
    lock.close()
    server = uvicorn.Server(uvicorn.Config(make_app(Store(url), PAGE), log_level="warning", access_log=False, server_header=False, timeout_graceful_shutdown=3))
    # Not a daemon: native code half made must not be torn down under it when the stop comes early.
    threading.Thread(target=prepare, name="warm").start()
    server.run(sockets=[listener])


def prepare() -> None:
    """Compile ahead of the first question; what stays for good need not be looked through for rubbish again and again."""
    warm()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


def _listen(count: int) -> tuple[list[socket.socket], int]:
    """Listening sockets for so many processes, all on the wanted port or on the next free one; says which.

    A socket each, so that the system spreads the connections: of processes that share one, whoever wakes first takes all that wait.
    """
    wanted = wanted_port()
    for port in range(wanted, min(wanted + 50, MOST_PORTS + 1)):
        try:
            # Alone first: sockets that share a port would share it with another Rhombos too.
            _bound(port, shared=False).close()
            listeners = [_bound(port, shared=True) for _ in range(count)]
        except OSError:
            continue
        if port != wanted:
            say(f"Port {wanted} is in use; taking {port}.")
        return listeners, port
    raise LaunchError("Opening a port", f"{wanted} to {min(wanted + 49, MOST_PORTS)} are all in use", "set RHOMBOS_PORT to a free one")


def _bound(port: int, *, shared: bool) -> socket.socket:
    # With its protocol named, every connection sends small answers at once instead of waiting for an acknowledgement.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    try:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        if shared:
            listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
        listener.bind(("127.0.0.1", port))
    except OSError:
        listener.close()
        raise
    return listener
