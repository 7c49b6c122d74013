"""A web server that misbehaves on purpose: serves one file, as the first part of each path says. Prints its port, then each request.

usage: harbour_server.py FILE
"""
import hashlib
import http.server
import pathlib
import sys

content = pathlib.Path(sys.argv[1]).read_bytes()
half = len(content) // 2


class Handler(http.server.BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"

    def log_message(self, *_):
        pass

    def do_GET(self):
        kind = self.path.split("/")[1]
        asked = self.headers.get("Range", "")
        print(f"{kind} {asked}", flush=True)
        if kind == "gone":
            return self.send_error(404)
        if kind == "broken":
            return self.send_error(500)
        if kind == "moved":
            self.send_response(302)
            self.send_header("Location", "/good/" + self.path.split("/", 2)[2])
            self.send_header("Content-Length", "0")
            return self.end_headers()
        start = int(asked[6:].rstrip("-")) if asked and kind in ("stops", "resumes") else 0
        self.send_response(206 if start else 200)
        body = b"<!DOCTYPE html><html>sign in</html>" if kind == "page" else content[start:]
        length = {"longer": len(body) + 1000, "shorter": half}.get(kind, len(body))
        self.send_header("Content-Length", str(length))
        self.send_header("ETag", '"' + hashlib.sha256(content).hexdigest()[:8] + '"')
        self.end_headers()
        if kind == "stops" and not start:
            body = body[:half]
        self.wfile.write(body)
        if kind in ("stops", "longer", "shorter"):
            self.close_connection = True


server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
print(server.server_address[1], flush=True)
server.serve_forever()
