"""The bench: channels, the commissioning as a plan, the rehearsal on simulated devices, setting devices over
the network, the site check, the fault finder, the make
profiles, the passwords."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.assess.assessment import Assessment
from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.bench.channels.channel_board import ChannelBoard
from eager_lens.desk.pages.bench.channels.view import ChannelsView
from eager_lens.desk.pages.bench.commissioning.view import PlanView
from eager_lens.desk.pages.bench.fault_finder.view import FaultView
from eager_lens.desk.pages.bench.makes.view import MakesView
from eager_lens.desk.pages.bench.passwords.view import PasswordsView
from eager_lens.desk.pages.bench.rehearsal.view import RehearsalView
from eager_lens.desk.pages.bench.set_devices.view import SetDevicesView
from eager_lens.desk.pages.bench.site_check.view import SiteCheckView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import label
from eager_lens.desk.widgets.meter import Meter
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_table import RecordTable

CHANNELS, PLAN, REHEARSAL, SET_DEVICES, SITE_CHECK, FAULTS, MAKES, PASSWORDS = range(8)


class BenchPage(TabbedPage):
    """From the channels to the sealed passwords."""

    stage = "bench"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self.channels, self.passwords = ChannelsView(session), PasswordsView(session)
        self.rehearsal, self.makes = RehearsalView(session, asker, lambda: self.plan.placed), MakesView(session)
        self.site_check = SiteCheckView(session, asker)
        self.set_devices = SetDevicesView(session, self.site_check.controls.here)
        rehearser = self.rehearsal.rehearser
        self.faults = FaultView(
            session,
            asker,
            rows_of_check=self.site_check.rows,
            run_of_check=lambda: self.site_check.run,
            site_of_rehearsal=lambda: rehearser.site,
            test_made=rehearser.finder_test,
        )
        self.rehearsal.account.another.connect(lambda: session.command_asked.emit("practise"))
        self.faults.look_asked.connect(self._look_for_fault)
        self.site_check.taken.connect(self._looked_for_fault)
        self._looking_for_fault = False
        self.plan = PlanView(session, rehearser, lambda: self.site_check.controls.here.site)
        self.passwords.closed.connect(lambda: self.show_view(CHANNELS))
        self.plan.made_anew.connect(self.rehearsal.show_next_step)
        self.plan.played.connect(lambda: self.show_view(REHEARSAL))
        self._caution = label(
            "Start with the recorder, then the cameras, and wait three to five minutes before you judge. Never keep a default "
            "password. Local codes and the makers' instructions come first.",
            "caution",
            wrap=True,
        )
        self.body.addWidget(self._caution)
        self.lay_out_views(
            (
                ("Channels", "Recorder and channel of each camera", self.channels),
                ("Commissioning plan", "What to power first, what to enter, how long to wait", self.plan),
                ("Rehearsal", "The devices of the job, simulated: try the order of work, and faults", self.rehearsal),
                (
                    "Set devices",
                    "Set recorders and cameras as planned, over the network, and read them back",
                    self.set_devices,
                ),
                (
                    "Site check",
                    "Check every device over the network, and see what differs from the plan",
                    self.site_check,
                ),
                ("Fault finder", "From symptom to cause with the most useful questions", self.faults),
                ("Makes", "How each make behaves out of the box", self.makes),
                ("Passwords …", "Generated passwords in a sealed file beside the job", self.passwords),
            )
        )

    def show_view(self, at: int) -> None:
        """Bring a view into sight; the rehearsal's clock stops while nobody looks."""
        if at != REHEARSAL:
            self.rehearsal.rehearser.pause()
        # Leaving for another view ends the detour; its answers must not switch the view back.
        self._looking_for_fault = self._looking_for_fault and at == SITE_CHECK
        self._caution.setVisible(at == CHANNELS)
        super().show_view(at)

    def find_fault(self, ids: Sequence[str], symptom: str) -> None:
        """Show the fault finder with these devices, and begin where it is known what is seen."""
        self.show_view(FAULTS)
        if ids:
            self.session.select(ids)
        if ids and symptom:
            self.faults.begin(ids, symptom)
        else:
            self.faults.begin_anew()

    def _look_for_fault(self, ids: list[str]) -> None:
        """Check some devices over the network, and come back with what was read."""
        self._looking_for_fault = True
        self.show_view(SITE_CHECK)
        self.site_check.ask_for(ids)

    def _looked_for_fault(self) -> None:
        if self._looking_for_fault:
            self._looking_for_fault = False
            self.show_view(FAULTS)
            self.faults.take_known()

    def show_practice(self) -> None:
        """Bring the bench of a practice into sight."""
        self.show_view(REHEARSAL)

    def show_passwords(self) -> None:
        """Bring the device passwords into sight, closed."""
        self.show_view(PASSWORDS)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the view in sight; the rehearsal tells the next step of the plan."""
        super().show_assessment(assessment)
        if self.shown_view == REHEARSAL:
            # The rehearsal shows the plan's next step, so the plan is worked out although its view is hidden.
            self.plan.show_assessment(assessment)

    def hideEvent(self, event: object) -> None:
        """The rehearsal's clock stops while nobody looks."""
        self.rehearsal.rehearser.pause()

    @property
    def boards(self) -> dict[str, tuple[Meter, ChannelBoard]]:
        """By recorder, its meter and its channel board."""
        return self.channels.boards

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.channels.cameras

    def lead_to(self, subject: str) -> None:
        """Show a camera's row, a recorder's board, or a field of the site that stands with the makes."""
        if subject in self.makes.fields:
            self.show_view(MAKES)
            self.makes.fields[subject].setFocus()
            return
        self.show_view(CHANNELS)
        self.channels.lead_to(subject)
