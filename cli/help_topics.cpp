#include "help_topics.hpp"

namespace cli {
namespace {

constexpr HelpTopic topics[] = {
    {"start",
     "From a download to a program:\n\n"
     "  fibula inspect --for g++ tidecalc-2.1.0.tar.gz  is it for this compiler? of several: which\n"
     "  fibula take tidecalc-2.1.0.tar.gz               onto the shelf, once for all projects\n"
     "  cd harbour && fibula begin                      a project of the sources that are here\n"
     "  fibula attach tidecalc                          use it in this project\n"
     "  fibula build --run                              compile, link, run-time files beside it, start\n"
     "  fibula stage --into ../harbour-1.0              a folder that starts on another machine\n\n"
     "The project is fibula.toml, which people edit:\n\n"
     "  [[output]]\n  name = \"harbour\"\n  kind = \"program\"\n  sources = [\"src/*.c\"]\n\n"
     "  [library.tidecalc]\n  version = \">=2.1.0\"\n\n"
     "  [lane.desk-debug]\n  compiler = \"gcc\"\n  configuration = \"debug\"\n\n"
     "When something fails, in any build, with or without a project:\n\n"
     "  fibula explain -- gcc main.o -ltide -o tables   runs it, and says why it failed and what mends it\n"
     "  fibula check -- gcc main.o -ltide -o tables     the same before it runs"},
    {"words",
     "shelf      where libraries are kept on a machine, by name and version, shared by every project\n"
     "card       the description of one library version: card.toml, written by take, corrected by a person\n"
     "variant    one set of binaries of a version: one architecture, run-time, configuration and linkage\n"
     "lane       one way in which the program must build: a compiler with its flags, and a configuration\n"
     "fit        the outcome for a lane: the variant of each library, and what compiler and linker are given\n"
     "misfit     why a variant cannot serve a lane, with the evidence of both sides and the remedy\n"
     "rehearsal  the link done in memory, on symbol tables alone\n"
     "trial      a small program that proves a library: its headers, its link, its start"},
    {"lanes",
     "A lane is a block of fibula.toml:\n\n"
     "  [lane.desk-debug]\n  compiler = \"g++\"\n  configuration = \"debug\"\n  flags = [\"-m32\"]\n\n"
     "What stands in [every-lane] holds for all of them; [lane.X.library.NAME] overrides a library there.\n"
     "  fibula lanes             the lanes, what each compiler answered, and compilers that no lane uses\n"
     "  fibula lanes --add NAME  writes one, after it tried how its programs start here\n"
     "  fibula fit --lane NAME   what this lane is given"},
    {"versions",
     "A range is one or more comparisons:\n\n"
     "  2.1         2.1 and 2.1.x\n  =2.1.3      this one\n  >=2.1 <3    from 2.1 on, before 3\n\n"
     "Left out, attach takes the newest that fits every lane, and later ones. What was chosen is in fibula.lock, with\n"
     "digests, until somebody attaches anew.\n"
     "  fibula compare NAME/2.1.0 2.2.0  what changed, and whether the second can stand in for the first\n"
     "  fibula attach --undo             takes the last attach back\n"
     "  fibula fit --as-locked           only what the lock file says"},
    {"cards",
     "A card says what a library version is: headers, variants, how each value was learnt.\n\n"
     "  fibula shelf show NAME     the card, with where each value was read\n"
     "  fibula take X --dry-run    the card that a download would get\n\n"
     "It is a file, card.toml: what the files cannot tell is corrected there, and what was corrected stays."},
};

}  // namespace

std::span<const HelpTopic> help_topics() {
  return topics;
}

}  // namespace cli
