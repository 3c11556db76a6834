"""All addresses of the site, one include for each place in the work."""

from django.urls import include, path

urlpatterns = [
    path("", include("heath.people.urls")),
    path("", include("heath.classes.urls")),
    path("", include("heath.shelf.urls")),
    path("", include("heath.briefs.urls")),
    path("", include("heath.intake.urls")),
    path("", include("heath.bench.urls")),
    path("", include("heath.planner.urls")),
    path("", include("heath.lineup.urls")),
    path("", include("heath.returns.urls")),
    path("", include("heath.rulebook.urls")),
]
handler404 = "heath.interface.views.not_found"
handler500 = "heath.interface.views.broken"
