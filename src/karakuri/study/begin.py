"""The process that studies, from its beginning: python -m karakuri.study.begin FD."""

from __future__ import annotations

import sys

from karakuri import heap

if __name__ == "__main__":
    heap.loading()
    from karakuri.study.process import main

    sys.exit(main(sys.argv[1:]))
