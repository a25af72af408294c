"""The desk of the huts, tested from Python with nothing but its standard library, through zabbet serve.

ZABBET_URL and ZABBET_TOKEN say where the server is, HUTS_JAR is the application's class path.
Run it by: python3 -m unittest -v test_desk
"""

import json
import os
import pathlib
import subprocess
import unittest
import urllib.error
import urllib.request

BASE = pathlib.Path(__file__).parent.parent.joinpath("node", "base.yaml").read_text(encoding="utf-8")


def ask(method, path, body="", media_type="application/yaml"):
    """Asks the server of stages; a refusal is an error that says what to do."""
    request = urllib.request.Request(os.environ["ZABBET_URL"] + path, body.encode() or None, method=method)
    request.add_header("Authorization", "Bearer " + os.environ["ZABBET_TOKEN"])
    request.add_header("Content-Type", media_type)
    try:
        with urllib.request.urlopen(request) as answer:
            return json.loads(answer.read() or b"{}")
    except urllib.error.HTTPError as refusal:
        raise AssertionError(json.load(refusal)["detail"]) from None


class DeskTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        opened = ask("POST", "/stages")
        cls.stage = "/stages/" + opened["id"]
        cls.application = subprocess.Popen(
            ["java", "-cp", os.environ["HUTS_JAR"], "dev.zabbet.examples.http.HutsServer", opened["url"],
             "2031-07-01T08:00:00Z"], stdout=subprocess.PIPE, text=True)
        cls.huts = cls.application.stdout.readline().strip()

    @classmethod
    def tearDownClass(cls):
        cls.application.kill()
        cls.application.communicate()
        ask("DELETE", cls.stage)

    def setUp(self):
        ask("POST", self.stage + "/rewind")
        self.stays = ask("POST", self.stage + "/load", BASE)["rows"]["stay"]

    def act(self, path, body=b"{}"):
        """Lets the application do something, and returns what it answers."""
        ask("POST", self.stage + "/act")
        try:
            request = urllib.request.Request(self.huts + path, body, {"Content-Type": "application/json"})
            with urllib.request.urlopen(request) as answer:
                return answer.status
        except urllib.error.HTTPError as refusal:
            with refusal:
                return refusal.code
        finally:
            self.changes = ask("POST", self.stage + "/act/end")["changes"]

    def expect(self, document):
        answer = ask("POST", self.stage + "/expect", document)
        self.assertTrue(answer["holds"], answer.get("report"))

    def test_cancelling_late_refunds_half_and_changes_nothing_else(self):
        self.assertEqual(200, self.act(f"/api/stays/{self.stays['soon']['id']}/cancel"))
        self.expect(f"""
            footprint:
              stay:
                changed: [{{key: {self.stays['soon']['id']}, to: {{status: CANCELLED, cancelled_at: {{notNull: true}}}}}}]
              ledger_entry:
                added: [{{kind: REFUND, amount: -24.00}}]
              nothingElse: true
            """)

    def test_a_stay_that_is_not_there_changes_nothing(self):
        self.assertEqual(404, self.act("/api/stays/99999/cancel"))
        self.assertEqual([], self.changes)

    def test_confirming_charges(self):
        self.assertEqual(200, self.act(f"/api/stays/{self.stays['asked']['id']}/confirm"))
        self.assertEqual(["ledger_entry", "stay"], sorted(change["table"] for change in self.changes))


if __name__ == "__main__":
    unittest.main()
