"""Lists of the usual search tools: each host once, what is no answer passed over and said, every spelling of a MAC address."""

import unittest

from eager_lens.core.errors import DamagedFile, RefusedInput
from eager_lens.core.scan.found import compared
from eager_lens.core.scan.scan_list import scan_list
from eager_lens.core.scan.scan_text import scan_table
from tests.support import camera, job_with

MAC = "02:5b:1e:00:00:40"
NEIGHBOURS = """172.22.40.1 dev eth0 lladdr 02:5b:1e:00:00:01 router REACHABLE
172.22.40.40 dev eth0 lladdr 02:5b:1e:00:00:40 STALE
172.22.40.41 dev eth0  FAILED
172.22.40.42 dev eth0  INCOMPLETE
172.22.40.43 dev eth0 lladdr 02:5b:1e:00:00:43 used 12/10/8 probes 1 DELAY
fe80::5b:1eff:fe00:40 dev eth0 lladdr 02:5b:1e:00:00:40 STALE
"""
ADDRESS_TABLE = """? (172.22.40.40) at 2:5b:1e:0:0:40 on en0 ifscope [ethernet]
gate.lan (172.22.40.41) at 02:5b:1e:00:00:41 [ether] on eth0
? (172.22.40.42) at <incomplete> on eth0
? (172.22.40.43) at (incomplete) on en0 ifscope [ethernet]
? (224.0.0.251) at 1:0:5e:0:0:fb on en0 ifscope permanent [ethernet]
"""
ADDRESS_TABLE_ALIGNED = """Address                  HWtype  HWaddress           Flags Mask            Iface
172.22.40.40             ether   02:5b:1e:00:00:40   C                     eth0
172.22.40.42                     (incomplete)                              eth0
"""
ANOTHER_SYSTEM = """
Interface: 172.22.40.9 --- 0xb
  Internet Address      Physical Address      Type
  172.22.40.40          02-5b-1e-00-00-40     dynamic
  172.22.40.255         ff-ff-ff-ff-ff-ff     static
  224.0.0.22            01-00-5e-00-00-16     static
"""
KERNEL_TABLE = """IP address       HW type     Flags       HW address            Mask     Device
172.22.40.40     0x1         0x2         02:5b:1e:00:00:40     *        eth0
172.22.40.42     0x1         0x0         00:00:00:00:00:00     *        eth0
"""
PORT_REPORT = """Starting scan at 2026-12-01 17:00
Scan report for gate.lan (172.22.40.40)
Host is up (0.0010s latency).
PORT    STATE SERVICE
80/tcp  open  http
554/tcp open  rtsp
MAC Address: 02:5B:1E:00:00:40 (A maker)

Scan report for 172.22.40.41
Host is up.
80/tcp open http
Scan report for 172.22.40.42 [host down, received no-response]
Scan done: 256 IP addresses (2 hosts up) scanned in 2.41 seconds
"""
BY_PORT = """# 256 addresses, 2026-12-01
Host: 172.22.40.40 (gate)\tStatus: Up
Host: 172.22.40.40 (gate)\tPorts: 80/open/tcp//http///, 554/open/tcp//rtsp///
Host: 172.22.40.42 ()\tStatus: Down
"""
SWEEP = """172.22.40.40 is alive
172.22.40.42 is unreachable
64 bytes from 172.22.40.41: icmp_seq=1 ttl=64 time=0.3 ms
"""
ARP_SWEEP = """Interface: eth0, type: EN10MB, MAC: 02:00:00:00:00:99, IPv4: 172.22.40.9
Starting a sweep with 256 hosts
172.22.40.40\t02:5b:1e:00:00:40\tA maker
172.22.40.40\t02:5b:1e:00:00:40\tA maker (DUP: 2)
172.22.40.64\t02:5b:1e:00:00:51\tA maker
172.22.40.64\t02:5b:1e:00:00:52\tA maker

4 packets received, 0 dropped
"""
LEASES = """lease 172.22.40.40 {
  starts 2 2026/12/01 08:00:00;
  binding state active;
  hardware ethernet 02:5b:1e:00:00:40;
  client-hostname "gate";
}
lease 172.22.40.42 {
  binding state free;
  hardware ethernet 02:5b:1e:00:00:42;
}
"""
LEASE_LINES = "1764600000 02:5b:1e:00:00:40 172.22.40.40 gate 01:02:5b:1e:00:00:40\n"
NAMES = "+;eth0;IPv4;Gate;_http._tcp;local\n=;eth0;IPv4;Gate;_http._tcp;local;gate.local;172.22.40.40;80;\n"
ROUTER_TABLE = """Protocol Address Age (min) Hardware Addr Type Interface
Internet  172.22.40.40            12   025b.1e00.0040  ARPA   Vlan40
Internet  172.22.40.42             0   Incomplete      ARPA
"""
JSON = """[{"dst": "172.22.40.40", "dev": "eth0", "lladdr": "02:5b:1e:00:00:40", "state": ["REACHABLE"]},
 {"dst": "172.22.40.42", "dev": "eth0", "state": ["FAILED"]}, {"dst": "fe80::1", "lladdr": "02:5b:1e:00:00:40"}]"""
XML = """<?xml version="1.0"?><scan><host><status state="up"/><address addr="172.22.40.40" addrtype="ipv4"/>
<address addr="02:5B:1E:00:00:40" addrtype="mac" vendor="x"/><hostnames><hostname name="gate"/></hostnames></host>
<host><status state="down"/><address addr="172.22.40.42" addrtype="ipv4"/></host></scan>"""
COLUMNS = """IP;Status;Hostname
172.22.40.40;Up;gate
172.22.40.42;Down;
# 172.22.40.50 is kept free
"""
STATE_LISTS = {
    "neighbour table": NEIGHBOURS,
    "address table": ADDRESS_TABLE,
    "aligned address table": ADDRESS_TABLE_ALIGNED,
    "address table of another system": ANOTHER_SYSTEM,
    "router's table": ROUTER_TABLE,
    "kernel's table": KERNEL_TABLE,
    "port report": PORT_REPORT,
    "a line for each port": BY_PORT,
    "ping sweep": SWEEP,
    "address sweep": ARP_SWEEP,
    "leases": LEASES,
    "lease lines": LEASE_LINES,
    "name service": NAMES,
    "JSON": JSON,
    "XML": XML,
    "columns": COLUMNS,
}


def read(text):
    return scan_list(scan_table(text))


class Lists(unittest.TestCase):
    def test_what_nothing_answered_to_is_no_answer(self):
        for name, text in STATE_LISTS.items():
            got = read(text)
            addresses = [one.address for one in got.answers]
            with self.subTest(name):
                self.assertIn("172.22.40.40", addresses)
                self.assertNotIn("172.22.40.42", addresses)
                self.assertFalse([one for one in addresses if one.startswith(("224.", "172.22.40.255", "172.22.40.9"))])
                if "172.22.40.42" in text:
                    self.assertTrue(any("no device answered there" in one for one in got.problems), got.problems)

    def test_the_mac_address_and_the_name_go_with_the_host(self):
        for name, text in STATE_LISTS.items():
            gate = next(one for one in read(text).answers if one.address == "172.22.40.40")
            with self.subTest(name):
                if "5b" in text.lower():
                    self.assertEqual(gate.mac_address, MAC)
                if "gate" in text.lower() and name not in ("address table",):
                    self.assertEqual(gate.name.lower(), "gate.lan" if "gate.lan" in text else "gate")

    def test_one_answer_for_a_host_and_two_for_two_devices(self):
        for name, text in STATE_LISTS.items():
            macs = [(one.address, one.mac_address) for one in read(text).answers]
            with self.subTest(name):
                self.assertEqual(len(set(macs)), len(macs))
                self.assertEqual(sum(one.endswith(".64") for one, _ in macs), 2 * (name == "address sweep"))

    def test_every_spelling_of_a_mac_address(self):
        spellings = [
            "02:5b:1e:00:00:40",
            "2:5b:1e:0:0:40",
            "02-5B-1E-00-00-40",
            "025b.1e00.0040",
            "025B1E000040",
            "025b1e-000040",
        ]
        for spelling in spellings:
            with self.subTest(spelling):
                self.assertEqual(read(f"172.22.40.40  {spelling}\n").answers[0].mac_address, MAC)
                self.assertEqual(read(f"IP,MAC\n172.22.40.40,{spelling}\n").answers[0].mac_address, MAC)

    def test_a_serial_of_twelve_digits_is_no_mac_address(self):
        self.assertEqual(read("172.22.40.40 123456789012\n").answers[0].mac_address, "")

    def test_group_addresses_and_comments_are_passed_over_and_said(self):
        got = read("# spare: 172.22.40.77\n// 172.22.40.78\n239.255.255.250\n255.255.255.255\n172.22.40.40\n")
        self.assertEqual([one.address for one in got.answers], ["172.22.40.40"])
        self.assertEqual(
            list(got.problems),
            [
                "2 rows skipped (first row 1): a comment",
                "2 rows skipped (first row 3): a group address, not a device",
            ],
        )

    def test_ports_of_a_switch_and_ipv6_neighbours(self):
        got = read("  40  025b.1e00.0040  DYNAMIC  Gi0/3\n40 02:5b:1e:00:00:41 static 7\n")
        self.assertEqual([one.mac_address for one in got.answers], [MAC, "02:5b:1e:00:00:41"])
        self.assertEqual([one.name for one in got.answers], ["", ""])
        got = read(f"fe80::1 dev eth0 lladdr {MAC} router STALE\n08:30:00 seen {MAC}\n")
        self.assertEqual([one.mac_address for one in got.answers], [MAC])
        self.assertEqual(got.problems, ("1 row skipped (row 1): an IPv6 address; the plan's addresses are of IPv4",))

    def test_only_silent_entries_are_refused_with_the_reason(self):
        with self.assertRaises(RefusedInput) as caught:
            read("172.22.40.41 dev eth0 FAILED\n")
        self.assertIn("no device answered there", str(caught.exception))

    def test_hostile_xml_and_odd_texts_are_refused_or_read_as_lines(self):
        for text in ("<!DOCTYPE x [<!ENTITY a 'b'>]><x/>", "<scan><host>", "[]", "{}"):
            with self.subTest(text), self.assertRaises(DamagedFile):
                scan_table(text)
        self.assertEqual(read("[17:02] 172.22.40.40 answered\n").answers[0].address, "172.22.40.40")


class WithoutMacAddresses(unittest.TestCase):
    def test_nothing_is_concluded_from_what_a_list_does_not_tell(self):
        job = job_with([camera(n, mac_address=f"02:00:00:00:00:{n:02x}", serial=f"S{n}") for n in range(1, 46)])
        got = read("".join(f"172.22.40.{39 + n}\n" for n in range(1, 46)))
        self.assertFalse(got.has_macs)
        found = [one for one in compared(job, got.answers) if one.seen is not None]
        self.assertEqual({one.outcome for one in found}, {"by address alone"})
        self.assertTrue(all("no MAC address was seen to compare" in one.words for one in found))


if __name__ == "__main__":
    unittest.main()
