"""All remedies of every finding of the demo, from cold."""

from __future__ import annotations

from collections.abc import Iterator

from benchmarks.timing import slowness, spread, timed

PROMISE = "at most 1.5 s on either demo"


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.demo import demo_path
    from karakuri.files.disk import load
    from karakuri.study.answers import wanted
    from karakuri.study.remedies import remedies
    from karakuri.study.reuse import Reuse
    from karakuri.study.study import study

    for demo in ("owl", "walrus"):
        figure = load(demo_path(demo))

        def once(figure=figure) -> None:
            reuse = Reuse()
            done = study(figure, reuse)
            for finding in wanted(done.findings):
                remedies(done, finding, reuse)

        if not smoke:
            once()
        pairs = [(slowness(), timed(once)) for _ in range(1 if smoke else 9)]
        yield spread(f"{demo}: study and all remedies", [took for _, took in pairs], [slow for slow, _ in pairs])
