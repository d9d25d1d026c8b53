"""What a current asks of what feeds it: the cells, the converter, the wire and the fuse, and what is left of the volts at the servos.

The end of the show decides: cells count as empty then. A formula each in cells.py, wire.py and parts.py.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.power import Power
from karakuri.power import cells as cell
from karakuri.power.parts import input_A
from karakuri.power.wire import drop_V

WINDOW_S = 60.0
"""A wire and a slow fuse are warm after so long: common practice, no source."""


class Asked(Frozen):
    """At the servos' voltage: `peak` and `mean` A of all together, `rms` A over the worst WINDOW_S, and `jam` with every servo stalled besides. From the cells: `source_peak`, `source_rms` A when they are
    near empty, `source_mean` as named; without cells as at the servos. Volts: `stands` before any wire, near the end; `sag` in the cells and `lost` along the wire under the peak;
    `servo` what is left, `jammed` with every servo stalled. `hours` they last; None without cells."""

    peak: float
    mean: float
    rms: float
    jam: float
    source_peak: float
    source_rms: float
    source_mean: float
    stands: float
    sag: float
    lost: float
    servo: float
    jammed: float
    hours: float | None


def asked(power: Power, supply_V: float, amps: Array, step_s: float, jam_A: float, wire_C: float) -> Asked:
    """Of amps (n,) A over a show that goes over and over, step_s s apart, all together at the servos' voltage; jam_A when every servo stalls and all else is on; wires at wire_C °C."""
    peak, mean, rms = float(amps.max()), float(amps.mean()), worst_rms(amps, step_s)
    out_peak, sag = _volts(power, supply_V, peak, mean)
    out_jam, _ = _volts(power, supply_V, jam_A, mean)
    metres, awg = power.wire.length_mm / 1e3, power.wire.gauge_awg
    lost, source_peak, source_rms, source_mean, hours = drop_V(peak, metres, awg, wire_C), peak, rms, mean, None
    if power.cells is not None:
        low, named = cell.empty_V(power.cells), cell.volts(power.cells)
        drawn = amps
        if power.converter is not None:
            share = power.converter.efficiency
            source_peak, source_rms = (input_A(each, supply_V, low, share) for each in (peak, rms))
            source_mean = input_A(mean, supply_V, named, share)
            drawn = amps * (source_mean / mean) if mean > 0.0 else amps
        hours = cell.lasts_h(power.cells, drawn)
    return Asked(
        peak, mean, rms, jam_A, source_peak, source_rms, source_mean, out_peak + sag, sag, lost, max(out_peak - lost, 0.0),
        max(out_jam - drop_V(jam_A, metres, awg, wire_C), 0.0), hours,
    )  # fmt: skip


def servo_V(power: Power, supply_V: float, amps: float, mean_A: float, wire_C: float) -> float:
    """What is left at the end of the main wire, V, while all together draw so much, A, at the servos' voltage; `mean_A` is drawn on the mean; the wire is at wire_C °C."""
    out, _ = _volts(power, supply_V, amps, mean_A)
    return max(out - drop_V(amps, power.wire.length_mm / 1e3, power.wire.gauge_awg, wire_C), 0.0)


def most_V(figure: Figure) -> float:
    """The most that comes to what feeds the servos, V: cells without a converter give more when just charged than they are named for."""
    power, named = figure.power, figure.supply.voltage_V
    straight = power is not None and power.cells is not None and power.converter is None
    return max(named, cell.full_V(power.cells)) if straight else named  # type: ignore[union-attr, arg-type]


def worst_rms(amps: Array, step_s: float) -> float:
    """Root mean square, A, of the worst WINDOW_S of amps (n,) A, step_s s apart, that go over and over; of all of them where they are shorter."""
    wide = min(len(amps), max(1, round(WINDOW_S / step_s)))
    summed = np.concatenate([[0.0], np.cumsum(np.concatenate([amps, amps[: wide - 1]]) ** 2)])
    return float(np.sqrt(np.max(summed[wide:] - summed[:-wide]) / wide))


def _volts(power: Power, supply_V: float, amps: float, mean: float) -> tuple[float, float]:
    """What is there before the wire, V, and how much of that was lost in the cells, V: nothing where a converter keeps its volts up.

    Cells count as empty at so many volts under the mean; what goes beyond it takes more."""
    if power.cells is None:
        return supply_V, 0.0
    low = cell.empty_V(power.cells)
    if power.converter is None:
        sag = cell.sag_V(power.cells, max(amps - mean, 0.0))
        return max(low - sag, 0.0), min(sag, low)
    more = input_A(max(amps - mean, 0.0), supply_V, low, power.converter.efficiency)
    left = max(low - cell.sag_V(power.cells, more), 0.0)
    if power.converter.raises or left >= supply_V:
        return supply_V, 0.0
    return left, supply_V - left
