from django.urls import path, re_path

from heath.briefs import releasing, term, views

urlpatterns = [
    path("", term.term, name="term"),
    path("briefs/", term.every_brief, name="briefs"),
    path("briefs/new/", views.edit, name="brief-new"),
    path("briefs/<int:pk>/palette/", views.palette, name="brief-palette"),
    path("briefs/<int:pk>/copy/", views.copy, name="brief-copy"),
    path("briefs/<int:pk>/keep/", term.brief_keep, name="brief-keep"),
    path("briefs/<int:pk>/names/", views.names, name="brief-names"),
    re_path(r"^briefs/(?P<pk>\d+)/marks\.(?P<suffix>csv|xlsx)$", views.marks, name="brief-marks"),
    path("briefs/<int:pk>/change/", views.edit, name="brief-change"),
    path("rulebook/drafts/<int:pk>/preview/", releasing.preview, name="draft-preview"),
    path("rulebook/drafts/<int:pk>/release/", releasing.release_page, name="draft-release"),
]
