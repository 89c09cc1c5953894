"""The firm's lists in the window: kept, begun with, exported and imported."""

from eager_lens.core.firm.label_stock import STOCKS
from eager_lens.core.firm.lists import FirmLists, read_firm, write_firm
from eager_lens.core.job.edits import set_charges
from eager_lens.core.job.prices import Charges, PartPrice
from tests.desk.base import WindowCase
from tests.support import camera, job_with


class FirmsLists(WindowCase):
    def view(self):
        view = self.window.firm.view
        self.assertTrue(view.isVisible())
        return view

    def lists(self):
        return read_firm(self.session.config_folder / "firm-lists.json")

    def test_what_differs_is_a_choice_and_can_be_taken_back(self):
        self.open_job(job_with([camera(1)]))
        write_firm(
            self.session.config_folder / "firm-lists.json", FirmLists(charges=Charges(currency="EUR", rate_per_h=60))
        )
        theirs = FirmLists(charges=Charges(currency="USD", rate_per_h=90), prices=(PartPrice(what="Plug", price=1),))
        path = self.folder / "theirs.firm.json"
        write_firm(path, theirs)
        self.asker.files = [path, path]
        self.window.run("firm-import")
        view = self.view()
        row = self.row_named(view.table, "Rate and tax")
        self.assertEqual(self.cell(view.table, row, "here"), "60 EUR an hour, tax 0 %")
        self.assertEqual(self.cell(view.table, row, "fate"), "keep")
        self.assertIn("1 that differ stay unchanged", view.words.text())
        self.press(view, "Apply 1 entry")
        self.assertEqual((self.lists().charges.rate_per_h, self.lists().prices[0].what), (60, "Plug"))
        self.window.run("firm-import")
        view = self.view()
        columns = [column.id for column in view.table.records.columns]
        row = self.row_named(view.table, "Rate and tax")
        view.table.records.setData(view.table.records.index(row, columns.index("fate")), "take")
        self.press(view, "Apply 1 entry")
        self.assertEqual(self.lists().charges.rate_per_h, 90)
        self.press(self.window.notices, "Undo")
        self.assertEqual(self.lists().charges.rate_per_h, 60)

    def test_entries_can_be_removed(self):
        write_firm(self.session.config_folder / "firm-lists.json", FirmLists(prices=(PartPrice(what="Plug", price=1),)))
        self.open_job(job_with([camera(1)]))
        self.window.run("firm-keep")
        view = self.view()
        columns = [column.id for column in view.table.records.columns]
        view.table.records.setData(view.table.records.index(0, columns.index("fate")), "remove")
        self.press(view, "Apply 1 entry")
        self.assertEqual(self.lists().prices, ())

    def test_kept_from_one_job_and_begun_with_in_the_next(self):
        self.open_job(job_with([camera(1)]))
        self.window.run("firm-keep")
        self.assertIn("no make profiles, mounting list, prices or rates", self.last_notice())
        self.session.apply(set_charges("Set the rate", rate_per_h=60, currency="EUR"))
        self.window.run("firm-keep")
        self.assertIn("1 will be added", self.view().words.text())
        self.press(self.view(), "Apply 1 entry")
        self.assertIn("1 entry of the firm's lists changed", self.last_notice())
        self.asker.answers = [1]
        self.window.run("new")
        self.assertEqual(self.session.job.charges.rate_per_h, 60)

    def test_to_a_colleague_and_back(self):
        self.open_job(job_with([camera(1)]))
        self.window.run("firm-take")
        self.assertIn("no lists on this computer yet", self.last_notice())
        prices = '"prices": [{"what": "Plug", "price": 0.2}]'
        theirs = self.write("theirs.firm.json", '{"format": "eager-lens-firm", "version": 1, ' + prices + "}")
        out = self.folder / "out.firm.json"
        self.asker.files = [theirs, out]
        self.window.run("firm-import")
        self.press(self.view(), "Apply 1 entry")
        self.window.run("firm-export")
        self.assertEqual(read_firm(out).prices[0].what, "Plug")
        self.window.run("firm-take")
        self.press(self.view(), "Apply 1 entry")
        self.assertEqual(self.session.job.prices[0].price, 0.2)
        self.session.undo()
        self.assertEqual(self.session.job.prices, ())

    def test_templates_and_label_stock_go_along(self):
        self.open_job(job_with([camera(1)], name="Small shop"))
        self.window.run("save-template")
        out = self.folder / "out.firm.json"
        self.asker.files = [out]
        self.window.run("firm-export")
        firm = read_firm(out)
        self.assertEqual([one.name for one in firm.templates], ["Small shop"])
        (template,) = self.window.templates.paths()
        template.unlink()
        own = STOCKS[0].model_copy(update={"name": "Our own"})
        write_firm(out, firm.model_copy(update={"label_stocks": (own,)}))
        self.asker.files = [out]
        self.window.run("firm-import")
        self.press(self.view(), "Apply 2 entries")
        self.assertEqual(len(self.window.templates.paths()), 1)
        self.window.go("handover")
        page = self.window.pages["handover"]
        page.fill_label_menu()
        self.assertEqual(page._label_menu.actions()[0].text(), "Our own")

    def test_a_broken_file_is_told_and_costs_nothing(self):
        self.open_job(job_with([camera(1)]))
        self.asker.files = [self.write("x.json", "{}")]
        self.window.run("firm-import")
        self.assertIn("not a file of a firm", self.last_notice())
        self.assertEqual(read_firm(self.session.config_folder / "firm-lists.json"), FirmLists())
        self.write("firm-lists.json", "{")
        self.assertEqual(self.session.job.charges, Charges())
