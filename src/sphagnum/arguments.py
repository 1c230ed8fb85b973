"""The command line: every command, what it takes and what it says of itself, as docs/formats.md fixes it."""

from __future__ import annotations

import argparse
import math
from pathlib import Path
from typing import NoReturn

from . import __version__
from .core.errors import BadInput

STAGES = ("listen", "trace", "build", "cut", "fit", "prove", "board")


class Parser(argparse.ArgumentParser):
    """Says what is wrong in one line."""

    def error(self, message: str) -> NoReturn:
        """One line on standard error, exit 2."""
        raise BadInput(message, self.prog, f"see {self.prog} --help")


def _number(text: str) -> float:
    value = float(text.replace(",", "."))
    if not math.isfinite(value) or abs(value) > 1e9:
        raise ValueError
    return value


_number.__name__ = "number"


def parser() -> Parser:
    """The command line as docs/formats.md fixes it."""
    top = Parser(prog="sphagnum", description="Measure, trace, plan, cut, fit and prove sound deadening.")
    top.add_argument("--version", action="version", version=f"sphagnum {__version__}")
    subs = top.add_subparsers(dest="command", required=True, parser_class=Parser, metavar="COMMAND")

    def add(name: str, text: str) -> Parser:
        return subs.add_parser(name, help=text, description=text)

    add("rate", "Ratings of a curve.").add_argument("curve", metavar="CURVE.csv")
    p = add("predict", "Transmission loss of a stack.")
    p.add_argument("stack", metavar="STACK.json")
    p.add_argument("--many", action="store_true", help="one stack a line, one result a line")
    _shelf_option(p)
    p = add("absorb", "Absorption of a lining.")
    p.add_argument("lining", metavar="LINING.json")
    _shelf_option(p)
    p = add("trace", "Shares of the paths.")
    p.add_argument("paths", metavar="PATHS.json")
    _shelf_option(p)
    p = add("cut", "Pieces laid out on stock.")
    p.add_argument("pieces", metavar="PIECES.json")
    p.add_argument("--seed", type=int, default=1)
    p.add_argument("--progress", action="store_true", help="say on standard error how far it is")
    p = add("plan", "Which option for which path, all paths together.")
    p.add_argument("plan", metavar="PLAN.json", nargs="?")
    p.add_argument("--job", metavar="JOB.json", help="a job file: plans of stacks from the shelf for its surfaces")
    p.add_argument("--seconds", type=_number, metavar="S", help="of a job: how long at most, 20 if left out")
    p.add_argument("--stock", action="store_true", help="of a job: only what is on hand; lines, glue and goods may be bought")
    p.add_argument("--only", action="append", metavar="ID", help="of a job: only these materials")
    p.add_argument("--without", action="append", metavar="ID", help="of a job: not this material")
    p.add_argument("--progress", action="store_true", help="say on standard error how far it is")
    _shelf_option(p)
    add("shape", "An outline from what a tape gives.").add_argument("shape", metavar="SHAPE.json")
    p = add("draw", "Shapes at 1:1 to a drawing.")
    p.add_argument("shapes", metavar="SHAPES.json")
    p.add_argument("file", metavar="FILE.pdf|FILE.svg|FILE.dxf", type=Path)
    p.add_argument("--page", choices=("A4", "A3", "letter"), default="A4", help="paper of a PDF's tiles")
    p = add("read", "Shapes from a drawing.")
    p.add_argument("file", metavar="FILE.svg|FILE.dxf")
    p.add_argument("--unit", choices=("mm", "cm", "m", "in"), help="what it is drawn in, where it does not say")
    p = add("hear", "A change as sound, before and after.")
    p.add_argument("hear", metavar="HEAR.json")
    p.add_argument("folder", metavar="DIR", type=Path)
    p = add("analyse", "Figures of a recording or a level log.")
    p.add_argument("file", metavar="FILE")
    p.add_argument("--column", metavar="NAME|N")
    p.add_argument("--interval", type=_number, metavar="S")
    _window(p)
    p.add_argument("--steady", action="store_true", help="only the longest steady stretch")
    p.add_argument("--decay", nargs="?", const="", choices=("", "impulse", "noise"), metavar="impulse|noise",
                   help="how long the room rings: of a clap or balloon, or of a noise that stops; found out where left out")
    _scale(p)
    p = add("compare", "What changed between two groups of readings.")
    p.add_argument("before", nargs="+", metavar="BEFORE")
    p.add_argument("--against", nargs="+", required=True, metavar="AFTER")
    p.add_argument("--background", metavar="FILE|DB", help="of both groups")
    p.add_argument("--background-after", metavar="FILE|DB", help="of the second group, where it differs")
    _window(p)
    p.add_argument("--instrument", choices=("same", "different"), default="same")
    p.add_argument("--instrument-uncertainty-db", type=_number, metavar="U")
    p.add_argument("--repeatability-db", type=_number, metavar="U")
    p.add_argument("--setup-db", type=_number, metavar="U", help="what repeats taken in one go share and cannot show")
    p.add_argument("--afresh", action="store_true", help="every item was set up anew")
    _scale(p)
    p = add("show", "What a stage says of a job file.")
    p.add_argument("job", metavar="JOB.json")
    p.add_argument("--stage", choices=STAGES, required=True)
    p.add_argument("--surface", type=int, metavar="N", help="a surface by the file's own number")
    _shelf_option(p)
    p = add("bench", "A series of samples in the shop's own rig: what differs, and what does not.")
    p.add_argument("bench", metavar="SERIES.json")
    p = add("build", "A thing that is built: its parts, what it gives, what may not be built.")
    p.add_argument("build", metavar="BUILD.json")
    p.add_argument("--svg", type=Path, metavar="FILE.svg", help="its parts in three views")
    p.add_argument("--dxf", type=Path, metavar="FILE.dxf", help="its flat parts, to be cut")
    _shelf_option(p)
    p = add("order", "The work order of a job file, step by step.")
    p.add_argument("job", metavar="JOB.json")
    p.add_argument("--pdf", type=Path, metavar="FILE.pdf", help="the order on paper")
    p.add_argument("--ics", type=Path, metavar="FILE.ics", help="the days to look again, as a calendar")
    p.add_argument("--on", metavar="DATE", help="the day the work is done, today if left out")
    _shelf_option(p)
    for name, text in (("offer", "What a job would be offered for, and on what promise."), ("report", "What a job came to.")):
        p = add(name, text)
        p.add_argument("job", metavar="JOB.json")
        if name == "offer":
            p.add_argument("--plan", action="append", default=[], metavar="NAME:SURFACE[/ZONE]=ALTERNATIVE,…",
                           help="a plan by the file's own numbers, 0 as found; up to three")
            p.add_argument("--workshop", metavar="FILE.json", help="an object of the workshop's keys")
            p.add_argument("--valid-days", type=int, default=None, metavar="N")
            p.add_argument("--on", metavar="DATE", required=True, help="the day it is made")
        else:
            p.add_argument("--for", dest="audience", choices=("customer", "technical", "own"), default="customer")
            p.add_argument("--on", metavar="DATE", help="the day it is made, that of the last round if left out")
        for kind in ("pdf", "html", "json", "csv"):
            p.add_argument(f"--{kind}", type=Path, metavar=f"FILE.{kind}")
        _shelf_option(p)
    for name, text in (("serve", "Serve the application."), ("demo", "Seed the made-up jobs and serve them.")):
        p = add(name, text)
        p.add_argument("--host", default=None, help="default 127.0.0.1; with --tls every address of this machine")
        p.add_argument("--port", type=int, default=None, help="default 8484, or the next free one; with --tls 8443")
        p.add_argument("--tls", action="store_true", help="let other machines in by TLS, with an authority of the workshop's own")
        p.add_argument("--data", type=Path, default=Path("var" if name == "serve" else "var-demo"))
        p.add_argument("--behind-proxy", action="store_true", help="a reverse proxy on this machine asks for others")
        p.add_argument("--backup-every", type=_number, metavar="H", help="keep a backup of itself every so many hours")
        p.add_argument("--backup-keep", type=int, default=14, metavar="N", help="the newest so many of them")
    for name, text in (("backup", "Copy all data to one file."), ("restore", "Put a backup in place.")):
        p = add(name, text)
        p.add_argument("file", type=Path)
        p.add_argument("--data", type=Path, default=Path("var"))
        if name == "restore":
            p.add_argument("--replace", action="store_true", help="keep what is there aside and replace it")
    p = add("export", "A whole job to a file.")
    p.add_argument("job", metavar="JOB", help="number or name")
    p.add_argument("file", type=Path)
    p.add_argument("--data", type=Path, default=Path("var"))
    p = add("import", "A job from a file.")
    p.add_argument("file")
    p.add_argument("--data", type=Path, default=Path("var"))
    p = add("shelf", "The workshop's materials to a file, and from one.")
    ways = p.add_subparsers(dest="way", required=True, parser_class=Parser, metavar="export|import")
    for name, text in (("export", "All materials to a .csv or .json file."), ("import", "Materials from a file, all or none.")):
        way = ways.add_parser(name, help=text, description=text)
        way.add_argument("file", metavar="FILE", type=Path if name == "export" else str)
        way.add_argument("--data", type=Path, default=Path("var"))
        if name == "import":
            way.add_argument("--dry-run", action="store_true", help="say what would change, and change nothing")
            way.add_argument("--match", choices=("order_number",), help="find materials by the supplier's own numbers")
    return top


def _shelf_option(p: argparse.ArgumentParser) -> None:
    p.add_argument("--shelf", metavar="FILE", help="materials of this file over the shipped ones")
    p.add_argument("--data", type=Path, help="the materials of this data directory")


def _window(p: argparse.ArgumentParser) -> None:
    p.add_argument("--from", dest="start", type=_number, metavar="S")
    p.add_argument("--to", dest="end", type=_number, metavar="S")


def _scale(p: argparse.ArgumentParser) -> None:
    p.add_argument("--full-scale-db", type=_number, metavar="X", help="what a sine of peak 1.0 reads")
    p.add_argument("--calibration", metavar="FILE", help="recording of a calibrator")
    p.add_argument("--calibration-db", type=_number, metavar="DB", help="level of the calibrator, 94 if left out")
