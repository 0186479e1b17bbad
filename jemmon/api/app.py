"""The Flask application: guards, errors, routes, and the built front end."""

import atexit
import re

from flask import Flask, Response, send_from_directory
from werkzeug.exceptions import NotFound

from ..app.hangar import Hangar
from ..app.settings import Settings
from ..app.streams import Streams
from . import aircraft_routes, drill_routes, errors, flight_routes, guards, live_routes, own_routes

_MOST_OF_ANY_BYTES = 8_000_000  # a photo, a draft; each route has its own limit (guards)
_PAGE = re.compile(r"(?!.*\.\.)[A-Za-z0-9_.:/-]{0,200}")  # what the front end's own router may know


def create_app(settings: Settings | None = None) -> Flask:
    """Return the application; it opens the database and takes up a flight that was not ended."""
    settings = settings or Settings()
    app = Flask(__name__, static_folder=None)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.config["MAX_CONTENT_LENGTH"] = max(settings.most_upload_bytes, _MOST_OF_ANY_BYTES)
    hangar = Hangar(settings)
    app.extensions["hangar"] = hangar
    app.extensions["streams"] = Streams(frame_s=settings.frame_s)
    atexit.register(hangar.close)
    guards.install(app, settings)
    errors.install(app)
    app.register_blueprint(aircraft_routes.bp)
    app.register_blueprint(own_routes.bp)
    app.register_blueprint(drill_routes.bp)
    app.register_blueprint(flight_routes.bp)
    app.register_blueprint(live_routes.bp)

    built = {file.relative_to(settings.web).as_posix() for file in settings.web.rglob("*") if file.is_file()}

    @app.get("/")
    @app.get("/<path:path>")
    def page(path: str = "") -> Response:
        if path.startswith("api/"):
            raise NotFound("There is no such part of the interface.")
        if "index.html" not in built:
            raise NotFound("The front end is not built; type `make setup`.")
        if path in built:
            response = send_from_directory(settings.web, path)
            if path.startswith("assets/"):
                response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return response
        if not _PAGE.fullmatch(path):
            raise NotFound("There is no such page.")
        return send_from_directory(settings.web, "index.html", max_age=0)

    return app
