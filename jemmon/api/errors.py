"""The one way from an error to an answer: `{code, message}`, whatever went wrong."""

import logging

from flask import Flask
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from ..core.base.errors import CoreError, EventError, OutOfRange, TraceError
from ..store.flights import SameIdOtherBody

_STATUS: dict[type[BaseException], int] = {CoreError: 400, OutOfRange: 422, TraceError: 422, EventError: 422}
_log = logging.getLogger(__name__)


def install(app: Flask) -> None:
    """Answer every error of every kind with JSON."""

    @app.errorhandler(CoreError)
    def core_error(error: CoreError):
        status = next(_STATUS[cls] for cls in type(error).__mro__ if cls in _STATUS)
        return {"code": error.code, "message": str(error)}, status

    @app.errorhandler(ValidationError)
    def bad_request(error: ValidationError):
        first = error.errors(include_url=False, include_context=False)[0]
        place = ".".join(str(part) for part in first["loc"]) or "the body"
        return {"code": "bad_request", "message": f"{place}: {first['msg']}"}, 422

    @app.errorhandler(SameIdOtherBody)
    def conflict(error: SameIdOtherBody):
        return {
            "code": "conflict",
            "message": f"An event with the id {error} is kept already and says something else.",
        }, 409

    @app.errorhandler(HTTPException)
    def http_error(error: HTTPException):
        return {"code": error.name.lower().replace(" ", "_"), "message": error.description}, error.code or 500

    @app.errorhandler(Exception)
    def unforeseen(error: Exception):  # the last net: logged with its trace, told without it
        _log.exception("unforeseen error")
        return {"code": "internal_error", "message": "Something went wrong in Jemmon; nothing was changed."}, 500
