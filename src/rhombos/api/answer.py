"""The JSON answer of every route."""

from typing import Any

import orjson
from fastapi.responses import JSONResponse


class Answer(JSONResponse):
    """JSON without NaN and without Infinity."""

    media_type = "application/json"

    def render(self, content: Any) -> bytes:
        return orjson.dumps(content)
