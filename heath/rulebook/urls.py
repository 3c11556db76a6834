from django.urls import path

from heath.rulebook import views

urlpatterns = [
    path("rulebook/", views.rulebook, name="rulebook"),
    path("rulebook/measures/", views.measures, name="measures"),
    path("rulebook/compare/", views.compare, name="compare"),
    path("rulebook/<slug:slug>/", views.rule_set, name="rule-set"),
    path("rulebook/<slug:slug>.toml", views.document, name="rule-set-document"),
]
