"""Loads and failures on networks: against sums done by hand, and against taking every part out in turn."""

import random
import unittest

from eager_lens.core.wiring.network import Flow, Network, Wire, link_loads, needed_by, stopped_by


def reachable(devices, wires, target, without=None):
    """Devices with a way to the target when one device or link is taken out: by plain search."""
    devices = set(devices) - {without}
    if target not in devices:
        return set()
    found, waiting = {target}, [target]
    while waiting:
        here = waiting.pop()
        for wire in wires:
            if wire.id != without and here in (wire.a, wire.b):
                other = wire.b if here == wire.a else wire.a
                if other in devices and other not in found:
                    found.add(other)
                    waiting.append(other)
    return found


def random_network(source, devices, wires):
    names = [f"d{n}" for n in range(devices)]
    made = [Wire(f"w{n}", source.choice(names), source.choice(names), 100) for n in range(wires)]
    made += [
        Wire(f"t{n}", names[n], names[source.randrange(n)], 100) for n in range(1, devices) if source.random() < 0.85
    ]
    return names, [wire for wire in made if wire.a != wire.b]


class ByHand(unittest.TestCase):
    """Two cameras on a yard switch, one on the hall switch, the recorder and the router on the hall switch."""

    DEVICES = ("rec", "hall", "yard", "router", "c1", "c2", "c3", "lost")
    WIRES = (
        Wire("up", "hall", "rec", 1000),
        Wire("trunk", "yard", "hall", 1000),
        Wire("out", "hall", "router", 1000),
        Wire("p1", "yard", "c1", 100),
        Wire("p2", "c2", "yard", 100),
        Wire("p3", "hall", "c3", 100),
    )

    def setUp(self):
        self.network = Network(self.DEVICES, self.WIRES)

    def test_loads_along_the_way(self):
        streams = [Flow("c1", "rec", 4), Flow("c2", "rec", 6), Flow("c3", "rec", 1), Flow("rec", "router", 2)]
        loads = link_loads(self.network, streams)
        self.assertEqual((loads["p1"].back_mbps, loads["p1"].forth_mbps), (4, 0))
        self.assertEqual(loads["p2"].forth_mbps, 6)
        self.assertEqual(loads["trunk"].forth_mbps, 10)
        self.assertEqual((loads["up"].forth_mbps, loads["up"].back_mbps), (11, 2))
        self.assertEqual(loads["out"].forth_mbps, 2)
        self.assertEqual(loads["up"].worst_mbps, 11)

    def test_a_stream_without_a_way_is_told(self):
        got = link_loads(self.network, [Flow("lost", "rec", 3), Flow("c1", "nowhere", 1)])
        self.assertEqual([stream.source for stream in got.unreached], ["lost", "c1"])
        self.assertEqual(sum(load.worst_mbps for load in got.values()), 0)

    def test_who_stops_with_what(self):
        lost = needed_by(self.network, "rec")
        self.assertEqual(lost["yard"], {"yard", "c1", "c2"})
        self.assertEqual(lost["trunk"], {"yard", "c1", "c2"})
        self.assertEqual(lost["p3"], {"c3"})
        self.assertEqual(lost["router"], {"router"})
        self.assertEqual(lost["hall"], {"hall", "yard", "router", "c1", "c2", "c3"})
        self.assertNotIn("lost", {device for cut in lost.values() for device in cut})

    def test_a_second_way_takes_the_weight_off(self):
        ringed = Network(self.DEVICES, (*self.WIRES, Wire("ring", "yard", "rec", 1000)))
        lost = needed_by(ringed, "rec")
        self.assertEqual(lost["yard"], {"yard", "c1", "c2"})
        self.assertNotIn("trunk", lost)
        self.assertEqual(lost["hall"], {"hall", "router", "c3"})
        self.assertEqual(ringed.loop_links(), ["ring"])
        self.assertEqual(self.network.loop_links(), [])

    def test_links_with_an_unknown_end_or_to_themselves_are_left_out(self):
        network = Network(("a", "b"), (Wire("x", "a", "gone", 1), Wire("y", "a", "a", 1), Wire("z", "a", "b", 1)))
        self.assertEqual(list(network.wires), ["z"])


class AgainstBruteForce(unittest.TestCase):
    def test_failures(self):
        for seed in range(60):
            source = random.Random(seed)
            names, wires = random_network(source, source.randint(2, 14), source.randint(0, 8))
            target = names[0]
            lost = needed_by(Network(names, wires), target)
            whole = reachable(names, wires, target)
            for part in (*names[1:], *(wire.id for wire in wires)):
                gone = whole - reachable(names, wires, target, part)
                with self.subTest(seed=seed, part=part):
                    self.assertEqual(set(lost.get(part, ())), gone)

    def test_what_stops_when_a_part_fails(self):
        for seed in range(60):
            source = random.Random(seed)
            names, wires = random_network(source, source.randint(2, 14), source.randint(0, 6))
            target = source.choice(names)
            cameras = set(source.sample(names, source.randint(1, len(names)))) - {target}
            stops = stopped_by(Network(names, wires), target, cameras)
            before = reachable(names, wires, target) & cameras
            for part in (*names, *(wire.id for wire in wires)):
                gone = before - reachable(names, wires, target, part) - {part}
                with self.subTest(seed=seed, part=part):
                    self.assertEqual(stops.get(part, set()), gone)

    def test_loads_are_those_of_each_stream_walked_by_itself(self):
        for seed in range(30):
            source = random.Random(seed)
            names, wires = random_network(source, 12, 4)
            network = Network(names, wires)
            streams = [Flow(source.choice(names), source.choice(names[:3]), source.randint(1, 9)) for _ in range(25)]
            wanted = {wire.id: [0.0, 0.0] for wire in wires}
            for stream in streams:
                if stream.source not in reachable(names, wires, stream.target):
                    continue
                way, here = network.toward(stream.target), stream.source
                while here != stream.target:
                    wire_id, following = way.get(here) or network.leaves[here]
                    wanted[wire_id][0 if network.wires[wire_id].a == here else 1] += stream.rate_mbps
                    here = following
            got = link_loads(network, streams)
            with self.subTest(seed=seed):
                self.assertEqual({wire_id: list(load) for wire_id, load in got.items()}, wanted)

    def test_the_way_is_a_shortest_one(self):
        source = random.Random(3)
        names, wires = random_network(source, 30, 25)
        network = Network(names, wires)
        way = network.toward("d0")
        for start in way:
            steps, here = 0, start
            while here != "d0":
                here = way[here][1]
                steps += 1
            frontier, shortest = {start}, 0
            while "d0" not in frontier:
                frontier |= {w.b if w.a in frontier else w.a for w in wires if (w.a in frontier) != (w.b in frontier)}
                shortest += 1
            with self.subTest(start):
                self.assertEqual(steps, shortest)


if __name__ == "__main__":
    unittest.main()
