"""All addresses of the site, one include for each place in the work."""

from django.conf import settings
from django.urls import include, path

urlpatterns = [
    path("", include("heath.web.urls")),
    path("", include("heath.people.urls")),
    path("", include("heath.jobs.urls")),
    path("", include("heath.classes.urls")),
    path("", include("heath.shelf.urls")),
    path("", include("heath.briefs.urls")),
    path("", include("heath.intake.urls")),
    path("", include("heath.bench.urls")),
    path("", include("heath.planner.urls")),
    path("", include("heath.wall.urls")),
    path("", include("heath.returns.urls")),
    path("", include("heath.rulebook.urls")),
    path("", include("heath.bundles.urls")),
    path("", include("heath.exemplars.urls")),
    path("", include("heath.practice.urls")),
    path("", include("heath.moderation.urls")),
    path("", include("heath.records.urls")),
    path("", include("heath.operations.urls")),
]
if settings.STANDINS:
    urlpatterns.append(path("", include("heath.demo.urls")))
handler404 = "heath.web.views.not_found"
handler500 = "heath.web.views.broken"
