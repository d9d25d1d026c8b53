"""The card of a joint's servo: class or label, what it can do, the wanted move, what carries the load."""

from __future__ import annotations

import math

from karakuri.catalogue import servo_class, servo_classes, servo_from_label
from karakuri.model.edits import fit_servo, set_field
from karakuri.model.finding import show_reserve
from karakuri.units import KGCM, Quantity
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.joint_page import move_items, support_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import (
    Block,
    Calc,
    Do,
    Head,
    Item,
    Note,
    Page,
    Pick,
    Sketch,
    Write,
    WriteText,
)

SPOKEN = {
    "torque_Nm": "torque",
    "at_voltage_V": "volts",
    "rated_voltage_V": "rated volts",
    "speed_s_per_60deg": "speed",
    "mass_g": "mass",
    "stall_current_A": "stall current",
    "gears": "gears",
    "travel_deg": "travel",
    "play_deg": "play",
    "permitted_moment_Nm": "permitted moment",
    "permitted_side_N": "side load",
    "shaft_stiffness_Nm_per_rad": "stiffness",
    "reflected_inertia_kgm2": "inertia",
}


def drive_page(desk: Desk, ident: str) -> Page:
    figure, joint = desk.figure, desk.figure.joint(ident)
    drive = figure.drive_of(ident)
    finding = desk.finding(f"hold.{ident}")
    items: list[Item] = [Block("v", finding, figure.assumptions.wished_margin), _class_pick(desk, ident)]
    if finding is not None and finding.verdict == "holds" and not desk.busy:
        items += [
            Do(
                f"r{i}",
                f"{r.label.show(desk.units)}, then {r.verdict} {show_reserve(r.reserve or 0.0)}",
                lambda r=r: desk.edit(r.edit),
            )
            for i, r in enumerate(desk.offered(finding))
        ]
    if finding is not None:
        items += [Calc(f"d{i}", d, _tone(finding, i)) for i, d in enumerate(finding.derivations)]
    if drive is None:
        items += [
            Do("own", "Own servo, from its label", lambda: own_servo(desk, ident)),
            Note(
                "nl", "Torque in kg·cm, oz·in or N·m, seconds for 60°, volts and grams are printed on its label or bag."
            ),
        ]
    else:
        items += _label(desk, drive.id)
    move = desk.finding(f"move.{ident}")
    items += [Head("hm", "Wanted move"), *move_items(desk, joint)]
    if move is not None:
        items += [
            Block("vm", move, figure.assumptions.wished_margin),
            *(Calc(f"m{i}", d) for i, d in enumerate(move.derivations)),
        ]
    shaft = desk.finding(f"shaft.{ident}")
    items += [Head("hs", "Side load and tilting"), *support_items(desk, joint)]
    if shaft is not None:
        items += [
            Block("vs", shaft, figure.assumptions.wished_margin),
            Note("ns", shaft.sentence.show(desk.units)),
            *(Calc(f"s{i}", d) for i, d in enumerate(shaft.derivations)),
        ]
    items += [
        Head("hc", "Caution"),
        Note("nc", CAUTION, True),
        Head("hw", "Words"),
        Note(
            "nw",
            "Reserve: what it can give divided by what is needed. Held for long: without getting hot. In passing: a few seconds. "
            "Stall: as much as it ever gives, standing still. Spline: the servo's toothed output shaft.",
        ),
    ]
    name = drive.actuator.name if drive else "no servo yet"
    return Page(f"{joint.name} servo", name, tuple(items), ("drive", ident))


def _tone(finding, i: int) -> str:
    return {"fails": "verm", "tight": "ochre"}.get(finding.verdict, "ink") if i == 0 else "ink"


def _class_pick(desk: Desk, ident: str) -> Pick:
    drive = desk.figure.drive_of(ident)

    def done(key: str) -> None:
        if key == "own":
            own_servo(desk, ident)
        else:
            desk.edit(fit_servo(desk.figure, ident, servo_class(key)))

    options = (*((s.catalogue_id, s.name) for s in servo_classes()), ("own", "own servo, from its label"))
    return Pick("class", "Class", drive.actuator.name.split(",")[0] if drive else "choose", options, done)


def own_servo(desk: Desk, ident: str) -> None:
    """A servo by its label, beginning with a common label; the fields below are then the label's."""
    desk.edit(fit_servo(desk.figure, ident, servo_from_label("own servo", 1.6 * KGCM, 0.12, 4.8, 9.0)))


def _label(desk: Desk, drive_id: str) -> list[Item]:
    drive = next(d for d in desk.figure.drives if d.id == drive_id)
    servo = drive.actuator

    def written(field: str, words: str, scale: float = 1.0):
        def done(value: float) -> None:
            now = next(d for d in desk.figure.drives if d.id == drive_id)
            fields = dict(now.actuator)
            fields[field] = round(value * scale, 9)
            if field == "at_voltage_V":
                fields["rated_voltage_V"] = max(fields["rated_voltage_V"], fields[field])
            fields["estimated"] = tuple(e for e in now.actuator.estimated if e != field)
            if now.actuator.catalogue_id is not None:
                fields |= {"catalogue_id": None, "name": f"own, was {now.actuator.name.split(',')[0]}"}
            desk.edit(set_field(desk.figure, "drives", drive_id, ("actuator",), type(now.actuator)(**fields), words))

        return done

    def gears(key: str) -> None:
        fields = dict(next(d for d in desk.figure.drives if d.id == drive_id).actuator)
        fields |= {"gears": key, "estimated": tuple(e for e in fields["estimated"] if e != "gears")}
        desk.edit(set_field(desk.figure, "drives", drive_id, ("actuator",), type(servo)(**fields), "gears"))

    def named(text: str) -> None:
        desk.edit(set_field(desk.figure, "drives", drive_id, ("actuator", "name"), text.strip(), "servo"))

    items: list[Item] = [
        Head("hl", "Its label"),
        WriteText("sname", "Called", servo.name, named),
        Write("torque", "Stall torque", Quantity(servo.torque_Nm, "torque"), "torque", written("torque_Nm", "torque")),
        Write("at", "given at", Quantity(servo.at_voltage_V, "voltage"), "voltage", written("at_voltage_V", "volts")),
        Write(
            "speed",
            "Speed",
            Quantity(servo.speed_s_per_60deg, "servo_speed"),
            "servo_speed",
            written("speed_s_per_60deg", "speed"),
        ),
        Write("grams", "Weighs", Quantity(servo.mass_g / 1e3, "mass"), "mass", written("mass_g", "mass", 1e3)),
        Sketch("label", 74, label_sketch),
        Pick(
            "gears",
            "Gears",
            servo.gears,
            (("metal", "metal"), ("plastic", "plastic"), ("not stated", "not stated, counts as plastic")),
            gears,
        ),
        Write(
            "stall",
            "Stall current",
            Quantity(servo.stall_current_A, "current"),
            "current",
            written("stall_current_A", "stall current"),
        ),
        Write(
            "rated",
            "Rated to",
            Quantity(servo.rated_voltage_V, "voltage"),
            "voltage",
            written("rated_voltage_V", "rated voltage"),
        ),
        Write(
            "travel",
            "Turns",
            Quantity(math.radians(servo.travel_deg), "angle"),
            "angle",
            written("travel_deg", "travel", 180 / math.pi),
        ),
        Write(
            "play",
            "Play at the horn",
            Quantity(math.radians(servo.play_deg), "angle"),
            "angle",
            written("play_deg", "play", 180 / math.pi),
        ),
        Write(
            "tilt",
            "Spline may carry",
            Quantity(servo.permitted_moment_Nm, "torque"),
            "torque",
            written("permitted_moment_Nm", "permitted moment"),
        ),
    ]
    guessed = [SPOKEN.get(e, e) for e in servo.estimated]
    if len(guessed) > 8:
        items.append(
            Note("ne", "All its values are typical of the class, from memory; moment, side load and stiffness ± 50 %.")
        )
    elif guessed:
        items.append(
            Note(
                "ne",
                f"Estimated, because no label gave it: {', '.join(guessed)}; moment, side load and stiffness ± 50 %.",
            )
        )
    return items


def label_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """Where to read a servo's label: the case, and what the four numbers are."""
    u = kit.u
    kit.rect(x + u(6), y + u(12), u(64), u(46), None, "ink", 1.4)
    kit.rect(x - u(0), y + u(20), u(6), u(8), None, "ink", 1.2)
    kit.rect(x + u(70), y + u(20), u(6), u(8), None, "ink", 1.2)
    kit.circle(x + u(20), y + u(10), u(6), "brass_f", "ink", 1.2)
    kit.rect(x + u(12), y + u(26), u(52), u(26), "card", "rule")
    for i in range(3):
        kit.line(x + u(16), y + u(32 + i * 7), x + u(58 - i * 8), y + u(32 + i * 7), "ink3", 1.4)
    for i, words in enumerate(("kg·cm or oz·in at volts", "s/60°: seconds for 60°", "grams: on the bag, or weigh")):
        kit.text(x + u(86), y + u(18 + i * 18), words, 11.5, 400, "ink2")
