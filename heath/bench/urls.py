from django.urls import path, re_path

from heath.bench import placing, views

urlpatterns = [
    path("pieces/<int:pk>/", views.bench, name="bench"),
    path("pieces/<int:pk>/container/", placing.draw_container, name="draw-container"),
    path("pieces/<int:pk>/ready/", views.ready, name="ready"),
    path("pieces/<int:pk>/evidence/<slug:rule>/", views.evidence, name="evidence"),
    path("pieces/<int:pk>/move/", views.move, name="move"),
    path("pieces/<int:pk>/reading/", views.reading, name="reading"),
    re_path(r"^pieces/(?P<pk>\d+)/(?P<what>eye|petals)\.png$", views.layer, name="layer"),
    re_path(
        r"^pieces/(?P<pk>\d+)/palette\.(?P<suffix>gpl|csv|svg)$", views.palette, name="palette"
    ),
    path("pieces/<int:pk>/try/", views.try_it, name="try"),
    path("pieces/<int:pk>/tried.png", views.tried_picture, name="tried-picture"),
    path("pieces/<int:pk>/change/", views.change, name="change"),
    path("pieces/<int:pk>/confirm/", views.confirm, name="confirm"),
    path("pieces/<int:pk>/undo/", views.undo, name="undo"),
    path("pieces/<int:pk>/override/", views.override, name="override"),
    path("pieces/<int:pk>/override/<slug:rule>/back/", views.take_back, name="take-back"),
    path("pieces/<int:pk>/cap/", views.cap, name="cap"),
    path("pieces/<int:pk>/remark/", views.remark, name="remark"),
    path("pieces/<int:pk>/here/", views.here, name="here"),
    path("pieces/<int:pk>/exemplar/", views.exemplar, name="exemplar"),
    re_path(
        r"^pieces/(?P<pk>\d+)/over/(?P<what>found|form|exemplar)/$",
        views.overlay_of,
        name="overlay",
    ),
    path("pieces/<int:pk>/answer/", views.answer, name="answer"),
    path("pieces/<int:pk>/declare/", views.declare, name="declare"),
    path("pieces/<int:pk>/reopen/", views.reopen, name="reopen"),
    path("pieces/<int:pk>/accept/", views.accept, name="accept"),
]
