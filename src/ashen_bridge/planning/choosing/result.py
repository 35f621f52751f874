"""What advice is: plain and light values that a window or a program can take."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.changes.plans import Filling


@dataclass(frozen=True)
class Chosen:
    """What a plan has in one place."""

    place: str
    label: str
    candidate: str
    says: str
    kind: str
    changed: bool


@dataclass(frozen=True)
class SensorOutlook:
    """A sensor under a plan: what it will show [°C] and its ±, what must not be passed and with which chance it is not.

    `worst_c` is what nineteen of twenty draws stay below.
    """

    id: str
    label: str
    value_c: float
    pm_k: float | None
    at_most_c: float
    chance: float | None
    worst_c: float | None


@dataclass(frozen=True)
class Tolerated:
    """How far the gap of a place may be off, either way [mm], before something goes wrong, and what then does.

    None is further than was looked. `gap_mm` ± `pm_mm` is what is known of it.
    """

    place: str
    label: str
    gap_mm: float
    pm_mm: float
    less_mm: float | None
    more_mm: float | None
    less_says: str = ""
    more_says: str = ""


@dataclass(frozen=True)
class Plan:
    """One plan: what lies where, and what comes of it. `broken` says what it does not hold, if it is only the least bad.

    `quieter_db` is by how much fans may be quieter until the first limit is reached, None without fans.
    `settled` is how it was computed: "fast" while plans are searched, "drawn" with chances, "full" on the refined field.
    """

    id: str
    name: str
    why: str
    chosen: tuple[Chosen, ...]
    washers_mm: float
    fillings: tuple[Filling, ...]
    outlooks: tuple[SensorOutlook, ...]
    chance: float | None
    hottest_die_c: float | None
    die_kpa: float | None
    cost: float | None
    unpriced: tuple[str, ...]
    pieces: int
    minutes: float
    years: float
    quieter_db: float | None = None
    risks: tuple[str, ...] = ()
    broken: tuple[str, ...] = ()
    tolerated: tuple[Tolerated, ...] = ()
    settled: str = "fast"


@dataclass(frozen=True)
class CandidateRow:
    """One candidate of a place with all else as in the first plan: hottest bound, die, push, cost, and why not."""

    candidate: str
    says: str
    chosen: bool
    closest: str
    closest_c: float | None
    margin_k: float | None
    die_c: float | None
    force_n: float | None
    squeezed: float | None
    cost: float | None
    refusal: str


@dataclass(frozen=True)
class WhyNot:
    """All candidates of one place."""

    place: str
    label: str
    gap_mm: float
    pm_mm: float
    rows: tuple[CandidateRow, ...]


@dataclass(frozen=True)
class Undecided:
    """A place of which nobody can tell which step is right, and the number that would settle it, by path and in words."""

    place: str
    label: str
    says: str
    number: str
    measure: str


@dataclass(frozen=True)
class Closed:
    """What could be done without opening: the share of the power at which every limit holds, or cooler air."""

    power_share: float | None
    cooler_k: float | None
    says: str


@dataclass(frozen=True)
class Advice:
    """Plans, the first one recommended, and how it is at present; why not the others; what cannot be told."""

    build: str
    point: str
    chance: float
    plans: tuple[Plan, ...]
    present: Plan | None = None
    why_not: tuple[WhyNot, ...] = ()
    undecided: tuple[Undecided, ...] = ()
    closed: Closed | None = None
    says: str = ""
    tried: int = 0
    complete: bool = False
    currency: str = ""


@dataclass(frozen=True)
class ShelfCurve:
    """One material: resistances [mm²·K/W] over free thickness [mm] at a pressure, and push [kPa] over compression.

    `film_um` is the bond line of what flows [µm] at that pressure; then there is one resistance. `odd` says what stands out
    beside its kind, `handling` how it is handled and sold.
    """

    id: str
    name: str
    kind: str
    thickness_mm: tuple[float, ...]
    resistance: tuple[float, ...]
    strain: tuple[float, ...]
    push_kpa: tuple[float, ...]
    film_um: float | None
    claimed: bool
    odd: str = ""
    handling: tuple[str, ...] = ()
