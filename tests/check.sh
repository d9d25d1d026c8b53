#!/usr/bin/env bash
# Every check; called by ./run check, which sets up first.
set -euo pipefail
cd "$(dirname "$0")/.."
BIN=.venv/bin
export QT_QPA_PLATFORM=offscreen XDG_STATE_HOME=${TMPDIR:-/tmp}/karakuri-check-$$
trap 'rm -rf "$XDG_STATE_HOME" "$XDG_STATE_HOME.log"' EXIT
echo "== ruff";           $BIN/ruff check .; $BIN/ruff format --check .
echo "== mypy"; $BIN/mypy
echo "== import contracts"; $BIN/lint-imports
echo "== tests of the core and against references, PyQt6 made unimportable"
KARAKURI_NO_QT=1 $BIN/python -m pytest tests/core tests/references -p no:pytest-qt -n 2 --dist worksteal | tee "$XDG_STATE_HOME.log"
echo "== tests of the window"
$BIN/python -m pytest tests/ui -n 2 --dist worksteal | tee -a "$XDG_STATE_HOME.log"
echo "== benchmarks, as smoke"
$BIN/python benchmarks/run.py --smoke
grep -E '[0-9]+ passed' "$XDG_STATE_HOME.log"
rm -f "$XDG_STATE_HOME.log"
