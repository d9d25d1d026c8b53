#!/usr/bin/env bash
# Every check; called by ./run check, which sets up first.
set -euo pipefail
cd "$(dirname "$0")/.."
BIN=.venv/bin
export QT_QPA_PLATFORM=offscreen XDG_STATE_HOME=${TMPDIR:-/tmp}/karakuri-check-$$
trap 'rm -rf "$XDG_STATE_HOME"' EXIT
echo "== ruff";           $BIN/ruff check .; $BIN/ruff format --check .
echo "== mypy, strict on all but the workbench"; $BIN/mypy
echo "== import contracts"; $BIN/lint-imports
echo "== core tests, PyQt6 made unimportable"
KARAKURI_NO_QT=1 $BIN/python -m pytest tests/core tests/references -p no:pytest-qt -m "not slow" -n 2
echo "== all tests"
$BIN/python -m pytest tests -n 2 --junitxml="$XDG_STATE_HOME.xml" | tee "$XDG_STATE_HOME.log"
echo "== benchmarks, as smoke"
$BIN/python benchmarks/run.py --smoke
grep -E '[0-9]+ passed' "$XDG_STATE_HOME.log" | tail -1
rm -f "$XDG_STATE_HOME.log" "$XDG_STATE_HOME.xml"
