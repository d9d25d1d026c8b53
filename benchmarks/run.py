"""Runs every promise's measurement: ./run bench, or small as a smoke test with --smoke. Numbers are printed, never asserted."""

from __future__ import annotations

import importlib
import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

PROMISES = ("edit_to_findings", "ribbon_drag", "all_remedies", "equilibrium", "linkages", "meshes", "voice", "behaviour", "inverse_dynamics", "start", "memory", "growth", "long_score",
            "sender_jitter", "live_slider", "player_bytes", "long_use")  # fmt: skip


def main(arguments: list[str]) -> int:
    smoke = "--smoke" in arguments
    wanted = [name for name in arguments if not name.startswith("--")] or list(PROMISES)
    for name in wanted:
        module = importlib.import_module(f"benchmarks.{name}")
        print(f"{name}: {module.PROMISE}")
        for line in module.measure(smoke):
            print(f"  {line}")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
