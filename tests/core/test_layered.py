"""Places of boxes: no two overlap, columns stand in order, a stack stands along what hangs on it."""

import random
import unittest

from eager_lens.core.wiring.layered import Size, Stack, placed


def random_stack(source, name, depth):
    boxes = [f"{name}.{n}" for n in range(source.choice((1, 1, 1, 2)))]
    below = [random_stack(source, f"{name}-{n}", depth - 1) for n in range(source.randrange(4) if depth else 0)]
    return Stack(boxes, below)


def all_boxes(stack):
    yield from stack.boxes
    for child in stack.below:
        yield from all_boxes(child)


class Placed(unittest.TestCase):
    def test_no_two_boxes_overlap(self):
        for seed in range(40):
            source = random.Random(seed)
            roots = [random_stack(source, f"r{n}", 4) for n in range(3)]
            boxes = [box for root in roots for box in all_boxes(root)]
            sizes = {box: Size(source.choice((120, 170)), source.choice((28, 46))) for box in boxes}
            spots = placed(roots, sizes)
            self.assertEqual(set(spots), set(boxes))
            ordered = sorted(spots.values())
            for at, one in enumerate(ordered):
                for other in ordered[at + 1 :]:
                    apart = (
                        one.x + one.width <= other.x
                        or other.x + other.width <= one.x
                        or one.y + one.height <= other.y
                        or other.y + other.height <= one.y
                    )
                    self.assertTrue(apart, (seed, one, other))

    def test_what_hangs_on_a_stack_is_in_the_next_column_and_around_it(self):
        leaves = [Stack([name]) for name in "abc"]
        spots = placed([Stack(["root"], leaves)], dict.fromkeys(["root", *"abc"], Size(100, 20)))
        self.assertEqual([spots[name].column for name in ("root", *"abc")], [0, 1, 1, 1])
        self.assertEqual(spots["root"].y + 10, spots["b"].y + 10)
        self.assertGreater(spots["a"].x, spots["root"].x + 100)

    def test_a_tall_stack_has_its_one_child_half_way(self):
        spots = placed([Stack(["up", "low"], [Stack(["leaf"])])], dict.fromkeys(("up", "low", "leaf"), Size(100, 40)))
        self.assertGreater(spots["low"].y, spots["up"].y + 40)
        middle = (spots["up"].y + spots["low"].y + 40) / 2
        self.assertAlmostEqual(spots["leaf"].y + 20, middle, delta=5)

    def test_nothing_is_placed_nowhere(self):
        self.assertEqual(placed([], {}), {})


if __name__ == "__main__":
    unittest.main()
