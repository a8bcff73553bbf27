"""Serve API and page from one process on loopback."""

import gc
import socket
import threading
import time
from typing import IO

import uvicorn

from rhombos import __version__
from rhombos.api.app import make_app
from rhombos.launch.places import MOST_PORTS, ROOT, LaunchError, say, wanted_port
from rhombos.launch.seed import load_demo
from rhombos.launch.warm import warm
from rhombos.store.migrate import migrate
from rhombos.store.repository import Store


def serve(url: str, lock: IO[str]) -> None:
    """Bring the schema and the demo data up to date, then serve API and page until told to stop."""
    began = time.monotonic()
    store = Store(url)
    try:
        migrate(url)
        load_demo(store)
    except Exception as error:
        raise LaunchError(
            "Preparing the database", str(error).split("\n")[0][:400], "check RHOMBOS_DATABASE_URL, if you set it; nothing that was saved is lost"
        ) from error
    page = ROOT / "web" / "dist"
    if not (page / "index.html").exists():
        raise LaunchError("Finding the page", f"{page} holds no build", "run `make start`, which builds it")
    listener, port = _listen()
    address = f"http://127.0.0.1:{port}/"
    lock.seek(0)
    lock.truncate()
    lock.write(address)
    lock.flush()
    server = uvicorn.Server(uvicorn.Config(make_app(store, page), log_level="warning", access_log=False, server_header=False, timeout_graceful_shutdown=3))
    say(f"Rhombos {__version__} is at {address}  (ready in {time.monotonic() - began:.1f} s; Ctrl-C stops it)")
    # Not a daemon: native code half made must not be torn down under it when the stop comes early.
    threading.Thread(target=_warm, name="warm").start()
    server.run(sockets=[listener])


def _warm() -> None:
    """Compile ahead of the first question; what stays for good need not be looked through for rubbish again and again."""
    warm()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


def _listen() -> tuple[socket.socket, int]:
    """A listening socket on the wanted port, or the next free one; says which."""
    wanted = wanted_port()
    for port in range(wanted, min(wanted + 50, MOST_PORTS + 1)):
        # With its protocol named, every connection sends small answers at once instead of waiting for an acknowledgement.
        listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except OSError:
            listener.close()
            continue
        if port != wanted:
            say(f"Port {wanted} is in use; taking {port}.")
        return listener, port
    raise LaunchError("Opening a port", f"{wanted} to {min(wanted + 49, MOST_PORTS)} are all in use", "set RHOMBOS_PORT to a free one")
