"""Templates: saved from any job without what is one site's own, and begun from on the start page."""

import unittest

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QPushButton

from eager_lens.core.firm.template import as_template
from eager_lens.core.job.file import read_job
from tests.desk.base import WindowCase
from tests.support import demo_job


class Pattern(unittest.TestCase):
    def test_what_belongs_to_one_site_goes_and_the_plan_stays(self):
        job, made = demo_job(), as_template(demo_job())
        self.assertEqual((made.customer, made.site, made.contact, made.checks), ("", "", "", ()))
        self.assertEqual(
            (made.name, made.links, made.schedules, made.exceptions),
            (job.name, job.links, job.schedules, job.exceptions),
        )
        self.assertFalse(any(one.mac_address or one.serial for one in made.devices()))
        self.assertFalse(any(one.measured_mbps or one.measured_when for one in made.cameras))
        self.assertEqual([one.address for one in made.cameras], [one.address for one in job.cameras])
        self.assertIs(as_template(made).cameras[0].motion_rule, made.cameras[0].motion_rule)


class OnTheStartPage(WindowCase):
    def button(self, name):
        """The button that is in sight; those of the page before it are on their way out."""
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        found = [
            one for one in self.window.start.findChildren(QPushButton) if name in (one.text(), one.accessibleName())
        ]
        return found[0] if found else None

    def test_a_job_is_saved_as_a_template_begun_from_and_removed(self):
        self.open_demo()
        self.window.run("save-template")
        (path,) = self.window.templates.paths()
        self.assertEqual(read_job(path).job, as_template(demo_job()))
        self.asker.answers.append(1)
        self.window.run("save-template")
        self.assertIn("already", self.asker.asked[-1])
        self.window.show_start()
        self.click(self.button("Brindlemoor Tramway"))
        self.assertEqual(self.session.job, as_template(demo_job()))
        self.assertIsNone(self.session.path, "the template is not written over")
        self.window.show_start()
        for answer, left in ((1, 1), (0, 0)):
            self.asker.answers.append(answer)
            self.click(self.button("Remove the template Brindlemoor Tramway"))
            self.assertEqual(len(self.window.templates.paths()), left)
        self.assertIsNone(self.button("Brindlemoor Tramway"))

    def test_one_that_cannot_be_read_is_told(self):
        folder = self.session.config_folder / "templates"
        folder.mkdir(parents=True)
        (folder / "Broken.lens.json").write_text("{", "utf-8")
        self.window.show_start()
        self.click(self.button("Broken"))
        self.assertFalse(self.session.is_open)
        self.assertTrue(self.notices[-1].needs)


if __name__ == "__main__":
    unittest.main()
