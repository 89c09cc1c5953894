"""Chromium without a screen, as large as a telephone, for the field sheet. It fetches nothing."""

import shutil

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

QUIET = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--disable-dev-shm-usage",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
TELEPHONE = {"width": 390, "height": 844, "pixelRatio": 1.0}


def telephone(downloads, profile):
    """A browser of a telephone's size that saves files into a folder, with its profile in another."""
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for argument in (*QUIET, f"--user-data-dir={profile}"):
        options.add_argument(argument)
    options.add_experimental_option(
        "prefs", {"download.default_directory": str(downloads), "download.prompt_for_download": False}
    )
    options.add_experimental_option("mobileEmulation", {"deviceMetrics": TELEPHONE})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    # The driver is named, so that nothing is looked for on a network.
    return webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
