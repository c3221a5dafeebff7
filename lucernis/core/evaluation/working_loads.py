"""Writes down how the figures of loads came about. It repeats no calculation: it takes what the calculation used."""

from __future__ import annotations

from lucernis.core.circuit.loads import inverter_efficiency_frac
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.report import Input
from lucernis.core.sizing.states import StateResult
from lucernis.plan.model import Inverter, Load


def write_load(book: WorkingBook, load: Load) -> None:
    """Workings of one load."""
    figures = book.sized.demand.loads[load.id]
    if figures.power_w is None:
        return
    if load.inverter is not None:
        _write_inverter(book, load, load.inverter)
    else:
        _write_plain(book, load)
    _write_drop(book, load)


def _write_plain(book: WorkingBook, load: Load) -> None:
    figures = book.sized.demand.loads[load.id]
    count = Input("n", "count", float(load.count), "")
    volts = Input("V", "rated volts", figures.rated_v, "V")
    title = load.name
    if load.power_w is not None:
        each = Input("P₁", "power each, as typed", load.power_w, "W")
        book.add(
            load.id, "current_a", f"{title}: current", "I = n · P₁ / V", [count, each, volts], figures.current_a, "A"
        )
        book.add(load.id, "power_w", f"{title}: power", "P = n · P₁", [count, each], figures.power_w, "W")
    else:
        each = Input("I₁", "current each, as typed", load.current_a or 0.0, "A")
        book.add(load.id, "power_w", f"{title}: power", "P = n · I₁ · V", [count, each, volts], figures.power_w, "W")
        book.add(load.id, "current_a", f"{title}: current", "I = n · I₁", [count, each], figures.current_a, "A")
    formula = {"constant_power": "Ib = P / V", "constant_current": "Ib = P / Vr", "resistive": "Ib = P · V / Vr²"}
    book.add(
        load.id,
        "design_current_a",
        f"{title}: design current",
        formula[load.behaviour],
        [
            Input("P", "power, all pieces", figures.power_w or 0.0, "W"),
            Input("V", "design volts", figures.design_v, "V"),
            Input("Vr", "rated volts", figures.rated_v, "V"),
        ],
        figures.design_current_a,
        "A",
        school=book.school("design_volts"),
    )
    if figures.ah_per_day is not None and load.hours_per_day is not None:
        hours = load.hours_per_day
        book.add(
            load.id,
            "ah_per_day",
            f"{title}: charge a day",
            "Q = I · t",
            [
                Input("I", "current at nominal volts", figures.ah_per_day / hours if hours else 0.0, "A"),
                Input("t", "hours a day", hours, "h"),
            ],
            figures.ah_per_day,
            "Ah",
        )


def _write_inverter(book: WorkingBook, load: Load, inverter: Inverter) -> None:
    figures, nominal_v = book.sized.demand.loads[load.id], float(book.plan.nominal_v)
    ac_w = load.power_w if load.power_w is not None else inverter.continuous_w
    eta = inverter_efficiency_frac(inverter, ac_w)
    used = [Input("P", "plugged in, AC", ac_w, "W"), Input("η", "efficiency at that power", eta, "")]
    un = Input("Un", "nominal volts", nominal_v, "V")
    book.add(load.id, "power_w", f"{load.name}: power in use", "P_dc = P / η", used, figures.power_w, "W")
    book.add(
        load.id, "current_a", f"{load.name}: current in use", "I = P / (η · Un)", [*used, un], figures.current_a, "A"
    )
    rated = Input("P", "continuous power, AC", inverter.continuous_w, "W")
    if book.rules.values.inverter_current == "ten_to_one":
        formula, inputs = "Ib = P · 12 / (10 · Un)", [rated, un]
    else:
        formula, inputs = (
            "Ib = P / (η · V)",
            [
                rated,
                Input("η", "efficiency at full power", inverter.efficiency_frac, ""),
                Input("V", "lowest at its terminals", figures.min_v, "V"),
            ],
        )
    book.add(
        load.id,
        "design_current_a",
        f"{load.name}: design current, at its rating",
        formula,
        inputs,
        figures.design_current_a,
        "A",
        school=book.school("inverter_current"),
    )
    if figures.ah_per_day is not None:
        hours = load.hours_per_day or 0.0
        on = inverter.standby_hours if inverter.standby_hours is not None else hours
        book.add(
            load.id,
            "ah_per_day",
            f"{load.name}: charge a day",
            "Q = (P · t / η + P₀ · t₀) / Un",
            [
                *used,
                Input("t", "hours a day in use", hours, "h"),
                Input("P₀", "switched on with nothing plugged in", inverter.standby_w, "W"),
                Input("t₀", "hours a day switched on", on or 0.0, "h"),
                un,
            ],
            figures.ah_per_day,
            "Ah",
        )


def worst_state(book: WorkingBook, point: str) -> StateResult | None:
    """The state in which most is lost in the conductors to a point, inverters at their rating."""
    found = [one for one in book.sized.rated.values() if point in one.load_a and point not in one.unserved]
    return max(found, key=lambda one: book.parts(one, point)[0], default=None)


def _write_drop(book: WorkingBook, load: Load) -> None:
    sized = book.sized
    worst = worst_state(book, load.id)
    if load.id not in sized.topology.feeder_of or worst is None:
        return
    wire_v, joints_v, fuses_v = book.parts(worst, load.id)
    drop_v = sized.lost_v(load.id, worst)
    note = (
        f"State: {book.state_name(worst.state_id)}. Counted from the terminals of the source. The circuit is solved "
        "there and back; constant-power loads draw more as their voltage falls, inverters count at their rating."
    )
    un = Input("Un", "nominal volts", float(book.plan.nominal_v), "V")
    limit = Input("limit", "most that may be lost", sized.limit_v[load.id], "V")
    book.add(
        load.id,
        "conductor_drop_v",
        f"{load.name}: lost in the conductors",
        "U_c = Σ u",
        book.along(worst, load.id),
        wire_v,
        "V",
        note=note,
    )
    conductors = Input("U_c", "conductors, there and back, warm", wire_v, "V")
    whole = [
        conductors,
        Input("U_j", "joints", joints_v, "V"),
        Input("U_f", "fuses", fuses_v, "V"),
        Input("U_k", "contacts, shunts and the body", drop_v - wire_v - joints_v - fuses_v, "V"),
    ]
    book.add(load.id, "drop_v", f"{load.name}: lost in all", "U = U_c + U_j + U_f + U_k", whole, drop_v, "V", note=note)
    rule = "drop_sensitive_frac" if load.sensitive else "drop_other_frac"
    school = "limit of its own" if load.drop_limit_frac is not None else book.school(rule)
    counted = book.school("drop_counts")
    book.add(
        load.id,
        "conductor_drop_frac",
        f"{load.name}: lost in the conductors, of nominal volts",
        "u = U_c / Un",
        [conductors, un, limit],
        wire_v / book.plan.nominal_v,
        "frac",
        school=f"{school}. {counted}",
        note=note,
    )
    book.add(
        load.id,
        "drop_frac",
        f"{load.name}: lost in all, of nominal volts",
        "u = (U_c + U_j + U_f + U_k) / Un",
        [*whole, un, limit],
        drop_v / book.plan.nominal_v,
        "frac",
        school=f"{school}. {counted}",
        note=note,
    )
