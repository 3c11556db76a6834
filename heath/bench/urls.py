from django.urls import path, re_path

from heath.bench import edits, marks, pages, placing, trials

urlpatterns = [
    path("pieces/<int:pk>/", pages.bench, name="bench"),
    path("pieces/<int:pk>/container/", placing.draw_container, name="draw-container"),
    path("pieces/<int:pk>/ready/", pages.ready, name="ready"),
    path("pieces/<int:pk>/evidence/<slug:rule>/", pages.evidence, name="evidence"),
    path("pieces/<int:pk>/move/", edits.move, name="move"),
    path("pieces/<int:pk>/reading/", pages.reading, name="reading"),
    re_path(r"^pieces/(?P<pk>\d+)/(?P<what>eye|petals)\.png$", pages.layer, name="layer"),
    re_path(
        r"^pieces/(?P<pk>\d+)/palette\.(?P<suffix>gpl|csv|svg)$", pages.palette, name="palette"
    ),
    path("pieces/<int:pk>/try/", trials.try_it, name="try"),
    path("pieces/<int:pk>/tried.png", trials.tried_picture, name="tried-picture"),
    path("pieces/<int:pk>/change/", edits.change, name="change"),
    path("pieces/<int:pk>/confirm/", edits.confirm, name="confirm"),
    path("pieces/<int:pk>/undo/", edits.undo, name="undo"),
    path("pieces/<int:pk>/override/", marks.override, name="override"),
    path("pieces/<int:pk>/override/<slug:rule>/back/", marks.take_back, name="take-back"),
    path("pieces/<int:pk>/cap/", marks.cap, name="cap"),
    path("pieces/<int:pk>/remark/", marks.remark, name="remark"),
    path("pieces/<int:pk>/here/", pages.here, name="here"),
    path("pieces/<int:pk>/exemplar/", marks.exemplar, name="exemplar"),
    re_path(
        r"^pieces/(?P<pk>\d+)/over/(?P<what>found|form|exemplar|stage|front)/$",
        pages.overlay,
        name="overlay",
    ),
    path("pieces/<int:pk>/answer/", marks.answer, name="answer"),
    path("pieces/<int:pk>/declare/", marks.declare, name="declare"),
    path("pieces/<int:pk>/reopen/", marks.reopen, name="reopen"),
    path("pieces/<int:pk>/accept/", marks.accept, name="accept"),
]
