"""The JSON answer of every route."""

from typing import Any

import orjson
from fastapi.responses import JSONResponse

from rhombos.formats.plain import LARGEST, cleaned


class Answer(JSONResponse):
    """JSON without NaN and without Infinity; arrays are written as lists."""

    media_type = "application/json"

    def render(self, content: Any) -> bytes:
        try:
            return orjson.dumps(content, option=orjson.OPT_SERIALIZE_NUMPY)
        except TypeError:
            # A refusal quotes what was given: half of a character, or a number of more bits than there are.
            return orjson.dumps(_sendable(content))


def _sendable(content: Any) -> Any:
    if isinstance(content, str):
        return cleaned(content)
    if isinstance(content, dict):
        return {cleaned(str(k)): _sendable(v) for k, v in content.items()}
    if isinstance(content, list | tuple):
        return [_sendable(v) for v in content]
    return str(content) if isinstance(content, int) and abs(content) >= LARGEST else content
