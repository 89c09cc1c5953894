"""Digest log-in by the examples of RFC 7616, and what challenges may look like."""

import unittest
from unittest import mock

from eager_lens.onsite.digest import DigestLogin, NoDigest, hashed, values_of

NONCE = "7ypf/xlj9XXwfDPEoM4URrv/xwf94BcCAzFZH4GiTo0v"
BOTH = [
    f'Digest realm="http-auth@example.org", qop="auth, auth-int", algorithm={name}, nonce="{NONCE}", '
    'opaque="FQhe/qaU925kfnzjCev0ciny7QMkPqMAFRtzCUYo5tdS"'
    for name in ("SHA-256", "MD5")
]


def answered(challenges, user="Mufasa", password="Circle of Life", uri="/dir/index.html"):
    login = DigestLogin(user, password)
    with mock.patch.object(login, "_client_nonce", "f2/wE4q74E6zIJEtWaHKaf5wv/H5QzzpXusqGemxURZJ"):
        login.take(challenges)
        return values_of(login.authorisation("GET", uri))


class Answers(unittest.TestCase):
    def test_the_examples_of_the_standard(self):
        by_sha = answered(BOTH)
        self.assertEqual(by_sha["response"], "753927fa0e85d155564e2e272a28d1802ca10daf4496794697cf8db5856cb6c1")
        self.assertEqual((by_sha["algorithm"], by_sha["nc"], by_sha["qop"]), ("SHA-256", "00000001", "auth"))
        by_md5 = answered(BOTH[1:])
        self.assertEqual(by_md5["response"], "8ca523f5e9506fed4657c9700eebdbec")

    def test_the_strongest_is_taken_wherever_it_stands(self):
        self.assertEqual(answered(BOTH[::-1])["algorithm"], "SHA-256")
        self.assertEqual(answered([f'Basic realm="x", {BOTH[1]}, {BOTH[0]}'])["algorithm"], "SHA-256")

    def test_without_a_quality_it_is_the_old_form(self):
        given = answered(['Digest realm="r", nonce="n"'])
        expected = hashed(hashed("Mufasa", "r", "Circle of Life"), "n", hashed("GET", "/dir/index.html"))
        self.assertEqual(given["response"], expected)
        self.assertNotIn("cnonce", given)

    def test_each_request_counts(self):
        login = DigestLogin("u", "p")
        login.take(BOTH)
        counts = [values_of(login.authorisation("GET", "/"))["nc"] for _ in range(3)]
        self.assertEqual(counts, ["00000001", "00000002", "00000003"])

    def test_what_cannot_be_answered_is_said(self):
        for challenges, plain_text in (
            ([], True),
            (['Basic realm="x"'], True),
            (["Digest"], True),
            (['Digest realm="x"'], True),
            (['Digest realm="x", nonce="1", algorithm=ROT13'], False),
            (['Digest realm="x", nonce="1", qop="x-own"'], False),
        ):
            with self.subTest(challenges), self.assertRaises(NoDigest) as caught:
                DigestLogin("u", "p").take(challenges)
            self.assertEqual(caught.exception.plain_text, plain_text)

    def test_nothing_that_a_device_says_breaks_out_of_the_header(self):
        given = DigestLogin("u", "p")
        given.take(['Digest realm="a\\"b", nonce="n"'])
        header = given.authorisation("GET", '/x"y')
        self.assertEqual(values_of(header)["uri"], '/x"y')
        self.assertEqual(values_of(header)["realm"], 'a"b')
