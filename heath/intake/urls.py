from django.urls import path, re_path

from heath.intake import student, views

urlpatterns = [
    path("pieces/<int:pk>/photograph/", views.add, name="photograph-add"),
    path("photographs/<int:pk>.jpg", views.picture, name="photograph"),
    re_path(
        r"^photographs/(?P<pk>\d+)-(?P<size>full|screen|wall|thumb)\.jpg$",
        views.picture,
        name="photograph-copy",
    ),
    path("photographs/<int:pk>/remove/", views.remove, name="photograph-remove"),
    path("briefs/<int:pk>/photographs/", views.intake, name="intake"),
    path("briefs/<int:pk>/photographs/arrive/", views.arrive, name="arrive"),
    path("briefs/<int:pk>/link/", views.link, name="student-link"),
    path("briefs/<int:pk>/cards-<slug:sheet>.pdf", views.cards_pdf, name="cards"),
    path("briefs/<int:pk>/handout.pdf", views.handout_pdf, name="handout"),
    path("arrivals/<int:pk>/", views.sort, name="arrival-sort"),
    path("arrivals/<int:pk>.jpg", views.arrival_picture, name="arrival-picture"),
    path("add/<str:text>/", student.add, name="student-add"),
    path("add/<str:text>/stored/", student.stored, name="student-stored"),
    path("add/<str:text>/sent/", student.sent, name="student-sent"),
    path("add/<str:text>/<int:pk>.jpg", student.sent_picture, name="student-picture"),
    path("add/<str:text>/<int:pk>/take-back/", student.take_back, name="student-take-back"),
]
