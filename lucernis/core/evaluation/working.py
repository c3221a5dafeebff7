"""Writes down how each shown figure came about. It repeats no calculation: it takes what the calculation used."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import path_runs
from lucernis.core.protection.fuses import OVER_LOAD_FACTOR, family
from lucernis.core.report import Input, Working
from lucernis.core.sizing.options import Case, Option, leg_count
from lucernis.core.sizing.search import Sized
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

    def load(self, load: Load) -> None:
        """Workings of one load."""
        figures = self.sized.demand.loads[load.id]
        count = Input("n", "count", float(load.count), "")
        if figures.power_w is None:
            return
        volts = Input("V", "rated volts", figures.rated_v, "V")
        if load.power_w is not None:
            self.add(
                load.id,
                "current_a",
                f"{load.name}: current",
                "I = n · P / V",
                [count, Input("P", "power each", load.power_w, "W"), volts],
                figures.current_a,
                "A",
            )
            self.add(
                load.id,
                "power_w",
                f"{load.name}: power",
                "P = n · P₁",
                [count, Input("P₁", "power each, as typed", load.power_w, "W")],
                figures.power_w,
                "W",
            )
        else:
            each = Input("I₁", "current each, as typed", load.current_a or 0.0, "A")
            self.add(
                load.id, "power_w", f"{load.name}: power", "P = n · I₁ · V", [count, each, volts], figures.power_w, "W"
            )
            self.add(load.id, "current_a", f"{load.name}: current", "I = n · I₁", [count, each], figures.current_a, "A")
        formula = {"constant_power": "Ib = P / V", "constant_current": "Ib = P / Vr", "resistive": "Ib = P · V / Vr²"}[
            load.behaviour
        ]
        self.add(
            load.id,
            "design_current_a",
            f"{load.name}: design current",
            formula,
            [
                Input("P", "power, all pieces", figures.power_w, "W"),
                Input("V", "design volts", figures.design_v, "V"),
                Input("Vr", "rated volts", figures.rated_v, "V"),
            ],
            figures.design_current_a,
            "A",
            school=self.school("design_volts"),
        )
        if figures.ah_per_day is not None and load.hours_per_day is not None:
            hours = load.hours_per_day
            self.add(
                load.id,
                "ah_per_day",
                f"{load.name}: charge a day",
                "Q = I · t",
                [
                    Input("I", "current at nominal volts", figures.ah_per_day / hours if hours else 0.0, "A"),
                    Input("t", "hours a day", hours, "h"),
                ],
                figures.ah_per_day,
                "Ah",
            )
        self._load_drop(load)

    def _load_drop(self, load: Load) -> None:
        path = path_runs(self.sized.topology, load.id)
        worst = max(
            (result for result in self.sized.states.values() if load.id in result.load_a),
            key=lambda result: self.sized.home_v(load.id) - result.part_v[load.id],
            default=None,
        )
        if not path or worst is None:
            return
        drop_v = self.sized.home_v(load.id) - worst.part_v[load.id]
        inputs = [
            Input(
                f"ΔU {self._tags[run]}",
                f"drop of {self._tags[run]} at {abs(worst.run_a[run]):.2f} A",
                worst.run_drop_v[run],
                "V",
            )
            for run in path
        ]
        state = self._states[worst.state_id]
        note = (
            f"State: {state}. Battery held at {self.sized.source_v:g} V. The circuit is solved with both legs; "
            "constant-power loads draw more as their voltage falls."
        )
        self.add(
            load.id,
            "drop_v",
            f"{load.name}: drop from the battery",
            "ΔU = sum over the way",
            inputs,
            drop_v,
            "V",
            note=note,
            school=self.school("design_volts"),
        )
        rule = "drop_sensitive_frac" if load.sensitive else "drop_other_frac"
        limit = "limit of its own" if load.drop_limit_frac is not None else self.school(rule)
        self.add(
            load.id,
            "drop_frac",
            f"{load.name}: drop of nominal volts",
            "ΔU / Un",
            [
                Input("ΔU", "drop from the battery", drop_v, "V"),
                Input("Un", "nominal volts", float(self.plan.nominal_v), "V"),
                Input("limit", "greatest drop", self.sized.limit_v[load.id], "V"),
            ],
            drop_v / self.plan.nominal_v,
            "frac",
            school=limit,
            note=note,
        )

    def run(self, run: Run) -> None:
        """Workings of one run."""
        case, option = self.sized.cases[run.id], self.sized.chosen[run.id]
        behind = self.sized.topology.behind.get(run.id) or self.sized.returns.through.get(run.id, ())
        state_id = self.sized.demand.design_state[run.id]
        on = self.sized.demand.on[state_id]
        state = self._states[state_id]
        shown = [load for load in behind if load in on] or list(behind)
        self.add(
            run.id,
            "design_current_a",
            f"{run.tag}: design current",
            "Ib = sum of the loads behind it that are on together",
            [
                Input("Ib", self._names[part_id_of(load)], self.sized.demand.loads[load].design_current_a, "A")
                for load in shown
            ],
            case.design_current_a,
            "A",
            school=self.school("design_volts"),
            note=f"Worst state: {state}.",
        )
        self.add(
            run.id,
            "length_m",
            f"{run.tag}: length",
            "copper laid = n · L",
            [
                Input(
                    "n", "conductors one after the other: there and back, or one leg alone", float(leg_count(run)), ""
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
        self._drop(run, case, option)

    def _ampacity(self, run: Run, case: Case, option: Option) -> None:
        amp = option.amp
        self.add(
            run.id,
            "ampacity_a",
            f"{run.tag}: ampacity",
            "Iz = table · zone factor · bundling factor",
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
        stopped = "; ".join(f"{label}: {reason}" for label, reason in case.refusals[:6])
        note = " ".join(part for part in (pinned, f"Not: {stopped}." if stopped else "") if part)
        self.add(
            run.id,
            "wire",
            f"{run.tag}: wire size",
            "cheapest copper that stands the load, its fuse and the drop to every device behind it",
            [
                Input("Ib", "design current", case.design_current_a, "A"),
                Input(
                    "Iz", "ampacity here", option.amp.ampacity_a if option.amp.ampacity_a is not None else "none", "A"
                ),
                Input("A", "copper", option.size.area_mm2, "mm²"),
                Input("would be", "without any pins", self.sized.unpinned[run.id].size.label, ""),
            ],
            option.size.label,
            "",
            rows=[option.size.cell],
            school=self.school("shelf"),
            note=(note + " Equal copper is settled for the lower drop.").strip(),
        )

    def _fuse(self, run: Run, case: Case) -> None:
        own = case.fuse
        if own is None:
            return
        factor = OVER_LOAD_FACTOR[self.rules.values.fuse_over_load]
        inputs = [
            Input("m", "school factor", factor, ""),
            Input("Ib", "design current", case.design_current_a, "A"),
            Input("least", "m · Ib", own.least_a, "A"),
        ]
        if own.computed is not None and own.fuse is not None and own.fuse.pinned:
            inputs.append(Input("would be", "without the pin", own.computed.rating_a, "A"))
        rows = [family(own.fuse.family).cell] if own.fuse else [family(name).cell for name in own.families]
        note = " ".join(
            part for part in (f"Pinned: {own.pin_reason}" if own.pin_reason else "", own.school_note) if part
        )
        self.add(
            run.id,
            "fuse",
            f"{run.tag}: fuse",
            "next made rating at or above m · Ib; at most what the wire stands",
            inputs,
            own.fuse.rating_a if own.fuse else None,
            "A",
            rows=rows,
            school=self.school("fuse_over_load") + " · " + self.school("fuse_under_wire"),
            note=note,
        )

    def _drop(self, run: Run, case: Case, option: Option) -> None:
        size = option.size
        self.add(
            run.id,
            "temp_c",
            f"{run.tag}: conductor temperature",
            "T = Ta + (Tr − Ta) · (Ib / Iz)²",
            [
                Input("Ta", "ambient", case.around.ambient_c, "°C"),
                Input("Tr", "insulation rating", float(case.insulation_c), "°C"),
                Input("Ib", "design current", case.design_current_a, "A"),
                Input(
                    "Iz", "ampacity here", option.amp.ampacity_a if option.amp.ampacity_a is not None else "none", "A"
                ),
            ],
            option.temp_c,
            "°C",
        )
        rows = [size.cell] + [cell for _, cell in case.joint_cells]
        if case.fuse is not None and case.fuse.fuse is not None:
            rows.append(family(case.fuse.fuse.family).drop_cell)
        joints = ", ".join(f"{count} × {cell.row}" for count, cell in case.joint_cells)
        self.add(
            run.id,
            "resistance_ohm",
            f"{run.tag}: resistance, all legs",
            "R = n · L · R20 · (1 + α · (T − 20)) / p + joints + fuse",
            [
                Input("n", "conductors one after the other", float(leg_count(run)), ""),
                Input("p", "conductors side by side", float(run.parallel), ""),
                Input("L", "one way", run.length_m, "m"),
                Input("R20", f"{size.label} at 20 °C ({size.formula})", size.resistance_20_ohm_per_m * 1000, "mΩ/m"),
                Input("α", "copper", 0.00393, "1/K"),
                Input("T", "conductor", option.temp_c, "°C"),
                Input("joints", joints, option.joints_ohm * 1000, "mΩ"),
                Input("fuse", "with its contacts", option.fuse_ohm * 1000, "mΩ"),
            ],
            option.total_ohm * 1000,
            "mΩ",
            rows=rows,
        )
        worst = max(self.sized.states.values(), key=lambda result: result.run_drop_v[run.id])
        current_a, drop_v = abs(worst.run_a[run.id]), worst.run_drop_v[run.id]
        state = self._states[worst.state_id]
        note = f"State: {state}. The current is solved with the whole circuit."
        self.add(
            run.id,
            "drop_v",
            f"{run.tag}: drop of this run",
            "ΔU = I · R",
            [Input("I", "solved current", current_a, "A"), Input("R", "both legs", option.total_ohm * 1000, "mΩ")],
            drop_v,
            "V",
            note=note,
        )
        self.add(
            run.id,
            "current_a",
            f"{run.tag}: current, solved",
            "nodal analysis of both legs: sum of what the loads behind it draw at the volts they get",
            [
                Input("I", self._names[load], worst.load_a[load], "A")
                for load in self.sized.topology.loads_behind.get(run.id, ())
                if load in worst.load_a
            ],
            current_a,
            "A",
            note=note,
        )
        path = path_runs(self.sized.topology, self.sized.topology.finish_of.get(run.id, ""))
        finish = self.sized.topology.finish_of.get(run.id, run.finish.part)
        end_v = max(self.sized.home_v(finish) - result.part_v[finish] for result in self.sized.states.values())
        if path:
            self.add(
                run.id,
                "drop_to_end",
                f"{run.tag}: drop from the battery to its end",
                "ΔU = sum over the way; of nominal volts ΔU / Un",
                [Input(f"ΔU {self._tags[one]}", "drop", worst.run_drop_v[one], "V") for one in path]
                + [Input("Un", "nominal volts", float(self.plan.nominal_v), "V")],
                end_v / self.plan.nominal_v,
                "frac",
                note=note,
            )

    def margin(self, run: Run, load: str, limit_frac: float, margin_frac: float) -> None:
        """Working of the least margin behind a run."""
        self.add(
            run.id,
            "margin_frac",
            f"{run.tag}: least margin behind it",
            "limit − drop, at the device that has least to spare",
            [
                Input("limit", f"greatest drop for {self._names[load]}", limit_frac, "frac"),
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
            "sum of the loads",
            [
                Input("Q", load.name, self.sized.demand.loads[load.id].ah_per_day or 0.0, "Ah")
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
            "sum of the solved currents of what is on",
            [
                Input("I", self._names[part_id_of(load)], amps, "A")
                for load, amps in self.sized.states[state].load_a.items()
            ],
            battery_a,
            "A",
            note=f"State: {self._states[state]}.",
        )
