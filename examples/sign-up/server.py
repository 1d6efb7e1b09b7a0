#!/usr/bin/env python3
"""A sign-up form over a register: each mailbox gets in once, and nobody learns who is in.

    ypogram register new guests.register
    python3 examples/sign-up/server.py guests.register

needs nothing but Python, listens on this machine alone, and says where. Put it behind your web server, with a limit on how often one
visitor may ask.
"""

import argparse
import html
import json
import pathlib
import subprocess
import threading
import urllib.parse
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

PAGE = (pathlib.Path(__file__).parent / "page.html").read_text(encoding="utf-8")
# A form with one address in it is shorter.
MOST_BYTES = 4096


class Register:
    """The register, by a process that answers a line with a line."""

    def __init__(self, program, store):
        call = [program, "register", "ask", store, "--source", "sign-up form"]
        self.process = subprocess.Popen(call, stdin=subprocess.PIPE, stdout=subprocess.PIPE, encoding="utf-8")
        self.lock = threading.Lock()

    def ask(self, address):
        # What is typed is one line, whatever it holds: a second line would get the next visitor's answer.
        line = " ".join(address.split())
        with self.lock:
            print(line, file=self.process.stdin, flush=True)
            answer = self.process.stdout.readline()
        if not answer:
            raise RuntimeError("ypogram register ask has ended; its message stands above")
        return json.loads(answer)


def thanks():
    # The same for who is admitted, was known, or withdrew: the answer tells nobody who is a member.
    return 200, '<p role="status">Thank you. If this address is new to us, it is on the list now.</p>'


def form(address="", answer=None):
    told = ""
    if answer is not None:
        why = [finding["message"] for finding in answer["findings"]] or ["Please type your address."]
        told = "".join(f"<li>{html.escape(line)}</li>" for line in why)
        told = f'<ul role="alert" id="why">{told}</ul>'
        if answer["suggestion"]:
            meant = html.escape(answer["suggestion"]["address"])
            told += f'<p>Did you mean <button name="email" value="{meant}" formnovalidate>{meant}</button>?</p>'
    described = ' aria-invalid="true" aria-describedby="why"' if told else ""
    return (
        422 if told else 200,
        f"""<form method="post">
<label for="email">Your email address</label>
<input id="email" name="email" inputmode="email" autocomplete="email" value="{html.escape(address)}"{described}>
<button>Sign up</button>
{told}</form>""",
    )


class Handler(BaseHTTPRequestHandler):
    register = None

    def do_GET(self):
        self.answer(*form()) if self.path == "/" else self.send_error(404)

    def do_POST(self):
        length = int(self.headers.get("Content-Length") or 0)
        if length > MOST_BYTES:
            return self.send_error(413)
        fields = urllib.parse.parse_qs(self.rfile.read(length).decode("utf-8", "replace"), keep_blank_values=True)
        # The button of a suggestion comes behind the field.
        address = fields.get("email", [""])[-1]
        answer = self.register.ask(address)
        self.answer(*(form(address, answer) if answer["answer"] == "refused" else thanks()))

    def answer(self, status, body):
        page = PAGE.replace("<!-- body -->", body).encode()
        self.send_response(status)
        self.send_header("Content-Type", "text/html; charset=utf-8")
        self.send_header("Content-Length", str(len(page)))
        self.send_header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
        self.end_headers()
        self.wfile.write(page)

    def log_message(self, *_):
        pass  # Addresses of visitors do not belong into logs.


def main():
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("store", help="the register, made with ypogram register new")
    parser.add_argument("--port", type=int, default=8080, help="0 takes any that is free")
    parser.add_argument("--program", default="ypogram", help="where ypogram is")
    arguments = parser.parse_args()
    Handler.register = Register(arguments.program, arguments.store)
    server = ThreadingHTTPServer(("127.0.0.1", arguments.port), Handler)
    print(f"http://127.0.0.1:{server.server_port}/", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()
