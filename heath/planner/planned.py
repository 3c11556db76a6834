"""A brief's plan as it is in force: the stems by its rules with the tips that were moved, what
holds them, and what it warns of.
"""

from __future__ import annotations

from datetime import date, datetime, timedelta
from functools import cached_property

from django.http import Http404
from django.utils import timezone

from heath.drawing.groups import GroupDrawing, drawn_group
from heath.planner.models import OwnMaterial, Plan, Workshop
from heath.web.plain import whole
from juniper.planning import (
    ContainerSize,
    GroupPlan,
    StemPlan,
    cautions_for,
    choose_holding,
    clashes,
    counts_of_group,
    held_by,
    kinds_of_stem,
    moved,
    order_of_placing,
    plan_group,
    plan_stems,
    shortage,
)
from juniper.planning.buying import FaultyPrices, bill, read_prices
from juniper.planning.cautions import CLASH
from juniper.planning.conditioning import SETTLE, Job, Need, timetable
from juniper.planning.holding import vessel_traits
from juniper.planning.lesson import Minute, NoTime, kit, ready_by, run_sheet
from juniper.planning.materials import ACROSS, COLOURS, ROLES, Material, catalogue
from juniper.planning.mixed import fill_line, mixed_mechanics
from juniper.planning.recipe import (
    MOST,
    VARIANTS,
    Wanted,
    counts,
    recipe,
    ring_counts,
    scheme_planned,
    scheme_words,
    swatches,
    values_of,
)
from juniper.planning.transport import BY_KEY as TRANSPORT
from juniper.planning.value import buying_dates, leftovers, price_steps, stems_to_fill, substitutes
from juniper.planning.ways import in_force
from juniper.planning.wiring import EXTENDING, wire_words, wiring
from juniper.rules import KINDS, RuleSet, school, school_slugs
from juniper.rules import Brief as CoreBrief

MOST_ITEMS = 24
FOLIAGES = 3  # kinds of foliage in the schools that keep to few (handbook section 9)


def parts_left_out(brief) -> tuple[Material, ...]:
    """What a brief's recipe has that is no plant, where the brief leaves it out of the figures."""
    if brief.count_parts:
        return ()
    plan = getattr(brief, "plan", None)
    slugs = [x.get("slug") for x in plan.items if x.get("role") == "part"] if plan else []
    if not slugs:
        return ()
    every = materials_of(brief.course.school_id)
    return tuple(every[s] for s in dict.fromkeys(slugs) if s in every)


def workshop_of(school_id) -> Workshop:
    """A school's workshop; one that is not saved yet where nothing was decided."""
    return Workshop.objects.filter(school=school_id).first() or Workshop(school_id=school_id)


def own_workshop(user) -> Workshop:
    """The workshop of a person's school, to be changed; Http404 for somebody of no school."""
    if user.school_id is None:
        raise Http404
    return Workshop.objects.get_or_create(school_id=user.school_id)[0]


def materials_of(school_id) -> dict[str, Material]:
    """The catalogue by slug, with what a school has of its own in the place of what ships under the
    same name.
    """
    rows = OwnMaterial.objects.filter(school=school_id)
    # one that cannot be read is told on the page of materials
    own = {m.slug: m.material for m in rows if not m.fault}
    both = {m.slug: m for m in catalogue()} | own
    return dict(sorted(both.items(), key=lambda m: m[1].common.lower()))


def pot_of(brief, plan: Plan | None = None) -> ContainerSize:
    """The container that a brief names."""
    depth = plan.depth_cm if plan else None
    return ContainerSize(
        float(brief.container_height_cm),
        float(brief.container_width_cm),
        float(depth) if depth else None,
    )


def saved_plan(brief) -> Plan:
    """The plan of a brief; one that is not saved yet where nothing was decided."""
    return Plan.objects.filter(brief=brief.pk).first() or Plan(brief=brief)


def made_for(brief, rules: RuleSet) -> str:
    """What the stems of a plan hang on, in a word: moved tips count only for the same."""
    sizes = f"{float(brief.container_height_cm):g}x{float(brief.container_width_cm):g}"
    pattern = brief.pattern_in_force
    return f"{rules.slug} {rules.version} {brief.form} {sizes} {pattern.slug} {pattern.version}"


def with_tips(stems: StemPlan, container: ContainerSize, tips: dict) -> StemPlan:
    """The plan with its moved tips; one that no longer makes sense is left where the rules have
    it.
    """
    for name, place in tips.items():
        try:
            stems = moved(stems, container, name, *map(float, place))
        except (ValueError, TypeError):
            continue
    return stems


def stem_plan(brief, core: CoreBrief | None = None) -> tuple[StemPlan, ContainerSize]:
    """The stems that a brief asks for, as planned, and its container: what bench and sheet hold a
    piece against. `core` is the brief as the piece has it: for a vessel of its own the plan is
    worked out anew, and tips that were moved for another are left out.
    """
    plan, rules, core = saved_plan(brief), brief.rules, core or brief.as_core()
    depth = float(plan.depth_cm) if plan.depth_cm else None
    high = core.container_height_cm or float(brief.container_height_cm)
    wide = core.container_width_cm or float(brief.container_width_cm)
    container = ContainerSize(high, wide, depth)
    stems = plan_stems(rules, container, core, brief.pattern_in_force)
    own = high != float(brief.container_height_cm)
    return (
        with_tips(stems, container, plan.tips)
        if not own and plan.tips_for == made_for(brief, rules)
        else stems
    ), container


def _alike(items) -> tuple:
    """What tells one variant of a recipe from another: which stems, and how many."""
    return tuple((i.material.slug, i.role, i.colour, i.stems) for i in items)


class Planned:
    """Everything a page of the planner shows of a brief; what is asked for is worked out when it
    is.
    """

    extending = EXTENDING

    def __init__(self, brief):
        self.brief, self.plan, self.rules = brief, saved_plan(brief), brief.rules
        self.core = brief.as_core()
        self.container = pot_of(brief, self.plan)
        taught = plan_stems(self.rules, self.container, self.core, brief.pattern_in_force)
        self.tips_stand = self.plan.tips_for == made_for(brief, self.rules)
        self.stems = (
            with_tips(taught, self.container, self.plan.tips) if self.tips_stand else taught
        )

    @property
    def tips_set_aside(self) -> bool:
        """Whether tips were moved for another container, form or rule set than the brief's now."""
        return bool(self.plan.tips) and not self.tips_stand

    @cached_property
    def school_id(self):
        """The school it belongs to."""
        return self.brief.course.school_id

    @cached_property
    def workshop(self) -> Workshop:
        """What holds for all plans of the school."""
        return workshop_of(self.school_id)

    @cached_property
    def materials(self) -> dict[str, Material]:
        """The school's catalogue."""
        return materials_of(self.school_id)

    @cached_property
    def group(self) -> GroupPlan | None:
        """The plan of a composition of several vessels; None for a piece in one."""
        if not self.core.vessels:
            return None
        return plan_group(self.rules, self.core, self.brief.pattern_in_force)

    @cached_property
    def group_drawing(self) -> GroupDrawing | None:
        """The composition drawn to scale."""
        return drawn_group(self.group) if self.group else None

    @cached_property
    def held(self):
        """The rules that the stems are held against."""
        if self.group:
            return held_by(self.rules, self.group.values(), self.core)
        return held_by(self.rules, self.stems.values(self.container), self.core)

    @cached_property
    def shortage(self):
        """What stems that are too short mean, None where they are long enough or nothing was
        said.
        """
        if self.plan.longest_cm is None or self.group:
            return None
        shelf = {
            c.name: ContainerSize(float(c.height_cm), float(c.width_cm))
            for c in self.brief.course.school.containers.all()
            if c.measured and c.pk != self.brief.shelf_container_id
        }
        schools = tuple(school(s) for s in school_slugs())
        return shortage(
            self.stems,
            float(self.plan.longest_cm),
            self.rules,
            self.container,
            self.core,
            shelf,
            schools,
        )

    @cached_property
    def wanted(self) -> tuple[Wanted, ...]:
        """The recipe's lines whose material is in the catalogue."""
        out = []
        for line in self.plan.items[:MOST_ITEMS]:
            one = self.materials.get(line.get("slug"))
            if one is not None:
                out.append(
                    Wanted(
                        one,
                        line.get("role") or one.role,
                        line.get("colour") or one.colours[0],
                        line.get("stems"),
                    )
                )
        return tuple(out)

    @cached_property
    def warnings(self):
        """What clashes with where the piece will stand, each with the answer that was given (None
        while none was).
        """
        found = clashes(
            tuple(w.material for w in self.wanted), tuple(self.brief.near), self.rules.slug
        )
        return [(w, self.plan.answers.get(w.key)) for w in found]

    @property
    def unanswered(self) -> set[str]:
        """Materials that are held back until their warning is answered."""
        return {w.material.slug for w, answer in self.warnings if answer is None}

    @cached_property
    def across(self) -> dict[str, float]:
        """How broad a head is by role, cm: the mean of what is wanted in it."""
        found = {r: [w.material.across for w in self.wanted if w.role == r] for r in ROLES}
        return {r: sum(a) / len(a) for r, a in found.items() if a}

    def counts(self, variant: str = ""):
        """Stems by role, for the plan's variant or another."""
        if self.group:
            return counts_of_group(self.group)
        return counts(
            self.stems,
            self.rules,
            self.core,
            variant or self.plan.variant,
            self.across,
            self.workshop.ways,
        )

    @property
    def rings(self) -> dict[str, int]:
        """Flowers in each ring of a layered round piece."""
        if not ring_counts(self.stems):
            return {}
        return ring_counts(
            self.stems, self.plan.variant, self.across.get("mass", ACROSS["mass"]), self.core.rings
        )

    def recipe(self, variant: str = ""):
        """The lines with their stems, without what is held back."""
        back = self.unanswered
        return recipe(
            tuple(w for w in self.wanted if w.material.slug not in back), self.counts(variant)
        )

    @cached_property
    def recipes(self):
        """The recipe of each variant."""
        return {v: self.recipe(v) for v in VARIANTS}

    @cached_property
    def items(self):
        """The recipe in force."""
        return self.recipe()

    @cached_property
    def recipe_held(self):
        """The rules that the recipe is held against."""
        return held_by(self.rules, values_of(self.items, self.core), self.core)

    @cached_property
    def scheme(self):
        """The scheme that the recipe's flowers make."""
        return scheme_planned(self.items, self.core)

    @property
    def scheme_words(self) -> str:
        """The scheme that the recipe's flowers make, or how far apart they lie where two colours
        make none.
        """
        return scheme_words(self.swatches, self.scheme)

    @cached_property
    def swatches(self):
        """The flowers' colours with their shares."""
        found = swatches(self.items, self.core.count_parts)
        return [s for s in found if s.part == "flower"]

    @cached_property
    def kinds(self) -> int:
        """Kinds of main flower in the recipe."""
        return len({i.material.slug for i in self.items if i.role in ("line", "focal", "mass")})

    @cached_property
    def pieces(self) -> int:
        """How many pieces are made: as typed, else one for each student."""
        return self.plan.pieces or max(1, self.brief.course.students.count())

    @cached_property
    def prices(self):
        """(bunches, faults) of the school's price list; lines at fault leave the rest in force."""
        text = self.workshop.prices
        try:
            return read_prices(text, tuple(self.materials.values())), ()
        except FaultyPrices as error:
            bad = {n for n, _ in error.faults}
            good = "\n".join(
                "" if n in bad else line for n, line in enumerate(text.splitlines(), 1)
            )
            return read_prices(good, tuple(self.materials.values())), error.faults

    @cached_property
    def bill(self):
        """What the class needs."""
        return bill(self.items, self.prices[0], self.pieces, self.plan.carried)

    @cached_property
    def variants(self):
        """Each variant: name, whether it is in force, flower and leaf stems of a piece, the class's
        bill, and the name of an earlier one that has the same stems, or ''.
        """
        out, seen = [], {}
        for name in VARIANTS:
            items = self.recipes[name]
            leaf = sum(i.stems for i in items if i.role == "foliage")
            out.append(
                (
                    name,
                    name == self.plan.variant,
                    sum(i.stems for i in items) - leaf,
                    leaf,
                    bill(items, self.prices[0], self.pieces, self.plan.carried),
                    seen.get(_alike(items), ""),
                )
            )
            seen.setdefault(_alike(items), name)
        return out

    @property
    def all_typed(self) -> bool:
        """Whether every number of stems was typed, so that no variant can differ from another."""
        return bool(self.items) and all(i.typed or i.role == "part" for i in self.items)

    @cached_property
    def price_steps(self):
        """The same outline from foliage only to lavish; empty without foliage in the recipe."""
        return price_steps(
            self.recipes, self.rules, self.core, self.prices[0], self.pieces, self.plan.carried
        )

    @cached_property
    def leftovers(self):
        """What the bunches leave over, and the small vases that it fills."""
        return leftovers(self.bill)

    @property
    def day(self) -> date:
        """The day of the lesson, else today."""
        at = self.plan.lesson_at
        return timezone.localtime(at).date() if at else timezone.localdate()

    @property
    def south(self) -> bool:
        """Whether the school lies in the southern hemisphere."""
        return self.brief.course.school.south

    @cached_property
    def purchases(self):
        """(purchase, line of the bill, stems in a bunch or None) of each material: what is bought
        on which day, at which stage, in how many bunches.
        """
        lines = {x.item.material.slug: x for x in self.bill.lines}
        sizes = {b.slug: b.stems for b in self.prices[0]}
        needs = tuple((x.item.material, x.needed) for x in self.bill.lines)
        return [
            (b, lines[b.material.slug], sizes.get(b.material.slug))
            for b in buying_dates(needs, self.day)
        ]

    @cached_property
    def out_of_season(self) -> tuple[Material, ...]:
        """Materials of the recipe that are not cut in the month of the lesson."""
        own = dict.fromkeys(i.material for i in self.items)
        return tuple(m for m in own if not m.in_season(self.day.month, self.south))

    def in_place_of(self, slug: str):
        """What takes the place of a material of the recipe: its line, and the substitutes; None
        for one that the recipe does not have.
        """
        line = next((i for i in self.items if i.material.slug == slug), None)
        if line is None:
            return None
        barred = frozenset(c for place in self.brief.near for c in CLASH.get(place, ()))
        found = substitutes(
            line.material,
            line.role,
            line.colour,
            tuple(self.materials.values()),
            self.day.month,
            self.south,
            barred,
        )
        return line, found

    @cached_property
    def bowl_filled(self):
        """Where the vessel is a shallow bowl that is to be full: stems of each mass or focal flower
        that fill it.
        """
        if not self.is_shallow or self.brief.form == "three-stem":
            return ()
        flowers = dict.fromkeys(i.material for i in self.items if i.role in ("mass", "focal"))
        return tuple((m, stems_to_fill(self.container.width, m)) for m in flowers)

    @cached_property
    def kit(self):
        """The bag of one student."""
        return kit(self.items)

    @cached_property
    def mixed(self):
        """Which material is held by what, in a piece of one vessel."""
        if self.fill_line is None:
            return ()
        return mixed_mechanics(
            self.items, self.container, self.holdings[0], self.clear, self.plan.carried
        )

    @cached_property
    def fill_line(self):
        """How high the vessel is filled before the flowers go in; None for a piece without one."""
        if self.core.kind != KINDS[0]:
            return None
        own = tuple(dict.fromkeys(i.material for i in self.items))
        return fill_line(self.container, own, self.holdings[0], self.plan.carried)

    @property
    def is_shallow(self) -> bool:
        """Whether the vessel is a bowl or tray, as holding has it."""
        return "shallow" in vessel_traits(self.container, self.clear)

    def way(self, question: str) -> str:
        """The way in force with a question (keys of juniper.planning.ways.BY_SLUG)."""
        return next(f.way.slug for f in self.ways if f.question.slug == question)

    @property
    def in_the_water(self) -> tuple[str, ...]:
        """What the school's ways put into the vessel's water, each in a sentence."""
        said = {
            "Add flower food as its packet says.": self.way("food") == "food",
            "Add a few drops of bleach, and no flower food.": self.way("bleach") == "bleach",
            "Add a pinch of salt.": self.is_shallow and self.way("salt") == "any-bowl",
        }
        return tuple(words for words, applies in said.items() if applies)

    @property
    def too_many_foliages(self) -> int:
        """Kinds of foliage in the recipe, where the school's way is up to three and there are more;
        else 0.
        """
        found = len({i.material.slug for i in self.items if i.role == "foliage" and i.stems})
        return found if found > FOLIAGES and self.way("foliage-kinds") == "three" else 0

    @property
    def transport(self):
        """How the finished pieces come to their place."""
        return TRANSPORT[self.plan.transport]

    @property
    def ready_by(self) -> datetime | None:
        """By when all material has stood its time: with a lesson planned, before it is bagged."""
        at = self.plan.lesson_at
        if at is None:
            return None
        return ready_by(timezone.localtime(at), self.pieces, self.plan.people)

    @cached_property
    def needs(self) -> dict[str, Need]:
        """Stems that are conditioned for the class, with the reserve."""
        lines = [x for x in self.bill.lines if x.item.material.plant]
        return {x.item.material.slug: Need(x.item.material, min(MOST, x.needed)) for x in lines}

    @cached_property
    def jobs(self) -> tuple[Job, ...]:
        """The conditioning timetable of the planned lesson; empty without one."""
        if self.ready_by is None or not self.needs:
            return ()
        until = self.ready_by + timedelta(minutes=SETTLE)
        return timetable(tuple(self.needs.values()), until, self.plan.people, self.workshop.ways)

    @property
    def begins_too_late(self) -> str:
        """Why nobody is free in time for the lesson; '' where there is time."""
        if not self.jobs or self.plan.lesson_at < timezone.now():
            return ""
        return too_late(self.jobs)

    @cached_property
    def run_sheet(self) -> tuple[tuple[Minute, ...], str]:
        """(the lesson in minutes, why there is none)."""
        at, plan = self.plan.lesson_at, self.plan
        if at is None:
            return (), ""
        ends = timezone.localtime(at) + timedelta(minutes=plan.lesson_minutes)
        try:
            rows = run_sheet(
                ends,
                plan.lesson_minutes,
                self.pieces,
                self.steps,
                plan.people,
                self.transport,
                plan.way_minutes,
                self.jobs,
            )
        except NoTime as error:
            return (), str(error)
        return rows, ""

    @cached_property
    def ways(self):
        """The ways in force where schools disagree."""
        return in_force(self.workshop.ways, self.rules, self.core)

    @property
    def pattern(self):
        """The pattern that the piece is built after."""
        return self.brief.pattern_in_force

    @property
    def clear(self) -> bool:
        """Whether the container is of clear glass: as said, else as its picture shows."""
        if self.plan.clear is not None:
            return self.plan.clear
        return self.brief.vessel_kind == "clear"

    @property
    def kinds_of_stem(self) -> tuple[str, ...]:
        """As ticked, else as the recipe's materials have them."""
        return tuple(self.plan.stems) or kinds_of_stem(tuple(w.material for w in self.wanted))

    @cached_property
    def holdings(self):
        """What holds the stems, the one to take first."""
        return choose_holding(
            self.container,
            self.kinds_of_stem,
            self.clear,
            self.plan.carried,
            self.way("foam"),
            self.stems.pattern,
        )

    @cached_property
    def cautions(self):
        """What is to be minded, each once."""
        own = tuple(dict.fromkeys(w.material for w in self.wanted))
        return cautions_for(
            self.container, self.stems, self.holdings[0], self.clear, tuple(self.brief.near), own
        )

    @property
    def steps(self):
        """The order of placing."""
        own = tuple(r.under(self.core) for r in self.rules.rules if r.applies(self.core))
        return order_of_placing(self.group or self.stems, own, self.rings)

    @property
    def wiring(self):
        """How the recipe's materials are wired."""
        return [(w, wire_words(w.gauge, self.way("wire"))) for w in wiring(self.items, self.stems)]


def too_late(jobs: tuple[Job, ...]) -> str:
    """What to do where the first job should have begun already; '' where there is time."""
    first = min(jobs, key=lambda j: j.start)
    if first.start >= timezone.localtime():
        return ""
    return (
        f"{first.material.common} should have been begun on {first.start:%d %B at %H:%M}, so nobody"
        " is free in time. Plan a later lesson or a second person, or take what stands for a"
        " shorter time."
    )


def read_items(rows: list[dict], materials: dict[str, Material]) -> list[dict]:
    """The recipe's lines as typed (material, role, colour, stems), as they are kept: a line, or a
    number, that cannot be read stays as it was typed, under `words` and `raw`, and is told of until
    it is mended.
    """
    names: dict[str, str] = {}
    for m in materials.values():
        names |= {n.lower(): m.slug for n in (m.botanical, m.common, m.slug)}
    kept = []
    for row in rows[:MOST_ITEMS]:
        words, text = (" ".join(row.get(n, "").split())[:80] for n in ("material", "stems"))
        if not words:
            continue
        slug = names.get(words.lower(), "")
        stems = whole(text)
        stems = stems if stems is not None and 1 <= stems <= MOST else None
        role, colour = row.get("role"), row.get("colour")
        if slug:
            role = role if role in ROLES else materials[slug].role
            colour = colour if colour in COLOURS else materials[slug].colours[0]
        line = {
            "slug": slug,
            "role": role if role in ROLES else "",
            "colour": colour if colour in COLOURS else "",
            "stems": stems,
        }
        kept.append(
            line
            | ({} if slug else {"words": words})
            | ({"raw": text} if text and stems is None else {})
        )
    return kept


def faults_of(items: list[dict], materials: dict[str, Material]) -> list[str]:
    """What is wrong with the lines of a recipe, in words."""
    faults = []
    for line in items:
        if line.get("words"):
            faults.append(
                f"No material is called “{line['words']}” in the catalogue. Choose one of those"
                " that are offered while you type, or add it to your materials."
            )
        elif line.get("raw"):
            said = materials[line["slug"]].spoken if line["slug"] in materials else line["slug"]
            faults.append(
                f"How many stems of {said} in a piece? A whole number from 1 to {MOST}, or nothing,"
                " to have it worked out."
            )
    return faults
