from django.urls import path, re_path

from heath.planner import caring, lesson, materials, preparing, recipe_views, student, views

urlpatterns = [
    path("briefs/<int:pk>/plan/", views.plan, name="plan"),
    path("briefs/<int:pk>/plan/move/", views.move, name="plan-move"),
    path("briefs/<int:pk>/plan.pdf", views.plan_pdf, name="plan-pdf"),
    path("ways/", views.ways, name="ways"),
    path("briefs/<int:pk>/recipe/", recipe_views.recipe, name="recipe"),
    path("briefs/<int:pk>/recipe/answer/", recipe_views.answer, name="recipe-answer"),
    path("briefs/<int:pk>/conditioning/", preparing.conditioning, name="conditioning"),
    path("briefs/<int:pk>/conditioning.pdf", preparing.conditioning_pdf, name="conditioning-pdf"),
    path("briefs/<int:pk>/conditioning.ics", preparing.conditioning_ics, name="conditioning-ics"),
    path("briefs/<int:pk>/lesson/", lesson.plan, name="lesson-plan"),
    path("briefs/<int:pk>/lesson.pdf", lesson.paper, name="lesson-pdf"),
    path("briefs/<int:pk>/lesson.ics", lesson.days, name="lesson-ics"),
    path("briefs/<int:pk>/shopping.csv", lesson.shopping, name="shopping"),
    path("add/<str:text>/plan/", student.plan, name="student-plan"),
    path("add/<str:text>/plan.pdf", student.plan_pdf, name="student-plan-pdf"),
    path("timer/", preparing.timer, name="timer"),
    path("timer/worker.js", preparing.timer_worker, name="timer-worker"),
    path("briefs/<int:pk>/care/", caring.care, name="care"),
    path("briefs/<int:pk>/care.pdf", caring.care_pdf, name="care-pdf"),
    path("briefs/<int:pk>/care.ics", caring.care_ics, name="care-ics"),
    path("pieces/<int:pk>/care.ics", caring.piece_care, name="piece-care"),
    path("pieces/<int:pk>/care.pdf", caring.piece_care_pdf, name="piece-care-pdf"),
    path("materials/", materials.materials, name="materials"),
    path("materials/bring/", materials.bring, name="materials-bring"),
    path("materials/add/", materials.add, name="materials-add"),
    path("materials/<int:pk>/remove/", materials.remove, name="materials-remove"),
    re_path(r"^materials\.(?P<suffix>csv|json)$", materials.materials_file, name="materials-file"),
]
