"""The real program on a virtual screen, with Qt's xcb platform."""

import os
import shutil
import subprocess
import sys
import textwrap
import unittest

from tests.base import CAPTURES, PivetTest
from tests.patience import PATIENCE_S

SCRIPT = textwrap.dedent(
    """
    import locale
    import sys
    from pathlib import Path
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication
    from pivet.ui import app

    def look():
        window = next(iter(QApplication.topLevelWidgets()), None)
        windows = [w for w in QApplication.topLevelWidgets() if hasattr(w, "session")]
        if windows and windows[0].session.captures and windows[0].windowHandle().isExposed():
            print(locale.setlocale(locale.LC_MESSAGES), locale.setlocale(locale.LC_NUMERIC))
            print(QApplication.platformName(), windows[0].windowTitle(),
                  windows[0].screen().grabWindow(0).toImage().pixelColor(5, 5).name(), flush=True)
            windows[0].close()

    app.make_app()
    timer = QTimer()
    timer.timeout.connect(look)
    timer.start(50)
    sys.exit(app.run([Path(sys.argv[1])]))
    """
)


@unittest.skipUnless(shutil.which("xvfb-run"), "no virtual screen on this machine")
class OnScreen(PivetTest):
    """Everything that the xcb platform loads is there, and the window is seen."""

    def test_window_is_seen(self) -> None:
        """The window opens a capture, is exposed, and its menu bar is on the screen; what the
        system says of a mistake stays in the language of our sentences.
        """
        environment = {
            **os.environ,
            "QT_QPA_PLATFORM": "xcb",
            "HOME": str(self.folder),
            "XDG_CONFIG_HOME": str(self.folder),
            "LC_ALL": "C.UTF-8",
        }
        done = subprocess.run(
            [
                "xvfb-run",
                "-a",
                "-s",
                "-screen 0 1280x800x24",
                sys.executable,
                "-c",
                SCRIPT,
                str(CAPTURES / "av_dht22.vcd"),
            ],
            capture_output=True,
            text=True,
            timeout=PATIENCE_S,
            env=environment,
            check=False,
        )
        self.assertEqual(0, done.returncode, done.stderr)
        self.assertIn("C C\nxcb av_dht22.vcd – Pivet", done.stdout)
