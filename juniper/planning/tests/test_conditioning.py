"""The timetable: seconds and hours as taught (handbook section 5, common practice), and what must
hold of any.
"""

import unittest
from datetime import UTC, datetime, timedelta
from itertools import pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from juniper.planning.calendar import as_ics
from juniper.planning.conditioning import SETTLE, Need, entries, hands, soak, steps_of, timetable
from juniper.planning.materials import catalogue

BY = {m.slug: m for m in catalogue()}
CLASS = datetime(2026, 11, 26, 18, 30, tzinfo=UTC)
NEEDS = st.lists(
    st.tuples(st.sampled_from(sorted(BY)), st.integers(1, 80)),
    min_size=1,
    max_size=12,
    unique_by=lambda n: n[0],
)


class AsTaught(unittest.TestCase):
    def test_sap_bleeds_apart_and_dried_material_stands_dry(self):
        self.assertTrue(any("bleed apart" in step for step in steps_of(BY["daffodil"])))
        # lilac about two hours deep; a large leaf lies under water for half an hour first
        self.assertEqual(
            (soak(BY["wheat"]), soak(BY["gerbera"]), soak(BY["lilac"]), soak(BY["fatsia"])),
            (0, 120, 120, 270),
        )

    def test_one_class_by_hand(self):
        # 32 tulips: 32 x .4 + 5 = 17.8, so 20 minutes, ending two hours and a quarter before class:
        # 15.55 to 16.15.
        (job,) = timetable((Need(BY["tulip"], 32),), CLASS)
        self.assertEqual(
            (job.start.strftime("%H.%M"), job.end.strftime("%H.%M"), job.ready.strftime("%H.%M")),
            ("15.55", "16.15", "18.15"),
        )

    def test_what_cannot_be_is_told(self):
        for needs, people in (((Need(BY["rose"], 0),), 1), ((Need(BY["rose"], 5),), 3)):
            with self.assertRaises(ValueError):
                timetable(needs, CLASS, people)


class Always(unittest.TestCase):
    @given(NEEDS, st.integers(1, 2))
    @settings(max_examples=120, deadline=None)
    def test_all_is_ready_in_time_and_nobody_has_two_jobs_at_once(self, chosen, people):
        needs = tuple(Need(BY[slug], stems) for slug, stems in chosen)
        jobs = timetable(needs, CLASS, people)
        self.assertEqual(len(jobs), len(needs))
        for job in jobs:
            self.assertLessEqual(job.ready, CLASS - timedelta(minutes=SETTLE))
            self.assertEqual(
                (job.end - job.start).seconds // 60, hands(Need(job.material, job.stems))
            )
        for person in range(1, people + 1):
            own = [j for j in jobs if j.person == person]
            for before, after in pairwise(own):
                self.assertLessEqual(before.end, after.start)

    @given(NEEDS)
    @settings(max_examples=60, deadline=None)
    def test_two_never_begin_earlier_than_one(self, chosen):
        needs = tuple(Need(BY[slug], stems) for slug, stems in chosen)
        one, two = (timetable(needs, CLASS, people) for people in (1, 2))
        self.assertGreaterEqual(two[0].start, one[0].start)

    @given(NEEDS)
    @settings(max_examples=40, deadline=None)
    def test_calendar_lines_are_as_rfc_5545_wants_them(self, chosen):
        jobs = timetable(tuple(Need(BY[slug], stems) for slug, stems in chosen), CLASS)
        text = as_ics(entries(jobs), "Evening; class, one", CLASS)
        self.assertTrue(text.endswith("END:VCALENDAR\r\n"))
        lines = text.split("\r\n")
        self.assertTrue(all(len(line.encode()) <= 75 for line in lines))
        whole = text.replace("\r\n ", "")
        self.assertEqual(whole.count("BEGIN:VEVENT"), len(jobs))
        self.assertIn("Evening\\; class\\, one", whole)
        self.assertIn(f"DTEND:{jobs[0].end:%Y%m%dT%H%M%SZ}", whole)
