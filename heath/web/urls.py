from django.urls import path

from heath.web import guide

urlpatterns = [
    path("help/", guide.help_on, name="help-start"),
    path("help/<slug:name>/", guide.help_on, name="help"),
]
