from django.urls import path

from heath.rulebook import pattern_views, views

urlpatterns = [
    path("rulebook/", views.rulebook, name="rulebook"),
    path("rulebook/measures/", views.measures, name="measures"),
    path("rulebook/compare/", views.compare, name="compare"),
    path("rulebook/patterns/", pattern_views.patterns, name="patterns"),
    path("rulebook/patterns/drafts/<int:pk>/", pattern_views.pattern_draft, name="pattern-draft"),
    path(
        "rulebook/patterns/drafts/<int:pk>/discard/",
        pattern_views.pattern_discard,
        name="pattern-discard",
    ),
    path("rulebook/patterns/<slug:slug>/", pattern_views.pattern, name="pattern"),
    path("rulebook/patterns/<slug:slug>/copy/", pattern_views.pattern_copy, name="pattern-copy"),
    path(
        "rulebook/patterns/<slug:slug>.toml",
        pattern_views.pattern_document,
        name="pattern-document",
    ),
    path("rulebook/drafts/<int:pk>/", views.draft, name="draft"),
    path("rulebook/drafts/<int:pk>/change/", views.change, name="draft-change"),
    path("rulebook/drafts/<int:pk>/discard/", views.discard, name="draft-discard"),
    path("rulebook/versions/<int:pk>/back/", views.go_back, name="version-back"),
    path("rulebook/<slug:slug>/copy/", views.copy, name="rule-set-copy"),
    path("rulebook/<slug:slug>/", views.rule_set, name="rule-set"),
    path("rulebook/<slug:slug>.toml", views.document, name="rule-set-document"),
]
