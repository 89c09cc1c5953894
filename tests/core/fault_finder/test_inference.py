"""The reckoning of the fault finder, against small cases that are reckoned by hand or in another way, and its own table."""

import json
import math
import random
import unittest
from fractions import Fraction
from unittest.mock import patch

import numpy as np

from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.for_job import LACKS
from eager_lens.core.fault_finder.inference import (
    REST,
    WEIGHT,
    WRONG,
    TestAnswer,
    case_of,
    cause_chances,
    hypothesis_chances,
    is_named,
    proposals,
    without_causes,
)
from eager_lens.core.fault_finder.table import table_from, usual_table
from tests.support import takes_long

WEIGHED = "eager_lens.core.fault_finder.inference.WEIGHT"


def cause(name, prior, **more):
    return {"id": name, "label": name, "priors": {"dark": prior}, "why": "", "remedy": [], "verify": [], **more}


def lamp_test(name, minutes, usual, under, **more):
    return {
        "id": name,
        "ask": name,
        "minutes": minutes,
        "outcomes": ["yes", "no"],
        "usual": usual,
        "under": under,
        "why": "",
        **more,
    }


def small(**changes):
    table = {
        "symptoms": [{"id": "dark", "label": "Dark"}, {"id": "other", "label": "Other"}],
        "groups": {"out": ["fuse", "wire"]},
        "causes": [cause("bulb", 6), cause("fuse", 3), cause("wire", 1)],
        "pairs": [{"causes": ["bulb", "fuse"], "share": 0.5, "why": ""}],
        "tests": [
            lamp_test("others", 1, [0.9, 0.1], {"@out": [0.2, 0.8]}),
            lamp_test("meter", 4, [0.95, 0.05], {"@out": [0.3, 0.7], "wire": [0.05, 0.95]}),
        ],
    }
    return json.dumps({**table, **changes})


class Reckoning(unittest.TestCase):
    def setUp(self):
        self.table = table_from(small())
        self.case = case_of(self.table, "dark", frozenset())

    @patch(WEIGHED, 1.0)
    def test_bayes_in_fractions(self):
        """Every hypothesis, by exact arithmetic: priors 6, 3, 1 and half the rarer one's for the pair."""
        wrong = Fraction(WRONG).limit_denominator(1000)
        priors = {("bulb",): 6, ("fuse",): 3, ("wire",): 1, ("bulb", "fuse"): Fraction(3, 2)}
        no_others = {("bulb",): "1/10", ("fuse",): "4/5", ("wire",): "4/5", ("bulb", "fuse"): "4/5"}
        yes_meter = {("bulb",): "19/20", ("fuse",): "3/10", ("wire",): "1/20", ("bulb", "fuse"): "3/10"}
        weights = {
            one: prior
            * ((1 - wrong) * Fraction(no_others[one]) + wrong / 2)
            * ((1 - wrong) * Fraction(yes_meter[one]) + wrong / 2)
            for one, prior in priors.items()
        }
        found = hypothesis_chances(self.case, [TestAnswer("others", 1), TestAnswer("meter", 0)])
        for at, one in enumerate(self.case.hypotheses):
            self.assertAlmostEqual(found[at], float(weights[one] / sum(weights.values())), places=12)
        by_cause = dict(cause_chances(self.case, [TestAnswer("others", 1), TestAnswer("meter", 0)]))
        both = (weights["bulb",] + weights["bulb", "fuse"]) / sum(weights.values())
        self.assertAlmostEqual(by_cause["bulb"], float(both), places=12)

    def test_an_answer_counts_by_its_weight(self):
        """Odds move by the likelihood ratio to the power of it."""
        before, after = (hypothesis_chances(self.case, given) for given in ([], [TestAnswer("others", 1)]))
        ratio = self.case.chances["others"][0, 1] / self.case.chances["others"][1, 1]
        self.assertAlmostEqual(after[0] / after[1], before[0] / before[1] * ratio**WEIGHT)

    @patch(WEIGHED, 1.0)
    def test_what_a_test_tells_is_what_it_takes_from_the_entropy(self):
        def entropy(chances):
            return -sum(one * math.log2(one) for one in chances if one > 0)

        for answers in ([], [TestAnswer("others", 1)]):
            for one in proposals(self.case, answers):
                after = 0.0
                for outcome, chance in enumerate(one.chances):
                    after += chance * entropy(
                        hypothesis_chances(self.case, [*answers, TestAnswer(one.test.id, outcome)])
                    )
                self.assertAlmostEqual(one.bits, entropy(hypothesis_chances(self.case, answers)) - after, places=10)

    def test_the_better_test_for_its_time_comes_first(self):
        self.assertEqual([one.test.id for one in proposals(self.case, [])], ["others", "meter"])
        dear = json.loads(small())
        dear["tests"][0]["minutes"] = 40
        self.assertEqual(
            [one.test.id for one in proposals(case_of(table_from(json.dumps(dear)), "dark", frozenset()), [])],
            ["meter", "others"],
        )

    def test_what_each_outcome_leads_to(self):
        others = proposals(self.case, [])[0]
        for outcome, (leading, chance) in enumerate(others.leads_to):
            first, its_chance = cause_chances(self.case, [TestAnswer("others", outcome)])[0]
            self.assertEqual(first, leading)
            self.assertAlmostEqual(its_chance, chance, places=12)

    def test_not_known_says_nothing_and_is_not_asked_again(self):
        np.testing.assert_allclose(
            hypothesis_chances(self.case, [TestAnswer("others", None)]), self.case.prior, rtol=1e-12
        )
        self.assertEqual([one.test.id for one in proposals(self.case, [TestAnswer("others", None)])], ["meter"])

    def test_what_would_say_the_same_again_is_not_asked(self):
        table = json.loads(small())
        table["tests"][1]["not_after"] = {"others": ["no"]}
        case = case_of(table_from(json.dumps(table)), "dark", frozenset())
        self.assertEqual([one.test.id for one in proposals(case, [TestAnswer("others", 0)])], ["meter"])
        self.assertEqual(proposals(case, [TestAnswer("others", 1)]), [])

    def test_a_job_raises_and_rules_out(self):
        raised = dict(cause_chances(case_of(self.table, "dark", frozenset(), {"wire": 9.0}), []))
        self.assertGreater(raised["wire"], 3 * dict(cause_chances(self.case, []))["wire"])
        without = case_of(self.table, "dark", frozenset(), {"bulb": 0.0})
        self.assertNotIn("bulb", without.cause_ids)
        self.assertIsNone(case_of(self.table, "dark", frozenset(), dict.fromkeys(("bulb", "fuse", "wire"), 0.0)))

    def test_a_cause_that_is_not_noted_for_a_symptom_stays_possible(self):
        found = case_of(self.table, "other", frozenset())
        np.testing.assert_allclose(found.prior, np.array([REST] * 3 + [REST / 2]) / (3.5 * REST))

    def test_a_remedy_that_did_not_help(self):
        left = without_causes(self.case, {"bulb"})
        self.assertEqual(cause_chances(left, [])[0][0], "fuse")
        self.assertAlmostEqual(left.prior.sum(), 1)

    def test_tables_that_do_not_fit_are_refused(self):
        for broken, words in (
            ({"causes": [cause("bulb", 6), cause("bulb", 1)]}, "twice"),
            ({"causes": [cause("bulb", 6, verify=["none"]), cause("fuse", 3), cause("wire", 1)]}, "none"),
            ({"groups": {"out": ["gone"]}}, "gone"),
            ({"pairs": [{"causes": ["bulb", "gone"], "share": 0.5, "why": ""}]}, "gone"),
            ({"tests": [lamp_test("others", 1, [0.9, 0.2], {})]}, "add up to 1"),
            ({"tests": [lamp_test("others", 1, [0.9, 0.1], {"bulb": [0.5, 0.3, 0.2]})]}, "2 chances"),
            ({"tests": [lamp_test("others", 1, [0.9, 0.1], {"@gone": [0.5, 0.5]})]}, "gone"),
            ({"tests": [lamp_test("others", 1, [0.9, 0.1], {}, not_after={"others": ["perhaps"]})]}, "perhaps"),
            ({"tests": [lamp_test("others", 0, [0.9, 0.1], {})]}, "minutes"),
        ):
            with self.assertRaises(RefusedInput, msg=broken) as caught:
                table_from(small(**broken))
            self.assertIn(words, str(caught.exception))


class OwnTable(unittest.TestCase):
    """The table that ships."""

    def setUp(self):
        self.table = usual_table()
        self.everything = frozenset(LACKS)

    def test_every_cause_has_a_test_of_its_own_and_a_symptom(self):
        for one in self.table.causes:
            telling = [test for test in self.table.tests if test.row_of(one.id, self.table.groups) is not None]
            self.assertTrue(telling, one.id)
            self.assertTrue(one.priors and one.remedy and one.verify and one.why, one.id)

    def test_traits_have_words(self):
        asked = {trait for one in (*self.table.causes, *self.table.tests) for trait in one.when}
        self.assertLessEqual(asked, set(LACKS))

    def test_no_two_causes_look_the_same_to_every_test(self):
        """Else nobody could tell them apart, and the search would stop at a guess."""
        rows = {}
        for one in self.table.causes:
            key = tuple(test.row_of(one.id, self.table.groups) or test.usual for test in self.table.tests)
            self.assertNotIn(key, rows, one.id)
            rows[key] = one.id

    def searched(self, rng, wrong):
        """One search on the table's own word, with so many answers wrong: the causes, the first three named."""
        symptom = rng.choice(self.table.symptoms).id
        case = case_of(self.table, symptom, self.everything)
        at = rng.choices(range(len(case.hypotheses)), case.prior)[0]
        answers = []
        while len(answers) < 25 and not is_named(cause_chances(case, answers)[0][1]):
            asked = proposals(case, answers)
            if not asked:
                break
            test = asked[0].test
            row = [(one - WRONG / len(test.outcomes)) / (1 - WRONG) for one in case.chances[test.id][at]]
            outcome = rng.choices(range(len(test.outcomes)), row)[0]
            outcome = rng.randrange(len(test.outcomes)) if rng.random() < wrong else outcome
            answers.append(TestAnswer(test.id, outcome))
        return case.hypotheses[at], [one for one, _ in cause_chances(case, answers)[:3]]

    @takes_long
    def test_it_finds_what_its_own_word_says(self):
        """A consistency check, not a proof about sites: the answers are drawn from the table."""
        for wrong, first, three in ((0.0, 0.85, 0.95), (0.05, 0.8, 0.9)):
            rng = random.Random(18)
            found = [self.searched(rng, wrong) for _ in range(200)]
            self.assertGreaterEqual(sum(named[0] in causes for causes, named in found) / 200, first)
            self.assertGreaterEqual(sum(bool(set(causes) & set(named)) for causes, named in found) / 200, three)

    def test_one_wrong_answer_does_not_hide_the_cause(self):
        """A wrong password, everything answered as it most likely comes out, but one answer the unlikeliest there is."""
        case = case_of(self.table, "no-picture", self.everything)
        for spoiled in range(3):
            answers = []
            while len(answers) < 12 and (asked := proposals(case, answers)):
                row = asked[0].test.row_of("password", self.table.groups) or asked[0].test.usual
                pick = min if len(answers) == spoiled else max
                answers.append(TestAnswer(asked[0].test.id, row.index(pick(row))))
            self.assertIn("password", [one for one, _ in cause_chances(case, answers)[:3]], spoiled)


if __name__ == "__main__":
    unittest.main()
