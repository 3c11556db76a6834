"""Who may see and change what: the one place where it is decided.

Everything belongs to a school, and a person sees their own school's records only. What lies
outside is answered as not found, so that its existence is not given away.
"""

from django.http import Http404
from django.shortcuts import get_object_or_404

# How each model reaches its school.
PATHS = {
    "people.User": "school",
    "classes.Course": "school",
    "classes.Student": "course__school",
    "shelf.Container": "school",
    "briefs.Brief": "course__school",
    "intake.Piece": "brief__course__school",
    "intake.Photograph": "piece__brief__course__school",
    "intake.Arrival": "brief__course__school",
    "intake.StudentLink": "brief__course__school",
    "bench.Answer": "piece__brief__course__school",
    "bench.Cap": "piece__brief__course__school",
    "bench.Remark": "piece__brief__course__school",
    "bench.Mark": "piece__brief__course__school",
    "bench.Override": "piece__brief__course__school",
    "planner.OwnMaterial": "school",
    "planner.Plan": "brief__course__school",
    "planner.Workshop": "school",
    "rulebook.RuleSetVersion": "school",
    "returns.Bundle": "brief__course__school",
    "returns.ReturnSheet": "piece__brief__course__school",
}


def visible(user, model):
    """The records of a model that a person may see and change."""
    if not user.is_authenticated or user.school_id is None:
        return model._default_manager.none()
    return model._default_manager.filter(**{PATHS[model._meta.label]: user.school_id})


def find(user, model, *along, **by):
    """One record the person may see, or Http404; with the records it refers to that are named `along`."""
    if not by:
        raise Http404
    records = visible(user, model)
    return get_object_or_404(records.select_related(*along) if along else records, **by)
