"""Every command of the window, described once: menus, shortcuts, search and the shortcut list come from here."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Action:
    """A command: its id, the words on menus, its keys, the menu it stands in, and whether it wants an open job."""

    id: str
    words: str
    keys: str = ""
    menu: str = ""
    wants_job: bool = True


ACTIONS: tuple[Action, ...] = (
    Action("new", "New job", "Ctrl+N", "Job", wants_job=False),
    Action("open", "Open…", "Ctrl+O", "Job", wants_job=False),
    Action("demo", "Open the demo job", "", "Job", wants_job=False),
    Action("save", "Save", "Ctrl+S", "Job"),
    Action("save-as", "Save as…", "Ctrl+Shift+S", "Job"),
    Action("import", "Import a camera list…", "Ctrl+I", "Job", wants_job=False),
    Action("paste-list", "Paste a camera list", "Ctrl+Shift+V", "Job"),
    Action("start", "Start page", "", "Job", wants_job=False),
    Action("quit", "Quit", "Ctrl+Q", "Job", wants_job=False),
    Action("undo", "Undo", "Ctrl+Z", "Edit"),
    Action("redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    Action("search", "Search", "Ctrl+K", "Edit"),
    Action("add-camera", "Add a camera", "Ctrl+Shift+C", "Edit"),
    Action("add-recorder", "Add a recorder", "", "Edit"),
    Action("add-switch", "Add a switch", "", "Edit"),
    Action("add-router", "Add a router", "", "Edit"),
    Action("fill-channels", "Fill the channels", "", "Edit"),
    Action("plan-addresses", "Plan addresses for all devices", "", "Edit"),
    Action("dark", "Dark theme", "Ctrl+D", "View", wants_job=False),
    Action("large", "Large type", "Ctrl+L", "View", wants_job=False),
    Action("imperial", "Lengths in feet", "", "View", wants_job=False),
    Action("side", "Findings beside the page", "Ctrl+F9", "View"),
    Action("shortcuts", "Shortcuts", "F1", "View", wants_job=False),
)

MENUS = ("Job", "Edit", "View")

TOGGLES = frozenset({"dark", "large", "imperial", "side"})


def shortcut_list() -> list[tuple[str, str]]:
    """All keys with what they do, for the list of shortcuts."""
    own = [(action.keys, action.words) for action in ACTIONS if action.keys]
    return [
        *own,
        ("Alt+1 … Alt+8", "Go to a stage, in the order of work"),
        ("F6", "From the rail to the page, the findings, the readout, and round"),
        ("Ctrl+PgDown, Ctrl+PgUp", "The next view of the page, and the one before"),
        ("Return, F2", "Edit a cell; for several selected rows at once"),
        ("Ctrl+Return", "Show the working of a cell's figure"),
        ("Ctrl+C, Ctrl+V", "Copy rows, paste cells; in a schedule, copy and paste a day"),
        ("Delete", "Remove the selected rows; in a schedule, clear the selected hours"),
        ("Left, Right", "Fold and open a group"),
        ("Ctrl+arrow", "On the channel board, move a camera to the next channel"),
        ("Space", "On the Proof page, passed, failed, not made"),
    ]
