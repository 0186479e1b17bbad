"""The one way from an error to an answer: `{code, message, where}`, whatever went wrong."""

import errno
import logging
import reprlib
import sqlite3
from collections.abc import Mapping
from typing import Any

from flask import Flask, Response
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from ..app.services import TakesPlace
from ..core.base.errors import CoreError, EventError, OutOfRange, TraceError
from ..core.screen.frame import Trouble
from ..store.database import NotWritten, reason_of
from ..store.flights import SameIdOtherBody
from .contract import Problem, answer_of

_STATUS: dict[type[BaseException], int] = {CoreError: 400, OutOfRange: 422, TraceError: 422, EventError: 422}
_log = logging.getLogger(__name__)


def problem(status: int, code: str, message: str, where: str | None = None) -> Response:
    """Return an error's answer."""
    return answer_of(Problem, Problem(code=code, message=message, where=where), status)


def install(app: Flask) -> None:
    """Answer every error of every kind with JSON."""

    @app.errorhandler(CoreError)
    def core_error(error: CoreError) -> Response:
        status = next(_STATUS[cls] for cls in type(error).__mro__ if cls in _STATUS)
        return problem(status, error.code, str(error), error.where)

    @app.errorhandler(ValidationError)
    def bad_request(error: ValidationError) -> Response:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"]) or "the body"
        status = 400 if first["type"] == "json_invalid" else 422
        return problem(status, "bad_request", _words(where, first), where)

    @app.errorhandler(SameIdOtherBody)
    def conflict(error: SameIdOtherBody) -> Response:
        message = f"An event with the id {error} is kept already and says something else."
        return problem(409, "conflict", message, "id")

    @app.errorhandler(TakesPlace)
    def asks(error: TakesPlace) -> Response:
        return problem(409, "takes_place", str(error), "id")

    @app.errorhandler(NotWritten)
    def not_written(error: NotWritten) -> Response:
        _log.warning("the database did not take it: %s", error)
        return problem(503, error.code, f"{Trouble.of(error.code, '').say} Nothing was changed.")

    @app.errorhandler(sqlite3.DatabaseError)
    def not_read(error: sqlite3.DatabaseError) -> Response:
        _log.warning("the database did not answer: %s", error)
        return problem(503, reason_of(error), f"The database did not answer: {error}. Nothing was changed.")

    @app.errorhandler(OSError)
    def no_room(error: OSError) -> Response:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EROFS):
            return unforeseen(error)
        _log.warning("the disk did not take it: %s", error)
        return problem(503, "disk_full", f"The disk does not take it: {error.strerror}. Nothing was changed.")

    @app.errorhandler(HTTPException)
    def http_error(error: HTTPException) -> Response:
        code = error.name.lower().replace(" ", "_")
        return problem(error.code or 500, code, error.description or error.name)

    @app.errorhandler(Exception)
    def unforeseen(error: Exception) -> Response:  # the last net: logged with its trace, told without it
        _log.exception("unforeseen error")
        return problem(500, "internal_error", "Something went wrong in Jemmon; nothing was changed.")


_MUST_BE = {
    "float": "a figure",
    "int": "a whole figure",
    "string": "text",
    "bool": "true or false",
    "list": "a list",
    "tuple": "a list",
    "dict": "an object",
    "dataclass": "an object",
}


def _words(where: str, error: Mapping[str, Any]) -> str:
    """Return what is wrong with one field of a body, and what it should be."""
    kind, more = str(error["type"]), error.get("ctx", {})
    given = f"`{where}` is {reprlib.repr(error.get('input'))}"
    match kind:
        case "missing":
            return f"`{where}` is missing."
        case "extra_forbidden" | "unexpected_keyword_argument":
            return f"`{where}` is not known here; leave it out."
        case "less_than_equal" | "less_than":
            return f"{given}; at most {more.get('le', more.get('lt'))}."
        case "greater_than_equal" | "greater_than":
            return f"{given}; at least {more.get('ge', more.get('gt'))}."
        case "finite_number":
            return f"{given}; it must be a finite figure."
        case "literal_error" | "enum":
            return f"{given}; it must be {more.get('expected')}."
        case "union_tag_invalid" | "union_tag_not_found":
            known = f" There are {more['expected_tags']}." if "expected_tags" in more else ""
            return f"`{where}` does not say which kind it is.{known}"
        case "string_too_long" | "string_too_short" | "too_long" | "too_short":
            return f"`{where}`: {error['msg'].lower()}."
        case "json_invalid":
            return f"The body is not JSON: {error['msg']}."
    wanted = next((words for name, words in _MUST_BE.items() if kind.startswith(name)), None)
    return f"{given}; it must be {wanted}." if wanted else f"{given}: {error['msg']}."
