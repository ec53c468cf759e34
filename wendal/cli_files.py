"""The command line's way in and out: `export` and `import`, without server or database."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

__all__ = ["FILES", "NOT_ALL", "WRONG", "add_commands", "changed", "stands"]

NOT_ALL, WRONG = 1, 2  # exit statuses: not all is built; what was given is wrong


def add_commands(commands: Any) -> None:
    """Make the commands known."""
    write = commands.add_parser(
        "export",
        help="write a part, or something of it, in any format",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        epilog="`wendal export --list` lists the formats, what they write of a part, and their options.",
    )
    write.add_argument("part", type=Path, nargs="?", help="a part's JSON")
    write.add_argument("out", type=Path, nargs="?", help="the file (else beside the part)")
    write.add_argument(
        "--as", dest="as_", default="", metavar="FORMAT", help="else as the file's ending says"
    )
    write.add_argument(
        "--of", default="", help='in words, such as "top of Base" or "section at XY + 5", or as JSON'
    )
    write.add_argument("--option", action="append", default=[], metavar="NAME=VALUE", help="of the format")
    write.add_argument("--set", action="append", default=[], metavar="TAG=FORMULA", help="change a tag first")
    write.add_argument("--list", action="store_true", help="list formats, what they write, and their options")
    read = commands.add_parser("import", help="make a part of a STEP, STL, DXF or SVG file")
    read.add_argument("file", type=Path, help="the file")
    read.add_argument("out", type=Path, nargs="?", help="the part's JSON (else beside the file)")
    read.add_argument("--unit", choices=("mm", "cm", "m", "in"), default="", help="where it does not say it")
    read.add_argument(
        "--within", type=float, default=0.01, help="mm at which ends of curves are one (else 0.01)"
    )


def stands(built: Any) -> int:
    """Return the exit status of what was built."""
    return 0 if all(s in ("built", "waiting") for s in built.states.values()) else NOT_ALL


def changed(options: argparse.Namespace) -> Any:
    """Open the part that is named, and change what --set says."""
    from wendal.core.errors import CommandRefused
    from wendal.part import open_part

    part = open_part(options.part)
    for change in options.set:
        tag, sign, formula = change.partition("=")
        if not sign:
            raise CommandRefused(f"--set wants TAG=FORMULA, and this is “{change}”.", field=change)
        part[tag.strip()] = formula.strip()
    return part


def _listed() -> None:
    from wendal.core import exchange
    from wendal.core.exchange.base import subjects_told

    for f in exchange.formats().values():
        print(f"{f.ending:6}{f.title}; of {', '.join(f.subjects)}")
        for name, option in f.options.model_fields.items():
            of = "".join(f", of a {s}" for s in subjects_told(option))
            print(f"        --option {name}=…  ({option.title or name}{of}; else {option.default})")


def _export(options: argparse.Namespace) -> int:
    from wendal.core.errors import CommandRefused

    if options.list:
        _listed()
        return 0
    if options.part is None or (options.out is None and not options.as_):
        raise CommandRefused("Name a part's JSON and the file to write, or --as FORMAT, or --list.")
    of = options.of or None
    if options.of.lstrip().startswith("{"):
        try:
            of = json.loads(options.of)
        except ValueError as error:
            raise CommandRefused(f"--of is no JSON: {error}.", field="of") from error
    said = dict(o.partition("=")[::2] for o in options.option)
    out = options.out or options.part.with_suffix(f".{options.as_}")
    built = changed(options).build()
    built.export(out, of, as_=options.as_, **said)
    return stands(built)


def _import(options: argparse.Namespace) -> int:
    from wendal.core.errors import CommandRefused
    from wendal.received import part_from

    out = options.out or options.file.with_suffix(".json")
    if options.out is None and out.exists():
        raise CommandRefused(f"{out} is there already. Name the file to write.", field="out")
    part, told = part_from(options.file, options.unit, options.within)
    for line in told:
        print(line, file=sys.stderr)
    part.save(out)
    return stands(part.build())


FILES = {"export": _export, "import": _import}
