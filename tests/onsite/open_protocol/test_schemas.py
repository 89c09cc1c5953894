"""Every answer of the stand-ins is valid by the standard's own schemas, which a package of others brings along."""

import asyncio
import functools
import sys
import tempfile
import unittest
import warnings
from pathlib import Path

import xmlschema
from lxml import etree

from eager_lens.core.commission.ledger import put_back_plan
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule
from eager_lens.onsite.open_protocol.discovery import Announced, Search, answer_to
from eager_lens.onsite.open_protocol.names import (
    ANALYTICS,
    DEVICE,
    EVENTS,
    IMAGING,
    MEDIA,
    MEDIA2,
    NOTIFICATION,
    RECEIVER,
    RECORDING,
    REPLAY,
    SEARCH,
    SERVICES,
    SOAP,
)
from eager_lens.onsite.stand_ins.open_protocol import event_service
from eager_lens.onsite.stand_ins.open_protocol.state import path_of
from tests.onsite.base import small_job
from tests.onsite.commission.in_memory import Site, boxed_job
from tests.onsite.open_protocol.asking import PASSWORD, USER, answer_of, asked, every_question, stand_in_devices

SCHEMAS = Path(sys.prefix, "foreign", "onvif", "wsdl")
DESCRIPTIONS = {
    DEVICE: "ver10/device/wsdl/devicemgmt.wsdl",
    MEDIA: "ver10/media/wsdl/media.wsdl",
    MEDIA2: "ver20/media/wsdl/media.wsdl",
    IMAGING: "ver20/imaging/wsdl/imaging.wsdl",
    ANALYTICS: "ver20/analytics/wsdl/analytics.wsdl",
    EVENTS: "ver10/events/wsdl/event.wsdl",
    RECORDING: "ver10/recording.wsdl",
    SEARCH: "ver10/search.wsdl",
    REPLAY: "ver10/replay.wsdl",
    RECEIVER: "ver10/receiver.wsdl",
}
OF_BOTH = {
    "CreateUsers",
    "SetSystemDateAndTime",
    "SetNTP",
    "SetScopes",
    "SetVideoEncoderConfiguration",
    "CreateOSD",
    "DeleteOSD",
    "ModifyAnalyticsModules",
    "ModifyRules",
    "CreateRules",
    "SetNetworkInterfaces",
    "SetNetworkDefaultGateway",
}
SET_BY = {"new": OF_BOTH | {"CreateReceiver", "CreateRecording", "CreateRecordingJob"}, "old": OF_BOTH}
XSD = "http://www.w3.org/2001/XMLSchema"
WSDL = "http://schemas.xmlsoap.org/wsdl/"


@functools.cache
def schema():
    """The schemas in the descriptions of all services as one. They are of XSD 1.1 in all but name: other compilers refuse some
    of their types."""
    with tempfile.TemporaryDirectory() as folder:
        lines = [f'<xs:schema xmlns:xs="{XSD}" targetNamespace="urn:all">']
        for at, (namespace, name) in enumerate(DESCRIPTIONS.items()):
            described = SCHEMAS / name
            types = etree.parse(str(described)).getroot().find(f"{{{WSDL}}}types")
            inner = next(one for one in types if one.get("targetNamespace") == namespace)
            for one in inner.iter(f"{{{XSD}}}import"):
                one.set("schemaLocation", (described.parent / one.get("schemaLocation")).resolve().as_uri())
            path = Path(folder, f"{at}.xsd")
            path.write_bytes(etree.tostring(inner))
            lines.append(f'<xs:import namespace="{namespace}" schemaLocation="{path.as_uri()}"/>')
        whole = Path(folder, "all.xsd")
        whole.write_text("".join(lines) + "</xs:schema>")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return xmlschema.XMLSchema11(str(whole), validation="lax", allow="local", use_fallback=False)


def body_of(answer):
    """The first element in an answer's body."""
    root = etree.fromstring(answer.body.encode())
    return root.find(f"{{{SOAP}}}Body")[0]


class Answers(unittest.TestCase):
    def assert_valid(self, element):
        text = etree.tostring(element).decode()
        self.assertIn(
            f"{{{element.tag[1:].partition('}')[0]}}}{etree.QName(element).localname}", schema().maps.elements
        )
        for error in schema().iter_errors(text):
            self.fail(f"{error.path}: {error.reason}\n{text[:1500]}")

    def test_each_answer_of_each_kind_of_device(self):
        devices = stand_in_devices(small_job(2), "rule-off=Camera 2")
        asked_for = set()
        for device in devices.values():
            for namespace, question in every_question(device):
                with self.subTest(device.stand_in.role, question=question, service=SERVICES[namespace]):
                    answer = answer_of(device, namespace, question)
                    self.assertEqual(answer.status, 200, answer.body)
                    self.assert_valid(body_of(answer))
                    asked_for.add((namespace, question))
        self.assertGreaterEqual(len(asked_for), 40)

    def test_the_schemas_refuse_what_is_not_by_them(self):
        device = stand_in_devices(small_job(1))["cam-1"]
        for namespace, question, right, wrong in (
            (MEDIA, "GetProfiles", "<tt:Width>320</tt:Width>", "<tt:Width>wide</tt:Width>"),
            (MEDIA2, "GetProfiles", "<tt:Encoding>", "<tt:Coding>"),
            (DEVICE, "GetSystemDateAndTime", "NTP", "GPS2"),
        ):
            with self.subTest(question):
                answer = answer_of(device, namespace, question)
                self.assertIn(right, answer.body)
                spoiled = answer.body.replace(right, wrong).replace(
                    "</tt:Encoding>", "</tt:Coding>" if "Coding" in wrong else "</tt:Encoding>"
                )
                with self.assertRaises(self.failureException):
                    self.assert_valid(body_of(answer._replace(body=spoiled)))

    def test_whatever_is_set_and_what_is_answered_to_that(self):
        line = {"begins": (0.2, 0.5), "ends": (0.8, 0.5), "direction": "to the left"}
        rule = {"motion_rule": MotionRule(line=CrossingLine(**line))}
        for fault, times in (("", "new"), ("loose-answers=Camera 1", "old")):
            site = Site(boxed_job(1, [rule]), (fault,) if fault else ())
            self.addCleanup(site.close)
            taken = self.listened(site)
            site.set(put_back_plan(site.set()), puts_back=True)
            for question, answer in taken.items():
                with self.subTest(times, question=question[1]):
                    for text in (question[2], answer):
                        body = etree.fromstring(text).find(f"{{{SOAP}}}Body")[0]
                        self.assert_valid(body)
            self.assertGreaterEqual({name for _, name, _ in taken}, SET_BY[times])

    def listened(self, site):
        """The first of each question that sets anything, with its answer."""
        taken, answers = {}, site.memory.answer

        async def answer(method, url, headers, body):
            given = await answers(method, url, headers, body)
            question = etree.fromstring(body).find(f"{{{SOAP}}}Body")[0]
            name = etree.QName(question).localname
            if given.status == 200 and not name.startswith("Get"):
                taken.setdefault((etree.QName(question).namespace, name, body), given.body.encode())
            return given

        site.memory.answer = answer
        return taken

    def test_events_and_their_subscription(self):
        device = stand_in_devices(small_job(1))["cam-1"]
        made = body_of(answer_of(device, EVENTS, "CreatePullPointSubscription"))
        self.assert_valid(made)
        address = next(made.iter("{http://www.w3.org/2005/08/addressing}Address")).text
        question = asked(
            EVENTS, "PullMessages", "<tev:Timeout>PT0S</tev:Timeout><tev:MessageLimit>5</tev:MessageLimit>"
        )
        pulled = asyncio.run(device.services.answer(question._replace(target="/" + address.split("/", 3)[3])))
        message = body_of(pulled)
        self.assert_valid(message)
        self.assertIn(event_service.TOPIC, etree.tostring(message).decode())
        question = question._replace(target="/" + address.split("/", 3)[3])
        again = body_of(asyncio.run(device.services.answer(question)))
        self.assertIsNone(again.find(f"{{{NOTIFICATION}}}NotificationMessage"))  # nothing changed since

    def test_faults_have_the_codes_of_the_standard(self):
        device = stand_in_devices(small_job(1))["cam-1"]
        refused = answer_of(device, MEDIA, "GetProfile", inside="<trt:ProfileToken>none</trt:ProfileToken>")
        self.assertEqual(refused.status, 400)
        self.assertIn("ter:InvalidArgVal", refused.body)
        self.assertIn("ter:ActionNotSupported", answer_of(device, DEVICE, "SystemReboot2").body)
        asked_in = answer_of(device, DEVICE, "GetUsers", login=False)
        self.assertEqual(asked_in.status, 401)
        self.assertIn("ter:NotAuthorized", asked_in.body)
        self.assertIn("Digest ", asked_in.headers["WWW-Authenticate"])

    def test_out_of_its_box_it_takes_its_first_user_and_then_wants_a_log_in(self):
        device = stand_in_devices(small_job(1), "out-of-box=Camera 1")["cam-1"]
        self.assertNotIn("Username", answer_of(device, DEVICE, "GetUsers", login=False).body)
        level = "<tt:UserLevel>Administrator</tt:UserLevel>"
        user = f"<tds:User><tt:Username>{{}}</tt:Username><tt:Password>{{}}</tt:Password>{level}</tds:User>"
        weak = answer_of(device, DEVICE, "CreateUsers", inside=user.format(USER, "abc"), login=False)
        self.assertEqual((weak.status, device.is_set_up), (400, False))
        self.assertIn("ter:PasswordTooWeak", weak.body)
        made = answer_of(device, DEVICE, "CreateUsers", inside=user.format(USER, PASSWORD), login=False)
        self.assert_valid(body_of(made))
        self.assertTrue(device.is_set_up)
        self.assertEqual(answer_of(device, DEVICE, "GetUsers", login=False).status, 401)
        self.assertEqual(answer_of(device, DEVICE, "GetUsers").status, 401)  # its clock is years off
        device.clock.set_ahead(0.0)
        self.assertIn(USER, answer_of(device, DEVICE, "GetUsers").body)

    def test_a_search_answer_names_the_device_service(self):
        device = Announced("02:5b:1e:00:01:01", "Hall", "Quillmark B4", f"http://172.22.40.40:80{path_of(DEVICE)}")
        root = etree.fromstring(answer_to(device, Search("urn:uuid:1", (), ())))
        self.assertTrue(next(root.iter("{*}XAddrs")).text.endswith(path_of(DEVICE)))
