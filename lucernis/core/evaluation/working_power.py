"""Workings of the Power view: charge a day, the bank it needs, what chargers give, panels in the cold, inverters."""

from __future__ import annotations

from lucernis.core.circuit.sources import alternator_v
from lucernis.core.circuit.supplies import panels_on
from lucernis.core.circuit.terminals import point
from lucernis.core.energy.bank_size import needed_ah
from lucernis.core.energy.usage import usage_of
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.power.bank import BankFigures, usable_share
from lucernis.core.power.charging import cold_open_v, panel_fit, rated_out_a, study_charge
from lucernis.core.power.fit import fit_rows
from lucernis.core.report import Input
from lucernis.plan.model import Charger, Plan
from lucernis.practice.tables import load_table


def write_power(book: WorkingBook, plan: Plan, bank: BankFigures | None) -> None:
    """All workings of the Power view."""
    _write_usage(book, plan)
    if bank is not None:
        _write_bank(book, bank)
    chargers = [part for part in plan.parts if isinstance(part, Charger)]
    for charger in chargers:
        _write_charger(book, plan, charger)
        _write_panels(book, plan, charger)
    _write_fit(book, plan, bank)


def _write_usage(book: WorkingBook, plan: Plan) -> None:
    usage = usage_of(plan, book.sized)
    book.add(
        "energy",
        "ah_per_day",
        "Charge a day at the bank",
        "Q = Σ Q₁",
        [
            Input("Q₁", f"{one.name}, P · h · (1 + λ) / Un with λ {100 * one.loss_frac:.1f} %", one.ah, "Ah")
            for one in usage.loads
        ],
        usage.ah,
        "Ah",
        note="λ is what its wires lose in its worst state, which is careful; inverters with their losses and standby. "
        "Hours are spread over the states in which it can be on.",
    )
    for one in usage.loads:
        states = [Input("Q₁", book.state_name(state), ah, "Ah") for state, ah in one.by_state_ah.items()]
        book.add(one.load, "day", f"{one.name}: charge a day by state", "Q = Σ Q₁", states, one.ah, "Ah")
    first_table = load_table("battery_chemistry")
    for row in load_table("battery_planning").rows:
        chemistry = row["chemistry"]
        share = usable_share(chemistry, plan.energy.usable_frac)
        source = first_table.find(chemistry)
        book.add(
            "energy",
            f"bank_{chemistry}",
            f"{row['label']}: bank for {plan.energy.days:g} days",
            "C = max(Q · d / u; (Q · d / u)^(1 / k) · (20 · Q / 24)^(1 − 1 / k))",
            [
                Input("Q", "charge a day", usage.ah, "Ah"),
                Input("d", "days without charging", plan.energy.days, ""),
                Input("u", "usable share", share, ""),
                Input("k", "Peukert exponent", float(source["peukert"]), ""),
            ],
            needed_ah(usage.ah, plan.energy.days, share_frac=share, peukert=float(source["peukert"])),
            "Ah",
            rows=[first_table.cite(source, "usable"), first_table.cite(source, "peukert")],
        )


def _write_bank(book: WorkingBook, bank: BankFigures) -> None:
    names = {one.id: one.name for string in bank.strings for one in string}
    for share in bank.shares:
        book.add(
            share.battery,
            "share",
            f"{names[share.battery]}: what it gives",
            "I = I_all / n · s",
            [
                Input("I_all", "of all strings", sum(one.current_a for one in bank.shares) / len(bank.strings[0]), "A"),
                Input("n", "strings", float(len(bank.strings)), ""),
                Input("s", "over an even share", share.of_even, ""),
            ],
            share.current_a,
            "A",
            note=f"State: {book.state_name(bank.worst_state)}.",
        )


def _write_charger(book: WorkingBook, plan: Plan, charger: Charger) -> None:
    sources = {"dcdc": "engine", "shore": "shore", "sun": "sun"}
    study = study_charge(plan, book.sized, sources[charger.form])  # type: ignore[arg-type]
    given_a = study.given_a.get(charger.id)
    if given_a is None:
        return
    inputs = [
        Input("η", "efficiency", charger.efficiency_frac, ""),
        Input("I_max", "max output", rated_out_a(charger), "A"),
    ]
    fed = charger.id in study.input_v and given_a > 0
    if fed:
        inputs += [
            Input("V_in", "arrives at its input", study.input_v[charger.id], "V"),
            Input("I_in", "drawn there", study.input_a[charger.id], "A"),
            Input("V_out", "at its output", study.output_v[charger.id], "V"),
        ]
    if charger.form == "dcdc":
        inputs.append(Input("V", "held at the starter battery", alternator_v(plan, 12.0), "V"))
    book.add(
        charger.id,
        "given_a",
        f"{charger.name}: what it gives",
        "I = η · V_in · I_in / V_out" if fed else "I = I_max" if given_a > 0 else "I = 0 · I_max",
        inputs,
        given_a,
        "A",
        note="Solved in the whole circuit, its own source alone, loads off, house battery at half charge; at most its "
        "max output and input.",
    )


def _write_panels(book: WorkingBook, plan: Plan, charger: Charger) -> None:
    fit = panel_fit(plan, book.sized, charger)
    if fit is None:
        return
    table = load_table("panel_typical")
    row = table.find("crystalline")
    panels = panels_on(plan, book.sized.topology, point(charger.id, "pv"))
    worst = max(panels, key=lambda one: cold_open_v(one, plan.energy.coldest_c))
    beta = worst.open_frac_per_k if worst.open_frac_per_k is not None else float(row["open_frac_per_k"])
    book.add(
        charger.id,
        "cold_open_v",
        f"{charger.name}: open-circuit volts on the coldest morning",
        "V = n · Voc · (1 + β · (T − 25))",
        [
            Input("n", "in series", float(worst.series), ""),
            Input("Voc", "open-circuit volts of one", worst.open_v, "V"),
            Input("β", "change for each kelvin", 100 * beta, "%/K"),
            Input("T", "coldest with sun", plan.energy.coldest_c, "°C"),
        ],
        fit.cold_open_v,
        "V",
        rows=[table.cite(row, "open_frac_per_k")] if worst.open_frac_per_k is None else [],
        note="The typical coefficient: read the label of the panel." if worst.open_frac_per_k is None else "",
    )


def _write_fit(book: WorkingBook, plan: Plan, bank: BankFigures | None) -> None:
    for row in fit_rows(plan, book.sized, bank, book.rules.values.inverter_current):
        load = book.sized.topology.parts[row.inverter]
        inverter = getattr(load, "inverter", None)
        low_v = book.sized.demand.loads[row.inverter].min_v
        by_efficiency = row.school == "efficiency"
        inputs = [
            Input("P", f"{row.mode} power", row.ac_w, "W"),
            Input("Un", "nominal volts", float(plan.nominal_v), "V"),
        ]
        if by_efficiency and inverter is not None:
            inputs += [
                Input("η", "efficiency at full power", inverter.efficiency_frac, ""),
                Input("V", "lowest at its terminals", low_v, "V"),
            ]
        book.add(
            row.inverter,
            f"fit_{row.mode}_{row.school}",
            f"{row.name}: current at {row.mode} power",
            "I = P / (η · V)" if by_efficiency else "I = P · 12 / (10 · Un)",
            inputs,
            row.current_a,
            "A",
            school=book.school("inverter_current") if row.chosen_school else "",
            note=f"Other loads in its worst state: {row.others_a:.1f} A.",
        )
