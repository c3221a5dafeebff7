"""Checks of what charges: chargers, panels, isolators and the alternator."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.bank import usual_battery
from lucernis.core.checks.fixes import let_go_of_wire, put_fuse, set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.circuit.sources import alternator_of
from lucernis.core.circuit.supplies import charger_points, in_low_v, panel_power_w, panels_on
from lucernis.core.circuit.terminals import has_positive, part_id_of, point, terminal_of
from lucernis.core.circuit.topology import path_runs
from lucernis.core.power.charging import alternator_spare_a, engine_draw_a, panel_fit, rated_out_a, study_charge
from lucernis.core.sizing.places import zone_of_places
from lucernis.plan.model import Battery, Charger, Isolator, Panel, Relay, Run

# A charger that gives so much less than its rating is worth a thicker wire: common practice, no source.
SHORT_OF_RATING = 0.97
# Up to this a panel may hang on a battery without a controller, by one school: common practice, no source.
SMALL_PANEL_W = 15.0
# From so many strings side by side the others can feed a fault in one: common practice, no source.
STRINGS_TO_FUSE = 3
# Absorption takes about this much more than nominal volts; below it panels cannot charge to the end: 14.4 V at 12 V.
PANEL_ABOVE_NOMINAL = 1.2


def check_charging(raised: Raised) -> None:
    """Raise what is wrong with chargers, panels and what joins starter and house."""
    chargers = [part for part in raised.plan.parts if isinstance(part, Charger)]
    for charger in chargers:
        _wired(raised, charger)
        _set(raised, charger)
        _place(raised, charger)
        _panels(raised, charger)
    for part in raised.plan.parts:
        if isinstance(part, Panel):
            _panel(raised, part)
        elif isinstance(part, Isolator):
            _joins(raised, part)
        elif isinstance(part, Relay):
            _relay_joins(raised, part)
    if any(part.kind in ("charger", "isolator", "alternator") for part in raised.plan.parts):
        _engine(raised, chargers)


def _runs_at(raised: Raised, name: str) -> list[Run]:
    ends = raised.sized.topology.ends_of
    return [run for run in raised.plan.runs if has_positive(run) and name in ends[run.id]]


def _battery_behind(raised: Raised, name: str) -> Battery | None:
    root = raised.sized.topology.root_of.get(name)
    part = raised.sized.topology.parts.get(root) if root is not None else None
    return part if isinstance(part, Battery) else None


def _wired(raised: Raised, charger: Charger) -> None:
    """Every positive is joined, and fused where it meets a battery."""
    for name in charger_points(charger):
        runs = _runs_at(raised, name)
        if not runs:
            if not name.endswith(":pv"):
                terminal = name.partition(":")[2] or "in"
                raised.on_part(
                    "charger-loose",
                    charger,
                    what=f"Terminal {terminal} of {charger.name} leads nowhere",
                    mend="Join every positive of the charger, or take one with fewer outputs.",
                    fixes=[set_part(charger, "Take one with one output", outputs=1)] if terminal == "out_b" else [],
                )
            continue
        _loses(raised, charger, name)
        if name.endswith(":pv") and charger.form == "sun":
            # Panels limit their own current; a unit with other positives beside may feed back into theirs.
            continue
        for run in runs:
            # A supply may be fused further up its way; an output meets a bar that a far larger fuse guards.
            far_up = terminal_of(name) in (None, "in") and raised.sized.cases[run.id].protector is not None
            line = [raised.sized.topology.runs[one] for one in raised.sized.topology.line(run)]
            fused = any(one.fuse_at_start is not None or one.fuse_at_finish is not None for one in line)
            if not far_up and not fused:
                raised.on_run(
                    "charger-unfused",
                    run,
                    what=f"{run.tag} joins {charger.name} to a battery's side without a fuse of its own",
                    mend="A fuse where it meets the battery or the bar.",
                    # At the end of its line that is nearest to what feeds it.
                    fixes=[put_fuse(raised, line[0])],
                )
    gives_to = _battery_behind(raised, point(charger.id, "out"))
    if charger.form == "dcdc" and gives_to is not None and _battery_behind(raised, charger.id) is gives_to:
        raised.on_part(
            "charger-in-a-ring",
            charger,
            what=f"{charger.name} takes from {gives_to.name} and gives to it",
            mend="Its input from the starter side, its output to the house side.",
        )


def _loses(raised: Raised, charger: Charger, name: str) -> None:
    """Drop on the wires of an input, with every charger at work and every load off."""
    sized, charging = raised.sized, raised.sized.charging
    limit_v = sized.limit_v.get(name)
    if charging is None or limit_v is None or name not in charging.load_a or name in charging.unserved:
        return
    wire = sized.parts_lost_v(charging)[name][0]
    lost_v = sized.lost_v(name, charging) if sized.counts_everything else wire
    if lost_v <= limit_v + 1e-6:
        return
    feeder = sized.topology.feeder_of.get(name)
    what = "the panels" if name.endswith(":pv") else "its supply"
    raised.on_part(
        "charger-wire-drop",
        charger,
        what=f"{lost_v:.2f} V are lost between {what} and {charger.name}; {limit_v:.2f} V at most",
        mend="Thicker wire, a shorter way, or more panels in series.",
        fixes=let_go_of_wire(sized.topology.runs[feeder]) if feeder is not None else [],
        asked=demands.of_input(raised, charger, name, limit_v),
        lost_v=lost_v,
        limit_v=limit_v,
    )


def _set(raised: Raised, charger: Charger) -> None:
    battery = _battery_behind(raised, point(charger.id, "out"))
    if battery is None:
        return
    house = house_batteries(raised.plan)
    if battery in house:
        # Of a mixed bank the battery the others should be like: a charger is not set for the stranger in it.
        battery = usual_battery(raised.plan, house)
    if charger.chemistry is None:
        raised.on_part(
            "charger-chemistry-unset",
            charger,
            what=f"{charger.name} is not set for a chemistry; {battery.name} is {battery.chemistry}",
            mend="Set it by switch, wire or menu, and write it on the case.",
            fixes=[set_part(charger, f"Note it as set to {battery.chemistry}", chemistry=battery.chemistry)],
        )
    elif charger.chemistry != battery.chemistry:
        raised.on_part(
            "charger-chemistry-wrong",
            charger,
            what=f"{charger.name} is set to {charger.chemistry}, {battery.name} is {battery.chemistry}",
            mend="Set it for the battery it charges.",
            fixes=[set_part(charger, f"Set it to {battery.chemistry}", chemistry=battery.chemistry)],
        )
    source = _battery_behind(raised, charger.id)
    if charger.form == "dcdc" and charger.sense == "not_set" and source is not None and source.use == "starter":
        way = path_runs(raised.sized.topology, charger.id)
        parts = [raised.sized.topology.part_at(raised.sized.topology.start_of[one]) for one in way]
        if any(part.kind == "joint" and part.form in ("towing_plug", "plug") for part in parts):
            return
        raised.on_part(
            "charger-sense-unset",
            charger,
            what=f"{charger.name} stays on {source.name}, and nothing tells it that the engine runs",
            mend="An ignition wire, or its voltage sensing; not needed where a plug comes off.",
            fixes=[set_part(charger, "Note its ignition wire as joined", sense="wired")],
        )


def _place(raised: Raised, charger: Charger) -> None:
    zone = zone_of_places(raised.plan).get(f"place {charger.place}")
    if zone is None:
        return
    wrong = []
    if charger.hottest_c is not None and zone.ambient_c > charger.hottest_c:
        wrong.append(f"{zone.ambient_c:g} °C, made for {charger.hottest_c:g} °C")
    if zone.engine_space and not charger.engine_space:
        wrong.append("an engine space")
    if zone.wet and not charger.splash:
        wrong.append("wet")
    if wrong:
        raised.on_part(
            "charger-place",
            charger,
            what=f"{charger.name} stands in {zone.name}: " + "; ".join(wrong),
            mend="A cool dry place, or a unit made for this one.",
        )


def _panels(raised: Raised, charger: Charger) -> None:
    fit = panel_fit(raised.plan, raised.sized, charger)
    if fit is None:
        if charger.form == "sun":
            raised.on_part(
                "charger-loose",
                charger,
                what=f"No panel is joined to {charger.name}",
                mend="Join its panels, or remove it.",
            )
        return
    guess = " (typical coefficient)" if fit.typical else ""
    if charger.pv_high_v is not None and fit.cold_open_v > charger.pv_high_v:
        raised.on_part(
            "panel-voltage-over",
            charger,
            what=f"{fit.cold_open_v:.1f} V open at {raised.plan.energy.coldest_c:g} °C{guess}; "
            f"{charger.name} stands {charger.pv_high_v:g} V",
            mend="Fewer panels in series, or a controller for more volts.",
            voltage_v=fit.cold_open_v,
            limit_v=charger.pv_high_v,
        )
    if charger.pv_w is not None and fit.power_w > charger.pv_w * 1.001:
        raised.on_part(
            "panel-power-over",
            charger,
            what=f"{fit.power_w:.0f} W of panels on {charger.name}, made for {charger.pv_w:g} W",
            mend="A larger controller or a second one; the rest is not used.",
            power_w=fit.power_w,
            limit_w=charger.pv_w,
        )
    if charger.pv_a is not None and fit.short_a > charger.pv_a * 1.001:
        raised.on_part(
            "panel-current-over",
            charger,
            what=f"{fit.short_a:.1f} A of panels on {charger.name}, made for {charger.pv_a:g} A",
            mend="More panels in series and fewer side by side, within its volts.",
            current_a=fit.short_a,
            limit_a=charger.pv_a,
        )
    needed_v = PANEL_ABOVE_NOMINAL * raised.plan.nominal_v
    if fit.working_v < needed_v:
        raised.on_part(
            "panel-voltage-low",
            charger,
            what=f"{fit.working_v:.1f} V at max power; charging needs {needed_v:.1f} V and more in heat",
            mend="More panels in series.",
            voltage_v=fit.working_v,
            needed_v=needed_v,
        )
    panels = panels_on(raised.plan, raised.sized.topology, point(charger.id, "pv"))
    if len({round(one.mp_v * one.series, 1) for one in panels}) > 1:
        raised.on_part(
            "panels-unlike",
            charger,
            what="Strings of " + " and ".join(f"{one.mp_v * one.series:g} V" for one in panels) + " side by side",
            mend="Strings of equal voltage on one controller.",
        )
    fused = any(
        run.fuse_at_start is not None or run.fuse_at_finish is not None
        for panel in panels
        for run in _runs_at(raised, panel.id)
    )
    if fit.strings >= STRINGS_TO_FUSE and not fused:
        runs = _runs_at(raised, panels[0].id)
        raised.on_part(
            "panel-strings-unfused",
            charger,
            what=f"{fit.strings} strings side by side without a fuse",
            mend="A fuse for each string: the others can feed a fault in one.",
            fixes=[put_fuse(raised, runs[0], end="start")] if runs else [],
        )


def _panel(raised: Raised, panel: Panel) -> None:
    if any(
        panel in panels_on(raised.plan, raised.sized.topology, point(part.id, "pv"))
        for part in raised.plan.parts
        if isinstance(part, Charger)
    ):
        return
    root = raised.sized.topology.root_of.get(panel.id)
    if root == panel.id or root is None:
        joined = any(
            part_id_of(name) != panel.id and raised.sized.topology.part_at(name).kind == "charger"
            for run in _runs_at(raised, panel.id)
            for name in raised.sized.topology.ends_of[run.id]
        )
        if not joined:
            raised.on_part(
                "panel-loose", panel, what=f"{panel.name} leads to no charger", mend="Join it to a controller."
            )
        return
    power_w = panel_power_w([panel])
    allowed_w = SMALL_PANEL_W if raised.rules.values.small_panel == "15_w" else 0.0
    if power_w > allowed_w:
        raised.on_part(
            "panel-uncontrolled",
            panel,
            what=f"{power_w:.0f} W on a battery without a controller; "
            + (f"{allowed_w:g} W is allowed" if allowed_w else "the practice set allows none"),
            mend="A controller between panel and battery.",
            power_w=power_w,
            limit_w=allowed_w,
        )


def _sides(raised: Raised, part: Isolator | Relay) -> tuple[list[Battery], list[Battery]]:
    """Batteries on either side of a contact, all else closed."""
    switching = raised.sized.switching
    closed = [contact for contact in switching.contacts if contact[0] != part.id]
    batteries = [one for one in raised.plan.parts if isinstance(one, Battery)]
    one_side = switching.reach(closed, frozenset(), roots=[part.id])
    other_side = switching.reach(closed, frozenset(), roots=[point(part.id, "out")])
    return [one for one in batteries if one.id in one_side], [one for one in batteries if one.id in other_side]


def _joins(raised: Raised, part: Isolator) -> None:
    one, other = _sides(raised, part)
    _unlike(raised, part, one, other)
    alternator = alternator_of(raised.plan)
    if alternator is not None and alternator.regulation == "sagging" and one and other:
        raised.on_part(
            "isolator-sagging",
            part,
            what=f"{alternator.name} lets its voltage sag; {part.name} passes on only what is left",
            mend="A DC-DC charger, which makes its own voltage.",
        )


def _relay_joins(raised: Raised, part: Relay) -> None:
    one, other = _sides(raised, part)
    _unlike(raised, part, one, other)


def _unlike(raised: Raised, part: Isolator | Relay, one: list[Battery], other: list[Battery]) -> None:
    if not one or not other or {battery.id for battery in one} & {battery.id for battery in other}:
        return
    kinds = {battery.chemistry for battery in one}, {battery.chemistry for battery in other}
    if kinds[0] == kinds[1]:
        return
    if not any("lfp" in kind for kind in kinds):
        raised.on_part(
            "isolator-unlike-lead",
            part,
            what=f"{part.name} joins {one[0].name} ({one[0].chemistry}) and {other[0].name} ({other[0].chemistry})",
            mend="One kind of lead on both sides, or a DC-DC charger between them.",
            asked=f"a plain contact between {one[0].chemistry} and {other[0].chemistry}",
        )
        return
    passes_a, over = _really_passes(raised, part)
    raised.on_part(
        "isolator-unlike",
        part,
        what=f"{part.name} joins {one[0].name} ({one[0].chemistry}) and {other[0].name} ({other[0].chemistry}); "
        f"{passes_a:.0f} A pass it with the bank half full" + (f": over {', '.join(over)}" if over else ""),
        mend="A DC-DC charger between unlike chemistries: it limits the current and makes the right voltage.",
        severity="stop" if over else None,
        asked=f"a plain contact between {one[0].chemistry} and {other[0].chemistry}",
        current_a=passes_a,
    )


def _really_passes(raised: Raised, part: Isolator | Relay) -> tuple[float, list[str]]:
    """Current through a plain contact with the engine running, and what it is too much for. [A]"""
    sized = raised.sized
    study = study_charge(raised.plan, sized, "engine")
    passes_a = max(0.0, study.from_starter_a - sum(study.input_a.values()))
    over = []
    rated_a = part.contact_a if isinstance(part, Relay) else part.rated_a
    if rated_a is not None and passes_a > rated_a:
        over.append(f"its {rated_a:g} A")
    for run in raised.plan.runs:
        carried_a = sized.chosen[run.id].amp.ampacity_a
        if part.id in (run.start.part, run.finish.part) and carried_a and passes_a > carried_a * run.parallel:
            over.append(f"the {carried_a * run.parallel:.0f} A of {run.tag}")
    spare_a = alternator_spare_a(raised.plan)
    if spare_a is not None and passes_a > spare_a:
        over.append(f"the {spare_a:.0f} A the alternator has left")
    return passes_a, over


def _engine(raised: Raised, chargers: list[Charger]) -> None:
    """What comes through the wires with the engine running, and what the alternator has for it."""
    study = study_charge(raised.plan, raised.sized, "engine")
    for charger in chargers:
        if charger.form != "dcdc" or charger.id not in study.given_a:
            continue
        given_a, rated_a = study.given_a[charger.id], rated_out_a(charger)
        if given_a < SHORT_OF_RATING * rated_a:
            volts = study.input_v.get(charger.id, 0.0)
            raised.on_part(
                "charger-starved",
                charger,
                what=f"{charger.name} gives {given_a:.1f} A of {rated_a:g} A: {volts:.2f} V reach its input"
                if given_a > 0
                else f"{charger.name} switches off: at work it would pull its input below "
                f"{in_low_v(charger, raised.plan.nominal_v):g} V",
                mend="A thicker or shorter input run, or a unit made for a sagging alternator.",
                given_a=given_a,
                rated_a=rated_a,
            )
    spare_a, alternator = alternator_spare_a(raised.plan), alternator_of(raised.plan)
    if spare_a is None or alternator is None:
        return
    taken_a = engine_draw_a(raised.plan, study)
    if taken_a > spare_a * 1.0001:
        raised.on_part(
            "alternator-share",
            alternator,
            what=f"Charging takes {taken_a:.0f} A; hot and at idle {alternator.name} has {spare_a:.0f} A left",
            mend="A smaller charger, one that can be held back, or driving before charging.",
            asked=f"charging of {taken_a:.0f} A from {alternator.name}",
            current_a=taken_a,
            spare_a=spare_a,
        )
