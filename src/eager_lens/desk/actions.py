"""Every command of the window, described once: menus, shortcuts, search and the shortcut list come from here."""

from __future__ import annotations

from dataclasses import dataclass

from eager_lens.core.assess.finding import Stage
from eager_lens.core.present.stages import STAGES


@dataclass(frozen=True)
class Action:
    """A command: its id, the words on menus, its keys, the menu it stands in, whether it wants an open job, and what else
    people call it."""

    id: str
    words: str
    keys: str = ""
    menu: str = ""
    wants_job: bool = True
    synonyms: str = ""


@dataclass(frozen=True)
class View:
    """A view of a page: the words on its tab, and what else people call it."""

    stage: Stage
    words: str
    synonyms: str


ACTIONS: tuple[Action, ...] = (
    Action("new", "New job", "Ctrl+N", "Job", wants_job=False, synonyms="begin start create empty"),
    Action(
        "enquiry",
        "New job from questions…",
        "Ctrl+Shift+N",
        "Job",
        wants_job=False,
        synonyms="wizard assistant quick start telephone customer template proposal",
    ),
    Action("open", "Open…", "Ctrl+O", "Job", wants_job=False, synonyms="load file"),
    Action("demo", "Open the demo job", "", "Job", wants_job=False, synonyms="example sample tramway"),
    Action(
        "practise",
        "Practise finding faults…",
        "",
        "Job",
        wants_job=False,
        synonyms="training lesson learn exercise trainer practice code fault",
    ),
    Action("save", "Save", "Ctrl+S", "Job", synonyms="store write keep"),
    Action("save-as", "Save as…", "Ctrl+Shift+S", "Job", synonyms="copy rename export"),
    Action(
        "merge-copy", "Merge another copy…", "", "Job", synonyms="colleague site office combine both versions conflict"
    ),
    Action("save-template", "Save as template", "", "Job", synonyms="pattern reuse standard blueprint"),
    Action(
        "import",
        "Import a camera list…",
        "Ctrl+I",
        "Job",
        wants_job=False,
        synonyms="csv xlsx spreadsheet table devices",
    ),
    Action("paste-list", "Paste a camera list", "Ctrl+Shift+V", "Job", synonyms="clipboard spreadsheet devices"),
    Action("offer", "Offer for the customer…", "", "Job", synonyms="quote proposal pdf page customer price"),
    Action("firm-take", "Use the firm's lists", "", "Job", synonyms="company own make profiles prices checklist rates"),
    Action(
        "firm-keep",
        "Save as the firm's lists",
        "",
        "Job",
        synonyms="company own make profiles prices checklist rates save",
    ),
    Action("firm-export", "Export the firm's lists…", "", "Job", wants_job=False, synonyms="share colleague company"),
    Action("firm-import", "Import the firm's lists…", "", "Job", wants_job=False, synonyms="colleague company"),
    Action("start", "Start page", "", "Job", wants_job=False, synonyms="home recent close"),
    Action("quit", "Quit", "Ctrl+Q", "Job", wants_job=False, synonyms="exit close end"),
    Action("undo", "Undo", "Ctrl+Z", "Edit", synonyms="back revert"),
    Action("redo", "Redo", "Ctrl+Shift+Z", "Edit", synonyms="again repeat"),
    Action("search", "Search", "Ctrl+K", "Edit", synonyms="find command palette"),
    Action("add-camera", "Add a camera", "Ctrl+Shift+C", "Edit", synonyms="new device view"),
    Action("add-recorder", "Add a recorder", "", "Edit", synonyms="new nvr dvr device storage"),
    Action("add-switch", "Add a switch", "", "Edit", synonyms="new device poe network port"),
    Action("add-router", "Add a router", "", "Edit", synonyms="new device gateway internet dhcp"),
    Action("fill-channels", "Register all cameras", "", "Edit", synonyms="register assign recorder nvr all cameras"),
    Action(
        "find-fault",
        "Find a fault…",
        "Ctrl+Shift+F",
        "Edit",
        synonyms="fault finder no picture offline red troubleshoot diagnose broken black support help",
    ),
    Action("mark-spare", "Mark selected as spare", "", "Edit", synonyms="spare stock store van not installed later"),
    Action("plan-addresses", "Plan addresses for all devices", "", "Edit", synonyms="ip dhcp static subnet assign"),
    Action("dark", "Dark theme", "Ctrl+D", "View", wants_job=False, synonyms="night mode colours colors appearance"),
    Action("large", "Large type", "Ctrl+L", "View", wants_job=False, synonyms="font size zoom bigger text"),
    Action("side", "Findings beside the page", "Ctrl+F9", "View", synonyms="problems warnings faults panel"),
    Action("shortcuts", "Shortcuts", "F1", "View", wants_job=False, synonyms="keyboard keys help hotkeys"),
)

VIEWS: tuple[View, ...] = (
    View("wiring", "Diagram", "topology map cables links drawing"),
    View("wiring", "Devices", "list table cameras recorders switches links power types cable length"),
    View("wiring", "What if it fails?", "failure outage redundancy ups single point"),
    View("wiring", "Options", "compare alternatives cost media converter injector switch"),
    View("wiring", "Parts list", "bom material price order quote shopping"),
    View("sizing", "Cameras", "resolution fps bitrate bit rate codec h264 h265 gop mbps"),
    View("sizing", "Recorders", "drives hdd disk raid storage capacity nvr bays tb"),
    View("sizing", "Promise", "retention days kept worst year certain simulation"),
    View("sizing", "Assumed", "assumptions defaults range source uncertainty spread"),
    View("sizing", "What helps most", "save storage longer retention levers sensitivity"),
    View("sizing", "Best picture", "optimise optimize quality settings automatic"),
    View("sizing", "Purpose", "pixel density lens focal length field of view identify recognise"),
    View("sizing", "Clip", "measure video file recording bit rate gop"),
    View("bench", "Channels", "register registering recorder nvr"),
    View("bench", "Commissioning plan", "steps order set-up staging schedule"),
    View("bench", "Rehearsal", "simulate simulation practice dry run"),
    View(
        "bench",
        "Set devices",
        "commission configure provision program first password address stream apply settings put back",
    ),
    View("bench", "Site check", "network scan ping discover find devices streams rtsp arp stand-ins as built verify"),
    View("bench", "Fault finder", "troubleshoot diagnose no picture offline red cause black broken"),
    View("bench", "Makes", "maker manufacturer brand default password profile"),
    View("bench", "Passwords", "login credentials vault secret"),
    View("schedule", "Schedules", "week hours recording times continuous motion"),
    View("schedule", "Year", "holidays exceptions closed calendar dates"),
    View("schedule", "What a recorder records", "hours recorder summary stack"),
    View("motion", "Pre- and post-recording", "before after seconds buffer events"),
    View("proof", "Mounting", "checklist runbook gland drill ladder bracket"),
    View("proof", "Acceptance tests", "checks verify commissioning proof measure pixel density photo"),
    View("proof", "Walk test", "motion detection timer caught missed"),
    View("proof", "Days so far", "retention measured drives fill regression"),
    View("proof", "Snags", "punch list open points defects snagging"),
    View("proof", "Field sheet", "telephone phone mobile html offline merge"),
    View("proof", "Event log", "audit trail history tamper hash chain anchor sign"),
    View("motion", "Try the rule", "zone sensitivity detection false alarms mask line crossing tune"),
)
"""A test holds them against the tabs of the window."""

MENUS = ("Job", "Edit", "View")

TOGGLES = frozenset({"dark", "large", "side"})


def shortcut_list() -> list[tuple[str, str]]:
    """All keys with what they do, for the list of shortcuts."""
    own = [(action.keys, action.words) for action in ACTIONS if action.keys]
    return [
        *own,
        (f"Alt+1 … Alt+{len(STAGES)}", "Go to a page, in the order of work"),
        ("F6", "Move between pages, content, findings and readout"),
        ("Ctrl+PgDown, Ctrl+PgUp", "The next and the previous tab of the page"),
        ("Return, F2", "Edit a cell, for all selected rows at once"),
        ("Ctrl+Return", "Show the workings of a figure"),
        ("Ctrl+C, Ctrl+V", "Copy rows, paste cells; in a schedule, copy and paste a day"),
        ("Delete", "Remove the selected rows; in a schedule, clear the selected hours"),
        ("Left, Right", "Collapse and expand a group"),
        ("Ctrl+arrow", "On the channel board, move a camera to the next channel"),
        ("Space", "On the Proof page: pass the selected test, tick the selected step"),
    ]
