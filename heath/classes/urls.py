from django.urls import path

from heath.classes import views

urlpatterns = [
    path("classes/new/", views.course, name="course-new"),
    path("classes/<int:pk>/", views.course, name="course"),
]
