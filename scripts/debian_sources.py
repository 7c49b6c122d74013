"""The archives of Debian's source packages, as their makers released them."""
import subprocess


def fetch(package, folder):
    """The archive of a package, kept in a folder; lists of one's own, so that the machine's stay as they are. None where there is none."""
    apt = folder / "apt"
    (apt / "lists/partial").mkdir(parents=True, exist_ok=True)
    if not (apt / "sources.list").exists():
        sites = subprocess.run(["apt-get", "indextargets", "--format", "$(SITE)"], text=True, stdout=subprocess.PIPE, check=True)
        site = next(site for site in sites.stdout.split() if site.endswith("/debian"))
        (apt / "sources.list").write_text(f"deb-src [signed-by=/usr/share/keyrings/debian-archive-keyring.gpg] {site} bookworm main\n")
    own = ["-o", f"Dir::Etc::sourcelist={apt}/sources.list", "-o", "Dir::Etc::sourceparts=/dev/null", "-o", f"Dir::State::lists={apt}/lists", "-qq"]
    found = lambda: [p for p in sorted(folder.glob(f"{package}_*.orig.tar.*")) if p.suffix != ".asc"]
    if not found():
        if not any((apt / "lists").glob("*Sources*")):
            subprocess.run(["apt-get", *own, "update"], check=True, stdout=subprocess.DEVNULL)
        subprocess.run(["apt-get", *own, "source", "--download-only", package], cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
    return found()[0] if found() else None
