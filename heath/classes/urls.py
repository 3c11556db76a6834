from django.urls import path

from heath.classes import views

urlpatterns = [
    path("classes/", views.classes, name="classes"),
    path("classes/new/", views.course, name="course-new"),
    path("classes/<int:pk>/", views.course, name="course"),
    path("classes/<int:pk>/keep/", views.course_keep, name="course-keep"),
    path("students/<int:pk>/", views.student, name="student"),
]
