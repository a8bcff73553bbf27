"""At the door: loopback hosts only, our own origin only, a body limit, and the content-security policy."""

import re
from contextlib import suppress

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

HOST = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?")
BODY_LIMIT = 2 * 1024 * 1024
ARCHIVE_LIMIT = 64 * 1024 * 1024
"""What an import may bring: the archive of a project holds every revision of it."""
EMPTY_STYLE = "'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='"
POLICY = (
    f"default-src 'none'; script-src 'self'; style-src 'self' {EMPTY_STYLE}; style-src-attr 'none'; img-src 'self' blob: data:; font-src 'self'; connect-src 'self'; manifest-src 'self'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'; require-trusted-types-for 'script'; trusted-types 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class TooLarge(Exception):
    """The body passed the limit while it was read."""


class Guard:
    """ASGI middleware that refuses foreign hosts and origins and large bodies, and sets the headers of every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        limit = ARCHIVE_LIMIT if scope["path"] == "/api/import" else BODY_LIMIT

        seen = 0

        async def with_headers(message: Message) -> None:
            if seen > limit:
                # What reads the body may take our refusal for a fault of its own: the answer comes from here.
                return
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out[name] = value
            await send(message)

        refusal = _refusal(headers, limit)
        if refusal is not None:
            status, text = refusal
            await JSONResponse({"error": "refused", "message": text}, status)(scope, receive, with_headers)
            return

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > limit:
                raise TooLarge
            return message

        with suppress(TooLarge):
            await self.app(scope, counted, with_headers)
        if seen > limit:
            message = f"the body is larger than {limit} bytes"
            seen = 0
            await JSONResponse({"error": "too_large", "message": message}, 413)(scope, receive, with_headers)


def _refusal(headers: Headers, limit: int) -> tuple[int, str] | None:
    host = headers.get("host", "")
    if not HOST.fullmatch(host):
        return 421, f"host {host!r} is not this machine"
    origin = headers.get("origin")
    if origin is not None and origin != f"http://{host}":
        return 403, f"origin {origin!r} is not this page"
    length = headers.get("content-length", "0")
    if length.isdigit() and int(length) > limit:
        return 413, f"the body of {length} bytes is larger than {limit}"
    return None
