"""Statements against the model: what was expected, what disagrees and by how much, what it does to gaps and to beliefs."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ashen_bridge.changes import evidence as changes
from ashen_bridge.changes.evidence import take_picture
from ashen_bridge.editing import evidence as edits
from ashen_bridge.evidence.bearing import log_ratio, spoken
from ashen_bridge.evidence.contacts import Contact
from ashen_bridge.evidence.likelihood import Contacts, expected_mark, fitting, log_likelihood, off_mm, tells_length
from ashen_bridge.evidence.practice import practice
from ashen_bridge.evidence.result import Seen, Statement
from ashen_bridge.evidence.seeing import seeing
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.evidence import ContactPicture, Sign
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.records import Image
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine

CLOSING = "closed_pads"


@pytest.fixture(scope="module")
def engine() -> Engine:
    return Engine()


@pytest.fixture(scope="module")
def card() -> Project:
    """The card as it was found, with nothing seen yet and nothing read."""
    return replaced(open_anything("demo:correlator").project, evidence=(), pictures=(), signs=(), readings=(), taken_over=())


def said(project: Project, *statements: tuple[str, str, str], toward: float | None = None) -> Project:
    for joint, lower, says in statements:
        made = edits.say(project, CLOSING, joint, lower, says, toward if says == "wedge" else None)
        project = made.applied(project)
    return project


def asked(engine: Engine, project: Project) -> Seen:
    *_, (_, found) = seeing(engine, project, "as_found")
    assert found is not None
    return found


def one(seen: Seen) -> Statement:
    (found,) = seen.statements
    return found


def pad(gap: float, free: float = 1.0, across: tuple[float, float] = (0.0, 0.0)) -> Contacts:
    return Contacts("pad", *(np.array([each]) for each in (gap, *across, free)))


@pytest.mark.parametrize(
    ("gap", "across", "mark"),
    [
        (1.2, (0, 0), "untouched"),
        (0.975, (0, 0), "faint"),
        (0.8, (0, 0), "even"),
        (0.5, (0, 0), "deep"),
        (0.8, (0.3, 0), "wedge"),
    ],
)
def test_marks_follow_how_much_a_pad_is_squashed(gap: float, across: tuple[float, float], mark: str) -> None:
    """Bands of common practice: faint up to 5 %, deep above 35 %."""
    assert expected_mark(pad(gap, across=across))[0] == mark


def test_the_direction_of_a_wedge_is_where_the_gap_is_narrowest() -> None:
    """By hand: wider to the right means narrower, so deeper, to the left."""
    leans = pad(0.8, across=(0.3, 0.0))
    assert abs(leans.toward_deg[0]) == pytest.approx(180)
    assert fitting(leans, "wedge", 180)[0] > 0.9 * fitting(leans, "wedge")[0]
    assert fitting(leans, "wedge", 0)[0] < 0.01


def test_a_mark_that_does_not_fit_costs_no_more_than_being_misread() -> None:
    worst = float(log_likelihood(pad(0.3), "untouched", 0.07)[0])
    assert worst == pytest.approx(math.log(0.07 / len(practice().bands["pad"])), abs=1e-3)
    assert float(log_likelihood(pad(1.3), "untouched", 0.07)[0]) > -0.1


def test_by_how_much_a_gap_is_off_is_counted_to_the_next_band() -> None:
    """By hand: a 1 mm pad at a gap of 0.8 shows none only if the gap was 1.0; deep (35 %) only below 0.65."""
    assert off_mm(pad(0.8), "untouched") == pytest.approx(0.2)
    assert off_mm(pad(0.8), "deep") == pytest.approx(-0.15)
    assert off_mm(pad(0.8), "even") == 0.0
    assert not tells_length("pad", "dry")


def test_marks_of_how_deep_share_what_is_level() -> None:
    """At any squash they are together one where nothing tilts, and never more where something does: none is counted twice."""
    for gap in np.linspace(0.4, 1.3, 19):
        for across in (0.0, 0.1, 0.4):
            total = sum(float(fitting(pad(gap, across=(across, 0)), mark)[0]) for mark in ("untouched", "faint", "even", "deep"))
            assert total < 1.05
            assert across or total > 0.95


def test_a_pad_that_one_edge_touches_is_a_wedge_and_not_untouched() -> None:
    """By hand: a middle 0.05 mm off, and an edge squashed by a tenth."""
    assert expected_mark(pad(1.05, across=(0.3, 0.0)))[0] == "wedge"


def test_expected_statements_agree_and_surprising_ones_say_what_would_be_off(engine: Engine, card: Project) -> None:
    seen = asked(engine, said(card, ("pad_reg_1", "reg_1", "untouched"), ("pad_l1", "mem_l1", "untouched")))
    surprise, expected = seen.statements
    assert expected.lower == "reg_1", "surprises come first"
    assert expected.agrees
    assert not surprise.agrees
    assert surprise.off_mm > 0.1
    assert surprise.culprit is not None
    assert surprise.culprit.sds > 1
    assert "shows no contact" in surprise.words
    assert f"{surprise.off_mm:.2f} mm wider" in surprise.words
    assert surprise.words.count(". ") == 1, "what disagrees, and the number that would have to be off"


@pytest.mark.long
def test_the_number_named_would_really_do_it(engine: Engine, card: Project) -> None:
    """Moved by as much as it says, the gap of the whole device moves by about what was missing."""
    from ashen_bridge.model import paths

    surprise = one(asked(engine, said(card, ("pad_l1", "mem_l1", "untouched"))))
    culprit = surprise.culprit
    assert culprit is not None
    was = paths.node_at(card, culprit.path).value
    part = 0.3
    moved = paths.set_numbers(card, {culprit.path: was + part * culprit.off})
    gaps = [
        next(row.gap_mm for row in engine.predict(each, "as_found", None).report.joints if row.lower == "mem_l1")
        for each in (card, moved)
    ]
    assert gaps[1] - gaps[0] == pytest.approx(part * surprise.off_mm, rel=0.4)


@pytest.mark.long
def test_evidence_moves_gaps_as_rejection_does(engine: Engine, card: Project) -> None:
    """Against a truth made another way: plain draws of all numbers, weighed by the same likelihood."""
    from ashen_bridge.evidence.likelihood import Contacts as Shape
    from ashen_bridge.measuring.gauging import gauging

    project = said(card, ("pad_l2", "mem_l2", "deep"), ("pad_r1", "mem_r1", "even"))
    seen = asked(engine, project)
    *_, (_, gauged) = gauging(engine, project, "as_found", ("as_found",))
    assert gauged is not None
    random = np.random.default_rng(3)
    n = len(gauged.numbers)
    x = gauged.found.mean[:n] + random.standard_normal((2500, gauged.found.root.shape[1])) @ gauged.found.root[:n].T
    closed = gauged.closed["as_found"]
    shapes, logs = closed.shapes(x), np.zeros(len(x))
    for statement in project.evidence:
        k = closed.keys.index((statement.joint, statement.lower))
        of = (getattr(shapes, name)[:, k] for name in ("gap_mm", "across_x_mm", "across_y_mm", "free_mm"))
        logs += log_likelihood(Shape("pad", *of), statement.says, statement.misread)
    weights = np.exp(np.nan_to_num(logs, nan=-np.inf))
    weights /= weights.sum()
    gaps = np.nan_to_num(gauged.fill.gaps(x))
    mean = weights @ gaps
    sd = np.sqrt(weights @ (gaps - mean) ** 2)
    effective = 1 / np.sum(weights**2)
    for k, gap in enumerate(seen.gaps):
        assert gap.now[0] == pytest.approx(mean[k], abs=5 * sd[k] / math.sqrt(effective) + 0.002)
        assert gap.now[1] == pytest.approx(sd[k], rel=0.3, abs=0.003)
    moved = next(gap for gap in seen.gaps if gap.lower == "mem_l2")
    assert moved.now[0] < moved.before[0] - 0.1 * moved.before[1], "deep: narrower than thought"


def test_one_wrong_click_does_not_decide(engine: Engine, card: Project) -> None:
    """A statement that cannot be true beside two that are expected leaves gaps nearly where they were."""
    seen = asked(engine, said(card, ("pad_r1", "mem_r1", "untouched")))
    for gap in seen.gaps:
        assert abs(gap.now[0] - gap.before[0]) < 2.0 * gap.before[1]
    assert not seen.problem


@pytest.mark.long
def test_what_excludes_each_other_is_named_both(engine: Engine, card: Project) -> None:
    seen = asked(engine, said(card, ("pad_l1", "mem_l1", "untouched"), ("pad_l1", "mem_l1", "deep")))
    (sentence,) = seen.contradictions
    assert "untouched" in sentence
    assert "deep" in sentence
    assert "set one aside" in sentence
    calm = changes.set_aside(said(card, ("pad_l1", "mem_l1", "untouched"), ("pad_l1", "mem_l1", "even")), "even_mem_l1")
    again = asked(engine, calm)
    assert not again.contradictions
    assert ("even_mem_l1", "It was set aside.") in again.refused


@pytest.mark.long
def test_what_is_gone_is_refused_in_words_and_order_does_not_matter(engine: Engine, card: Project) -> None:
    two = said(card, ("pad_l1", "mem_l1", "deep"), ("die_joint", "die", "thick"))
    gone = said(two, ("pad_of_old", "mem_l1", "deep"), ("pad_l1", "mem_r3", "deep"))
    seen = asked(engine, gone)
    assert {name for name, _ in seen.refused} == {"deep_mem_l1_2", "deep_mem_r3"} or len(seen.refused) == 2
    assert all(why.endswith(".") for _, why in seen.refused)
    turned = asked(engine, replaced(two, evidence=two.evidence[::-1]))
    straight = asked(engine, two)
    for gap, other in zip(straight.gaps, turned.gaps, strict=True):
        assert gap.now == pytest.approx(other.now, abs=0.25 * gap.now[1])


def test_parts_without_a_sensor_that_no_pad_touched_come_first(engine: Engine, card: Project) -> None:
    sensors = tuple(each for each in card.device.sensors if each.body != "mem_l3")
    silent = replaced(card, device=replaced(card.device, sensors=sensors, limits=()), goals=(), runs=(), closings=card.closings)
    silent = replaced(silent, aims=replaced(silent.aims, sensors=()), calibrations=(), calibration=None, mappings=())
    seen = asked(engine, said(silent, ("pad_l1", "mem_l1", "untouched"), ("pad_l3", "mem_l3", "untouched")))
    assert [each.lower for each in seen.statements] == ["mem_l3", "mem_l1"] or not any(s.body == "mem_l1" for s in sensors)
    assert seen.statements[0].silent


def test_what_would_be_seen_is_known_before_anything_is_said(engine: Engine, card: Project) -> None:
    looked = {each.lower: each for each in asked(engine, card).looked if each.closing == CLOSING}
    assert looked["reg_1"].expected == "untouched"
    assert "of air" in looked["reg_1"].words
    assert looked["die"].kind == "paste"


def film(covered: float, x: float) -> tuple[ContactPicture, Image]:
    corners = ((0.0, 9.0), (9.0, 9.0), (9.0, 0.0), (0.0, 0.0))
    picture = ContactPicture(
        **{"id": "film", "closing": CLOSING, "joint": "pad_l1", "lower": "mem_l1", "image": "shot", "corners_px": corners},
        covered=q(covered, 0.03),
        centre_x_mm=q(x, 0.3),
        centre_y_mm=q(0.0, 0.3),
    )
    return picture, Image(id="shot", sha256="0" * 64, suffix="png")


@pytest.mark.long
def test_a_picture_is_evidence_too(engine: Engine, card: Project) -> None:
    agrees = one(asked(engine, take_picture(card, *film(1.0, 1.0))))
    odd = one(asked(engine, take_picture(card, *film(0.2, 5.0))))
    assert agrees.agrees
    assert not odd.agrees
    assert "which does not fit" in odd.words
    gone = changes.drop_picture(take_picture(card, *film(1.0, 1.0)), "film")
    assert not gone.images or all(image.id != "shot" for image in gone.images)


def test_statements_bear_on_faults_where_the_model_did_not_expect_them(engine: Engine, card: Project) -> None:
    project = said(card, ("pad_b1", "mem_b1", "part bare"), ("pad_reg_1", "reg_1", "untouched"), ("pad_l1", "mem_l1", "even"))
    heard = spoken(engine, project)

    def ratio(kind: str, joint: str, runs: tuple[str, ...] = ("pads",)) -> float:
        return log_ratio(heard, kind, f"builds.as_found.joints.{joint}", {"cooler", "backplate"}, runs)

    assert ratio("touch", "pad_b1") == pytest.approx(math.log(0.93 * 12 + 0.07))
    assert ratio("touch", "pad_b1", ("stock",)) == 0.0, "another closing's runs"
    assert ratio("touch", "pad_reg_1") == 0.0, "expected anyway"
    assert ratio("touch", "pad_l1") < -1.5, "an even imprint speaks against it"
    rattles = changes.notice(card, Sign(id="r", says="rattles", body="cooler"))
    assert log_ratio(spoken(engine, rattles), "loose", "device.fasteners.spring_sw", {"cooler"}, ("pads",)) > 1


def test_wrong_statements_are_one_sentence(card: Project) -> None:
    for says, toward in (("nonsense", None), ("even", 30.0)):
        with pytest.raises(AshenError) as error:
            edits.say(card, CLOSING, "pad_l1", "mem_l1", says, toward)
        assert "\n" not in str(error.value)
    twice = said(card, ("pad_l1", "mem_l1", "deep"), ("pad_l1", "mem_l1", "deep"))
    assert len(twice.evidence) == 1


def test_pads_and_pastes_are_told_apart(card: Project) -> None:
    build = card.build("as_found")
    assert Contact.kind_of(build.joint("die_joint")) == "paste"
    assert Contact.kind_of(build.joint("pad_l1")) == "pad"
