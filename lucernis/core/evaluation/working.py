"""Writes down how each shown figure came about. It repeats no calculation: it takes what the calculation used."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import path_runs
from lucernis.core.protection.fuses import family
from lucernis.core.report import Input, Working
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.options import Case
from lucernis.core.sizing.states import StateResult
from lucernis.core.sizing.stretch import Option, leg_count
from lucernis.core.wire.copper import ALPHA_PER_K
from lucernis.core.wire.joints import joint_kind
from lucernis.plan.model import Load, Plan, Run
from lucernis.practice.rules import Rules
from lucernis.practice.tables import TableRow


class WorkingBook:
    """Collects workings under the key `<subject>.<figure>`."""

    def __init__(self, plan: Plan, rules: Rules, sized: Sized) -> None:
        self.plan, self.rules, self.sized = plan, rules, sized
        self.entries: dict[str, Working] = {}
        self._tags = {run.id: run.tag for run in plan.runs}
        self._names = {part.id: part.name for part in plan.parts}
        self._states = {state.id: state.name for state in plan.states}
        self._schools: dict[str, str] = {}
        self._parts: dict[int, dict[str, tuple[float, float, float]]] = {}
        self._index = {run.id: at for at, run in enumerate(plan.runs)}

    def _name(self, consumer: str) -> str:
        """Name of a load, or of the relay whose coil it is."""
        name = self._names[part_id_of(consumer)]
        return f"{name}, coil" if ":" in consumer else name

    def state_name(self, state_id: str) -> str:
        """Name of a state."""
        return self._states[state_id]

    def add(
        self,
        subject: str,
        figure: str,
        title: str,
        formula: str,
        inputs: Iterable[Input],
        value: float | str | None,
        unit: str,
        *,
        rows: Iterable[TableRow] = (),
        school: str = "",
        note: str = "",
    ) -> None:
        """Note one working."""
        self.entries[f"{subject}.{figure}"] = Working(
            subject, figure, title, formula, list(inputs), value, unit, list(rows), school, note
        )

    def school(self, rule: str) -> str:
        """The school in force for a rule, in words."""
        if rule not in self._schools:
            self._schools[rule] = self._school(rule)
        return self._schools[rule]

    def _school(self, rule: str) -> str:
        origin = self.rules.origins[rule]
        changed = ", changed in this plan" if origin.overridden else ""
        where = f"{self.rules.set_label}{changed}; {origin.source}, {origin.certainty}"
        return f"{origin.label.rstrip('.')}: {origin.shown} ({where})"

    def parts(self, result: StateResult, point: str) -> tuple[float, float, float]:
        """Volts lost in conductors, joints and fuses to a point in a state. [V]"""
        if id(result) not in self._parts:
            self._parts[id(result)] = self.sized.parts_lost_v(result)
        return self._parts[id(result)].get(point, (0.0, 0.0, 0.0))

    def along(self, result: StateResult, point: str) -> list[Input]:
        """What the conductors of each leg on the way to a point lose."""
        lost = result.leg_v * self.sized.shares.wire
        found = []
        for at, leg, sign in self.sized.ways.pieces(point):
            run = self.plan.runs[at]
            way = "positive" if leg == 0 else "negative"
            found.append(
                Input(
                    "u", f"{run.tag}, {way} at {abs(result.run_a[run.id]):.2f} A", sign * float(lost[2 * at + leg]), "V"
                )
            )
        return found

    def run(self, run: Run) -> None:
        """Workings of one run."""
        case, option = self.sized.cases[run.id], self.sized.chosen[run.id]
        self._currents(run, case)
        self.add(
            run.id,
            "length_m",
            f"{run.tag}: length",
            "copper laid = n · L",
            [
                Input(
                    "n", "conductors one after the other: there and back, or one leg only", float(leg_count(run)), ""
                ),
                Input("L", "one way", run.length_m, "m"),
                Input("typed", "as typed", run.length_as_typed or f"{run.length_m:g} m", ""),
            ],
            leg_count(run) * run.length_m,
            "m",
        )
        self._ampacity(run, case, option)
        self._wire(run, case, option)
        self._fuse(run, case)
        self._resistance(run, case, option)
        self._drop(run, option)

    def _currents(self, run: Run, case: Case) -> None:
        sized = self.sized
        behind = sized.topology.behind.get(run.id) or sized.returns.through.get(run.id, ())
        state_id = sized.demand.design_state[run.id]
        on = sized.demand.on[state_id]
        gives = {name for name, supply in sized.demand.supplies.items() if supply.gives}
        shown = [one for one in behind if one in on and one not in gives]
        loads = sized.demand.loads
        for figure, title, value, amps in (
            ("design_current_a", "design current", case.design_current_a,
             {one: loads[one].design_current_a for one in shown}),
            ("greatest_a", "the most that flows continuously", case.carry_a, {one: loads[one].peak_a for one in shown}),
        ):  # fmt: skip
            together = sum(amps.values())
            self.add(
                run.id,
                figure,
                f"{run.tag}: {title}",
                "I = max(Σ I₁; I₂)",
                [Input("I₁", self._name(one), each, "A") for one, each in amps.items()]
                + [
                    Input(
                        "I₂",
                        "the largest by itself, what a charger gives or takes, its part of a bank, what it is planned "
                        "for, or what was solved",
                        value if value > together * (1 + 1e-9) else 0.0,
                        "A",
                    )
                ],
                value,
                "A",
                school=self.school("design_volts"),
                note=f"Worst state: {self._states[state_id]}."
                + ("" if figure == "design_current_a" else " Constant-power loads at the lowest volts they work at."),
            )

    def _ampacity(self, run: Run, case: Case, option: Option) -> None:
        amp = option.amp
        self.add(
            run.id,
            "ampacity_a",
            f"{run.tag}: ampacity",
            "Iz = table · k_zone · k_bundle",
            [
                Input(
                    "table",
                    f"{option.size.label}, {case.insulation_c} °C insulation",
                    amp.base_a if amp.base_a is not None else "none",
                    "A",
                ),
                Input(
                    "k_zone",
                    f"{case.around.ambient_c:g} °C" + (", engine space" if case.around.engine_space else ""),
                    amp.zone_factor,
                    "",
                ),
                Input("k_bundle", f"{case.around.bundle_count} conductors together", amp.bundle_factor, ""),
            ],
            amp.ampacity_a,
            "A",
            rows=amp.cells,
            school=self.school("ampacity_table"),
            note=amp.note,
        )

    def _wire(self, run: Run, case: Case, option: Option) -> None:
        pinned = f"Pinned: {run.wire.reason}" if case.pinned and run.wire is not None else ""
        stopped = "; ".join(f"{one.label}: {one.text}" for one in case.refusals[:6])
        note = " ".join(part for part in (pinned, f"Not: {stopped}." if stopped else "") if part)
        self.add(
            run.id,
            "wire",
            f"{run.tag}: wire size",
            "cheapest copper that stands the load, its fuse, a short, and the drop to every device behind it",
            [
                Input("I", "the most that flows continuously", case.carry_a, "A"),
                Input(
                    "Iz", "ampacity here", option.amp.ampacity_a if option.amp.ampacity_a is not None else "none", "A"
                ),
                Input("A", "copper", option.size.area_mm2, "mm²"),
                Input("would be", "without any pins", self.sized.unpinned[run.id].size.label, ""),
            ],
            option.size.label,
            "",
            rows=[option.size.cell, *dict.fromkeys(fitting.cell for _, fitting in case.fittings)],
            school=self.school("shelf"),
            note=(note + " Equal copper is settled for the lower drop.").strip(),
        )

    def _fuse(self, run: Run, case: Case) -> None:
        own = case.fuse
        if own is None:
            return
        values = self.rules.values
        rating_a = own.fuse.rating_a if own.fuse else None
        name = own.fuse.family if own.fuse else own.families[0]
        stock = values.stock_a(name) or family(name).ratings_a
        carry_a = own.carry_a or 0.0
        factor = own.least_a * own.count / carry_a if carry_a else 0.0
        inputs = [
            Input("m", "factor over the load, by the school", factor, ""),
            Input("I", "the most that flows continuously", carry_a, "A"),
            Input("n", "fuses side by side", float(own.count), ""),
            Input("made", f"{family(name).label} on the shelf", " ".join(f"{one:g}" for one in stock), "A"),
        ]
        if own.fuse is not None and own.fuse.pinned:
            formula = "In = In₀"
            inputs.append(Input("In₀", "pinned", own.fuse.rating_a, "A"))
            if own.computed is not None:
                inputs.append(Input("would be", "without the pin", own.computed.rating_a, "A"))
        elif own.school_note and own.maker_cap_a is not None:
            formula = "In = last(every; cap)"
            every = sorted({one for family_name in own.families for one in family(family_name).ratings_a})
            inputs += [
                Input("every", "made at all", " ".join(f"{one:g}" for one in every), "A"),
                Input("cap", own.school_note, own.maker_cap_a, "A"),
            ]
        elif rating_a is not None and rating_a < own.least_a * (1 - 1e-9):
            # The largest there is, though the school asks for more.
            formula = "In = last(made; m · I / n)"
        else:
            formula = "In = next(made; max(m · I / n; I_start))"
            start_a = rating_a if rating_a is not None and _next(stock, own.least_a) != rating_a else 0.0
            inputs.append(Input("I_start", "the least that its starts, cycles and shelf leave", start_a or 0.0, "A"))
        note = " ".join(
            part for part in (f"Pinned: {own.pin_reason}" if own.pin_reason else "", own.school_note) if part
        )
        self.add(
            run.id,
            "fuse",
            f"{run.tag}: fuse",
            formula,
            inputs,
            rating_a,
            "A",
            rows=[family(own.fuse.family).cell] if own.fuse else [family(one).cell for one in own.families],
            school=" · ".join(self.school(one) for one in ("fuse_over_load", "fuse_under_wire", "fuse_stock")),
            note=note,
        )

    def _resistance(self, run: Run, case: Case, option: Option) -> None:
        size = option.size
        known = option.amp.ampacity_a is not None and option.amp.ampacity_a > 0
        self.add(
            run.id,
            "temp_c",
            f"{run.tag}: conductor temperature",
            "T = min(250; Ta + max(0; Tr − Ta) · (I / p / Iz)²)" if known else "T = max(Ta; Tr)",
            [
                Input("Ta", "ambient", case.around.ambient_c, "°C"),
                Input("Tr", "insulation rating", float(case.insulation_c), "°C"),
                Input("I", "the most that flows continuously", case.carry_a, "A"),
                Input("p", "conductors side by side", float(run.parallel), ""),
                Input("Iz", "ampacity here", option.amp.ampacity_a if option.amp.ampacity_a else "none", "A"),
            ],
            option.temp_c,
            "°C",
        )
        rows = [size.cell] + [joint_kind(kind).cell for kind, _ in option.joints]
        if case.fuse is not None and case.fuse.fuse is not None:
            rows.append(family(case.fuse.fuse.family).drop_cell)
        joints = ", ".join(f"{count} × {joint_kind(kind).label.lower()}" for kind, count in option.joints)
        self.add(
            run.id,
            "resistance_ohm",
            f"{run.tag}: resistance, all legs",
            "R = n · L · R20 · (1 + α · (T − 20)) / p + R_joints + R_fuse",
            [
                Input("n", "conductors one after the other", float(leg_count(run)), ""),
                Input("p", "conductors side by side", float(run.parallel), ""),
                Input("L", "one way", run.length_m, "m"),
                Input("R20", f"{size.label} at 20 °C ({size.formula})", size.resistance_20_ohm_per_m * 1000, "mΩ/m"),
                Input("α", "copper", ALPHA_PER_K, "1/K"),
                Input("T", "conductor", option.temp_c, "°C"),
                Input("R_joints", joints, option.joints_ohm * 1000, "mΩ"),
                Input("R_fuse", "with its contacts", option.fuse_ohm * 1000, "mΩ"),
            ],
            option.total_ohm * 1000,
            "mΩ",
            rows=rows,
        )

    def _drop(self, run: Run, option: Option) -> None:
        sized, at = self.sized, self._index[run.id]
        worst = max(sized.rated.values(), key=lambda result: result.run_drop_v[run.id])
        note = f"State: {self._states[worst.state_id]}. The currents are solved with the whole circuit."
        amps = worst.solution.conductor_a[2 * at : 2 * at + 2]
        each_ohm = (option.wire_loop_ohm + option.joints_ohm) / leg_count(run)
        ohm = (each_ohm + option.fuse_ohm, each_ohm)
        wire_ohm = option.wire_loop_ohm / leg_count(run)
        legs = [
            Input("I₁", "in the positive, from start to finish", float(amps[0]), "A"),
            Input("I₂", "in the negative, from start to finish", float(amps[1]), "A"),
        ]
        for figure, title, value, first_ohm, second_ohm in (
            ("drop_v", "lost in this run", worst.run_drop_v[run.id], *ohm),
            ("conductor_drop_v", "lost in its conductors", worst.conductor_drop_v[run.id], wire_ohm, wire_ohm),
        ):
            self.add(
                run.id,
                figure,
                f"{run.tag}: {title}",
                "U = |I₁ · R₁ − I₂ · R₂|",
                [
                    *legs,
                    Input("R₁", "of the positive", first_ohm * 1000, "mΩ"),
                    Input("R₂", "of the negative", second_ohm * 1000, "mΩ"),
                ],
                value,
                "V",
                note=note,
            )
        self.add(
            run.id,
            "current_a",
            f"{run.tag}: current, solved",
            "I = max(|U₁ / R₁|; |U₂ / R₂|)",
            [
                Input("U₁", "along the positive", float(worst.leg_v[2 * at]), "V"),
                Input("R₁", "of the positive", ohm[0] * 1000, "mΩ"),
                Input("U₂", "along the negative", float(worst.leg_v[2 * at + 1]), "V"),
                Input("R₂", "of the negative", ohm[1] * 1000, "mΩ"),
            ],
            abs(worst.run_a[run.id]),
            "A",
            note=note,
        )
        self._to_end(run)

    def _to_end(self, run: Run) -> None:
        sized = self.sized
        finish = sized.topology.finish_of.get(run.id)
        if finish is None or not path_runs(sized.topology, finish):
            return
        live = [one for one in sized.rated.values() if one.part_v[finish] > 0]
        if not live:
            return
        worst = max(live, key=lambda one: sized.lost_v(finish, one))
        wire_v, joints_v, fuses_v = self.parts(worst, finish)
        end_v = sized.lost_v(finish, worst)
        nominal_v = self.plan.nominal_v * sized.home_v(finish) / sized.source_v
        self.add(
            run.id,
            "drop_to_end",
            f"{run.tag}: lost from the source to its end",
            "u = (U_c + U_j + U_f + U_k) / Un",
            [
                Input("U_c", "conductors, there and back, warm", wire_v, "V"),
                Input("U_j", "joints", joints_v, "V"),
                Input("U_f", "fuses", fuses_v, "V"),
                Input("U_k", "contacts, shunts and the body", end_v - wire_v - joints_v - fuses_v, "V"),
                Input("Un", "nominal volts", nominal_v, "V"),
                *self.along(worst, finish),
            ],
            end_v / nominal_v,
            "frac",
            note=f"State: {self._states[worst.state_id]}.",
        )

    def margin(self, run: Run, load: str, limit_frac: float, margin_frac: float) -> None:
        """Working of the least margin behind a run."""
        self.add(
            run.id,
            "margin_frac",
            f"{run.tag}: min margin behind it",
            "margin = limit − drop",
            [
                Input("limit", f"max drop for {self._names[load]}", limit_frac, "frac"),
                Input(
                    "drop", f"from the battery to {self._names[load]}, worst state", limit_frac - margin_frac, "frac"
                ),
            ],
            margin_frac,
            "frac",
        )

    def summary(self, ah_per_day: float, battery_a: float, state: str) -> None:
        """Workings of the meter strip."""
        loads = [part for part in self.plan.parts if isinstance(part, Load)]
        self.add(
            "plan",
            "ah_per_day",
            "Charge a day",
            "Q = Σ Q₁",
            [
                Input("Q₁", load.name, self.sized.demand.loads[load.id].ah_per_day or 0.0, "Ah")
                for load in loads
                if self.sized.demand.loads[load.id].ah_per_day
            ],
            ah_per_day,
            "Ah",
            note="Without standby and charging losses.",
        )
        self.add(
            "plan",
            "battery_current_a",
            "Current out of the battery",
            "I = Σ I₁",
            [
                Input("I₁", self._names[one], self.sized.rated[state].battery_a[one], "A")
                for one in self.sized.battery_ids()
            ],
            battery_a,
            "A",
            note=f"State: {self._states[state]}.",
        )


def _next(ratings_a: tuple[float, ...], least_a: float) -> float | None:
    return next((one for one in ratings_a if one >= least_a * (1 - 1e-9)), None)
