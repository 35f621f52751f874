"""Advice: candidates with reasons, a search that finds what trying everything finds, plans that hold on the full field."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest

from ashen_bridge.changes.edit import read_edit
from ashen_bridge.editing import choosing as edits
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.wishes import Offer, StockItem, Wishes
from ashen_bridge.planning.choosing import search
from ashen_bridge.planning.choosing.advise import advise
from ashen_bridge.planning.choosing.bill import Need, at_hand, cost
from ashen_bridge.planning.choosing.candidates import candidates
from ashen_bridge.planning.choosing.front import NAMES, front
from ashen_bridge.planning.choosing.limits import bounds
from ashen_bridge.planning.choosing.places import places
from ashen_bridge.planning.choosing.pool import AIMS, Aim, Pool
from ashen_bridge.planning.choosing.practice import schools
from ashen_bridge.planning.choosing.result import Advice
from ashen_bridge.planning.choosing.settled import TRIAL, applied
from ashen_bridge.planning.choosing.shelf import shelf_curve
from ashen_bridge.planning.choosing.tryout import Tryout
from ashen_bridge.planning.comparing import as_csv, comparing
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project
from enumerated import against_all


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR, die_power=120.0))


@pytest.fixture(scope="module")
def advice(card: Project) -> Advice:
    return advise(Engine(), card)


def pool_of(project: Project) -> Pool:
    engine, build, point = Engine(), project.build().id, project.point().id
    found = places(engine, project, build)
    options = [[one for one in candidates(project, build, place, Wishes()) if not one.refused][:9] for place in found]
    tryout = Tryout(engine, project, build, point, [one.joints for one in found], [[c.fills for c in some] for some in options])
    return Pool(project, tryout, found, options, bounds(project, point, tryout.sensors), (0.0, 0.5), lambda one: one)


# ---- the search


@pytest.mark.parametrize("aim", ["coolest", "safest", "least work"])
def test_exchange_finds_what_trying_everything_finds(card: Project, monkeypatch: pytest.MonkeyPatch, aim: Aim) -> None:
    """The die, four pads each by itself, washers: some hundreds of plans; the same best one, or one within 0.1 K."""
    apart = replaced(card, groups=())
    pool = pool_of(apart)
    monkeypatch.setattr(search, "ALL_OF", 0)
    for _ in search.searching(pool, search.starts(pool.places, pool.options, pool), (aim,)):
        pass
    tried, found = len(pool), search.best(pool, aim)
    score = pool.score(found, aim)
    # Everything beside the pads of two parts, which are alike: some 500 plans.
    every = [pool.able(n)[:5] for n in range(len(pool.places))]
    every[-1] = every[-2] = [found[len(every) - 1]]
    pool.ensure(tuple(key) for key in product(*every, range(len(pool.washers))))
    assert len(pool) > tried + 100
    assert pool.score(search.best(pool, aim), aim) >= score - 0.1


def test_plans_of_the_front_differ_and_none_is_worse_in_everything(card: Project) -> None:
    pool = pool_of(card)
    for _ in search.searching(pool, search.starts(pool.places, pool.options, pool)):
        pass
    picked = front(pool)
    assert 1 <= len(picked) <= 5
    assert len({key for _, key in picked}) == len(picked)
    rows = [pool.row(key) for _, key in picked]
    for one in rows:
        for other in rows:
            if other is not one:
                better = other.die_c <= one.die_c, other.minutes <= one.minutes, other.years >= one.years
                assert not (all(better) and other.margin.min() > one.margin.min() + 1 and (other.over <= one.over).all())


# ---- advice as a whole


def test_what_is_shown_is_what_the_full_field_says(card: Project, advice: Advice) -> None:
    assert advice.complete
    for plan in advice.plans:
        assert plan.settled == "full"
        report = Engine().predict(applied(card, advice.build, plan), TRIAL, advice.point).report
        shown = {row.id: row.value_c for row in report.sensors}
        for one in plan.outlooks:
            assert one.value_c == pytest.approx(shown[one.id], abs=0.05)


def test_every_candidate_says_why_it_was_not_taken(advice: Advice) -> None:
    assert {one.label for one in advice.why_not} == {"die_joint", "Pads"}
    for place in advice.why_not:
        assert sum(row.chosen for row in place.rows) == 1
        for row in place.rows:
            assert row.chosen or row.refusal, row.says
            assert row.refusal.count("\n") == 0
    pads = next(one for one in advice.why_not if one.label == "Pads")
    thick = next(row for row in pads.rows if row.candidate == "pad_firm 1.5")
    assert "Die" in thick.refusal, "far too thick firm pads take the die's pressure"


def test_the_advised_plan_holds_gaps_that_are_a_little_off(card: Project, advice: Advice) -> None:
    """What a plan is said to bear it bears, and beyond it does not: whole predictions with the parts' heights moved."""
    from ashen_bridge.model import paths

    plan = next(one for one in advice.plans if any(t.more_mm is not None for t in one.tolerated))
    told = applied(card, advice.build, plan)
    bar = next(t for t in plan.tolerated if t.more_mm is not None)
    assert bar.more_mm is not None
    lowers = [
        low
        for joint in told.build(TRIAL).joints
        if joint.id in next(w for w in advice.why_not if w.place == bar.place).place or joint.lower
        for low in joint.lower
        if low.startswith("part")
    ]
    for by, fine in ((-0.0, True), (bar.more_mm + 0.15, False)):
        heights = {f"device.bodies.{low}.height_mm": 1.2 - by for low in lowers}
        report = Engine().predict(paths.set_values(told, heights), TRIAL, advice.point, fidelity="coarse").report
        rows = [row for row in report.joints if row.lower in lowers]
        touching = min(row.contact_fraction for row in rows) > 0.9 and all(
            row.compression is None or row.compression > 0.04 for row in rows
        )
        assert touching is fine


def test_one_edit_makes_a_plan_a_build_and_undo_takes_it_back(card: Project, advice: Advice) -> None:
    new, made = edits.take_plan(card, advice.build, advice.plans[0])
    after = made.applied(card)
    assert [one.id for one in after.builds] == ["now", new]
    assert after.build("now") == card.build("now")
    assert read_edit(made.to_plain()).applied(card) == after
    twice, again = edits.take_plan(after, advice.build, advice.plans[0])
    assert twice != new
    assert len(again.applied(after).builds) == 3


def test_where_nothing_holds_it_is_said_with_the_least_bad_plan() -> None:
    hopeless = card_project(Card(parts=FOUR, die_power=900.0))
    found = advise(Engine(), hopeless)
    assert found.plans
    assert "Nothing holds" in found.says
    assert found.plans[0].broken
    assert found.closed is not None
    assert found.closed.power_share is not None
    assert found.closed.power_share < 0.5


# ---- what is asked for


def test_what_is_not_wanted_says_so(card: Project) -> None:
    found = places(Engine(), card, "now")
    die, pads = found
    said = {one.id: one.refused for place in found for one in candidates(card, "now", place, Wishes(putty=False, skill="bold"))}
    assert "not wanted" in said["putty_soft"]
    assert "Liquid metal is not wanted" in said["liquid_metal"]
    bold = {one.id: one.refused for one in candidates(card, "now", die, Wishes(liquid_metal=True, skill="bold"))}
    assert not bold["liquid_metal"]
    assert (
        "lose the part"
        in {one.id: one.refused for one in candidates(card, "now", die, Wishes(liquid_metal=True))}["liquid_metal"]
    )
    all_new = candidates(card, "now", pads, Wishes(replace="everything"))
    assert all_new[0].refused == "Everything shall be replaced."
    again = {one.id: one.refused for one in candidates(card, "now", die, Wishes(reusable=True))}
    assert "used again" in again["paste_general"]


def test_liquid_metal_on_aluminium_is_refused_whoever_asks(card: Project) -> None:
    bodies = tuple(replaced(one, material="aluminium") if one.id == "plate" else one for one in card.device.bodies)
    soft = replaced(card, device=replaced(card.device, bodies=bodies))
    die = next(one for one in places(Engine(), soft, "now") if one.role == "die")
    said = {one.id: one.refused for one in candidates(soft, "now", die, Wishes(liquid_metal=True, skill="bold"))}
    assert "destroys aluminium" in said["liquid_metal"].lower()


def test_only_what_is_at_hand(card: Project) -> None:
    stock = (
        StockItem(id="sheet", material="pad_soft", thickness_mm=q(1.0), w_mm=100, h_mm=100),
        StockItem(id="tube", material="paste_general", ml=2),
    )
    found = [
        one
        for place in places(Engine(), card, "now")
        for one in candidates(replaced(card, stock=stock), "now", place, Wishes(source="stock"))
    ]
    free = {one.id for one in found if not one.refused}
    assert free == {"keep", "pad_soft 1", "paste_general"}


def test_schools_of_thought_are_data_with_a_default_and_a_reason(card: Project) -> None:
    for school in schools():
        assert school.default in {way.id for way in school.ways}
        assert school.why
        assert edits.follow(card, school.id, school.ways[-1].id).applied(card).aims.wishes.schools == {
            school.id: school.ways[-1].id
        }
    with pytest.raises(ProjectError, match="no question 'moon'"):
        edits.follow(card, "moon", "full")
    with pytest.raises(ProjectError, match="not 'solder'"):
        edits.follow(card, "memory", "solder")
    putty = places(Engine(), card, "now")[1]
    said = {one.id: one.refused for one in candidates(card, "now", putty, Wishes(schools={"memory": "putty"}))}
    assert not said["putty_soft"]
    assert said["pad_soft 1"] == "Putty is wanted on memory."


def test_impossible_wishes_end_in_one_sentence(card: Project) -> None:
    wishes = Wishes(source="stock", replace="everything")
    with pytest.raises(AshenError, match="Nothing may lie in"):
        advise(Engine(), card, wishes=wishes)
    bare = replaced(card, groups=(), builds=(replaced(card.builds[0], joints=()),))
    with pytest.raises(AshenError, match="no joint"):
        advise(Engine(), bare)


# ---- money


def test_prices_are_the_users_own_and_what_has_none_is_named(card: Project) -> None:
    offers = (
        Offer(id="a", material="pad_soft", thickness_mm=1.0, w_mm=100, h_mm=50, price=9.5),
        Offer(id="b", material="pad_soft", thickness_mm=1.0, w_mm=50, h_mm=50, price=5.0),
    )
    shop = replaced(card, shop=offers)
    assert cost(shop, [Need("pad_soft", 1.0, area_mm2=1500)]) == (5.0, ())
    assert cost(shop, [Need("pad_soft", 1.0, area_mm2=3900)]) == (9.5, ())
    assert cost(shop, [Need("pad_soft", 1.0, area_mm2=1000), Need("pad_firm", 1.0, area_mm2=9)]) == (5.0, ("pad_firm",))
    assert cost(card, [Need("pad_soft", 1.0, area_mm2=1000)]) == (None, ("pad_soft",))
    stock = replaced(shop, stock=(StockItem(id="s", material="pad_soft", thickness_mm=q(1.0), w_mm=60, h_mm=60),))
    assert at_hand(stock, Need("pad_soft", 1.0, area_mm2=2000))
    assert cost(stock, [Need("pad_soft", 1.0, area_mm2=2000)]) == (0.0, ())
    assert not at_hand(stock, Need("pad_soft", 1.0, area_mm2=3500))


# ---- shelf and comparison


def test_the_shelf_says_resistance_at_the_pressure_that_is_there(card: Project) -> None:
    """By hand: a pad of 1 mm at 100 kPa: t/k with the sheet squeezed as its data sheet says, and two faces."""
    known = {one.id: one for one in card.materials}
    soft = shelf_curve(known["pad_soft"], 100.0)
    assert soft is not None
    at = soft.thickness_mm.index(1.0)
    assert 1.0 * 0.6 / 4.5e-3 + 2 * 15 < soft.resistance[at] < 1.0 * 0.75 / 4.5e-3 + 2 * 25
    firmer = shelf_curve(known["pad_soft"], 300.0)
    assert firmer is not None
    assert firmer.resistance[at] < soft.resistance[at]
    paste = shelf_curve(known["paste_filled"], 300.0)
    assert paste is not None
    assert paste.film_um == pytest.approx(37, abs=3), "Prasher's law by hand: 131 µm·(0.16/300)^0.166"
    assert shelf_curve(known["copper"], 100.0) is None


def test_builds_are_compared_with_what_differs_and_the_table_reads_back() -> None:
    import csv
    import io

    project = open_anything("demo:buoy").project
    *_, (progress, rows) = comparing(Engine(), project, ["as_found", "pad_to_case"], ["summer", "bench"])
    assert progress == 1.0
    assert len(rows) == 4
    assert rows[2].differs
    assert not rows[0].differs
    warm, cool = ({one.id: one.value_c for one in rows[n].sensors} for n in (0, 2))
    assert warm["cpu"] - cool["cpu"] > 10
    table = list(csv.reader(io.StringIO(as_csv(rows))))
    assert len({len(line) for line in table}) == 1
    assert float(table[1][2]) == pytest.approx(warm["cpu"], abs=0.01)


def test_aims_are_those_that_plans_are_named_for() -> None:
    assert set(AIMS) == set(NAMES)


def test_the_search_finds_the_best_of_all_plans_on_the_full_field(card: Project) -> None:
    """Every plan by a whole refined prediction, by the one door; up to 4,096 of them in docs/studies/search.md."""
    found = against_all(card, (3, 5), (0.0, 0.5, 1.0))
    assert found.plans == 45
    assert found.tried < found.plans
    assert found.same or found.apart_k <= 0.1


def test_what_costs_more_than_may_be_spent_is_refused(card: Project) -> None:
    shop = (
        Offer(id="soft", material="pad_soft", thickness_mm=1.0, w_mm=100, h_mm=100, price=9.0),
        Offer(id="firm", material="pad_firm", thickness_mm=1.0, w_mm=100, h_mm=100, price=60.0),
        Offer(id="paste", material="paste_filled", ml=2.0, price=5.0),
    )
    poor = replaced(card, shop=shop, currency="€", aims=replaced(card.aims, budget=4.0))
    pool = pool_of(poor)
    for _ in search.searching(pool, search.starts(pool.places, pool.options, pool)):
        pass
    assert all((row.cost or 0.0) <= 4.0 for row in pool.rows() if row.holds)
    dear = next(row for row in pool.rows() if (row.cost or 0.0) > 4.0)
    choices = np.array([dear.key[:-1]])
    said = [one.says for one in pool.broken(dear.key, choices, pool.tried(dear.key), {})]
    assert any("€; 4.00 € may be spent" in one for one in said)


def test_the_quietest_plan_is_the_one_whose_limits_bear_the_slowest_fans(card: Project) -> None:
    from ashen_bridge.planning.quiet import fan_curve

    curve = fan_curve(Engine(), card, card.build().id, card.point().id)
    assert curve is not None
    assert curve.less_db[0] == 0
    assert all(a < b for a, b in zip(curve.less_db, curve.less_db[1:], strict=False))
    for warmer in curve.warmer_k.values():
        assert list(warmer) == sorted(warmer), "slower fans cool less"
    sensor = card.device.sensors[0].id
    assert curve.less(sensor, curve.warmer_k[sensor][2]) == pytest.approx(curve.less_db[2])
    assert curve.less(sensor, -1.0) == 0.0


def test_a_case_that_does_not_close_over_a_plan_kills_it() -> None:
    """The sealed box: thick firm pads under its wall push it open, and the sentence names the wall and both forces."""
    buoy = open_anything("demo:buoy").project
    wall = next(one.id for one in buoy.device.bodies if one.kind == "plate" and one.role == "case wall")
    bodies = tuple(replaced(one, closing_force_n=q(2.0)) if one.id == wall else one for one in buoy.device.bodies)
    buoy = replaced(buoy, device=replaced(buoy.device, bodies=bodies))
    pool = pool_of(buoy)
    at = list(pool.constraints.names).index("will not close")
    firm = [max(pool.able(n), key=lambda m, n=n: pool.options[n][m].thickness_mm or 0.0) for n in range(len(pool.places))]
    pool.ensure([(*firm, 0)])
    row = pool.row((*firm, 0))
    assert row.over[at] > 0
    said = [one.says for one in pool.broken(row.key, np.array([row.key[:-1]]), pool.tried(row.key), {})]
    assert any("will not close over it" in one for one in said)
