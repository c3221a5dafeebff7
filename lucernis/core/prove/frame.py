"""A plan made ready for the meter: its pieces, where probes can go, and how far each figure may be off."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.circuit.batteries import rest_curve, strings_of
from lucernis.core.circuit.sources import source_figures
from lucernis.core.layout.laid import laid_out
from lucernis.core.prove.elements import Element, elements_of
from lucernis.core.prove.panels import light_of
from lucernis.core.prove.situations import Situation, situations
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.wire.copper import ALPHA_PER_K
from lucernis.errors import UnknownRow
from lucernis.plan.model import Battery, Panel, Plan
from lucernis.practice.tables import load_table

Quantity = Literal["volts", "amps", "ohms"]


def spread(what: str) -> float:
    """How far something differs from its figure, one standard deviation, reading_spread.csv (practice). [1] or [V]"""
    row = load_table("reading_spread").find(what)
    return float(row["share"] or row["volts"])


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a probe goes: a node, and on the way along a leg the pieces passed since. `label` says it."""

    node: int
    passed: tuple[int, ...]
    label: str


@dataclass(frozen=True, slots=True)
class Reading:
    """What is read: volts between two spots, amps in a conductor, ohms between two spots.

    `id` names it for good: `volts:+u1:-u1`, `amps:r7:p`, `ohms:-l6:-b1`. Amps have no
    direction: a clamp is put on either way round.
    """

    id: str
    quantity: Quantity
    label: str
    red: Spot | None
    black: Spot | None
    conductor: int = -1
    part: str = ""
    run: str = ""


@dataclass(frozen=True, slots=True)
class Frame:
    """Pieces [Ω] and unknowns of a plan.

    Shapes: `ohm`, `of` (n_elements,): resistance of each piece and the conductor it is part of; `spread_ln`
    (n_elements,): one standard deviation of its logarithm. `on_leg` are the pieces of each conductor in order. `rest_v`
    and `rest_spread_v` (n_sources,) are the volts of a battery at rest; those of one `bank` rest at the same
    volts, which spread together by `bank_spread_v`. `inside_ohm` what is inside it while it gives,
    `charge_ohm` while it takes. `rise_k_per_a2` (n_elements,) is how much warmer a wire is by its current, `ohm_per_k`
    by how much of its resistance it rises a kelvin above 25 °C. `light` (n_loads,) is what panels give of their rating
    under the sky there is, at what takes and gives it, 1 elsewhere; `give_spread` and `draw_spread`
    (n_loads,) one standard deviation of what a charger gives and a consumer draws. [1]
    """

    plan: Plan
    sized: Sized
    elements: tuple[Element, ...]
    ohm: Floats
    of: Ints
    spread_ln: Floats
    on_leg: dict[int, tuple[int, ...]]
    rest_v: Floats
    rest_spread_v: Floats
    bank: NDArray[np.bool_]
    bank_spread_v: float
    inside_ohm: Floats
    charge_ohm: Floats
    rise_k_per_a2: Floats
    ohm_per_k: Floats
    light: Floats
    give_spread: Floats
    draw_spread: Floats
    situations: dict[str, Situation]
    _spots: dict[str, Spot] = field(default_factory=dict, compare=False, repr=False)

    @property
    def conductors(self) -> int:
        """How many conductors the circuit has."""
        return len(self.sized.wiring.circuit.conductor_ohm)

    def spot(self, address: str) -> Spot:
        """Where a probe goes.

        Parameters
        ----------
        address : str
            ``+part`` or ``-part``, with ``:terminal`` where the part has several, or ``run:p:k``: along the positive
            leg (``n``: the negative) after k pieces.

        Raises
        ------
        UnknownRow
            If the plan has no such place.
        """
        if address not in self._spots:
            self._spots[address] = self._find(address)
        return self._spots[address]

    def _find(self, address: str) -> Spot:
        wiring, parts = self.sized.wiring, self.sized.topology.parts
        sign, name = address[:1], address[1:]
        side = {"+": wiring.pos, "-": wiring.neg}.get(sign, {})
        if name in side:
            part = parts.get(name.partition(":")[0])
            terminal = name.partition(":")[2]
            label = f"{part.name if part is not None else 'the body'}{' ' + terminal if terminal else ''}"
            return Spot(side[name], (), f"{'+' if sign == '+' else '−'} of {label}")
        run_id, _, rest = address.partition(":")
        leg, _, count = rest.partition(":")
        at = next((k for k, run in enumerate(self.plan.runs) if run.id == run_id), None)
        if at is not None and leg in ("p", "n") and count.isdigit():
            conductor = 2 * at + (leg == "n")
            some = self.on_leg.get(conductor, ())
            if some and int(count) <= len(some):
                passed = some[: int(count)]
                before = self.elements[passed[-1]].label if passed else f"start of {self.plan.runs[at].tag}"
                label = before if not passed else f"behind {before}"
                return Spot(wiring.circuit.conductor_from[conductor], passed, label)
        raise UnknownRow(
            f"no spot {address!r}", field="probe", value=address, allowed="+part, -part, or run:p:k along a leg"
        )

    def volts(self, red: str, black: str, label: str = "", *, part: str = "", run: str = "") -> Reading:
        """Volts between two spots."""
        one, other = self.spot(red), self.spot(black)
        text = label or self._called(red, black, one, other)
        run, part = run or (red.partition(":")[0] if one.passed or other.passed else ""), part or self._part(red, black)
        return Reading(f"volts:{red}~{black}", "volts", text, one, other, part=part, run=run)

    def _called(self, red: str, black: str, one: Spot, other: Spot) -> str:
        """Volts in words: at a part, across a piece, along a leg, or from one spot to another."""
        if red[:1] == "+" and black == f"-{red[1:]}":
            return f"volts at {one.label.removeprefix('+ of ')}"
        between = set(one.passed) ^ set(other.passed)
        if len(between) == 1 and one.node == other.node:
            return f"volts across {self.elements[next(iter(between))].label}"
        if between and one.node == other.node and min(len(one.passed), len(other.passed)) == 0:
            leg = self.on_leg[int(self.of[next(iter(between))])]
            if len(between) == len(leg):
                first = self.elements[leg[0]]
                return f"volts along {first.tag} {'+' if first.leg == 'positive' else '−'}, end to end"
        if {red, black} == {red, f"{red}:out"}:
            return f"volts across {one.label.removeprefix('+ of ').removeprefix('− of ')}"
        return f"volts from {one.label} to {other.label}"

    def _part(self, red: str, black: str) -> str:
        """The part both probes are at, empty where there is none."""
        name = red[1:].partition(":")[0] if red[:1] in "+-" else ""
        return name if name and black[:1] in "+-" and black[1:].partition(":")[0] == name else ""

    def ohms(self, red: str, black: str, label: str = "", *, part: str = "", run: str = "") -> Reading:
        """Ohms between two spots, everything dead."""
        one, other = self.spot(red), self.spot(black)
        text = label or f"ohms from {one.label} to {other.label}"
        return Reading(f"ohms:{red}~{black}", "ohms", text, one, other, part=part, run=run)

    def amps(self, run_id: str, leg: Literal["p", "n"] = "p", label: str = "") -> Reading:
        """Amps in a leg of a run, by clamp."""
        at = next((k for k, run in enumerate(self.plan.runs) if run.id == run_id), None)
        conductor = -1 if at is None else 2 * at + (leg == "n")
        if at is None or conductor not in self.on_leg:
            raise UnknownRow(f"no leg {run_id}:{leg}", field="probe", value=run_id, allowed="a run and p or n")
        text = label or f"amps in {self.plan.runs[at].tag} {'+' if leg == 'p' else '−'}"
        return Reading(f"amps:{run_id}:{leg}", "amps", text, None, None, conductor, run=run_id)

    def reading(self, id_: str) -> Reading:
        """A reading by its id.

        Raises
        ------
        UnknownRow
            If it is none of this plan.
        """
        quantity, _, rest = id_.partition(":")
        red, cut, black = rest.partition("~")
        if quantity == "volts" and cut:
            return self.volts(red, black)
        if quantity == "ohms" and cut:
            return self.ohms(red, black)
        if quantity == "amps" and rest.rpartition(":")[2] in ("p", "n"):
            run_id, _, leg = rest.rpartition(":")
            return self.amps(run_id, "p" if leg == "p" else "n")
        raise UnknownRow(
            f"no reading {id_!r}", field="reading", value=id_, allowed="volts:red~black, ohms:…, amps:run:p"
        )


def _rest(battery: Battery, nominal_v: float, charge_frac: float | None) -> tuple[float, float]:
    """Volts at rest and one standard deviation, by chemistry; half to full where nothing is known. [V]"""
    blocks = (battery.rated_v or nominal_v) / 12
    half_v, full_v, at_v = (np.interp([0.5, 1.0, charge_frac or 0.0], *rest_curve(battery.chemistry)) * blocks).tolist()
    if charge_frac is None:
        # Anywhere between half and full: that of an even spread.
        return (half_v + full_v) / 2, (full_v - half_v) / np.sqrt(12.0) + spread("rest") * blocks
    return at_v, spread("rest") * blocks


def _charge_ohm(battery: Battery, nominal_v: float) -> float:
    """What makes a battery rise while it takes: its absorption volts at the greatest current it takes. [Ω]"""
    row = load_table("battery_chemistry").find(battery.chemistry)
    blocks = (battery.rated_v or nominal_v) / 12
    rise_v = (float(row["absorb_v"]) - float(row["ocv_75"])) * blocks
    return rise_v / (float(row["charge_c"]) * battery.capacity_ah)


def _rises(sized: Sized, elements: tuple[Element, ...]) -> Floats:
    """How much warmer each wire is by its current, by its own allowable current. [K/A²]"""
    found = np.zeros(len(elements))
    for k, element in enumerate(elements):
        if element.sort == "wire":
            case, limit_a = sized.cases[element.run], sized.chosen[element.run].amp.ampacity_a
            if limit_a:
                found[k] = (case.insulation_c - case.around.ambient_c) / (limit_a * case.run.parallel) ** 2
    return found


def _in_the_light(sized: Sized, sky: str) -> tuple[Floats, Floats, Floats]:
    """What panels give under a sky at inputs of controllers; how far what chargers give and consumers draw spreads."""
    count = len(sized.wiring.consumers)
    light, gives, draws = np.ones(count), np.full(count, spread("give")), np.full(count, spread("draw"))
    share, sky_off = light_of(sky)
    for one in sized.wiring.circuit.converters:
        if one.draws is not None and sized.wiring.consumers[one.draws].endswith(":pv"):
            light[one.draws] = share
            gives[one.gives] = np.hypot(gives[one.gives], sky_off)
            draws[one.draws] = np.hypot(draws[one.draws], sky_off)
    return light, gives, draws


def frame(
    plan: Plan,
    *,
    charge_frac: dict[str, float] | None = None,
    measured_v: dict[str, float] | None = None,
    sky: str = "",
) -> Frame:
    """Make a plan ready for the meter.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    charge_frac : dict, optional
        State of charge of batteries where it is known, by id. [1]
    measured_v : dict, optional
        Volts of batteries at rest as measured just now, by id. [V]
    sky : str
        Of panels.WEATHERS; empty where nobody said.

    Returns
    -------
    Frame
        Resistances at 25 °C; spreads by reading_spread.csv (practice).
    """
    plan = laid_out(plan)
    sized = sized_plan(plan)
    elements = tuple(elements_of(plan, sized))
    on_leg: dict[int, list[int]] = {}
    for k, element in enumerate(elements):
        on_leg.setdefault(element.conductor, []).append(k)
    nominal_v = float(plan.nominal_v)
    rest: list[tuple[float, float]] = []
    inside: list[float] = []
    charge: list[float] = []
    for name in sized.wiring.sources:
        part = sized.topology.parts[name]
        if isinstance(part, Battery):
            measured = (measured_v or {}).get(name)
            known = (charge_frac or {}).get(name)
            rest.append(_rest(part, nominal_v, known) if measured is None else (measured, spread("measured")))
            inside.append(source_figures(part, nominal_v).running_ohm)
            charge.append(_charge_ohm(part, nominal_v))
        elif isinstance(part, Panel):
            open_v = part.mp_v * part.series
            rest.append((open_v, spread("panel") * open_v))
            inside.append(0.05)
            charge.append(0.05)
    volts, off = np.array([one for one, _ in rest]), np.array([one for _, one in rest])
    house = {part.id for string in strings_of(plan) for part in string}
    bank = np.array([name in house for name in sized.wiring.sources], dtype=bool)
    together = 0.0
    if bank.sum() > 1:
        # Batteries that are joined for good stand at one voltage, whatever it is.
        together = float(off[bank].max())
        off[bank] = spread("measured")
    return Frame(
        plan,
        sized,
        elements,
        np.array([one.ohm for one in elements]),
        np.array([one.conductor for one in elements], dtype=np.int64),
        np.array([spread(one.sort) for one in elements]),
        {k: tuple(some) for k, some in on_leg.items()},
        volts,
        off,
        bank,
        together,
        np.array(inside),
        np.array(charge),
        _rises(sized, elements),
        np.where([one.sort == "wire" for one in elements], ALPHA_PER_K / (1 + 5 * ALPHA_PER_K), 0.0),
        *_in_the_light(sized, sky),
        {one.id: one for one in situations(plan, sized)},
    )
