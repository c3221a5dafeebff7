"""Current and energy of one load. How currents add up along the wires is the circuit's matter."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.plan.model import Inverter, Load
from lucernis.practice.rules import DesignVolts, InverterCurrent

RUNNING_V_PER_12V = 13.5
# A device without a stated lowest voltage is taken to work down to this share of nominal (10.5 V at 12 V).
USUAL_MIN_V_FRAC = 0.875
# What runs so many hours a day runs at a stretch, which warms its fuse through. Common practice, no source.
LONG_HOURS = 3.0


@dataclass(frozen=True, slots=True)
class LoadFigures:
    """What one entry of the load list draws, all its pieces together.

    `power_w` and `current_a` are None while neither was given. `peak_a` is the most that flows: a constant-power load
    at the lowest volts it still works at, an inverter at its rating; `rated_w` what it draws then at any volts. `long`
    tells that it runs for hours at a stretch.
    """

    rated_v: float
    power_w: float | None
    current_a: float | None
    design_v: float
    design_current_a: float
    ah_per_day: float | None
    min_v: float
    peak_a: float
    rated_w: float | None
    long: bool


def design_v(school: DesignVolts, *, nominal_v: float, min_v: float) -> float:
    """Volts that turn watts into the design current.

    Parameters
    ----------
    school : str
        ``nominal``, ``lowest`` or ``running``.
    nominal_v : float
        Nominal voltage of the system. [V]
    min_v : float
        Lowest working voltage of the device. [V]

    Returns
    -------
    float
        Design voltage. [V]

    Examples
    --------
    >>> design_v("running", nominal_v=24.0, min_v=21.0)
    27.0
    """
    if school == "lowest":
        return min_v
    if school == "running":
        return RUNNING_V_PER_12V * nominal_v / 12
    return float(nominal_v)


def load_current_a(behaviour: str, *, power_w: float, rated_v: float, at_v: float) -> float:
    """Current of a load at a voltage, from its power at its rated voltage.

    Parameters
    ----------
    behaviour : str
        ``constant_power``, ``constant_current`` or ``resistive``.
    power_w : float
        Power at `rated_v`. [W]
    rated_v : float
        Voltage the power is stated at, > 0. [V]
    at_v : float
        Voltage at the device, > 0. [V]

    Returns
    -------
    float
        Current. [A]

    Notes
    -----
    ``P / V``, ``P / Vr`` and ``P · V / Vr²`` in turn.

    Examples
    --------
    >>> load_current_a("constant_power", power_w=60.0, rated_v=12.0, at_v=11.0)
    5.45455
    """
    if behaviour == "constant_power":
        return power_w / at_v
    if behaviour == "constant_current":
        return power_w / rated_v
    return power_w * at_v / rated_v**2


def inverter_current_a(
    ac_w: float, *, efficiency_frac: float, low_v: float, nominal_v: float, school: InverterCurrent
) -> float:
    """Direct current an inverter draws.

    Parameters
    ----------
    ac_w : float
        Power on its AC side. [W]
    efficiency_frac : float
        Efficiency there. [1]
    low_v : float
        Lowest working voltage at its terminals. [V]
    nominal_v : float
        Nominal voltage of the system. [V]
    school : str
        ``efficiency``: by efficiency at the lowest voltage; ``ten_to_one``: a tenth of the watts at 12 V.

    Returns
    -------
    float
        Current. [A]

    Notes
    -----
    ``P / (η · V_low)``, or ``P / 10`` at 12 V and ``P / 20`` at 24 V (common practice, no source).

    Examples
    --------
    >>> inverter_current_a(2000, efficiency_frac=0.9, low_v=10.5, nominal_v=12, school="efficiency")
    211.64
    >>> inverter_current_a(2000, efficiency_frac=0.9, low_v=10.5, nominal_v=24, school="ten_to_one")
    100.0
    """
    if school == "ten_to_one":
        return ac_w / (10 * nominal_v / 12)
    return ac_w / (efficiency_frac * low_v)


def inverter_figures(load: Load, inverter: Inverter, *, nominal_v: float, school: InverterCurrent) -> LoadFigures:
    """Figures of an inverter: its wire must stand all of its power, its day takes what is plugged in.

    Parameters
    ----------
    load : Load
        Its watts and hours are those on the AC side in use.
    inverter : Inverter
        Its ratings.
    nominal_v : float
        Nominal voltage of the system. [V]
    school : str
        How its current is figured.

    Returns
    -------
    LoadFigures
        Design current at continuous power; charge a day with conversion losses and standby. [A], [Ah]

    Notes
    -----
    ``Ah = (P · h / η + P0 · h_on) / V`` with the efficiency between full power and a third of it taken on a line.
    """
    low_v = inverter.cut_off_v or load.min_v or USUAL_MIN_V_FRAC * nominal_v
    design_a = inverter_current_a(
        inverter.continuous_w,
        efficiency_frac=inverter.efficiency_frac,
        low_v=low_v,
        nominal_v=nominal_v,
        school=school,
    )
    ac_w = load.power_w if load.power_w is not None else inverter.continuous_w
    power_w = ac_w / inverter_efficiency_frac(inverter, ac_w)
    hours = load.hours_per_day
    on = inverter.standby_hours if inverter.standby_hours is not None else hours
    ah = None if hours is None else (power_w * hours + inverter.standby_w * (on or 0.0)) / nominal_v
    rated_w = inverter.continuous_w / inverter.efficiency_frac
    return LoadFigures(
        rated_v=float(nominal_v),
        power_w=power_w,
        current_a=power_w / nominal_v,
        design_v=low_v,
        design_current_a=design_a,
        ah_per_day=ah,
        min_v=low_v,
        # The rule of thumb may stand below what really flows when the bank is low.
        peak_a=max(design_a, rated_w / low_v),
        rated_w=rated_w,
        long=is_long(hours),
    )


def is_long(hours_per_day: float | None) -> bool:
    """Whether a load runs for hours at a stretch."""
    return hours_per_day is not None and hours_per_day >= LONG_HOURS


def inverter_efficiency_frac(inverter: Inverter, ac_w: float) -> float:
    """Efficiency at a power.

    Parameters
    ----------
    inverter : Inverter
        Its ratings.
    ac_w : float
        Power on its AC side. [W]

    Returns
    -------
    float
        Its best at a third of its rating and below, on a line from there to full power. [1]
    """
    share = min(max((ac_w / inverter.continuous_w - 1 / 3) / (2 / 3), 0.0), 1.0)
    return inverter.best_efficiency_frac + share * (inverter.efficiency_frac - inverter.best_efficiency_frac)


def load_figures(
    load: Load, *, nominal_v: float, school: DesignVolts, inverter_school: InverterCurrent = "efficiency"
) -> LoadFigures:
    """Figures of one load-list entry.

    Parameters
    ----------
    load : Load
        The entry.
    nominal_v : float
        Nominal voltage of the system. [V]
    school : str
        Volts for the design current.
    inverter_school : str
        How the current of an inverter with stated ratings is figured.

    Returns
    -------
    LoadFigures
        Currents [A], power [W], charge a day [Ah].

    Notes
    -----
    Charge a day is ``count · I · h`` with the current at nominal voltage. A resistive load draws more at more volts,
    so its design current is taken at the higher of the design and the rated voltage.
    """
    if load.inverter is not None:
        return inverter_figures(load, load.inverter, nominal_v=nominal_v, school=inverter_school)
    rated_v = load.rated_v or float(nominal_v)
    min_v = load.min_v or USUAL_MIN_V_FRAC * nominal_v
    volts = design_v(school, nominal_v=nominal_v, min_v=min_v)
    each_w = load.power_w if load.power_w is not None else None
    if load.current_a is not None:
        each_w = load.current_a * rated_v
    if each_w is None:
        return LoadFigures(rated_v, None, None, volts, 0.0, None, min_v, 0.0, None, long=False)
    at_v = max(volts, rated_v) if load.behaviour == "resistive" else volts
    # Amperes typed for a constant-power device are its current at the rated volts; they are kept as typed there.
    design_a = load.count * load_current_a(load.behaviour, power_w=each_w, rated_v=rated_v, at_v=at_v)
    nominal_a = load.count * load_current_a(load.behaviour, power_w=each_w, rated_v=rated_v, at_v=nominal_v)
    ah_per_day = None if load.hours_per_day is None else nominal_a * load.hours_per_day
    least_a = load.count * load_current_a(load.behaviour, power_w=each_w, rated_v=rated_v, at_v=min_v)
    return LoadFigures(
        rated_v=rated_v,
        power_w=load.count * each_w,
        current_a=load.count * (load.current_a if load.current_a is not None else each_w / rated_v),
        design_v=at_v,
        design_current_a=design_a,
        ah_per_day=ah_per_day,
        min_v=min_v,
        peak_a=max(design_a, least_a),
        rated_w=load.count * each_w,
        long=is_long(load.hours_per_day),
    )


def coil_figures(coil_a: float, *, nominal_v: float) -> LoadFigures:
    """Figures of a relay's coil, a resistance that draws its current at nominal volts.

    Parameters
    ----------
    coil_a : float
        Coil current at nominal voltage, > 0. [A]
    nominal_v : float
        Nominal voltage of the system. [V]

    Returns
    -------
    LoadFigures
        A resistive load without hours: the state decides how long it is on. It must hold at 70 % of nominal volts,
        as relays usually do (common practice, no source).
    """
    power_w = coil_a * nominal_v
    return LoadFigures(
        nominal_v, power_w, coil_a, nominal_v, coil_a, None, 0.7 * nominal_v, coil_a, power_w, long=False
    )
