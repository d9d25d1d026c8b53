"""The card of a joint's servo: class or label, what it can do, the wanted move, what carries the load."""

from __future__ import annotations

from karakuri.actuators.label import from_label, restated
from karakuri.catalogue import servo_class, servo_classes, steppers
from karakuri.model.drive import Actuator, Drive, labels
from karakuri.model.edit import Edit
from karakuri.model.edits import fit_servo, set_field, set_servos
from karakuri.model.finding import show_reserve
from karakuri.model.labels import Label
from karakuri.sizing.followed import led_by
from karakuri.units import KGCM, Quantity
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.case_items import case_items
from karakuri.workbench.benches.joint_moves import move_items
from karakuri.workbench.benches.joint_page import setter, support_items
from karakuri.workbench.benches.linkage_items import linkage_items, solved_items
from karakuri.workbench.benches.shaking_items import mount_items, shaking_items
from karakuri.workbench.benches.stepper_items import stepper_items
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
from karakuri.workbench.wishes import DRAWER_IN, DRAWER_OUT

STATED_FIRST = ("torque_Nm", "at_voltage_V", "speed_s_per_60deg", "mass_g")


def drive_page(desk: Desk, ident: str) -> Page:
    figure, joint = desk.figure, desk.figure.joint(ident)
    drive = figure.drive_of(ident)
    finding = desk.finding("hold", ident)
    items: list[Item] = [
        Block("v", finding, figure.assumptions.wished_margin),
        _class_pick(desk, ident),
        *_solved(desk, ident),
    ]
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
        if drive.actuator.stepper is not None:
            items += stepper_items(desk, drive, drive.actuator.stepper)
        items += linkage_items(desk, ident, drive)
        items += _together(desk, drive)
        items += _label(desk, drive.id)
        items += mount_items(desk, drive)
        items += case_items(desk, drive)
    items += drawer_items(desk, drive.actuator if drive is not None else None)
    move = desk.finding("move", ident)
    items.append(Head("hm", "Wanted move"))
    if joint.role == "follows":
        items.append(Note("nm", f"It moves as {led_by(figure, joint)[0].name} does."))
    else:
        items += move_items(joint, setter(desk, joint.id))
    if move is not None:
        items += [
            Block("vm", move, figure.assumptions.wished_margin),
            *(Calc(f"m{i}", d) for i, d in enumerate(move.derivations)),
        ]
    items += shaking_items(desk, ident)
    shaft = desk.finding("shaft", ident)
    items += [Head("hs", "Side load and tilting"), *support_items(joint, setter(desk, joint.id))]
    if shaft is not None:
        items += [
            Block("vs", shaft, figure.assumptions.wished_margin),
            Note("ns", shaft.sentence.show(desk.units)),
            *(Calc(f"s{i}", d) for i, d in enumerate(shaft.derivations)),
        ]
    tilts = desk.finding("tilts", ident)
    if tilts is not None:
        items += [
            Block("vt", tilts, figure.assumptions.wished_margin),
            Note("nt", tilts.sentence.show(desk.units)),
            *(Calc(f"t{i}", d) for i, d in enumerate(tilts.derivations)),
        ]
    items += [
        Head("hc", "Caution"),
        Note("nc", CAUTION, True),
        Head("hw", "Words"),
        Note(
            "nw",
            "Reserve: what it can give divided by what is needed. Held for long: without getting hot. In passing: a few seconds. "
            "Stall: as much as it ever gives, standing still. Shaft: what turns, toothed where it leaves the servo's case.",
        ),
    ]
    name = drive.actuator.name if drive else "no servo yet"
    return Page(f"{joint.name} servo", name, tuple(items), ("drive", ident))


def _together(desk: Desk, drive: Drive) -> list[Item]:
    """One servo on the joint, or two of the same."""
    if drive.actuator.stepper is not None:
        return []
    options = (("1", "one servo"), ("2", "two, one on either side"))
    items: list[Item] = [
        Pick("servos", "On this joint", dict(options)[str(drive.servos)], options, lambda key: desk.edit(lambda: set_servos(desk.figure, drive.id, int(key))))
    ]  # fmt: skip
    if drive.servos > 1:
        share = desk.show(Quantity(desk.figure.assumptions.together_share, "percent"))
        items.append(Note("ntwo", f"On one output by a Y lead; facing each other one has to be reversed. Power both with their horns off and fit these where neither pushes against the other: {share} of both together counts (common practice, no source)."))  # fmt: skip
    return items


def _solved(desk: Desk, ident: str) -> list[Item]:
    """For a joint that turns and was judged."""
    study = desk.study
    judged = study is not None and any(r.joint.id == ident and not r.missing for r in study.results.joints)
    return solved_items(desk, ident) if judged else []


def _tone(finding, i: int) -> str:
    return {"fails": "verm", "tight": "ochre"}.get(finding.verdict, "ink") if i == 0 else "ink"


def _class_pick(desk: Desk, ident: str) -> Pick:
    drive = desk.figure.drive_of(ident)

    mine = {f"drawer {servo.name}": servo for servo in desk.drawer.servos()} | {
        str(s.catalogue_id): s for s in steppers()
    }

    def done(key: str) -> None:
        if key == "own":
            own_servo(desk, ident)
        else:
            desk.edit(lambda: fit_servo(desk.figure, ident, mine[key] if key in mine else servo_class(key)))

    options = (
        *((s.catalogue_id, s.name) for s in servo_classes()),
        *(
            (key, servo.name if servo.stepper is not None else f"{servo.name}, from my drawer")
            for key, servo in mine.items()
        ),
        ("own", "own servo, from its label"),
    )
    return Pick("class", "Class", drive.actuator.name.split(",")[0] if drive else "choose", options, done)


def drawer_items(desk: Desk, fitted: Actuator | None) -> list[Item]:
    """The drawer of one's own servos: what is fitted into it, out of it, and as a file both ways."""
    drawer = desk.drawer
    mine = drawer.servos()
    items: list[Item] = []
    if fitted is not None and fitted.catalogue_id is None:
        same = any(servo == fitted for servo in mine)
        words = "It lies in the drawer already." if same else ""
        items.append(
            Do(
                "keep servo",
                f"Keep {fitted.name} in my drawer",
                lambda: desk.tried(lambda: drawer.put(fitted), f"{fitted.name} lies in the drawer now."),
                words,
            )
        )
    if mine:
        names = tuple((servo.name, servo.name) for servo in mine)
        items.append(
            Pick(
                "out of drawer",
                "Take out of my drawer",
                "choose",
                names,
                lambda name: desk.tried(
                    lambda: drawer.take_out(name), f"{name} is out of the drawer; figures that have it keep it."
                ),
            )
        )
        items.append(Do("drawer out", "Write my drawer as JSON", lambda: desk.wanted.emit(DRAWER_OUT)))
    items.append(Do("drawer in", "Take servos from JSON into my drawer", lambda: desk.wanted.emit(DRAWER_IN)))
    if drawer.trouble:
        items.append(Note("drawer trouble", drawer.trouble))
    return [Head("hdr", "My drawer of servos"), *items]


def own_servo(desk: Desk, ident: str) -> None:
    """A servo by its label, beginning with a common label; the fields below are then the label's."""
    desk.edit(
        lambda: fit_servo(
            desk.figure, ident, from_label("own servo", torque_Nm=1.6 * KGCM, speed_s_per_60deg=0.12, at_voltage_V=4.8)
        )
    )


def _label(desk: Desk, drive_id: str) -> list[Item]:
    """What its label states, ruled; what nobody stated says that it is an estimate, and is stated by typing over it."""
    servo = next(d for d in desk.figure.drives if d.id == drive_id).actuator

    def state(field: str, value: float | str, words: str) -> None:
        def make() -> Edit:
            now = next(d for d in desk.figure.drives if d.id == drive_id)
            return set_field(
                desk.figure, "drives", drive_id, ("actuator",), restated(now.actuator, field, value), words
            )

        desk.edit(make)

    def written(field: str, label: Label) -> Write:
        guessed = servo.catalogue_id is None and field in servo.estimated
        return Write(
            field,
            f"{label.words}, estimate" if guessed else label.words,
            Quantity(getattr(servo, field) * label.si, label.kind),
            label.kind,
            lambda value: state(field, round(value / label.si, 9), label.words.lower()),
        )

    numbers = labels()
    of_servo = (
        "at_voltage_V",
        "speed_s_per_60deg",
        "rated_voltage_V",
        "stall_current_A",
        "dead_band_deg",
        "travel_deg",
    )
    if servo.stepper is not None:  # said of its windings and its driver instead
        numbers = {field: label for field, label in numbers.items() if field not in of_servo}
    items: list[Item] = [
        Head("hl", "Its label"),
        WriteText("sname", "Called", servo.name, lambda text: state("name", text.strip(), "servo")),
        *(
            written(field, numbers[field])
            for field in ("torque_Nm", "at_voltage_V", "speed_s_per_60deg", "mass_g")
            if field in numbers
        ),
        Sketch("label", 74, label_sketch),
        Pick(
            "gears",
            "Gears",
            servo.gears,
            (("metal", "metal"), ("plastic", "plastic"), ("not stated", "not stated, counts as plastic")),
            lambda key: state("gears", key, "gears"),
        ),
        *(written(field, label) for field, label in numbers.items() if field not in STATED_FIRST),
    ]
    if servo.catalogue_id is not None:
        items.append(
            Note(
                "ne", "All its values are typical of the class, from memory; typing over one makes the servo your own."
            )
        )
    elif servo.estimated:
        items.append(
            Note(
                "ne",
                "What no label gave is worked out from what it gave, from the generic classes: common practice, no source. "
                "Tilting, side load and stiffness ± 50 %. Typing over one states it.",
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
