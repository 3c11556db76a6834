"""Rounds: what is asked, answered, kept, and what happens when something goes away meanwhile."""

import json
from unittest import mock

import numpy as np
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment.models import Piece
from heath.bench.accepting import accept_marks, confirm_handles
from heath.demo.practising import answer_of
from heath.exemplars.models import Exemplar
from heath.practice import rounds, stock, tasks
from heath.practice.models import ClassRound, Exercise, Learner, PracticePicture, PracticeSettings
from heath.practice.results import class_eye, league_of, skill_rows
from heath.practice.tests.scene import Practising
from heath.records.models import RecordLink
from heath.testing import photographed, school
from juniper.camera import frame
from juniper.learning import KIND, ROUND, SKILLS, ask


def play(sitting, error=0.3, seed=1):
    """Answer a round to its end, erring by so much."""
    rng = np.random.default_rng(seed)
    while (waiting := rounds.present(sitting)) is not None:
        rounds.take_answer(sitting, waiting.place, answer_of(waiting, error, rng))
    sitting.refresh_from_db()
    return sitting


class Rounds(Practising):
    def test_a_round_is_ten_and_is_gone_on_with(self):
        sitting = rounds.start(self.learner)
        self.assertEqual(rounds.start(self.learner), sitting)
        play(sitting)
        self.assertEqual(sitting.exercises.count(), ROUND)
        self.assertIsNotNone(sitting.finished_at)
        self.assertNotEqual(rounds.start(self.learner), sitting)

    def test_a_round_of_one_skill_asks_that_alone(self):
        sitting = play(rounds.start(self.learner, ("comparing",)))
        kinds = set(sitting.exercises.values_list("kind", flat=True))
        self.assertLessEqual(kinds, {"higher", "heavier", "fuller", "order"})

    def test_the_standing_is_what_the_answers_tell(self):
        play(rounds.start(self.learner))
        kept = self.learner.as_standing
        anew = rounds.standing_anew(self.learner)
        self.assertEqual(set(kept.skills), set(anew.skills))
        for code in kept.skills:
            self.assertAlmostEqual(kept.of(code).error, anew.of(code).error, places=3)
        self.assertEqual(kept.cards.keys(), anew.cards.keys())

    def test_no_pictures_no_round(self):
        PracticePicture.objects.all().delete()
        with self.assertRaises(rounds.NothingToAsk):
            rounds.start(self.learner)
        page = self.client.post(reverse("practice-start"), follow=True)
        self.assertContains(page, "being made ready")
        self.assertEqual(Exercise.objects.count(), 0)

    def test_faults_are_there_in_about_two_of_three(self):
        there = []
        for _ in range(8):
            sitting = play(rounds.start(self.learner, ("faults",)))
            there += [
                bool(e.question["truth"]["spots"]) for e in sitting.exercises.filter(kind="twins")
            ]
        self.assertTrue(0.35 < sum(there) / len(there) < 0.9, there)


class Pages(Practising):
    def asked(self):
        self.client.post(reverse("practice-start"))
        sitting = self.learner.rounds.first()
        return sitting, sitting.exercises.get(answered_at=None)

    def address(self, sitting, exercise):
        return reverse("eye-answer", args=[self.learner.key, sitting.pk, exercise.place])

    def test_the_truth_is_not_on_the_page_before_the_answer(self):
        sitting, _ = self.asked()
        page = self.client.get(reverse("eye-round", args=[self.learner.key, sitting.pk]))
        self.assertContains(page, "1 of 10")
        self.assertNotContains(page, "mark mk-")
        self.assertNotContains(page, "spots")

    def test_an_answer_shows_words_rule_and_measure_and_is_shown_again(self):
        sitting, exercise = self.asked()
        exercise.kind, exercise.pictures = "share", [self.pictures[0].pk]
        exercise.question = {"kind": "share", "given": {}, "truth": {"left": 45.0}, "strength": 1}
        exercise.save()
        answer = self.client.post(
            self.address(sitting, exercise), {"answer": json.dumps({"left": 60})}
        )
        self.assertContains(answer, "The left carries 45")
        self.assertContains(answer, "Classical line-mass")
        self.assertContains(answer, "mk-cross")
        again = self.client.get(self.address(sitting, exercise))
        self.assertContains(again, "The left carries 45")
        exercise.refresh_from_db()
        self.assertAlmostEqual(exercise.signed, 15)
        self.assertAlmostEqual(exercise.scaled, 1.5)
        self.assertFalse(exercise.right)

    def test_a_second_device_does_not_answer_twice(self):
        sitting, exercise = self.asked()
        given = answer_of(exercise, 0.2, np.random.default_rng(0))
        at = self.address(sitting, exercise)
        self.client.post(at, {"answer": json.dumps(given)})
        exercise.refresh_from_db()
        first = exercise.answer
        answer = self.client.post(at, {"answer": json.dumps({"none": True, "choice": "x"})})
        self.assertContains(answer, "answered already")
        exercise.refresh_from_db()
        self.assertEqual(exercise.answer, first)
        for _ in range(2):  # the next is asked once
            self.client.post(reverse("eye-ahead", args=[self.learner.key, sitting.pk]))
        self.assertEqual(sitting.exercises.count(), 2)

    def test_bad_answers_are_told_and_nothing_is_kept(self):
        sitting, exercise = self.asked()
        at = self.address(sitting, exercise)
        for sent in ("", "[]", "{", '{"at": [1e99, 0]}', '{"at": "x"}', "[" * 5000):
            with self.subTest(sent[:20]):
                answer = self.client.post(at, {"answer": sent})
                self.assertEqual(answer.status_code, 422)
                self.assertLess(len(answer.content), 200)
        exercise.refresh_from_db()
        self.assertIsNone(exercise.answered_at)

    def test_what_is_kept_of_an_answer_is_its_own_fields(self):
        sitting, exercise = self.asked()
        given = answer_of(exercise, 0.2, np.random.default_rng(0)) | {"x": "\0", "y": "z" * 9999}
        answer = self.client.post(self.address(sitting, exercise), {"answer": json.dumps(given)})
        self.assertEqual(answer.status_code, 200)
        exercise.refresh_from_db()
        self.assertNotIn("x", exercise.answer)
        self.assertNotIn("y", exercise.answer)

    def test_another_learner_s_key_opens_nothing_of_it(self):
        sitting, _ = self.asked()
        other, _ = school("Other College", "oda")
        key = rounds.learner_of_user(other).key
        for name, args in (
            ("eye-round", [key, sitting.pk]),
            ("eye-answer", [key, sitting.pk, 1]),
            ("eye-others", [key, sitting.pk, 1]),
        ):
            self.assertEqual(Client().get(reverse(name, args=args)).status_code, 404)
        self.assertEqual(Client().get(reverse("eye", args=["nobody"])).status_code, 404)

    def test_the_result_names_each_answer(self):
        sitting = play(rounds.start(self.learner))
        page = self.client.get(reverse("eye-round", args=[self.learner.key, sitting.pk]))
        self.assertContains(page, "of 10 right")
        self.assertContains(page, "Your eye, by skill")
        self.assertContains(self.client.get(reverse("practice")), "Your eye, by skill")

    def test_colours_are_shown_as_bars(self):
        sitting, exercise = self.asked()
        exercise.kind, exercise.pictures = "shares", [self.pictures[0].pk]
        study = self.pictures[0].as_study
        question = ask(KIND["shares"], [study], self.rules, np.random.default_rng(0))
        exercise.question = question.as_document()
        exercise.save()
        answer = self.client.post(
            self.address(sitting, exercise), {"answer": json.dumps({"shares": [1, 1]})}
        )
        self.assertContains(answer, "<rect", count=4)

    def test_three_other_pieces(self):
        sitting = play(rounds.start(self.learner, ("balance",)))
        page = self.client.get(reverse("eye-others", args=[self.learner.key, sitting.pk, 1]))
        self.assertContains(page, "<figure>", count=3)


class ForAClass(Practising):
    def setUp(self):
        super().setUp()
        self.client.post(
            reverse("class-practice", args=[self.course.pk]),
            {"name": "Heights first", "skills": ["height"], "count": 5, "league": "on"},
        )
        self.round = ClassRound.objects.get()
        self.way = reverse("eye-join", args=[self.round.key])

    def join(self, name):
        phone = Client()
        answer = phone.post(self.way, {"name": name})
        return phone, Learner.objects.get(by_link=self.round, name=name), answer

    def test_nobody_needs_an_account_and_a_name_of_the_list_is_that_student(self):
        phone, ada, answer = self.join("ada shore")
        self.assertEqual(ada.student.name, "Ada Shore")
        self.assertEqual(phone.get(answer.url).status_code, 200)
        sitting = play(ada.rounds.get())
        self.assertEqual(sitting.exercises.count(), 5)
        page = self.client.get(reverse("class-practice", args=[self.course.pk]))
        self.assertContains(page, "Ada Shore")
        self.assertContains(page, "Heights")
        self.assertContains(phone.get(self.way), "Go on as ada shore")

    def test_the_league_is_shown_only_where_it_is_set(self):
        phone, ada, answer = self.join("Ada Shore")
        play(ada.rounds.get())
        self.assertEqual([p.name for p in league_of(self.round)], ["Ada Shore"])
        self.assertContains(phone.get(answer.url), "Those who took part")
        ClassRound.objects.update(league=False)
        self.assertNotContains(phone.get(answer.url), "Those who took part")
        self.assertFalse(ClassRound(course=self.course, name="x").league)

    def test_a_closed_link_keeps_what_was_answered(self):
        phone, bo, answer = self.join("Bo Strand")
        sitting = bo.rounds.get()
        self.client.post(reverse("practice-round", args=[self.round.pk]), {"do": "withdraw"})
        self.assertEqual(phone.get(self.way).status_code, 410)
        self.assertEqual(phone.get(answer.url).status_code, 410)
        at = reverse("eye-answer", args=[bo.key, sitting.pk, 1])
        self.assertEqual(phone.post(at, {"answer": "{}"}).status_code, 410)
        self.assertEqual(phone.post(reverse("eye-start", args=[bo.key])).status_code, 410)
        self.assertContains(phone.get(reverse("eye", args=[bo.key])), "closed this round")
        self.client.post(reverse("practice-round", args=[self.round.pk]), {"do": "open"})
        self.assertEqual(phone.get(answer.url).status_code, 200)

    def test_faults_in_the_form_are_told(self):
        page = self.client.post(
            reverse("class-practice", args=[self.course.pk]), {"name": "", "count": 99}
        )
        self.assertContains(page, "Give the round a name", status_code=422)

    def test_another_school_does_not_see_it(self):
        other, _ = school("Other College", "oda")
        self.client.force_login(other)
        for name, pk in (("class-practice", self.course.pk), ("practice-round", self.round.pk)):
            self.assertEqual(self.client.get(reverse(name, args=[pk])).status_code, 404)

    def test_a_link_that_went_round_the_world_is_told(self):
        with mock.patch.object(rounds, "MOST_BY_LINK", 1):
            self.join("Ada Shore")
            page = Client().post(self.way, {"name": "Bo"})
        self.assertContains(page, "set a new", status_code=409)
        self.assertEqual(Learner.objects.filter(by_link=self.round).count(), 1)

    def test_the_class_picture_has_it(self):
        _, ada, _ = self.join("Ada Shore")
        play(ada.rounds.get())
        page = self.client.get(reverse("class-picture", args=[self.course.pk]))
        self.assertContains(page, "Eye practice</h2>")
        self.assertContains(page, "Heights")

    def test_by_week_and_by_person(self):
        _, ada, _ = self.join("Ada Shore")
        play(ada.rounds.get(), error=0.0)
        eye = class_eye(self.course)
        ((skill, weeks, count),) = eye.skills
        self.assertEqual((skill.code, count, weeks[0].answers), ("height", 5, 5))
        self.assertEqual(weeks[0].percent, 100)
        ((name, answers, right, known),) = eye.people
        self.assertEqual((name, answers, right), ("Ada Shore", 5, 100))
        self.assertLess(known[0], 60)


class OnTheirOwn(Practising):
    def setUp(self):
        super().setUp()
        self.student = self.course.students.first()
        self.link = RecordLink.objects.create(student=self.student)

    def test_the_record_s_link_leads_to_practice(self):
        phone = Client()
        record = reverse("own-record", args=[self.link.key])
        self.assertContains(phone.get(record), "Practise your eye")
        page = phone.get(reverse("own-practice", args=[self.link.key]), follow=True)
        self.assertContains(page, "Start a round")
        learner = Learner.objects.get(student=self.student)
        answer = phone.post(reverse("eye-start", args=[learner.key]), {"skill": "balance"})
        self.assertIn(f"/eye/{learner.key}/", answer.url)

    def test_a_withdrawn_link_lets_nobody_in_and_loses_nothing(self):
        learner = rounds.learner_of_student(self.student)
        play(rounds.start(learner))
        self.client.post(reverse("record-link", args=[self.student.pk]), {"do": "withdraw"})
        phone = Client()
        self.assertEqual(phone.get(reverse("eye", args=[learner.key])).status_code, 404)
        self.assertEqual(phone.get(reverse("own-practice", args=[self.link.key])).status_code, 410)
        learner.refresh_from_db()
        self.assertEqual(len(skill_rows(learner)) > 0, True)

    def test_erasing_a_student_erases_their_answers(self):
        play(rounds.start(rounds.learner_of_student(self.student)))
        set_round = ClassRound.objects.create(course=self.course, name="R")
        play(rounds.start(rounds.join(set_round, self.student.name.upper()), (), set_round))
        self.client.post(
            reverse("student-erase", args=[self.student.pk]),
            {"student": self.student.pk, "sure": "1"},
        )
        self.assertFalse(Learner.objects.filter(course=self.course).exists())


class Stock(Practising):
    def exemplar(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        one = Exemplar.objects.create(piece=Piece.objects.get(pk=piece.pk), state="allowed")
        stock.take_in_pieces(self.user.school)
        return one, PracticePicture.objects.get(piece=piece)

    def test_an_exemplar_is_asked_about_until_it_is_withdrawn(self):
        one, picture = self.exemplar()
        shown = PracticePicture.objects.filter(stock.may_be_shown(self.user.school))
        self.assertIn(picture, shown)
        at = reverse("eye-picture", args=[self.learner.key, picture.pk])
        self.assertEqual(self.client.get(at).headers["Cache-Control"], "private, no-store")
        other, _ = school("Other College", "oda")
        self.assertNotIn(picture, PracticePicture.objects.filter(stock.may_be_shown(other.school)))
        # asked, then withdrawn before it is answered: another is asked in its place
        sitting = rounds.start(self.learner, ("balance",))
        waiting = sitting.exercises.get()
        waiting.kind, waiting.pictures = "axis", [picture.pk]
        waiting.question = {"kind": "axis", "given": {}, "truth": {"across": 0}, "strength": 1}
        waiting.save()
        one.state = "withdrawn"
        one.save()
        self.assertEqual(self.client.get(at).status_code, 404)
        # the answer to what is on the screen still counts
        answer = self.client.post(
            reverse("eye-answer", args=[self.learner.key, sitting.pk, 1]),
            {"answer": json.dumps({"at": [300, 300]})},
        )
        self.assertContains(answer, "no longer shown. Your answer counts")
        # and one that was not answered is asked anew of another
        waiting = rounds.present(sitting)
        waiting.pictures = [picture.pk]
        waiting.save()
        self.assertNotEqual(rounds.present(sitting).pictures, [picture.pk])

    def test_a_picture_that_is_gone_is_told(self):
        sitting = rounds.start(self.learner)
        waiting = sitting.exercises.get()
        waiting.pictures = [0]
        waiting.save()
        at = reverse("eye-answer", args=[self.learner.key, sitting.pk, 1])
        answer = self.client.post(at, {"answer": "{}"})
        self.assertContains(answer, "another is asked", status_code=409)
        page = self.client.get(reverse("eye-round", args=[self.learner.key, sitting.pk]))
        self.assertEqual(page.status_code, 200)

    def test_past_pieces_only_where_the_school_allows_it(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        self.course.archived_at = timezone.now()
        self.course.save()
        self.assertEqual(stock.take_in_pieces(self.user.school), 0)
        self.client.post(
            reverse("practice-settings"), {"rules": "garden-style", "past_pieces": "on"}
        )
        self.assertEqual(PracticeSettings.objects.get().rules, "garden-style")
        self.assertEqual(stock.take_in_pieces(self.user.school), 1)
        self.assertEqual(stock.take_in_pieces(self.user.school), 0)
        picture = PracticePicture.objects.get(piece=piece)
        allowed = stock.may_be_shown(self.user.school)
        self.assertIn(picture, PracticePicture.objects.filter(allowed))
        PracticeSettings.objects.update(past_pieces=False)
        self.assertNotIn(
            picture, PracticePicture.objects.filter(stock.may_be_shown(self.user.school))
        )

    def test_more_are_made_when_most_are_seen(self):
        self.assertEqual(stock.to_make()[:2], [0, 1])  # of another core
        PracticePicture.objects.update(version=stock.VERSION)
        with mock.patch.object(stock, "LEAST_MADE", 8):
            self.assertEqual(stock.to_make(), [])
            for _ in range(3):
                play(rounds.start(self.learner))
            self.assertEqual(stock.to_make(), list(range(8, 8 + stock.AT_A_TIME)))

    def test_one_picture_is_asked_for_at_a_time_and_after_people_s_work(self):
        with (
            mock.patch.object(tasks, "take_in_roll", return_value=0),
            mock.patch.object(tasks, "to_make", return_value=[5, 6]),
        ):
            tasks.stock(0)
            tasks.stock(0)
        (job,) = ProcrastinateJob.objects.filter(task_name="practice.make")
        self.assertEqual((job.args, job.lock), ({"number": 5}, tasks.ALONE))
        self.assertLess(job.priority, 0)

    def test_the_roll_is_taken_in_once(self):
        with mock.patch.object(stock, "frames", lambda view: [frame(0)]):
            self.assertEqual(stock.take_in_roll(), 1)
            self.assertEqual(stock.take_in_roll(), 0)
        kept = PracticePicture.objects.get(number=-1)
        self.assertIn("axis", kept.index["fits"]["classical-line-mass"])
        self.assertEqual(kept.version, stock.VERSION)
        page = self.client.get(reverse("eye-picture", args=[self.learner.key, kept.pk]))
        self.assertEqual(page.headers["Content-Type"], "image/jpeg")

    def test_every_skill_can_be_asked_of_the_drawn_pictures(self):
        for skill in SKILLS:
            with self.subTest(skill.code):
                sitting = rounds.start(self.learner, (skill.code,))
                self.assertEqual(KIND[sitting.exercises.get().kind].skill, skill.code)
