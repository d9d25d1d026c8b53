"""karakuri check | pose | size | export | play | schema: the same study without a window.

check ends with 0 when nothing fails, 1 when something fails, 2 on bad input, 3 when nothing fails but something is not judged.
"""

from __future__ import annotations

import argparse
import json
import math
import os
import sys
from pathlib import Path
from typing import Any

import numpy as np

from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.cli.export import export_command, export_options
from karakuri.cli.play import play_command
from karakuri.cli.size import size_command
from karakuri.errors import Trouble
from karakuri.files.disk import load
from karakuri.files.schema import schema
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import carried_mass, place
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.statics import carried_centre, centre_of_mass, holding_torque_Nm, inertia_about_axis
from karakuri.mechanics.tipping import footing, margin_m
from karakuri.mechanics.worst import drive_torque_Nm
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding, Remedy, show_reserve
from karakuri.session.sounds import Sounds
from karakuri.study.remedies import remedies as offered
from karakuri.study.reuse import Reuse
from karakuri.study.studied import Study
from karakuri.study.study import study
from karakuri.units import units_named
from karakuri.values.value import as_data


def parser() -> argparse.ArgumentParser:
    """The command line."""
    top = argparse.ArgumentParser(prog="karakuri", description="A bench for builders of animatronic figures.")
    commands = top.add_subparsers(dest="command", required=True)
    check = commands.add_parser(
        "check", help="judge a figure; 0 nothing fails, 1 fails, 2 bad input, 3 something not judged"
    )
    check.add_argument("file", type=Path)
    check.add_argument("--json", action="store_true", help="findings as JSON, SI units")
    check.add_argument("--remedies", action="store_true", help="what would help, each studied")
    check.add_argument("--units", default="metric", help="metric, kg·cm or inch")
    pose = commands.add_parser("pose", help="torques, masses and tipping margin in one pose")
    pose.add_argument("file", type=Path)
    pose.add_argument(
        "--set", nargs="*", default=[], metavar="JOINT=VALUE", help="degrees, or mm for a joint that slides"
    )
    pose.add_argument("--posture", default=None)
    pose.add_argument("--json", action="store_true")
    size = commands.add_parser("size", help="what the score asks of every joint")
    size.add_argument("file", type=Path)
    size.add_argument("--json", action="store_true")
    export = commands.add_parser(
        "export", help="the score for elsewhere: frames as CSV, or a player for a small controller"
    )
    export.add_argument("file", type=Path)
    export_options(export)
    play = commands.add_parser("play", help="play the score on a board; Ctrl-C stops and parks")
    play.add_argument("file", type=Path)
    play.add_argument(
        "--board", required=True, metavar="ADDRESS", help="tcp:HOST:PORT or a serial port; stand-in starts one"
    )
    play.add_argument("--once", action="store_true", help="one pass, even where the score loops")
    play.add_argument(
        "--powered", action="store_true", help="the board is powered and everybody is clear; else it asks"
    )
    commands.add_parser("schema", help="the JSON Schema of figure files")
    return top


def run(arguments: list[str]) -> int:
    """Carry out one command. Returns the exit status."""
    args = parser().parse_args(arguments)
    try:
        if args.command == "schema":
            print(json.dumps(schema(), indent=2, ensure_ascii=False), flush=True)
            return 0
        figure = load(args.file)
        status = COMMANDS[args.command](figure, args)
        if sys.stdout is not None:
            sys.stdout.flush()
        return status
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 2
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as trouble:
        print(f"Not written: {trouble.strerror or trouble}.", file=sys.stderr)
        return 2


def _check(figure: Figure, args: argparse.Namespace) -> int:
    heard = {each.sha256: each for each in Sounds(args.file.parent).loudness(figure)}
    done = study(figure, heard=heard)
    if args.json:
        print(json.dumps(report(done, args.remedies), indent=2, ensure_ascii=False, allow_nan=False))
    else:
        units, reuse = units_named(args.units), Reuse()
        print(
            f"{figure.name}: {done.count('fails')} fail, {done.count('tight')} tight, {done.count('holds')} hold, "
            f"{done.count('not yet judged')} not yet judged"
        )
        for finding in done.findings:
            number = show_reserve(finding.reserve) if finding.reserve is not None else ""
            print(f"  {finding.verdict:<14} {number:>6}  {finding.sentence.show(units)}")
            for remedy in offered(done, finding, reuse) if args.remedies and finding.verdict != "holds" else ():
                number = show_reserve(remedy.reserve) if remedy.reserve is not None else ""
                worse = f"; {', '.join(remedy.worse)}" if remedy.worse else ""
                print(f"{'':26}{remedy.label.show(units)}, then {remedy.verdict} {number}{worse}")
        print("Karakuri advises; it certifies nothing.")
    return 1 if done.count("fails") else 3 if done.count("not yet judged") or not done.findings else 0


def report(done: Study, with_remedies: bool = False) -> dict[str, Any]:
    """Findings as plain data, SI units. A reserve of null with no_limit true: nothing is asked; else there is no ratio, see measure."""
    reuse = Reuse()
    rows = [_row(finding) for finding in done.findings]
    for row, finding in zip(rows, done.findings, strict=True) if with_remedies else ():
        row["remedies"] = (
            [_remedy(remedy) for remedy in offered(done, finding, reuse)] if finding.verdict != "holds" else []
        )
    return {
        "figure": done.figure.name,
        "findings": rows,
        "assumptions": as_data(done.figure.assumptions, all_fields=True),
    }


def _row(finding: Finding) -> dict[str, Any]:
    units = units_named("metric")
    return {
        "id": finding.id,
        "rule": finding.rule,
        "subject": finding.subject.id,
        "verdict": finding.verdict,
        "reserve": _finite(finding.reserve),
        "no_limit": finding.reserve is not None and not math.isfinite(finding.reserve),
        "reserve_low": _finite(finding.reserve_low),
        "reserve_high": _finite(finding.reserve_high),
        "demand": _finite(finding.demand.value) if finding.demand else None,
        "capacity": _finite(finding.capacity.value) if finding.capacity else None,
        "kind": finding.demand.kind if finding.demand else None,
        "measure": finding.measure.show(units) if finding.measure else None,
        "sentence": finding.sentence.show(units),
        "derivations": [f"{d.show_title(units)}: {d.show(units)}" for d in finding.derivations],
    }


def _remedy(remedy: Remedy) -> dict[str, Any]:
    return {
        "label": remedy.label.show(units_named("metric")),
        "edit": remedy.edit.name,
        "verdict": remedy.verdict,
        "reserve": _finite(remedy.reserve),
        "worse": list(remedy.worse),
    }


def _finite(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


def _pose(figure: Figure, args: argparse.Namespace) -> int:
    print(json.dumps(pose_report(figure, args.set, args.posture), indent=2, ensure_ascii=False))
    return 0


def pose_report(figure: Figure, settings: list[str], posture_id: str | None) -> dict[str, Any]:
    """Per joint: holding torque N·m about + axis, inertia kg·m², mass kg and centre m carried; whole: mass, centre, tipping margin m.

    Raises Trouble for an unknown joint, posture or a setting that is no number.
    """
    tree = build_tree(figure)
    q = rest_pose(tree)
    for setting in settings:
        name, _, text = setting.partition("=")
        if name not in tree.ids:
            raise Trouble(
                f"--set {setting}: expected one of {', '.join(tree.ids) or 'no joint at all'}, found '{name}'"
            )
        try:
            value = float(text)
        except ValueError as trouble:
            raise Trouble(f"--set {setting}: expected a number after '=', found '{text}'") from trouble
        if not math.isfinite(value):
            raise Trouble(f"--set {setting}: expected a finite number, found '{text}'")
        j = tree.index(name)
        if tree.coupling.leader[j] != j:
            ahead = figure.joint(tree.ids[tree.coupling.leader[j]])
            raise Trouble(f"--set {setting}: {name} follows {ahead.id}; set that instead")
        q[j] = value / 1e3 if tree.slides[j] else math.radians(value)
    posture = figure.stances[0] if posture_id is None else next((p for p in figure.stances if p.id == posture_id), None)
    if posture is None:
        raise Trouble(f"--posture {posture_id}: expected one of {', '.join(p.id for p in figure.postures)}")
    gravity = posture_gravity(posture, figure.assumptions.gravity_mps2)
    column = complete(tree, q[:, None], gravity)
    placed = place(tree, column)
    torque, centre, mass = holding_torque_Nm(tree, column, gravity), carried_centre(tree, placed), carried_mass(tree)
    names = {joint.id: joint for joint in figure.joints}
    rows = [
        {
            "joint": ident,
            "kind": names[ident].kind,
            ("at_mm" if tree.slides[j] else "at_deg"): _shown(column[j, 0], tree.slides[j]),
            ("holding_force_N" if tree.slides[j] else "holding_torque_Nm"): float(torque[j, 0]) + 0.0,
            **(
                {"drive_torque_Nm": float(drive_torque_Nm(tree, j, column, gravity)[0]) + 0.0}
                if tree.linkage(j) is not None
                else {}
            ),
            "inertia_kgm2": float(inertia_about_axis(tree, column, j)[0]),
            "carried_mass_kg": float(mass[j]),
            "carried_centre_of_mass_m": [float(v) for v in centre[j, :, 0]],
        }
        for j, ident in enumerate(tree.ids)
    ]
    whole = centre_of_mass(tree, column)[:, 0]
    return {
        "figure": figure.name,
        "posture": posture.id,
        "joints": rows,
        "mass_kg": float(np.sum(tree.mass)),
        "centre_of_mass_m": [float(v) for v in whole],
        "tipping_margin_m": margin_m(footing(figure.base), whole, gravity),
        "not_weighed": [ident for ident, _ in tree.unknown],
    }


COMMANDS = {"check": _check, "pose": _pose, "size": size_command, "export": export_command, "play": play_command}


def _shown(value: float, slides: bool) -> float:
    return round(value * 1e3 if slides else math.degrees(value), 9) + 0.0
