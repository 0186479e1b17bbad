"""Loopback is not a wall: any web page could post to it. These guards refuse what does not come from our own pages."""

from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

from ..app.settings import Settings
from .contract import JSON, MOST_BODY_BYTES

CSV = "text/csv"
_SAFE = ("GET", "HEAD", "OPTIONS")
CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; "
    "worker-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


def install(app: Flask, settings: Settings) -> None:
    """Put the guards before every request and the policy on every answer."""

    @app.before_request
    def refuse_strangers() -> None:
        host = urlsplit(f"//{request.host}").hostname or ""
        if host not in settings.hosts:
            abort(400, f"This server answers to {', '.join(settings.hosts)} only, not to {host[:80]!r}.")
        if request.method in _SAFE:
            return
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin).netloc != request.host:
            abort(403, "This request comes from another site's page; only Jemmon's own pages may change anything.")
        if request.headers.get("Sec-Fetch-Site", "none") not in ("same-origin", "none"):
            abort(403, "This request comes from another site's page; only Jemmon's own pages may change anything.")
        view = app.view_functions.get(request.endpoint or "")
        wanted = getattr(view, "takes", JSON)
        if request.mimetype != wanted and not (request.method == "DELETE" and not request.content_length):
            abort(415, f"The content type must be {wanted}.")
        most = settings.most_upload_bytes if wanted == CSV else getattr(view, "most_bytes", MOST_BODY_BYTES)
        length = request.content_length
        if length is None and "Transfer-Encoding" not in request.headers:
            length = 0
        if length is None or length > most:
            what = "body" if wanted == JSON else "file"
            abort(413, f"The {what} is over the limit of {most / 1e6:g} MB; it was not read.")

    @app.after_request
    def add_policy(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = CONTENT_POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if "Cache-Control" not in response.headers and request.path.startswith("/api"):
            response.headers["Cache-Control"] = "no-store"
        return response
