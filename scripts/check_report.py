#!/usr/bin/env python3
"""Opens a report in Chromium and uses it: filter, links, keyboard, contrast in light and dark, console, print.

usage: check_report.py REPORT.html     (Debian's packages chromium and chromium-driver)"""
import base64
import json
import pathlib
import socket
import subprocess
import sys
import time
import urllib.request

page = pathlib.Path(sys.argv[1]).resolve().as_uri()
faults = []

with socket.socket() as free:
    free.bind(("127.0.0.1", 0))
    port = free.getsockname()[1]
driver = subprocess.Popen(["chromedriver", f"--port={port}"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def ask(method, path, body=None):
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"http://127.0.0.1:{port}{path}", data=data, method=method, headers={"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.loads(answer.read())["value"]


def check(what, good):
    print(("good  " if good else "BAD   ") + what)
    if not good:
        faults.append(what)


for _ in range(100):
    try:
        ask("GET", "/status")
        break
    except OSError:
        time.sleep(0.1)
options = {"args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=1280,800"]}
session = ask("POST", "/session", {"capabilities": {"alwaysMatch": {"browserName": "chrome", "goog:chromeOptions": options,
                                                                    "goog:loggingPrefs": {"browser": "ALL"}}}})["sessionId"]
base = f"/session/{session}"


def run(script, *arguments):
    return ask("POST", base + "/execute/sync", {"script": script, "args": list(arguments)})


def devtools(command, **params):
    return ask("POST", base + "/goog/cdp/execute", {"cmd": command, "params": params})


# What stands on what: the colour of a text against the nearest background behind it (WCAG 2.1, 1.4.3).
CONTRAST = """
const light = c => { const [r, g, b] = c.match(/[\\d.]+/g).map(Number).map(v => v / 255).map(v => v <= .03928 ? v / 12.92 : ((v + .055) / 1.055) ** 2.4);
  return .2126 * r + .7152 * g + .0722 * b; };
const behind = e => { for (; e; e = e.parentElement) { const c = getComputedStyle(e).backgroundColor; if (!/, 0\\)$/.test(c) && c !== 'transparent') return c; } return 'rgb(255,255,255)'; };
let least = 99, where = '';
for (const e of document.querySelectorAll('body *')) {
  if (![...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()) || e.closest('script,style,.hidden,.skip') || !e.getClientRects().length) continue;
  const style = getComputedStyle(e), ink = e instanceof SVGElement ? style.fill : style.color;
  if (ink === 'none') continue;
  const a = light(ink), b = light(behind(e)), ratio = (Math.max(a, b) + .05) / (Math.min(a, b) + .05);
  if (ratio < least) { least = ratio; where = e.tagName + '.' + (e.className.baseVal ?? e.className) + ': ' + e.textContent.trim().slice(0, 30); }
}
return [least, where];
"""

try:
    ask("POST", base + "/url", {"url": page})
    rows = run("return document.querySelectorAll('#libraries tbody tr').length")
    shown = "return [...document.querySelectorAll('#libraries tbody tr')].filter(r => r.getClientRects().length).length"
    check(f"all {rows} libraries are shown", run(shown) == rows and rows > 0)
    words = ask("POST", base + "/element", {"using": "css selector", "value": "#words"})
    element = f"{base}/element/{list(words.values())[0]}"
    name = run("return document.querySelector('#libraries tbody th').textContent")
    ask("POST", element + "/value", {"text": name})
    check(f"the filter leaves {name}", 0 < run(shown) < rows or rows == 1)
    check("the number of those shown is told", run("return document.getElementById('count').textContent").startswith(str(run(shown))))
    ask("POST", element + "/clear", {})
    run("document.getElementById('words').dispatchEvent(new Event('input'))")
    run("const v = document.getElementById('verdict'); v.value = 'misfit'; v.dispatchEvent(new Event('change'))")
    bad = run("return document.querySelectorAll('#libraries tbody tr[data-verdicts~=misfit]').length")
    check(f"{bad} that do not fit are found", run(shown) == bad)
    run("const v = document.getElementById('verdict'); v.value = ''; v.dispatchEvent(new Event('change'))")
    broken = run("return [...document.querySelectorAll('a[href^=\"#\"]')].filter(a => !document.getElementById(decodeURIComponent(a.hash.slice(1)))).map(a => a.hash)")
    check(f"every link leads somewhere {broken}", broken == [])
    outside = run("return [...document.querySelectorAll('[src],link[href]')].map(e => e.src || e.href).filter(u => !u.startsWith('data:'))")
    check(f"nothing is fetched {outside}", outside == [])
    # The keyboard goes through the page in its order, and sees where it is.
    run("document.activeElement.blur(); window.scrollTo(0, 0)")
    order, seen = [], True
    for _ in range(25):
        ask("POST", base + "/actions", {"actions": [{"type": "key", "id": "k", "actions": [{"type": "keyDown", "value": "\ue004"}, {"type": "keyUp", "value": "\ue004"}]}]})
        place = run("const e = document.activeElement; const all = [...document.querySelectorAll('*')]; "
                    "return [all.indexOf(e), getComputedStyle(e).outlineStyle, e.tagName]")
        if place[2] in ("BODY", "HTML"):
            break
        order.append(place[0])
        seen = seen and place[1] != "none"
    check(f"Tab goes forward ({len(order)} stops)", order == sorted(order) and len(order) > 5)
    check("where the keyboard is can be seen", seen)
    for mode in ("light", "dark"):
        devtools("Emulation.setEmulatedMedia", features=[{"name": "prefers-color-scheme", "value": mode}])
        run("document.querySelectorAll('details').forEach(d => d.open = true)")
        least, where = run(CONTRAST)
        check(f"contrast in {mode}: at least {least:.2f} ({where})", least >= 4.5)
    width = run("return [document.documentElement.scrollWidth, innerWidth]")
    check(f"no sideways scrolling {width}", width[0] <= width[1])
    printed = base64.b64decode(devtools("Page.printToPDF")["data"])
    check(f"prints ({len(printed)} bytes)", printed.startswith(b"%PDF") and len(printed) > 5000)
    log = [entry["message"] for entry in ask("POST", base + "/se/log", {"type": "browser"})]
    check(f"the console is silent {log}", log == [])
finally:
    try:
        ask("DELETE", base)
    finally:
        driver.terminate()
sys.exit(bool(faults))
