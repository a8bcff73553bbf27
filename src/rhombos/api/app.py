"""The application: routers, guards, and one table from domain errors to HTTP answers."""

from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from rhombos import __version__
from rhombos.api.answer import Answer
from rhombos.api.answers import Health, Problem
from rhombos.api.apart import apart
from rhombos.api.compressed import Compressed
from rhombos.api.guard import HEADERS, Guard
from rhombos.api.projects import projects_router
from rhombos.api.questions import questions_router
from rhombos.api.service import Sheets
from rhombos.core.graph.errors import InputError, SolveError, Unknown, WiringError
from rhombos.core.units import QuantityError
from rhombos.formats.design import DesignError
from rhombos.formats.plain import cleaned
from rhombos.store.repository import Conflict, NotFound, Store

PROBLEMS: dict[int | str, dict[str, Any]] = {status: {"model": Problem} for status in (404, 409, 422, 500, 503)}
"""Every refusal has one shape."""


def make_app(store: Store, page: Path | None = None) -> FastAPI:
    """The application over a store; `page` is the folder of the built front end."""
    app = FastAPI(title="Rhombos", version=__version__, docs_url=None, redoc_url=None, default_response_class=Answer, responses=PROBLEMS)
    app.add_middleware(Compressed, minimum_size=1400, compresslevel=3)
    app.add_middleware(Guard)
    sheets = Sheets()
    app.include_router(projects_router(store), prefix="/api")
    app.include_router(questions_router(sheets), prefix="/api")

    @app.get("/api/health")
    @apart
    def health() -> Health:
        """Version and database state."""
        return {"name": "rhombos", "version": __version__, "database": "up" if store.alive() else "down"}

    _errors(app)
    if page is not None:
        _page(app, page)
    return app


def _problem(status: int, error: str, message: str, **more: Any) -> Answer:
    return Answer({"error": error, "message": message, **more}, status_code=status)


def _errors(app: FastAPI) -> None:
    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, error: RequestValidationError) -> Answer:
        fields = [{"field": ".".join(str(p) for p in e["loc"] if p != "body"), "given": _short(e.get("input")), "allowed": e["msg"]} for e in error.errors()]
        return _problem(422, "invalid", "; ".join(f"{f['field']}: {f['allowed']}" for f in fields), fields=fields)

    @app.exception_handler(InputError)
    def input_error(request: Request, error: InputError) -> Answer:
        return _problem(422, "invalid", error.message, fields=[error.fields])

    @app.exception_handler(DesignError)
    def design_error(request: Request, error: DesignError) -> Answer:
        return _problem(422, "design", str(error), fields=[{"field": path, "given": None, "allowed": what} for path, what in error.places])

    @app.exception_handler(QuantityError)
    def quantity(request: Request, error: QuantityError) -> Answer:
        return _problem(422, "quantity", str(error), fields=[{"field": "", "given": error.typed, "allowed": error.expected}])

    @app.exception_handler(SolveError)
    def solve(request: Request, error: SolveError) -> Answer:
        return _problem(422, "solve", error.message)

    @app.exception_handler(WiringError)
    def wiring(request: Request, error: WiringError) -> Answer:
        return _problem(
            422,
            "wiring",
            error.message,
            fields=[{"field": "loads", "given": error.fields.get("place"), "allowed": "places that the line-up does not have yet"}],
        )

    @app.exception_handler(NotFound)
    def not_found(request: Request, error: NotFound) -> Answer:
        return _problem(404, "not_found", str(error))

    # Only what is named by the asker: a KeyError is a fault of ours, and goes to the log as one.
    @app.exception_handler(Unknown)
    def unknown(request: Request, error: Unknown) -> Answer:
        return _problem(404, "not_found", error.message)

    @app.exception_handler(Conflict)
    def conflict(request: Request, error: Conflict) -> Answer:
        return _problem(409, "conflict", error.message, **({"theirs": error.theirs} if error.theirs is not None else {}))

    @app.exception_handler(Exception)
    def inside(request: Request, error: Exception) -> Answer:
        # The trace goes to the server's own log; the person is told what still holds. The guard does not see this answer.
        answer = _problem(500, "inside", f"Rhombos stumbled over this ({type(error).__name__}). Nothing that was saved is lost; undo the last edit to go on.")
        answer.headers.update(HEADERS)
        return answer

    def database(request: Request, error: Exception) -> Answer:
        return _problem(
            503,
            "database",
            "The database does not answer; it is started again if it was ours. Nothing that was saved is lost; what you typed is kept here and saved when it is back.",
        )

    @app.exception_handler(HTTPException)
    def http(request: Request, error: HTTPException) -> Answer:
        known = {404: f"there is nothing at {cleaned(request.url.path)[:80]}", 405: f"{request.method} is not asked of {cleaned(request.url.path)[:80]}"}
        answer = _problem(error.status_code, "refused", known.get(error.status_code, "the body cannot be read: it is to be JSON in UTF-8"))
        answer.headers.update(error.headers or {})
        return answer

    @app.exception_handler(RecursionError)
    def nested(request: Request, error: RecursionError) -> Answer:
        return _problem(422, "invalid", "the body is nested too deeply to be a design")

    app.add_exception_handler(OperationalError, database)
    app.add_exception_handler(PoolTimeout, database)
    app.add_exception_handler(InterfaceError, database)


def _short(value: Any) -> Any:
    return value if isinstance(value, int | float | bool) or value is None else str(value)[:80]


def _page(app: FastAPI, page: Path) -> None:
    """The built front end: hashed files for ever, the page itself never from a cache."""
    root = page.resolve()

    @app.get("/{path:path}", include_in_schema=False)
    def serve(path: str) -> Response:
        try:
            file = (root / path).resolve()
            there = file.is_file()
        except (OSError, ValueError):
            # A name that no file can have.
            return _problem(404, "not_found", "there is nothing of that name")
        if path and file.is_relative_to(root) and there:
            hashed = path.startswith("assets/")
            return FileResponse(file, headers={"Cache-Control": "public, max-age=31536000, immutable" if hashed else "no-cache"})
        if path.startswith("api/") or "." in path.rsplit("/", 1)[-1]:
            return _problem(404, "not_found", f"there is nothing at /{path}")
        return FileResponse(root / "index.html", headers={"Cache-Control": "no-cache"})
