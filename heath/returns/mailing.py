"""Students' own links of a brief: as text, as CSV, and by mail."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from smtplib import SMTPException

from django.core.mail import EmailMessage, get_connection
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.jobs.models import Job
from heath.jobs.work import NotDone, handles
from heath.returns.models import ReturnSheet
from heath.web import tables

HEAD = ("Student", "E-mail", "Brief", "Version", "Link", "Ends")


@dataclass(frozen=True)
class StudentLink:
    """One student's link to their latest sheet: `address` is whole, `sheet` what it shows."""

    name: str
    email: str
    address: str
    sheet: ReturnSheet


def links_of(brief, pieces: list[Piece], address) -> list[StudentLink]:
    """The links of all returned pieces whose sheet stands, in the pieces' order.

    Args:
        brief: the brief; none are given while names are hidden.
        pieces: its pieces with their sheets and students.
        address: makes a whole address of a sheet's key.
    """
    if brief.hides_names:
        return []
    returned = [p for p in pieces if p.state == Piece.State.RETURNED and p.latest_sheet]
    return [
        StudentLink(p.student.name, p.student.email, address(p.latest_sheet.key), p.latest_sheet)
        for p in returned
        if p.latest_sheet.withdrawn_at is None
    ]


def as_csv(brief, links: list[StudentLink]) -> bytes:
    """The links as CSV, one row for each student, in HEAD's order."""
    rows = []
    for one in links:
        ends = one.sheet.ends_at
        day = timezone.localtime(ends).strftime("%Y-%m-%d") if ends else ""
        rows.append((one.name, one.email, brief.name, one.sheet.version, one.address, day))
    return tables.as_csv(HEAD, rows)


MAIL = "mail links"  # the job that mails them


@handles(MAIL)
def mail(job: Job) -> None:
    """Mail the students of a brief their own links; `given` has the brief, the site's root and the
    instructor's address.
    """
    brief = Brief.objects.filter(pk=job.given["brief"], course__school=job.school).first()
    if brief is None:
        raise NotDone("This brief is gone.")
    pieces = in_order(brief)
    root = job.given["root"]
    links = links_of(brief, pieces, lambda key: root + reverse("own-sheet", args=[key]))
    failed = mail_links(brief, links, job.given["reply"], job.progress)
    if failed:
        raise NotDone(
            "No e-mail could be sent to " + ", ".join(failed) + ". Check the addresses and the mail"
            " server, then send again: nobody gets it twice."
        )
    job.to = job.back


def in_order(brief) -> list[Piece]:
    """The pieces of a brief with what their links need, by family name."""
    return list(
        brief.pieces.select_related("student", "mark", "brief__course")
        .prefetch_related("sheets", "photographs")
        .order_by(brief.order)
    )


def mail_links(
    brief, links: list[StudentLink], reply_to: str, told: Callable[[int, int], None]
) -> list[str]:
    """Send each student their own link, once for each version of their sheet.

    Args:
        brief: whose sheets they are.
        links: of links_of(); those without an address, or mailed already, are left out.
        reply_to: the instructor's address, where students' answers go.
        told: is called with how many of how many are through.

    Returns:
        The names of those whose e-mail could not be sent.
    """
    due = [one for one in links if one.email and one.sheet.mailed_at is None]
    failed = []
    with get_connection() as connection:
        for number, one in enumerate(due):
            told(number, len(due))
            words = {"link": one, "brief": brief, "school": brief.course.school}
            letter = EmailMessage(
                f"Your return sheet: {brief.name}".replace("\n", " "),
                render_to_string("returns/letter.txt", words),
                to=[one.email],
                reply_to=[reply_to] if reply_to else None,
                connection=connection,
            )
            try:
                letter.send()
            except (OSError, SMTPException):  # no server, or it will not take this address
                failed.append(one.name)
                continue
            one.sheet.mailed_at = timezone.now()
            one.sheet.save(update_fields=["mailed_at"])
    return failed
