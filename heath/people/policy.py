"""Who may see and change what: the one place where it is decided.

Everything belongs to a school, and a person sees their own school's records only. What lies outside
is answered as not found, so that its existence is not given away. Within a school an assistant
marks and corrects, an instructor sets, releases, returns and removes, a moderator has pieces marked
a second time and settles what differs, the owner looks after the people.
"""

from contextvars import ContextVar

from django.db.models import Q
from django.http import Http404
from django.shortcuts import get_object_or_404

from heath.people.models import Role

# How each model reaches its school.
PATHS = {
    "people.User": "school",
    "people.Membership": "school",
    "classes.Course": "school",
    "classes.Student": "course__school",
    "classes.Level": "school",
    "shelf.Container": "school",
    "briefs.Brief": "course__school",
    "assessment.Piece": "brief__course__school",
    "assessment.Photograph": "piece__brief__course__school",
    "records.Erasure": "school",
    "exemplars.Exemplar": "piece__brief__course__school",
    "practice.Calibration": "school",
    "practice.CalibrationMark": "calibration__school",
    "practice.ClassRound": "course__school",
    "practice.Exercise": "round__learner__school",
    "practice.Learner": "school",
    "practice.PracticePicture": "school",
    "practice.PracticeRound": "learner__school",
    "practice.PracticeSettings": "school",
    "moderation.SecondMark": "first__brief__course__school",
    "intake.Arrival": "brief__course__school",
    "intake.StudentLink": "brief__course__school",
    "assessment.Answer": "piece__brief__course__school",
    "assessment.Cap": "piece__brief__course__school",
    "assessment.Remark": "piece__brief__course__school",
    "assessment.Mark": "piece__brief__course__school",
    "assessment.Override": "piece__brief__course__school",
    "jobs.Job": "school",
    "planner.OwnMaterial": "school",
    "planner.Plan": "brief__course__school",
    "planner.Workshop": "school",
    "rulebook.PatternVersion": "school",
    "rulebook.RuleSetVersion": "school",
    "returns.Bundle": "brief__course__school",
    "returns.ReturnSheet": "piece__brief__course__school",
}


def no_second(label: str, user, second: bool) -> Q:
    """What leaves out the records of second markings, which each have a brief of their own; with
    `second` those that the person marks themself are left in.
    """
    steps = PATHS[label].split("__")[:-1]
    if label != "briefs.Brief" and "brief" not in steps:
        return Q()
    way = "" if label == "briefs.Brief" else "__".join(steps[: steps.index("brief") + 1]) + "__"
    first = Q(**{f"{way}second_of": None})
    return first | Q(**{f"{way}marker": user}) if second else first


def not_deleted(label: str) -> dict[str, None]:
    """The filters that leave out what is deleted, or belongs to what is, of a model by its label.

    >>> sorted(not_deleted("assessment.Piece"))
    ['brief__course__deleted_at', 'brief__deleted_at']
    """
    steps = PATHS[label].split("__")[:-1]
    ways = [
        "__".join(steps[: i + 1]) for i, step in enumerate(steps) if step in ("brief", "course")
    ]
    own = ["deleted_at"] if label in ("classes.Course", "briefs.Brief") else []
    return dict.fromkeys([*(f"{way}__deleted_at" for way in ways), *own])


def visible(user, model, second: bool = False):
    """The records of a model that a person may see and change, without those deleted. Those of
    second markings are left out; `second` lets in what the person is to mark a second time.
    """
    if not user.is_authenticated or user.school_id is None:
        return model._default_manager.none()
    label = model._meta.label
    every = getattr(model, "every", model._default_manager)
    return every.filter(
        no_second(label, user, second), **{PATHS[label]: user.school_id}, **not_deleted(label)
    )


def deleted(user, model):
    """The deleted records of a model that a person may bring back."""
    if not user.is_authenticated or user.school_id is None:
        return model._default_manager.none()
    label = model._meta.label
    above = {name: value for name, value in not_deleted(label).items() if name != "deleted_at"}
    return model._default_manager.filter(
        **{PATHS[label]: user.school_id}, **above, deleted_at__isnull=False
    ).order_by("-deleted_at")


class Archived(Exception):
    """Something of an archived class is to be changed."""


# Whether the request that is being answered may change records; set by heath.people.access.
writing: ContextVar[bool] = ContextVar("writing", default=False)


def course_of(record):
    """The class that a record belongs to, or None where it belongs to none."""
    label = record._meta.label
    if label == "classes.Course":
        return record
    steps = PATHS[label].split("__")[:-1]
    if "course" not in steps:
        return None
    for step in steps[: steps.index("course") + 1]:
        record = getattr(record, step)
    return record


def find(user, model, *along, second: bool = False, **by):
    """One record the person may see, or Http404; with the records it refers to that are named
    `along`. For `second` see visible(). Raises Archived where a request that changes something
    asks for what belongs to an archived class.
    """
    if not by:
        raise Http404
    records = visible(user, model, second)
    try:
        record = get_object_or_404(records.select_related(*along) if along else records, **by)
    except (ValueError, TypeError, OverflowError) as error:  # what was asked for is no number
        raise Http404 from error
    if writing.get() and getattr(course_of(record), "archived_at", None) is not None:
        raise Archived
    return record


_MARKING = (
    "accept",
    "answer",
    "arrival-sort",
    "arrive",
    "camera",
    "cap",
    "change",
    "confirm",
    "declare",
    "draw-container",
    "care-pdf",
    "cards",
    "conditioning-pdf",
    "exemplar",
    "handout",
    "here",
    "lesson-pdf",
    "move",
    "calibrate",
    "calibration",
    "override",
    "photograph-add",
    "practice-start",
    "piece-care-pdf",
    "plan-pdf",
    "remark",
    "sheet-pdf",
    "reopen",
    "take-back",
    "try",
    "undo",
)
_INSTRUCTING = (
    "brief-change",
    "brief-copy",
    "brief-keep",
    "brief-names",
    "brief-new",
    "brief-palette",
    "container",
    "container-remove",
    "class-picture-pdf",
    "class-practice",
    "course",
    "course-keep",
    "course-new",
    "draft",
    "draft-change",
    "draft-discard",
    "draft-preview",
    "draft-release",
    "exemplar-change",
    "exemplar-offer",
    "gradebook",
    "gradebook-cell",
    "lesson",
    "level",
    "levels",
    "links-mail",
    "materials-add",
    "materials-bring",
    "materials-remove",
    "pattern-copy",
    "pattern-discard",
    "pattern-draft",
    "patterns",
    "photograph-remove",
    "lesson-plan",
    "plan",
    "plan-move",
    "practice-round",
    "practice-settings",
    "recipe",
    "record-link",
    "recipe-answer",
    "return",
    "return-all",
    "rule-set-copy",
    "rulebook",
    "school-list",
    "sheet-ends",
    "sheet-withdraw",
    "shelf",
    "student",
    "student-level",
    "student-link",
    "student-note",
    "version-back",
    "ways",
)
_MODERATING = ("second-mark", "second-marking")
_ANYBODY = (
    "settings",
    "school-change",
    "sign-out",
    "sign-out-everywhere",
    "password",
    "password-changed",
)
_OWNING = (
    "bundles",
    "bundle-take-in",
    "people",
    "student-erase",
    "term-archive",
    "person",
    "school-settings",
)

# The least role that may send something to an address, by its name; what is not named here is sent
# by nobody.
CHANGES = {
    **dict.fromkeys((*_ANYBODY, *_MARKING), Role.ASSISTANT),
    **dict.fromkeys(_INSTRUCTING, Role.INSTRUCTOR),
    **dict.fromkeys(_MODERATING, Role.MODERATOR),
    **dict.fromkeys(_OWNING, Role.OWNER),
}
# Pages that only these may open; any other may be read by everybody of the school.
PAGES = {
    **dict.fromkeys(
        (
            "links-csv",
            "exemplar-offer",
            "gradebook",
            "gradebook-file",
            "level",
            "levels",
            "brief-keep",
            "brief-new",
            "brief-change",
            "course-keep",
            "course-new",
            "course",
            "draft",
            "draft-release",
            "pattern-draft",
        ),
        Role.INSTRUCTOR,
    ),
    **dict.fromkeys(("agreement", "second-mark"), Role.MODERATOR),
    **dict.fromkeys((*_OWNING, "erasure", "student-held"), Role.OWNER),
}
# What each role may do, in words, for the page where roles are given.
MAY = (
    ("assistant marker", "marks and corrects, adds photographs, writes remarks"),
    (
        "instructor",
        "also sets classes, briefs and rules, releases these, returns and withdraws sheets, locks"
        " marks, keeps the gradebook, levels, notes and exemplars, removes",
    ),
    ("moderator", "also has pieces marked a second time, sees the agreement, settles marks"),
    (
        "owner",
        "also gives roles, makes and takes in bundles, archives terms, deletes a person's data, and"
        " sets the school's settings",
    ),
)
# What may be sent though a class is archived: it changes nothing of the class, withdraws what was
# given out, or brings the class back.
THOUGH_ARCHIVED = frozenset(
    {
        "brief-copy",
        "cards",
        "care-pdf",
        "class-picture-pdf",
        "conditioning-pdf",
        "course-keep",
        "exemplar-change",
        "handout",
        "here",
        "lesson-pdf",
        "piece-care-pdf",
        "plan-pdf",
        "practice-round",
        "record-link",
        "sheet-ends",
        "sheet-pdf",
        "sheet-withdraw",
        "student-erase",
        "try",
    }
)
WITHOUT_SCHOOL = _ANYBODY  # what somebody may do who belongs to no school
SAFE = ("GET", "HEAD", "OPTIONS")


def needed(name, method):
    """The least role that may ask for an address by its name and method; None where nobody may."""
    return PAGES.get(name, Role.ASSISTANT) if method in SAFE else CHANGES.get(name)
