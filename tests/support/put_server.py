"""A web server that takes files into a folder (PUT, with If-Match and If-None-Match). Prints its port.

usage: put_server.py FOLDER [blind|forgets|full]
  blind    writes whatever the conditions say
  forgets  says that it took the index, and keeps the old one
  full     has no room
"""
import hashlib
import http.server
import pathlib
import sys
import threading
import urllib.parse

root = pathlib.Path(sys.argv[1])
manner = sys.argv[2] if len(sys.argv) > 2 else ""
turn = threading.Lock()


def tag(file):
    return '"' + hashlib.sha256(file.read_bytes()).hexdigest()[:16] + '"' if file.is_file() else None


class Handler(http.server.BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"

    def log_message(self, *_):
        pass

    def file(self):
        return root / urllib.parse.unquote(self.path).lstrip("/")

    def answer(self, status, body=b"", etag=None):
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        if etag:
            self.send_header("ETag", etag)
        self.end_headers()
        self.wfile.write(body)

    def do_GET(self):
        file = self.file()
        with turn:
            etag = tag(file)
            body = file.read_bytes() if etag else b""
        self.answer(200 if etag else 404, body, etag)

    def do_PUT(self):
        body = self.rfile.read(int(self.headers.get("Content-Length", "0")))
        file = self.file()
        if manner == "full":
            return self.answer(507)
        with turn:
            there = tag(file)
            wanted = self.headers.get("If-Match")
            fits = (wanted is None or wanted == there) and not (self.headers.get("If-None-Match") == "*" and there)
            if not fits and manner != "blind":
                return self.answer(412)
            if not (manner == "forgets" and file.name == "shelf.index"):
                file.parent.mkdir(parents=True, exist_ok=True)
                file.write_bytes(body)
        self.answer(201)


server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
print(server.server_address[1], flush=True)
server.serve_forever()
