"""Commands about stored jobs: serve, demo, backup, restore, export, import."""

from __future__ import annotations

import argparse
import contextlib
import ctypes
import gc
import logging
import multiprocessing
import os
import secrets
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any, NamedTuple

from .core.errors import BadInput

OFTEN = (700, 10, 10)
"""How often what serves looks for garbage: as Python does by itself (gc.set_threshold)."""
LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
PROXY: dict[str, Any] = {"trusted_proxy": "127.0.0.1", "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
                         "clear_untrusted_proxy_headers": True}
TURN_S = 0.0005
"""How long one thread computes before another has its turn: whoever waits for a curve comes forward beside what takes longer."""
THREADS = 48
"""Some write, some wait to (see store/edits.py); the others are free for who reads."""
M_ARENA_MAX = -8
"""Of mallopt(3)."""
GIVE_BACK_S = 30.0
HOUR_S, DAY_S = 3600.0, 24 * 3600.0
STOP_S = 4.0
"""What runs when the server is told to stop has so long to end."""
FIRST_PORT = 8484


def run(args: argparse.Namespace) -> str:
    """Run one of the commands; returns what to print."""
    os.umask(0o077)  # what is kept is for whoever runs this, nobody else
    match args.command:
        case "serve" | "demo":
            copies = Copies(args.backup_every, args.backup_keep)
            serve(args.data, args.host, args.port, args.command == "demo", copies, args.behind_proxy, args.tls)
            return ""
        case "backup":
            from .store.backup import backup

            said = backup(args.data, args.file)
            return f"Kept in {args.file}" + (f"; {len(said)} in it cannot be used, the first: {said[0]}" if said else "")
        case "restore":
            from .store.backup import restore

            kept = restore(args.data, args.file, args.replace)
            anew = "" if (args.data / "authority").is_dir() else "\nPhones that came in by TLS trust this workshop anew"
            return f"Restored {args.file}" + (f"; what was there is kept in {kept}" if kept else "") + anew
        case "export":
            return _export(args.data, args.job, args.file)
        case _:
            return _import(args.data, args.file)


class Copies(NamedTuple):
    """The backups a server keeps of itself: one every so many hours, the newest so many; none without hours."""

    every_h: float | None = None
    keep: int = 14


NO_COPIES = Copies()


def _begin_demo(data: Path) -> None:
    """Begin an empty folder with the demo as it was packed for this very code, its pieces laid out; else it is seeded."""
    from .demo_shipped import shipped
    from .store.backup import begin_with
    from .store.connect import FILE, VARIABLE

    packed = shipped()
    if packed is not None and not (data / FILE).exists() and not os.environ.get(VARIABLE):
        begin_with(data, packed)


def serve(data: Path, host: str | None, port: int | None, demo: bool = False, copies: Copies = NO_COPIES,
          behind_proxy: bool = False, tls: bool = False) -> None:
    """Serve until stopped; prints one line when ready. Other hosts than loopback need SPHAGNUM_PASSPHRASE.

    ``behind_proxy``: a reverse proxy on this machine asks for others; its word on who asks, and by TLS, is taken. ``tls``: other
    machines come in by TLS on ``host`` and ``port``; in the open it is served on loopback alone.
    """
    import waitress

    passphrase = os.environ.get("SPHAGNUM_PASSPHRASE", "")
    if tls and behind_proxy:
        raise BadInput("one of them speaks TLS", "--tls, --behind-proxy", "leave one out")
    asked = (host or "").lower()
    host = "127.0.0.1" if tls or host is None else host.lower().rstrip(".")
    if (host not in LOOPBACK or behind_proxy or tls) and not passphrase:
        given = "--tls" if tls else "--behind-proxy" if behind_proxy else f"--host {host}"
        raise BadInput("serving to other machines needs a passphrase", given, "set SPHAGNUM_PASSPHRASE and start again")
    _few_arenas()
    from .api.app import MOST_UPLOAD, create_app  # by now it is known that all of it is needed
    from .api.doors import HEAD_S, Door, channel_of, key_of
    from .api.health import health
    from .api.runs import MOST_RECORDING, most_body
    from .api.shared import warm_up
    from .api.signed_in import Devices
    from .store.backup import held
    from .store.connect import database_url, open_store
    from .store.files import FOLDER, FileStore
    from .store.results import StoredResults
    from .store.tidy import tidy
    from .work.desk import Desk

    logging.basicConfig(level=logging.INFO, format="%(message)s", stream=sys.stderr)
    logging.getLogger("alembic").setLevel(logging.WARNING)
    with held(data):
        if demo:
            _begin_demo(data)
        store = open_store(database_url(data))
        desk, kept = Desk(StoredResults(store)), FileStore(data / FOLDER)
        if demo:
            from .demo import seed  # what it draws its outlines with takes a second and 60 MB, and serving needs none of it

            seed(store, kept)
        door = Door(passphrase, key_of(data), Devices(data / "devices.json"))
        app = create_app(store, LOOPBACK if host in LOOPBACK and not behind_proxy and not tls else None, door, kept, desk)
        app.config["SIMULATED_METER"] = demo
        gc.freeze()  # what is loaded stays
        gc.set_threshold(*OFTEN)
        sys.setswitchinterval(TURN_S)
        how: dict[str, Any] = {
            "threads": THREADS, "ident": None, "connection_limit": 400, "channel_timeout": int(HEAD_S), "cleanup_interval": 5,
            "max_request_body_size": MOST_RECORDING + 2**20, **(PROXY if behind_proxy else {})}

        def most(path: str) -> int:
            return most_body(path, MOST_UPLOAD)

        server = waitress.create_server(app, sockets=[_listen(host, None if tls else port)], **how)
        server.channel_class = channel_of(door, most)
        front = None
        if tls:  # what comes through the relay comes to a socket of its own, and says so
            from .network.front import EVERYWHERE, TLS_PORT, Front

            outside = asked or EVERYWHERE[0]
            word = secrets.token_urlsafe(24)
            behind = waitress.create_server(app, map=server._map, _dispatcher=server.task_dispatcher,
                                            sockets=[_listen("127.0.0.1", 0)], **how)
            behind.channel_class = channel_of(door, most, word)
            front = Front(data, _listen(outside, port or TLS_PORT), outside, behind.effective_port, word,
                          logging.getLogger("sphagnum").warning)
            app.config["FRONT"] = front
            _every(HOUR_S, front.renew, at_once=False)

        def begin() -> None:  # whoever comes first waits neither for what is loaded on first use nor for a process that works
            warm_up(app)
            desk.warm_up()

        shown = host if ":" not in host else f"[{host}]"
        threading.Thread(target=begin, name="warm up", daemon=True).start()
        here = f"http://{shown}:{server.effective_port}/"
        print(f"Sphagnum is ready: {here}" if front is None else
              f"Sphagnum is ready: {front.reached()[0]}/ (on this machine {here})", flush=True)
        _every(DAY_S, lambda: tidy(store, kept))
        _every(GIVE_BACK_S, _give_back)
        _every(HOUR_S, lambda: logging.getLogger("sphagnum").info(health(app).model_dump_json()), at_once=False)
        if copies.every_h:
            _every(copies.every_h * HOUR_S, lambda: _keep_copy(app, data, copies.keep), at_once=False)

        def ending(*_: object) -> None:  # who listens in is let go first: the server waits for its threads
            app.extensions["together"].close()
            sys.exit(0)

        for told in (signal.SIGTERM, signal.SIGINT):
            signal.signal(told, ending)
        try:
            server.run()
        except SystemExit:
            pass
        finally:
            if front is not None:
                front.close()
            _stop(server, app, desk)


def _few_arenas() -> None:
    """Let the threads share one heap: with heaps of their own, what they free lies about in sixteen. glibc alone knows this."""
    with contextlib.suppress(AttributeError, OSError):
        ctypes.CDLL(None).mallopt(M_ARENA_MAX, 1)


def _give_back() -> None:
    """What was freed goes back to the system."""
    with contextlib.suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)


def _keep_copy(app: Any, data: Path, keep: int) -> None:
    """One more backup, made and looked over by a process of its own; the board says what was wrong with the last one."""
    from .store.backup import rolling

    with ProcessPoolExecutor(1, multiprocessing.get_context("spawn")) as apart:
        try:
            said = apart.submit(rolling, data, keep).result()
            trouble = f"The last backup holds what cannot be used: {said[0]}." if said else ""
        except BadInput as error:
            trouble = f"The last backup was not kept: {error.what}; {error.mend}."
    app.extensions["trouble"] = trouble


def _every(seconds: float, work: Callable[[], object], at_once: bool = True) -> None:
    """Do something again and again beside the server; what fails is logged and tried again the next time."""
    def run() -> None:
        first = at_once
        while True:
            if not first:
                time.sleep(seconds)
            first = False
            try:
                work()
            except Exception:
                logging.getLogger("sphagnum").exception("beside the server")

    threading.Thread(target=run, name="beside", daemon=True).start()


def _stop(server: Any, app: Any, desk: Any) -> None:
    """No new requests; what runs ends or is told; captures and work end; the process leaves whatever still hangs."""
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Timer(STOP_S, lambda: os._exit(0)).start()
    server.task_dispatcher.shutdown(cancel_pending=True, timeout=STOP_S - 1)
    server.close()
    if (open_ones := app.extensions.get("captures")) is not None:
        open_ones.close_all()
    desk.close()
    sys.stdout.flush()
    os._exit(0)


def _listen(host: str, port: int | None) -> socket.socket:
    """A listening socket on the port asked for, or on the first free one from the default up."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    for candidate in range(FIRST_PORT, FIRST_PORT + 50) if port is None else (port,):
        sock = socket.socket(family, socket.SOCK_STREAM)
        sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            sock.bind((host, candidate))
        except (OSError, OverflowError) as error:
            sock.close()
            if port is not None:
                reason = getattr(error, "strerror", None) or "not a port"
                raise BadInput(f"cannot listen there ({reason.lower()})", f"{host}:{candidate}",
                               "choose another --port") from None
            continue
        sock.listen(128)
        return sock
    raise BadInput(f"no free port from {FIRST_PORT} on", host, "choose one with --port")


def _existing(data: Path) -> None:
    from .store.connect import FILE, VARIABLE

    if not os.environ.get(VARIABLE) and not (data / FILE).exists():
        raise BadInput("there is no database here", str(data), "name the data directory with --data")


def _export(data: Path, wanted: str, file: Path) -> str:
    from .core.words import plural
    from .exchange.files import write_whole
    from .exchange.job_file import left_behind, write_job
    from .store.connect import database_url, open_store
    from .store.documents import job_ids, read, shelf_in
    from .store.files import FOLDER, FileStore

    _existing(data)
    with open_store(database_url(data))() as session:
        jobs, materials = [read(session, n) for n in job_ids(session)], shelf_in(session)
    found = [r for r in jobs if wanted in (str(r.document.job.id), r.document.job.name)]
    if len(found) != 1:
        names = ", ".join(f"{r.document.job.id} {r.document.job.name}" for r in jobs) or "none"
        raise BadInput(f"{len(found) or 'no'} jobs are called '{wanted}'", "JOB", f"there are: {names}")
    if not file.parent.is_dir():
        raise BadInput("the folder does not exist", str(file.parent), "make it first")
    job, broken, _ = found[0]
    write_whole({file: write_job(job, materials, FileStore(data / FOLDER).photograph)})
    behind = len(left_behind(job))
    return (f"Exported {job.job.name} to {file}" + (f"; {plural(behind, 'recording')} stay behind" if behind else "")
            + (f"; {plural(len(broken), 'row')} cannot be used and stay behind, the first: {broken[0].name}" if broken else ""))


def _import(data: Path, file: str) -> str:
    from .exchange.files import read_bytes
    from .exchange.job_file import read_job
    from .exchange.shelf_commands import shelf_at
    from .store.connect import database_url, open_store
    from .store.documents import store_document
    from .store.files import FOLDER, FileStore

    found = read_job(read_bytes(file), file, shelf_at(data))
    data.mkdir(parents=True, exist_ok=True)
    with FileStore(data / FOLDER).attempt() as kept:
        kept.put_photographs(found.photographs)
        number = store_document(open_store(database_url(data)), found.document)
    return f"Imported {found.document.job.name} as job {number}"
