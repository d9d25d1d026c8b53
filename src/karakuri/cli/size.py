"""karakuri size: per joint over the score, worst hold, peak, RMS, top speed and reserves."""

from __future__ import annotations

import argparse
import json
import math
from typing import Any

import numpy as np

from karakuri.model.figure import Figure
from karakuri.study.study import study


def size_command(figure: Figure, args: argparse.Namespace) -> int:
    """Print the report. Returns 0."""
    rows = size_report(figure)
    if args.json:
        print(
            json.dumps(
                {"figure": figure.name, "length_s": figure.score.length_s, "joints": rows}, indent=2, ensure_ascii=False
            )
        )
        return 0
    if not rows:
        print(f"{figure.name}: nothing moves in its score.")
    for row in rows:
        reserves = ", ".join(f"{k} {v:.2f}" for k, v in row["reserves"].items() if v is not None)
        print(f"{row['joint']:<20} hold {row['worst_hold_Nm']:.3f}  peak {row['peak_Nm']:.3f}  rms {row['rms_Nm']:.3f} N·m"
              f"  {row['top_speed_deg_per_s']:.0f} °/s  {reserves or row['moved_by']}")  # fmt: skip
    return 0


def size_report(figure: Figure) -> list[dict[str, Any]]:
    """Per turning joint that a servo or a link moves: torques N·m, speed °/s, when s, and reserves (capacity ÷ demand, None where nothing is asked)."""
    results = study(figure).results
    out: list[dict[str, Any]] = []
    for r in results.joints if results.loads is not None else ():
        load = results.loads.of(r.index) if results.loads is not None else None
        if load is None:
            continue
        can = r.can
        reserves = {} if can is None else {
            "held": _ratio(can.continuous, load.hold[0]), "passing": _ratio(can.intermittent, load.peak[0]),
            "rms": _ratio(can.continuous, load.rms), "speed": _finite(float(np.min(load.moves.reserve, initial=math.inf))),
        }  # fmt: skip
        out.append({
            "joint": r.joint.id, "moved_by": "its servo" if can is not None else "a link" if r.joint.role == "follows" else "no servo", "worst_hold_Nm": load.hold[0], "worst_hold_at_s": load.hold[1], "peak_Nm": load.peak[0],
            "peak_at_s": load.peak[1], "rms_Nm": load.rms, "top_speed_deg_per_s": math.degrees(load.top[0]),
            "top_speed_at_s": load.top[1], "reserves": reserves,
        })  # fmt: skip
    return out


def _ratio(capacity: float, demand: float) -> float | None:
    return capacity / demand if demand > 1e-12 else None


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None
