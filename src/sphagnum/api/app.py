"""The Flask application: routes registered, errors in one shape, security headers, the built web application."""

from __future__ import annotations

import errno
import json
import logging
import re
import secrets
import tempfile
import time
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from flask import Blueprint, Flask, Response, current_app, g, make_response, redirect, request, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker
from werkzeug.exceptions import HTTPException
from werkzeug.routing import PathConverter

from .. import __version__
from ..core.errors import BadInput
from ..core.schema import refusal, refuse_no_text
from ..store.connect import Damaged
from ..store.documents import Missing
from ..store.edits import Busy, Conflict
from ..store.files import FileStore
from ..store.undo import Blocked
from ..work.desk import Desk
from . import (  # noqa: F401  (their routes register themselves)
    behind,
    bench,
    captures,
    compare,
    cutting,
    edits,
    files,
    fitting,
    health,
    hearing,
    papers,
    phones,
    pictures,
    plans,
    runs,
    shapes,
    shelf,
    signals,
    together,
    views,
    workshop,
)
from .doors import COOKIE, Door, sign_in_page, ticket_page
from .schemas import Refusal
from .shared import api, said, set_up
from .signed_in import STAYS_S
from .together import tell_of_edits

WEB = Path(__file__).parent.parent / "web_dist"
MOST_UPLOAD = 16 * 2**20
WAYS_IN: dict[str, Any] = {"passphrase": {"type": "http", "scheme": "basic"},
                           "cookie": {"type": "apiKey", "in": "cookie", "name": COOKIE}}
FULL = ("the disk is full; nothing was changed", "disk", "free some space, then try again")
MOST_AGE = 365 * 24 * 3600
SHELL = ("/sw.js", "/manifest.webmanifest", "/mark.svg", "/ticket.js", "/door.css")
"""Of the application alone, with nothing of a job: browsers ask for these without their cookie."""
OUTSIDE = ("/sign-in", "/ticket", *SHELL)
"""What is before the door."""
log = logging.getLogger("sphagnum")


def create_app(
    store: sessionmaker[Session], hosts: frozenset[str] | None = None, door: Door | None = None,
    kept: FileStore | None = None, desk: Desk | None = None,
) -> Flask:
    """The application over a store. ``hosts``: names it answers to (None: any); ``door`` guards every page.

    ``kept``: where recordings and photographs are kept; a folder of its own that is thrown away when left out. ``desk``: hands
    out work to processes of their own; without it all is worked out at once.
    """
    app = OpenAPI(
        __name__, security_schemes=WAYS_IN, info=Info(title="Sphagnum", version=__version__), static_folder=None, doc_ui=False,
        validation_error_status=422, validation_error_model=Refusal, validation_error_callback=_invalid,
    )
    kept = kept or FileStore(Path(tempfile.mkdtemp(prefix="sphagnum-")))
    app.config.update(MAX_CONTENT_LENGTH=MOST_UPLOAD, STORE=store, FILES=kept, DOOR=door or Door())
    set_up(app, store, desk)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.register_api(api)
    guarded: Door = app.config["DOOR"]
    app.before_request(lambda: _guard(hosts, guarded))
    app.before_request(runs.allow_large_uploads)
    app.after_request(_finish)
    tell_of_edits(app)
    _register_errors(app)
    _register_pages(app)
    _register_sign_in(app, guarded)
    return app


def _guard(hosts: frozenset[str] | None, door: Door) -> Response | None:
    g.started = time.perf_counter()
    g.nonce = secrets.token_urlsafe(16)
    if hosts is not None and _bare(request.host) not in hosts:
        return _refuse(403, "this name does not lead here", request.host, "open the address the program printed")
    if request.path in OUTSIDE or request.path.startswith("/icons/"):
        return None
    found = door.admits(request.headers.get("Authorization", ""), request.headers.get("Cookie", ""), request.remote_addr or "")
    if found == "later":
        answer = _refuse(429, "too many wrong passphrases came from here", "sign in", "wait two seconds, then try again")
        answer.headers["Retry-After"] = "2"
        return answer
    if found == "wrong":
        if request.method == "GET" and "text/html" in request.headers.get("Accept", ""):
            return redirect(f"/sign-in?{urlencode({'to': request.full_path.rstrip('?')})}", 303)  # type: ignore[return-value]
        answer = _refuse(401, "a passphrase is needed", "sign in", "any name will do, with the workshop's passphrase")
        if "X-Tab" not in request.headers:  # our own page says so itself
            answer.headers["WWW-Authenticate"] = 'Basic realm="Sphagnum"'
        return answer
    if request.method not in ("GET", "HEAD", "OPTIONS"):
        if not request.headers.get("X-Author"):
            return _refuse(403, "the request does not say who edits", "X-Author", "send this header with every edit")
        if (damage := current_app.extensions.get("damaged")) is not None:
            return _refuse(503, damage.what, damage.where, damage.mend)
        if request.is_json:  # also what is kept nowhere and only answered
            refuse_no_text(request.get_json(silent=True))
    return None


def _bare(host: str) -> str:
    """A host's name without port, brackets and the dot of a full name, in small letters."""
    name = host.partition("]")[0] if host.startswith("[") else host.rsplit(":", 1)[0]
    return name.strip("[]").rstrip(".").lower()


def _finish(response: Response) -> Response:
    response.headers.setdefault("Content-Security-Policy", (
        f"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{g.get('nonce', '')}'; img-src 'self' data: blob:; "
        "media-src 'self' blob:; worker-src 'self'; manifest-src 'self'; "
        "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
    ))
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    if request.path.startswith("/api/"):
        response.headers.setdefault("Cache-Control", "no-store")
    took = (time.perf_counter() - g.get("started", time.perf_counter())) * 1e3
    log.info(json.dumps({"method": request.method, "path": request.path, "status": response.status_code,
                         "ms": round(took, 1)}))
    return response


def _refuse(status: int, what: str, where: str = "", mend: str = "", **more: Any) -> Response:
    response = make_response(said(Refusal(what=what, where=where, mend=mend, **more), exclude_none=True), status)
    response.mimetype = "application/json"
    return response


def _invalid(error: ValidationError) -> Response:
    found = refusal(error.errors(include_url=False))
    return _refuse(422, found.what, found.where, found.mend)


def _register_errors(app: Flask) -> None:
    @app.errorhandler(BadInput)
    def bad_input(error: BadInput) -> Response:
        return _refuse(422, error.what, error.where, error.mend)

    @app.errorhandler(Conflict)
    def conflict(error: Conflict) -> Response:
        gone = error.stored is None
        what = error.what or ("somebody removed this meanwhile" if gone else "somebody changed this meanwhile")
        return _refuse(409, what, "", "look at both versions and decide", stored=error.stored, sent=error.sent)

    @app.errorhandler(Blocked)
    def blocked(error: Blocked) -> Response:
        mend = "skip this step, or take it back all the same" if error.forcible else "skip this step"
        return _refuse(409, error.why, "", mend, step=error.edit, forcible=error.forcible)

    @app.errorhandler(Missing)
    def missing(error: Missing) -> Response:
        return _refuse(404, str(error), request.path, "go back to the job board")

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        status = error.code or 500
        if status == 413:
            most = (request.max_content_length or MOST_UPLOAD) // 2**20
            return _refuse(413, f"the upload is larger than {most} MB", "file", "split the file")
        return _refuse(status, (error.description or error.name).rstrip(".").lower(), request.path, "check the address")

    @app.errorhandler(Damaged)
    def damaged(error: Damaged) -> Response:
        log.exception("damaged")
        app.extensions["damaged"] = error  # until it is served anew: nothing is written on top of it
        return _refuse(503, error.what, error.where, error.mend)

    @app.errorhandler(OperationalError)
    def store_busy(error: OperationalError) -> Response:
        log.error(json.dumps({"store": str(error.orig)}))
        if "full" in str(error.orig):
            return _refuse(507, *FULL)
        return _refuse(503, "the store is busy; nothing was changed", "store", "try again in a moment")

    @app.errorhandler(Busy)
    def too_many_write(_: Busy) -> Response:
        return _refuse(503, "others are writing; nothing was changed", "store", "try again in a moment")

    @app.errorhandler(OSError)
    def disk(error: OSError) -> Response:
        if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            return _refuse(507, *FULL)
        return unexpected(error)

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("unexpected")
        return _refuse(500, "something went wrong here; nothing was changed", request.path, "try again")


def _register_sign_in(app: OpenAPI, door: Door) -> None:
    pages = Blueprint("door", __name__)

    @pages.get("/sign-in")
    def sign_in_here() -> Response:
        return make_response(sign_in_page(_within(request.args.get("to", "/"))))

    @pages.post("/sign-in")
    def sign_in() -> Response:
        to = _within(request.form.get("to", "/"))
        found = door.tries(request.form.get("passphrase", ""), request.remote_addr or "")
        if found != "in":
            later = found == "later"
            said = "Too many wrong passphrases came from here. Wait two seconds." if later else "That is not the passphrase."
            return make_response(sign_in_page(to, said), 429 if later else 401)
        return let_in(to)

    def let_in(to: str) -> Response:
        answer: Response = redirect(to, 303)  # type: ignore[assignment]
        answer.set_cookie(COOKIE, door.cookie(request.headers.get("User-Agent", "")), max_age=STAYS_S, httponly=True,
                          samesite="Lax", secure=request.is_secure)
        return answer

    @pages.get("/ticket")
    def ticket_here() -> Response:
        return make_response(ticket_page())

    @pages.post("/ticket")
    def ticket() -> Response:
        found = door.redeems(request.form.get("ticket", "")[:200], request.remote_addr or "")
        if found == "in":
            return let_in("/")
        later = found == "later"
        told = ("Too many wrong ones came from here. Wait two seconds." if later
                else "This code was used already, or it is older than ten minutes. Show a new one at the desk.")
        return make_response(ticket_page(told), 429 if later else 401)

    @pages.post("/sign-out")
    def sign_out() -> Response:
        door.devices.end(door.device(request.headers.get("Cookie", "")))
        answer = make_response("", 204)
        answer.delete_cookie(COOKIE)
        return answer

    app.register_blueprint(pages)


def _within(to: str) -> str:
    """An address of this application; anything else leads to the board."""
    return to if re.fullmatch(r"/(?![/\\])[^\s\\]{0,500}", to) else "/"


class PageConverter(PathConverter):
    """Any address but those of the interface."""

    regex = "(?!api/)[^/].*?"


def _register_pages(app: OpenAPI) -> None:
    app.url_map.converters["page"] = PageConverter
    pages = Blueprint("pages", __name__)

    @pages.get("/api/openapi.json")
    def contract() -> Response:
        return send_from_directory(Path(__file__).parent, "openapi.json", max_age=3600)

    @pages.get("/assets/<path:name>")
    def assets(name: str) -> Response:
        folder = WEB / "assets"
        packed = request.accept_encodings.quality("gzip") > 0 and (folder / f"{name}.gz").is_file()
        response = send_from_directory(folder, f"{name}.gz" if packed else name, max_age=MOST_AGE)
        if packed:
            response.headers["Content-Encoding"] = "gzip"
            response.mimetype = "text/css" if name.endswith(".css") else "text/javascript"
        response.headers["Vary"] = "Accept-Encoding"
        response.headers["Cache-Control"] = f"public, max-age={MOST_AGE}, immutable"
        return response

    def shell() -> Response:
        response = send_from_directory(WEB, request.path[1:], max_age=0)
        response.headers["Cache-Control"] = "no-cache"
        return response

    for path in SHELL:
        pages.add_url_rule(path, path[1:].partition(".")[0], shell)

    @pages.get("/icons/<name>")
    def icon(name: str) -> Response:
        return send_from_directory(WEB / "icons", name, max_age=3600)

    @pages.get("/")
    @pages.get("/<page:_rest>")
    def page(_rest: str = "") -> Response:
        """Every address of the application; what is there is decided in the page."""
        file = WEB / "index.html"
        if not file.exists():
            return _refuse(503, "the web application is not built", str(file), "run make setup")
        response = make_response(file.read_text("utf-8").replace("__NONCE__", g.nonce))
        response.headers["Cache-Control"] = "no-store"
        return response

    app.register_blueprint(pages)
