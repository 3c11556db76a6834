from django.urls import path

from heath.returns import returning, student, views

urlpatterns = [
    path("pieces/<int:pk>/return/", views.issue, name="return"),
    path("pieces/<int:pk>/sheet/", views.sheet, name="sheet"),
    path("pieces/<int:pk>/sheet.pdf", views.sheet_pdf, name="sheet-pdf"),
    path("pieces/<int:pk>/sheet.svg", views.sheet_svg, name="sheet-svg"),
    path("pieces/<int:pk>/sheet/ends/", views.ends, name="sheet-ends"),
    path("pieces/<int:pk>/sheet/withdraw/", views.withdraw, name="sheet-withdraw"),
    path("briefs/<int:pk>/returning/", returning.returning, name="returning"),
    path("briefs/<int:pk>/links.csv", returning.links_csv, name="links-csv"),
    path("briefs/<int:pk>/links/mail/", returning.links_mail, name="links-mail"),
    path("briefs/<int:pk>/return/", views.return_all, name="return-all"),
    path("sheets/<int:pk>/", views.bundle, name="bundle"),
    path("sheets/<int:pk>.pdf", views.bundle_file, name="bundle-file"),
    path("own/<str:text>/", student.sheet, name="own-sheet"),
    path("own/<str:text>/sheet.pdf", student.sheet_pdf, name="own-pdf"),
    path("own/<str:text>/marked-up.svg", student.sheet_svg, name="own-svg"),
    path("own/<str:text>/care.ics", student.care, name="own-care"),
    path("own/<str:text>/care.pdf", student.care_pdf, name="own-care-pdf"),
    path("own/<str:text>/piece.jpg", student.picture, name="own-picture"),
]
