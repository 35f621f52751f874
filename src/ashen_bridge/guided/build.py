"""The project that follows from the answers: computable at once, everything not answered marked assumed with its ±."""

from __future__ import annotations

from ashen_bridge.guided import bodies, fills, wants
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.facts import Facts
from ashen_bridge.library import materials
from ashen_bridge.model.project import FORMAT_VERSION, Project
from ashen_bridge.words.numbers import short

_METALS = ("laminate_glass", "substrate_organic", "silicon", "copper", "aluminium_alloy", "plastic", "power_stage")
_FILLS = ("paste_filled", "paste_general", "pad_soft", "pad_medium", "pad_firm", "putty_soft", "phase_change")
_UNDER_LID = ("solder_indium", "liquid_metal")


def project_from(answers: Answers) -> Project:
    """Return a complete project."""
    facts = Facts(answers)
    builds = [fills.build(facts, "as_found", "As found", facts.pad_mm, facts.said("pad_now_mm"))]
    if facts.pads and answers.pad_wanted_mm is not None:
        builds.append(fills.build(facts, "plan_a", f"Plan A, {short(answers.pad_wanted_mm)} mm", answers.pad_wanted_mm, True))
    library = materials()
    needed = (*_METALS, *_FILLS, *(_UNDER_LID if facts.lidded else ()))
    return Project.parse(
        {
            "format": "ashen-bridge",
            "version": FORMAT_VERSION,
            "name": answers.name.strip() or (f"My {answers.kind.value}" if answers.kind is not DeviceKind.OTHER else "My device"),
            "notes": "Started from questions." + (f" Wanted: {answers.wish.value}." if answers.wish else ""),
            "device": {
                "name": answers.kind.value,
                "bodies": bodies.bodies(facts),
                "fasteners": fills.fasteners(facts),
                "sensors": wants.sensors(facts),
                "limits": wants.limits(facts),
            },
            "materials": [library[name].model_dump(mode="json") for name in needed],
            "builds": builds,
            "main_build": "as_found",
            "points": [wants.point(facts)],
            "groups": fills.groups(facts),
            "aims": wants.aims(facts),
            "goals": wants.goals(facts),
            "runs": wants.runs(facts),
        }
    )
