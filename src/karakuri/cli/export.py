"""karakuri export: what an exporter makes of a figure, as a file or a folder."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from karakuri.errors import Trouble
from karakuri.exchange.contract import Exporter, Media, export
from karakuri.exchange.exporters import EXPORTERS
from karakuri.model.figure import Figure
from karakuri.session.sounds import Sounds
from karakuri.study.goes_along import all_go_along


def export_options(command: argparse.ArgumentParser) -> None:
    """Arguments of the command: where to, and every option of every exporter."""
    command.add_argument("--to", nargs="+", required=True, metavar="WHAT", help=_ways())
    for exporter in EXPORTERS:
        for option in exporter.options:
            words = ", ".join(f"{ident}: {name}" for ident, name in option.choices)
            command.add_argument(
                f"--{option.id}",
                default=option.default,
                choices=[ident for ident, _ in option.choices],
                help=f"{exporter.id}: {option.help}; {words}",
            )


def export_command(figure: Figure, args: argparse.Namespace) -> int:
    """Write what --to names. Raises Trouble. Returns 0."""
    exporter, where = _target(args.to)
    chosen = {option.id: getattr(args, option.id) for option in exporter.options}
    beside = Media(Sounds(args.file.parent).data, lambda: all_go_along(figure))
    for note in export(exporter, figure, chosen, where, media=beside):
        print(note, file=sys.stderr)
    return 0


def _target(words: list[str]) -> tuple[Exporter, Path]:
    """The exporter and the place that --to names: a file by its suffix, or the exporter's id and a folder."""
    for exporter in EXPORTERS:
        if (
            exporter.suffix
            and len(words) == 1
            and words[0].endswith(exporter.suffix)
            and Path(words[0]).name != exporter.suffix
        ):
            return exporter, Path(words[0])
        if not exporter.suffix and len(words) == 2 and words[0] == exporter.id and words[1].strip():
            return exporter, Path(words[1])
    raise Trouble(f"--to {' '.join(words)}: expected {_ways()}")


def _ways() -> str:
    ways = [
        f"a name that ends in {e.suffix} for {e.name}" if e.suffix else f"{e.id} DIRECTORY for {e.name}"
        for e in EXPORTERS
    ]
    return ", or ".join(ways)
