"""How far a brief's pieces are, as drawn strokes."""

from django.utils.html import format_html, format_html_join

STATES = (
    ("returned", "returned"),
    ("marked", "marked"),
    ("marking", "to mark"),
    ("measuring", "being measured"),
    ("failed", "to photograph again"),
    ("waiting", "without a photograph"),
)
# The key beside the strokes: all states, in the order of the work.
KEY = tuple(reversed(STATES))


MOST_TICKS, TICK = 60, 9


TICKS = {
    "returned": "M{x} 2V18M{back} 14L{on} 6",
    "marked": "M{x} 2V18",
    "marking": "M{x} 10V18",
    "measuring": "M{x} 14V18",
    "failed": "M{back} 13L{on} 18M{on} 13L{back} 18",
    "waiting": "M{x} 17V18",
}


def tally(brief):
    """A brief's pieces as drawn strokes, one each: struck through when returned, whole when marked,
    half when to be marked, a dot before.
    """
    counts = [(name, words, getattr(brief, name)) for name, words in STATES]
    total = sum(n for *_, n in counts)
    if not total:
        return ""
    says = ", ".join(f"{n} {words}" for _, words, n in counts if n)
    if total > MOST_TICKS:
        return f"{total}"
    shapes, x = [], 4
    for name, _, n in counts:
        for _ in range(n):
            shapes.append((name, TICKS[name].format(x=x, back=x - 3, on=x + 3)))
            x += TICK
    body = format_html_join("", '<path class="{}" d="{}"/>', shapes)
    return format_html(
        '<svg class="tally" viewBox="0 0 {0} 20" width="{0}" height="20" role="img"'
        ' aria-label="{1}">{2}</svg>',
        x,
        says,
        body,
    )


def state_counts(brief) -> str:
    """How many of a brief's pieces are in which state, in words."""
    counts = [(getattr(brief, name), words) for name, words in STATES]
    return ", ".join(f"{n} {words}" for n, words in counts if n) or "no students yet"


def tally_key() -> str:
    """What each kind of stroke means, drawn."""
    rows = ((name, TICKS[name].format(x=7, back=4, on=10), words) for name, words in KEY)
    body = format_html_join(
        "",
        '<span><svg class="tally" viewBox="0 0 14 20" width="14" height="20" aria-hidden="true">'
        '<path class="{}" d="{}"/></svg>{}</span>',
        rows,
    )
    return format_html('<p class="tally-key label">{}</p>', body)
