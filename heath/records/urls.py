from django.urls import path, re_path

from heath.records import gradebook_views, keeping_views, own, searching, views

urlpatterns = [
    path("records/", views.records, name="records"),
    path("classes/<int:pk>/picture/", views.picture, name="class-picture"),
    path("classes/<int:pk>/picture.pdf", views.picture_pdf, name="class-picture-pdf"),
    path("classes/<int:pk>/lessons/", views.lesson, name="lesson"),
    path("classes/<int:pk>/students/", views.students, name="class-students"),
    path("classes/<int:pk>/gradebook/", gradebook_views.gradebook, name="gradebook"),
    path("classes/<int:pk>/gradebook/cell/", gradebook_views.cell, name="gradebook-cell"),
    path("classes/<int:pk>/gradebook/list/", gradebook_views.school_list, name="school-list"),
    re_path(
        r"^classes/(?P<pk>\d+)/gradebook-(?P<layout>students|marks)\.(?P<suffix>csv|xlsx)$",
        gradebook_views.download,
        name="gradebook-file",
    ),
    path("students/<int:pk>/record/", views.student, name="student-record"),
    path("students/<int:pk>/note/", views.note, name="student-note"),
    path("students/<int:pk>/level/", views.level_of, name="student-level"),
    path("students/<int:pk>/link/", views.link, name="record-link"),
    path("records/terms/", keeping_views.archive_term, name="term-archive"),
    path("students/<int:pk>/held.zip", keeping_views.student_held, name="student-held"),
    path("students/<int:pk>/erase/", keeping_views.student_erase, name="student-erase"),
    path("records/receipts/<str:code>/", keeping_views.erasure, name="erasure"),
    path("search/", searching.search, name="search"),
    path("levels/", views.levels, name="levels"),
    path("levels/<int:pk>/", views.level, name="level"),
    path("record/<str:key>/", own.record, name="own-record"),
    path("record/<str:key>/stored/", own.stored, name="own-stored"),
    path("record/<str:key>/practice/", own.practice, name="own-practice"),
    path("record/<str:key>/<int:pk>/shown/", own.permission, name="own-permission"),
    path("record/<str:key>/<int:pk>.jpg", own.picture, name="own-record-picture"),
]
