"""How much a students' link and a school may hold, said in words before anything is kept."""

from django.conf import settings
from django.db.models import Sum

from heath.assessment.models import Photograph
from heath.intake.models import Arrival

MB = 1_000_000
LINK_PICTURES = 600  # pictures of one link: thirty students, five views, four tries each
# of one link: 600 pictures of a telephone (common practice: 3 to 6 MB each)
LINK_BYTES = 3_000 * MB


def held(school) -> int:
    """Bytes of all photographs of a school, and of what waits to be sorted."""
    kept = (
        Photograph.objects.filter(piece__brief__course__school=school).aggregate(all=Sum("size"))[
            "all"
        ]
        or 0
    )
    sent = (
        Arrival.objects.filter(brief__course__school=school)
        .exclude(file="")
        .aggregate(all=Sum("size"))["all"]
        or 0
    )
    return kept + sent


def no_room(school, more: int) -> str:
    """Why a school cannot take so many bytes more, or ''."""
    most = settings.SCHOOL_GB * 1000 * MB
    if held(school) + more <= most:
        return ""
    return (
        f"The school's photographs fill the {settings.SCHOOL_GB} GB that they may use. Ask the"
        " person who runs the site for more."
    )


def link_full(link, pictures: int, more: int) -> str:
    """Why a link cannot take so many pictures, of so many bytes together, or ''."""
    if link.arrivals.count() + pictures > LINK_PICTURES:
        return "This link is full. Ask your instructor for another."
    if (link.arrivals.aggregate(all=Sum("size"))["all"] or 0) + more > LINK_BYTES:
        return "This link has taken as much as it can. Ask your instructor for another."
    return ""
