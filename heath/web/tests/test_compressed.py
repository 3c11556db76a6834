"""What goes out compressed (RFC 9110, 8.4), and what goes as it is."""

from django.urls import reverse

from heath.testing import SchoolTestCase, photographed


class Compressed(SchoolTestCase):
    def asked(self, name, pk):
        return self.client.get(reverse(name, args=[pk]), headers={"accept-encoding": "gzip"})

    def test_a_page_is_compressed(self):
        self.assertEqual(self.asked("brief", self.brief.pk)["Content-Encoding"], "gzip")

    def test_a_photograph_goes_as_it_is(self):
        piece = photographed(self.brief, self.user)
        answer = self.asked("photograph", piece.photograph.pk)
        self.assertEqual(answer["Content-Type"], "image/jpeg")
        self.assertFalse(answer.has_header("Content-Encoding"))
        self.assertEqual(int(answer["Content-Length"]), len(b"".join(answer)))
