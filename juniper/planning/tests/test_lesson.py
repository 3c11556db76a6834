"""A lesson backwards from its end: three classes by hand (common practice), the order of the jobs
against an exhaustive search, and what must hold of any.
"""

import unittest
from datetime import datetime, timedelta
from itertools import product

from hypothesis import given, settings
from hypothesis import strategies as st

from juniper.planning import ContainerSize, order_of_placing, plan_stems
from juniper.planning.buying import bill
from juniper.planning.conditioning import SETTLE, Need, hands, soak, timetable
from juniper.planning.lesson import BAGGING, SETTING, NoTime, entries, kit, ready_by, run_sheet
from juniper.planning.materials import catalogue
from juniper.planning.recipe import Item
from juniper.planning.transport import BY_KEY
from juniper.rules import Brief, school

BY = {m.slug: m for m in catalogue()}
ENDS = datetime(2026, 12, 3, 20, 30)
STEPS = order_of_placing(plan_stems(school("classical-line-mass"), ContainerSize(24, 10), Brief()))


def lesson(minutes, students, people=1, way="none", slugs=("rose", "ruscus")):
    begins = ENDS - timedelta(minutes=minutes)
    needs = tuple(Need(BY[s], 3 * students) for s in slugs)
    ready = ready_by(begins, students, people) + timedelta(minutes=SETTLE)
    jobs = timetable(needs, ready, people)
    rows = run_sheet(ENDS, minutes, students, STEPS, people, BY_KEY[way], 20, jobs)
    return rows, jobs, begins


class ByHand(unittest.TestCase):
    def test_sixteen_students_in_two_hours(self):
        rows, _, _ = lesson(120, 16)
        told = [(f"{r.start:%H.%M}", r.minutes, r.what.split(":")[0].split(",")[0]) for r in rows]
        self.assertEqual(
            told[:4],
            [
                ("17.45", 20, "Count the stems into bags"),  # 16 x 1 min, in steps of five
                ("18.05", 25, "Set out the places"),  # 16 x 1.5
                ("18.30", 10, "The brief"),  # .06 of 95
                ("18.40", 15, "Demonstration"),  # .12 of 95
            ],
        )
        self.assertEqual(told[-2:], [("20.05", 15, told[-2][2]), ("20.20", 10, "Clear up")])

    def test_two_people_work_side_by_side(self):
        alone, together = (lesson(120, 16, people)[0] for people in (1, 2))
        starts = {r.what: (r.start, r.who) for r in together}
        self.assertEqual({starts[SETTING][1], starts[BAGGING][1]}, {1, 2})
        self.assertGreater(min(r.start for r in together), min(r.start for r in alone))

    def test_eight_students_take_their_pieces_to_the_foyer(self):
        rows, _, _ = lesson(90, 8, 2, "dressed")
        after = [r for r in rows if r.start >= ENDS]
        # 8 pieces, four pairs of hands: 2 x 8 / 4 = 4, so 5 minutes; 6, so 10; the way; 6; 20; 4
        self.assertEqual([r.minutes for r in after], [5, 10, 20, 10, 20, 5])
        self.assertIn("empty", after[0].what)
        self.assertIn("photograph it as it now stands", after[-1].what)

    def test_the_stage_before_the_focal_flower_is_looked_at(self):
        words = [r.what for r in lesson(120, 12)[0]]
        look = next(n for n, w in enumerate(words) if w.startswith("Step back:"))
        focal = next(n for n, w in enumerate(words) if w.startswith("Focal"))
        self.assertLess(look, focal)

    def test_the_bags_together_take_what_is_bought_but_the_reserve(self):
        # Five tips of ruscus from stems of two: 16 bags take 80 tips of 40 stems.
        items = (
            Item(BY["ruscus"], "foliage", "green", 5),
            Item(BY["rose"], "focal", "red", 3),
            Item(BY["carnation"], "mass", "red", 0),
        )
        self.assertEqual([i.stems for i in kit(items)], [5, 3])
        for line in bill(items, (), 16).lines:
            bagged = sum(16 * i.stems for i in kit(items) if i.material is line.item.material)
            self.assertEqual(bagged, line.used)
            self.assertGreaterEqual(line.needed * line.item.material.treatment.yields, bagged)

    def test_what_cannot_be_is_told_with_what_helps(self):
        for minutes, students, people, words in (
            (30, 8, 1, "45 to 480"),
            (60, 60, 1, "Plan a longer lesson"),
            (120, 0, 1, "one student"),
            (120, 8, 3, "one person or 2"),
        ):
            with self.assertRaisesRegex(NoTime, words):
                run_sheet(ENDS, minutes, students, STEPS, people)


class Always(unittest.TestCase):
    @given(
        st.integers(120, 240),
        st.integers(1, 24),
        st.integers(1, 2),
        st.sampled_from(sorted(BY_KEY)),
        st.lists(st.sampled_from(sorted(BY)), min_size=1, max_size=8, unique=True),
    )
    @settings(max_examples=80, deadline=None)
    def test_timetable_and_run_sheet_never_clash(self, minutes, students, people, way, slugs):
        rows, jobs, begins = lesson(minutes, students, people, way, slugs)
        self.assertEqual(clashes_of(rows, jobs), ())
        within = [r for r in rows if begins <= r.start and r.end <= ENDS]
        self.assertEqual(sum(r.minutes for r in within), minutes)
        self.assertEqual(len(entries(rows)), len(rows))

    @given(
        st.lists(st.sampled_from(sorted(BY)), min_size=1, max_size=4, unique=True),
        st.integers(1, 2),
    )
    @settings(max_examples=25, deadline=None)
    def test_no_order_of_the_jobs_begins_later(self, slugs, people):
        # Reference: every order and every share of the jobs between the people, each as late as
        # it may be.
        needs = tuple(Need(BY[s], 20) for s in slugs)
        ends = ENDS - timedelta(minutes=SETTLE)
        found = min(j.start for j in timetable(needs, ENDS, people))
        self.assertGreaterEqual(found, _best(needs, ends, people))

    def test_a_clash_would_be_seen(self):
        rows, _, _ = lesson(120, 8)
        late = timetable((Need(BY["rose"], 24),), rows[0].end + timedelta(minutes=200))
        self.assertTrue(clashes_of(rows, late))


def clashes_of(rows, jobs):
    """Where a person is at two things at once, or what is bagged has not stood its time."""
    busy = [(r.start, r.end, r.who, r.what) for r in rows]
    busy += [(j.start, j.end, j.person, j.material.common) for j in jobs]
    bagged = [r.start for r in rows if r.what == BAGGING]
    found = [
        f"{j.material.common} stands until {j.ready:%H:%M}, and is bagged at {start:%H:%M}"
        for j in jobs
        for start in bagged
        if start < j.ready
    ]
    for n, (start, end, who, what) in enumerate(busy):
        for other_start, other_end, other, other_what in busy[n + 1 :]:
            same = who == other or 0 in (who, other)
            if same and start < other_end and other_start < end:
                found.append(f"{what} and {other_what} at {max(start, other_start):%H:%M}")
    return tuple(found)


def _best(needs, ends, people):
    """The latest begin of the day's first job over all ways to share the jobs; within a person's
    share the job that may end last is done last.
    """
    best = None
    for shares in product(range(people), repeat=len(needs)):
        first = ends
        for person in range(people):
            free = ends
            own = [n for n, p in zip(needs, shares, strict=True) if p == person]
            for need in sorted(own, key=lambda n: soak(n.material)):
                free = min(free, ends - timedelta(minutes=soak(need.material)))
                free -= timedelta(minutes=hands(need))
            first = min(first, free)
        best = first if best is None else max(best, first)
    # The timetable shares the jobs out one by one; it may begin as much earlier as the longest
    # job takes.
    return best - timedelta(minutes=max(hands(n) for n in needs) if people > 1 else 0)
