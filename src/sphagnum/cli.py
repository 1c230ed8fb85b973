"""The same core from a terminal: one JSON document out, or one line on standard error and exit 2."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import signal
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from .arguments import parser
from .core.errors import BadInput

if TYPE_CHECKING:
    from pydantic import BaseModel

    from .core.job.shelf import Shelf
    from .core.levels.comparison import Comparison
    from .exchange.level_commands import Scale


def _scale_of(args: argparse.Namespace) -> Scale:
    if args.calibration is None and args.calibration_db is not None:
        raise BadInput("only counts with --calibration", "--calibration-db", "name the calibrator's recording")
    if args.calibration is not None and args.full_scale_db is not None:
        raise BadInput("there are two scales", "--full-scale-db, --calibration", "give one of them")
    for name in ("full_scale_db", "calibration_db"):
        value = getattr(args, name)
        if value is not None and not -50 <= value <= 250:
            raise BadInput(f"{value:g} dB is out of range", f"--{name.replace('_', '-')}", "give −50 to 250 dB")
    from .exchange.level_commands import Scale

    return Scale(args.full_scale_db, args.calibration, 94.0 if args.calibration_db is None else args.calibration_db)


def run(args: argparse.Namespace) -> str:
    """The command's output. Raises BadInput."""
    match args.command:  # what a command does not need is not loaded
        case "rate" | "analyse" | "compare":
            return _of_levels(args)
        case "predict" | "absorb":
            return _of_stacks(args)
        case "trace" | "plan" if getattr(args, "job", None) is None:
            return _of_paths(args)
        case "cut" | "shape":
            return _of_pieces(args)
        case "plan" | "show" | "order" | "offer" | "report" | "build":
            return _of_jobs(args)
        case "bench" | "draw" | "read" | "hear":
            return _of_files(args)
        case "shelf":
            return _shelf(args)
        case _:
            if args.command in ("serve", "demo") and not (args.backup_keep >= 1 and 0.01 <= (args.backup_every or 1) <= 8760):
                raise BadInput("is out of range", "--backup-every, --backup-keep", "give 0.01 to 8760 hours, 1 or more to keep")
            from . import service

            return service.run(args)


def _of_levels(args: argparse.Namespace) -> str:
    from .exchange import level_commands as levels
    from .exchange.files import printed

    match args.command:
        case "rate":
            return printed(levels.run_rate(args.curve))
        case "compare":
            return printed(_compare(args))
        case _:
            if args.interval is not None and not 1e-4 <= args.interval <= 1e6:
                raise BadInput(f"{args.interval:g} s is out of range", "--interval", "give 0.0001 to 1000000 s")
            window = levels.Window(args.start, args.end, args.steady)
            if args.decay is not None:
                return printed(levels.run_decay(args.file, args.decay, window))
            return printed(levels.run_analyse(args.file, args.column, args.interval, window, _scale_of(args)))


def _of_files(args: argparse.Namespace) -> str:
    from .exchange.files import printed

    match args.command:
        case "bench":
            from .exchange.bench_command import run_bench

            return printed(run_bench(args.bench))
        case "draw":
            from .exchange.draw_command import run_draw

            return printed(run_draw(args.shapes, args.file, args.page))
        case "read":
            from .exchange.draw_command import run_read

            return printed(run_read(args.file, args.unit))
        case _:
            from .exchange.hear_command import run_hear

            return printed(run_hear(args.hear, args.folder))


def _shelf(args: argparse.Namespace) -> str:
    from .exchange import shelf_commands

    if args.way == "export":
        return shelf_commands.run_export(args.file, args.data)
    found = shelf_commands.run_import(args.file, args.data, args.dry_run, args.match is not None)
    return json.dumps({k: v for k, v in found.model_dump().items() if v != ()}, ensure_ascii=False)


def _own_shelf(args: argparse.Namespace) -> Shelf | None:
    """The shelf a command was told to use; None where it is the shipped one."""
    named: str | None = getattr(args, "shelf", None)
    data: Path | None = getattr(args, "data", None)
    if named is not None and data is not None:
        raise BadInput("there are two shelves", "--shelf, --data", "give one of them")
    if named is None and data is None:
        return None
    from .exchange import shelf_commands

    return shelf_commands.shelf_from(named) if named is not None else shelf_commands.shelf_at(data or Path("var"))


def _of_stacks(args: argparse.Namespace) -> str:
    from .catalogue.materials import materials as shipped
    from .exchange import stack_commands as of
    from .exchange.files import printed

    own = _own_shelf(args)
    materials = shipped() if own is None else own.materials
    match args.command:
        case "predict" if args.many:
            return of.run_predict_many(args.stack, materials)
        case "predict":
            return printed(of.run_predict(args.stack, materials))
        case _:
            return printed(of.run_absorb(args.lining, materials))


def _of_paths(args: argparse.Namespace) -> str:
    from .catalogue.files import worth
    from .catalogue.materials import materials as shipped
    from .exchange import path_commands as of
    from .exchange.files import printed
    from .exchange.progress import progress

    if args.command == "plan" and args.plan is None:
        raise _two_files()
    given = [f"--{n}" for n in ("seconds", "stock", "only", "without") if getattr(args, n, None)]
    if given:
        raise BadInput("only counts with --job", ", ".join(given), "leave it out")
    own = _own_shelf(args)
    materials = shipped() if own is None else own.materials
    if args.command == "plan":
        return printed(of.run_plan(args.plan, materials, progress(args.progress)))
    repeats = worth("typed").repeatability_db if own is None else own.repeatability("typed")
    return printed(of.run_trace(args.paths, materials, repeats))


def _two_files() -> BadInput:
    return BadInput("takes one file", "PLAN.json, --job JOB.json", "give one of them")


def _of_pieces(args: argparse.Namespace) -> str:
    from .exchange.files import printed

    if args.command == "shape":
        from .exchange.shape_command import run_shape

        return printed(run_shape(args.shape))
    from .exchange.cut_command import run_cut
    from .exchange.progress import progress

    return printed(run_cut(args.pieces, args.seed, progress(args.progress)))


def _of_jobs(args: argparse.Namespace) -> str:
    from .catalogue.load import shelf
    from .exchange import commands as c
    from .exchange.files import printed

    materials = _own_shelf(args) or shelf()
    match args.command:
        case "plan":
            return printed(_plan(args, materials))
        case "build":
            from .exchange.build_command import run_build

            return run_build(args.build, materials, args.svg, args.dxf)
        case "order":
            from .exchange.order_command import run_order

            return printed(run_order(args.job, materials, args.pdf, args.ics, args.on))
        case "offer" | "report":
            from .exchange.papers.paper_commands import Files, run_offer, run_report

            files = Files(args.pdf, args.html, args.json, args.csv)
            if args.command == "report":
                return run_report(args.job, materials, args.audience, args.on, files)
            return run_offer(args.job, materials, args.plan, args.workshop, args.on, args.valid_days, files)
        case _:
            return json.dumps(c.run_show(args.job, args.stage, args.surface, materials), ensure_ascii=False, allow_nan=False)


def _plan(args: argparse.Namespace, materials: Shelf) -> BaseModel:
    from .exchange import commands as c
    from .exchange.progress import progress

    report = progress(args.progress)
    if args.plan is not None:
        raise _two_files()
    seconds = 20.0 if args.seconds is None else args.seconds
    if not 1 <= seconds <= 120:
        raise BadInput(f"{seconds:g} s is out of range", "--seconds", "give 1 to 120 s")
    return c.run_plan_of(args.job, seconds, args.only or (), args.without or (), args.stock, materials, report)


def _compare(args: argparse.Namespace) -> Comparison:
    from .catalogue.files import worth
    from .exchange import level_commands as levels

    for name in ("repeatability_db", "instrument_uncertainty_db", "setup_db"):
        value = getattr(args, name)
        if value is not None and not 0 <= value <= 50:
            raise BadInput(f"{value:g} dB is out of range", f"--{name.replace('_', '-')}", "give 0 to 50 dB")
    typed, different = worth("typed"), None
    if args.instrument == "different":
        given = args.instrument_uncertainty_db
        different = typed.different_instrument_db if given is None else given
    elif args.instrument_uncertainty_db is not None:
        raise BadInput("only counts with --instrument different", "--instrument-uncertainty-db", "add it or leave both")
    if args.afresh and args.setup_db is not None:
        raise BadInput("does not count with --afresh", "--setup-db", "leave one of them out")
    taken = levels.Conditions(
        args.background, args.background_after,
        typed.repeatability_db if args.repeatability_db is None else args.repeatability_db, different,
        typed.setup_db if args.setup_db is None else args.setup_db, args.afresh)
    return levels.run_compare(args.before, args.against, levels.Window(args.start, args.end), taken, _scale_of(args))


def main(argv: list[str] | None = None) -> int:
    """Entry of the ``sphagnum`` command; returns the exit code."""
    try:
        output = run(parser().parse_args(argv))
        if output:
            from .core.worded import worded

            print(worded(output, "metric"))
        sys.stdout.flush()
        return 0
    except BadInput as error:
        return _refused(error.sentence)
    except BrokenPipeError:
        # whoever read has enough; what is left in the buffers has nowhere to go
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 128 + signal.SIGPIPE
    except KeyboardInterrupt:
        return 128 + signal.SIGINT
    except MemoryError:
        return _refused("there is not enough memory for this (input). Split it.")
    except (OSError, ValueError, AttributeError) as error:
        # an output that is closed or full, a disk that is: everything else is caught where it is known better
        if sys.stdout is None or isinstance(error, OSError) or sys.stdout.closed:
            reason = getattr(error, "strerror", None) or "it is closed"
            return _refused(f"The output cannot be written ({reason.lower()}). Free some space or write elsewhere.")
        raise


def _refused(sentence: str) -> int:
    """One line on standard error, where there is one; exit 2."""
    from .core.worded import worded

    with contextlib.suppress(OSError, ValueError, AttributeError):
        print(worded(sentence, "metric"), file=sys.stderr, flush=True)
    return 2


if __name__ == "__main__":
    sys.exit(main())
