#!/usr/bin/env bash
# Every check; called by ./run check, which sets up first.
set -euo pipefail
cd "$(dirname "$0")/.."
BIN=.venv/bin
export QT_QPA_PLATFORM=offscreen XDG_STATE_HOME=${TMPDIR:-/tmp}/karakuri-check-$$
SMOKE=$XDG_STATE_HOME.smoke
WORKERS=$(($(nproc) + 1))  # boards, kills and saves wait as much as they work
trap 'kill $(jobs -p) 2>/dev/null || true; rm -rf "$XDG_STATE_HOME" "$XDG_STATE_HOME.log" "$SMOKE"' EXIT
echo "== ruff";           $BIN/ruff check .; $BIN/ruff format --check .
echo "== mypy, import contracts, and beside them tests of the core and against references, PyQt6 made unimportable"
{ $BIN/mypy && $BIN/lint-imports; } > "$SMOKE" 2>&1 & BESIDE=$!
KARAKURI_NO_QT=1 $BIN/python -m pytest tests/core tests/references -p no:pytest-qt -n $WORKERS --dist worksteal | tee "$XDG_STATE_HOME.log"
wait $BESIDE || { cat "$SMOKE"; exit 1; }
cat "$SMOKE"
echo "== tests of the window, benchmarks as smoke beside them"
$BIN/python benchmarks/run.py --smoke > "$SMOKE" 2>&1 & BESIDE=$!
$BIN/python -m pytest tests/ui -n "$(nproc)" --dist worksteal | tee -a "$XDG_STATE_HOME.log"
wait $BESIDE || { cat "$SMOKE"; exit 1; }
cat "$SMOKE"
grep -E '[0-9]+ passed' "$XDG_STATE_HOME.log"
rm -f "$XDG_STATE_HOME.log"
