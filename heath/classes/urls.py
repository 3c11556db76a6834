from django.urls import path

from heath.classes import views

urlpatterns = [
    path("", views.term, name="term"),
    path("briefs/", views.every_brief, name="briefs"),
    path("classes/new/", views.course, name="course-new"),
    path("classes/<int:pk>/", views.course, name="course"),
]
