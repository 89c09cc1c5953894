"""Two states of a job compared: nothing that a file can hold is overlooked, and differences make one state of the other."""

import unittest

from eager_lens.core.job.differences import ORDER, differences, with_differences
from eager_lens.core.job.edits import remove_devices, set_fields
from eager_lens.core.job.model import EMPTY_JOB, JOB_LISTS, Job, changed
from tests.support import demo_job


def other(value):
    """Another value of the same kind, or None where a test cannot think of one."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, str):
        return None
    if isinstance(value, int | float):
        return value + 1
    return None


class Differences(unittest.TestCase):
    def setUp(self):
        self.job = demo_job()

    def test_a_job_does_not_differ_from_itself(self):
        self.assertEqual(list(differences(self.job, self.job.model_copy())), [])

    def test_one_state_becomes_the_other(self):
        for before, now in ((EMPTY_JOB, self.job), (self.job, EMPTY_JOB)):
            again = with_differences(before, differences(before, now))
            self.assertEqual(again, now)

    def test_every_number_of_every_part_is_compared(self):
        tried = 0
        for name in JOB_LISTS:
            parts = getattr(self.job, name)
            if not parts:
                continue
            for field in type(parts[0]).model_fields:
                value = other(getattr(parts[0], field))
                if value is None:
                    continue
                part = parts[0].model_copy(update={field: value})
                job = self.job.model_copy(update={name: (part, *parts[1:])})
                found = list(differences(self.job, job))
                with self.subTest(f"{name}.{field}"):
                    said = [one.now if one.field else getattr(one.now, field, None) for one in found]
                    self.assertIn(value, said)
                    self.assertEqual({one.list for one in found}, {name})
                tried += 1
        self.assertGreater(tried, 80)

    def test_every_single_value_is_compared(self):
        for name in Job.model_fields:
            if name in JOB_LISTS:
                continue
            value = getattr(self.job, name)
            if isinstance(value, str):
                job = self.job.model_copy(update={name: value + "x"})
            elif isinstance(value, int | float):
                job = self.job.model_copy(update={name: value + 1})
            elif value is None:
                continue
            else:
                field = next(field for field in type(value).model_fields if other(getattr(value, field)) is not None)
                part = value.model_copy(update={field: other(getattr(value, field))})
                job = self.job.model_copy(update={name: part})
            with self.subTest(name):
                self.assertEqual([one.list for one in differences(self.job, job)], [name])

    def test_the_order_of_exceptions_counts(self):
        twice = changed(
            self.job,
            exceptions=(
                *self.job.exceptions,
                *(one.model_copy(update={"id": one.id + "-2"}) for one in self.job.exceptions),
            ),
        )
        turned = changed(twice, exceptions=twice.exceptions[::-1])
        (found,) = differences(twice, turned)
        self.assertEqual(found.field, ORDER)
        self.assertEqual(with_differences(twice, [found]), turned)

    def test_parts_that_are_gone_are_left_out(self):
        camera = self.job.cameras[0].id
        found = list(differences(self.job, set_fields([camera], "x", fps=7).apply(self.job)))
        without = remove_devices([camera], "x").apply(self.job)
        self.assertEqual(with_differences(without, found), without)

    def test_tests_made_in_one_minute_are_told_apart(self):
        check = self.job.checks[0]
        twice = changed(self.job, checks=(*self.job.checks, check))
        (found,) = differences(self.job, twice)
        self.assertEqual((found.list, found.now), ("checks", check))
        self.assertEqual(with_differences(self.job, [found]), twice)


if __name__ == "__main__":
    unittest.main()
