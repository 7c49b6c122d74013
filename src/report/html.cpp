#include "base/text.hpp"
#include "report/page_style.hpp"
#include "report/rows.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

/// Text as a page has it.
std::string escaped(std::string_view text) {
  std::string result;
  for (const char c : text) {
    switch (c) {
      case '&': result += "&amp;"; break;
      case '<': result += "&lt;"; break;
      case '>': result += "&gt;"; break;
      case '"': result += "&quot;"; break;
      default: result += c;
    }
  }
  return result;
}

const char* sign_of(Verdict verdict) {
  switch (verdict) {
    case Verdict::ok: return "✓";
    case Verdict::misfit: return "✗";
    default: return "!";
  }
}

std::string size_words(uint64_t bytes) {
  return bytes < 10'000 ? text::count(bytes, "byte") : fmt::format("{:.1f} kB", static_cast<double>(bytes) / 1e3);
}

class Page {
 public:
  explicit Page(const Report& report) : report_(report), rows_(rows_of(report)), misfits_(misfits_of(report)) {}

  std::string text() {
    head();
    table();
    objections();
    changes();
    added();
    needs();
    lanes();
    closures();
    libraries();
    text_ += fmt::format("</main>\n<script>{}</script>\n</body>\n</html>\n", page_script);
    return std::move(text_);
  }

 private:
  void head() {
    size_t bad = 0;
    for (const auto& fit : report_.fits) bad += fit.verdict() == Verdict::misfit ? 1U : 0U;
    text_ += fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" "
        "content=\"width=device-width, initial-scale=1\">\n<meta name=\"generator\" content=\"fibula\">\n"
        "<title>{0}: libraries and lanes</title>\n<link rel=\"icon\" "
        "href=\"data:,\">\n<style>{1}</style>\n</head>\n<body>\n"
        "<a class=\"skip\" href=\"#libraries\">to the table</a>\n<header>\n<h1>{0}</h1>\n<p class=\"faint\">{2} in "
        "{3}; {4}</p>\n",
        escaped(report_.project), page_style, text::count(rows_.size(), "library", "libraries"),
        text::count(report_.fits.size(), "lane"),
        bad == 0 ? "every lane fits" : fmt::format("{} of them not fitting", bad));
    text_ += "<nav aria-label=\"parts of this page\"><ul>";
    for (const auto& [id, name] :
         {std::pair("libraries", "Libraries and lanes"), std::pair("said", "What does not fit"),
          std::pair("changes", "Since the lock"), std::pair("added", "What each adds"),
          std::pair("needs", "Who needs whom"), std::pair("lanes", "Lane by lane"),
          std::pair("running", "When it runs"), std::pair("about", "Versions and licences")})
      text_ += fmt::format("<li><a href=\"#{}\">{}</a></li>", id, name);
    text_ += "</ul></nav>\n</header>\n<main>\n";
  }

  void begin(const char* id, const char* heading) {
    text_ += fmt::format("<section aria-labelledby=\"{0}\">\n<h2 id=\"{0}\">{1}</h2>\n", id, heading);
  }
  void end() { text_ += "</section>\n"; }

  void table() {
    begin("libraries-heading", "Libraries and lanes");
    text_ +=
        "<div class=\"tools\"><label>find <input type=\"search\" id=\"words\" "
        "autocomplete=\"off\"></label>\n<label>show "
        "<select id=\"verdict\"><option value=\"\">all</option><option value=\"misfit\">what does not "
        "fit</option><option "
        "value=\"caution\">cautions</option><option value=\"ok\">what fits</option></select></label>\n<span "
        "id=\"count\" "
        "role=\"status\" class=\"faint\"></span></div>\n<div class=\"scroll\" tabindex=\"0\" role=\"region\" "
        "aria-label=\"table of libraries and lanes\">\n<table id=\"libraries\">\n<caption>libraries down, lanes "
        "across</caption>\n<thead><tr><th scope=\"col\">library</th>";
    for (const auto& fit : report_.fits)
      text_ += fmt::format("<th scope=\"col\"><a href=\"#lane-{0}\">{0}</a></th>", escaped(fit.lane.name));
    text_ += "</tr></thead>\n<tbody>\n";
    for (const auto& row : rows_) table_row(row);
    text_ += "</tbody>\n</table>\n</div>\n";
    end();
  }

  void table_row(const ReportRow& row) {
    std::set<std::string> verdicts;
    for (const auto& cell : row.cells) {
      if (cell.library != nullptr) verdicts.emplace(to_string(cell.library->verdict));
    }
    text_ += fmt::format("<tr data-verdicts=\"{0}\"><th scope=\"row\"><a href=\"#about-{1}\">{1}</a></th>",
                         fmt::join(verdicts, " "), escaped(row.library));
    for (const auto& cell : row.cells) {
      if (cell.library == nullptr) {
        text_ += "<td class=\"faint\">not used</td>";
        continue;
      }
      const Verdict verdict = cell.library->verdict;
      const bool said = verdict == Verdict::misfit || verdict == Verdict::caution;
      text_ += fmt::format(
          "<td><span class=\"{0}\" aria-hidden=\"true\">{1}</span> <span class=\"hidden\">{0}:</span>{2}{3}{4}</td>",
          verdict == Verdict::ok ? "good" : std::string(to_string(verdict)), sign_of(verdict),
          said ? fmt::format("<a href=\"#said-{}\">", escaped(row.library)) : "", escaped(cell.text),
          said ? "</a>" : "");
    }
    text_ += "</tr>\n";
  }

  void objections() {
    begin("said", "What does not fit");
    if (misfits_.empty()) text_ += "<p>Nothing stands against any lane.</p>\n";
    std::set<std::string> anchored;
    for (const auto& [misfit, lanes] : misfits_) {
      // A cell leads to the first thing that is said of its library.
      const bool first = !misfit.library.empty() && anchored.insert(misfit.library).second;
      text_ += fmt::format(
          "<div class=\"said {}\"{}>\n<p><strong>{}{}</strong> <span class=\"faint\">{}: {}, in {}</span></p>\n",
          to_string(misfit.verdict), first ? fmt::format(" id=\"said-{}\"", escaped(misfit.library)) : "",
          misfit.library.empty() ? "" : escaped(misfit.library) + ": ", escaped(misfit.subject),
          to_string(misfit.verdict), escaped(misfit.rule), escaped(text::join(lanes, ", ")));
      for (const auto& side : misfit.evidence) text_ += fmt::format("<p class=\"path\">{}</p>\n", escaped(side));
      if (!misfit.remedy.empty()) text_ += fmt::format("<p><strong>do:</strong> {}</p>\n", escaped(misfit.remedy));
      text_ += "</div>\n";
    }
    for (const auto& problem : report_.lanes_without_fit)
      text_ +=
          fmt::format("<div class=\"said misfit\"><p><strong>{}</strong> {}</p><p><strong>do:</strong> {}</p></div>\n",
                      escaped(problem.file), escaped(problem.what), escaped(problem.hint));
    end();
  }

  void changes() {
    begin("changes", "Since the lock");
    if (report_.changes.empty()) {
      text_ += "<p>What is chosen is what <code>fibula.lock</code> says.</p>\n";
    } else {
      text_ +=
          "<div class=\"scroll\"><table><thead><tr><th scope=\"col\">library</th><th scope=\"col\">lane</th><th "
          "scope=\"col\">locked</th><th scope=\"col\">chosen now</th></tr></thead><tbody>\n";
      for (const auto& change : report_.changes)
        text_ += fmt::format("<tr><th scope=\"row\">{}</th><td>{}</td><td>{}</td><td>{}</td></tr>\n",
                             escaped(change.library), escaped(change.lane),
                             change.before.empty() ? "nothing" : escaped(change.before),
                             change.after.empty() ? "nothing" : escaped(change.after));
      text_ += "</tbody></table></div>\n";
    }
    end();
  }

  void added() {
    begin("added", "What each library adds to the program");
    text_ +=
        "<p class=\"faint\">Bytes of the functions and data in the linked file that bear a library's names, by symbol "
        "tables. What has no name of its own counts as the project's.</p>\n";
    if (report_.added.empty()) text_ += "<p>Nothing is built, or what is built has no symbol table.</p>\n";
    std::map<std::pair<std::string, std::string>, std::vector<const AddedBytes*>> groups;
    for (const auto& one : report_.added) groups[{one.output, one.lane}].push_back(&one);
    for (const auto& [of, list] : groups) {
      uint64_t most = 1;
      for (const auto* one : list) most = std::max(most, one->bytes);
      text_ += fmt::format("<h3>{} in {}</h3>\n<div class=\"bars\">\n", escaped(of.first), escaped(of.second));
      for (const auto* one : list)
        text_ += fmt::format(
            "<span>{}</span><span class=\"bar\" style=\"width:{:.1f}%\" aria-hidden=\"true\"></span><span>{}</span>\n",
            one->library.empty() ? "the project itself" : escaped(one->library),
            100.0 * static_cast<double>(one->bytes) / static_cast<double>(most), size_words(one->bytes));
      text_ += "</div>\n";
    }
    end();
  }

  void needs() {
    begin("needs", "Who needs whom");
    if (report_.edges.empty()) text_ += "<p>Nothing here needs anything.</p>\n";
    if (!report_.drawing.empty()) {
      text_ +=
          "<div class=\"tools\"><button id=\"larger\">larger</button><button id=\"smaller\">smaller</button><span "
          "class=\"faint\">dashed: part of the system</span></div>\n<div class=\"drawing\" tabindex=\"0\" role=\"img\" "
          "aria-label=\"drawing of who needs whom; the same as a list below\">\n" +
          report_.drawing + "</div>\n";
    }
    if (!report_.no_drawing.empty()) text_ += fmt::format("<p class=\"faint\">{}.</p>\n", escaped(report_.no_drawing));
    if (!report_.edges.empty()) {
      std::map<std::string, std::vector<std::string>> by_from;
      for (const auto& edge : report_.edges) by_from[edge.from].push_back(edge.to);
      text_ += "<details><summary>as a list</summary>\n<ul>\n";
      for (const auto& [from, all] : by_from)
        text_ += fmt::format("<li><strong>{}</strong> needs {}</li>\n", escaped(from), escaped(text::join(all, ", ")));
      text_ += "</ul></details>\n";
    }
    end();
  }

  void lanes() {
    begin("lanes", "Lane by lane");
    for (const auto& fit : report_.fits) {
      text_ +=
          fmt::format("<details id=\"lane-{0}\"{1}><summary>{0} <span class=\"faint\">{2} {3}, {4}</span></summary>\n",
                      escaped(fit.lane.name), report_.fits.size() == 1 ? " open" : "", to_string(fit.toolchain.family),
                      escaped(fit.toolchain.version), escaped(to_string(fit.toolchain.target)));
      text_ +=
          "<div class=\"scroll\"><table><thead><tr><th scope=\"col\">given</th><th scope=\"col\">what</th><th "
          "scope=\"col\">why</th></tr></thead><tbody>\n";
      for (const auto& directory : fit.include_directories) given("include", directory.path.string(), directory.why);
      for (const auto& definition : fit.definitions) given("define", definition.text, definition.why);
      for (const auto& link : fit.links) {
        for (const auto& input : link.inputs) given("link " + link.output, text::join(input.arguments, " "), input.why);
      }
      for (const auto& file : fit.runtime_files) given("beside it", file.path.string(), file.why);
      text_ += "</tbody></table></div>\n</details>\n";
    }
    end();
  }

  void given(const std::string& kind, const std::string& what, const std::string& why) {
    text_ += fmt::format("<tr><td>{}</td><td class=\"path\">{}</td><td>{}</td></tr>\n", escaped(kind), escaped(what),
                         escaped(why));
  }

  void closures() {
    begin("running", "When it runs");
    bool any = false;
    for (const auto& fit : report_.fits) {
      for (const auto& closure : fit.closures) {
        if (closure.entries.empty()) continue;
        any = true;
        text_ += fmt::format("<details><summary>{} in {} <span class=\"faint\">{}{}</span></summary>\n<ul>\n",
                             escaped(closure.path.filename().string()), escaped(fit.lane.name),
                             text::count(closure.entries.size(), "run-time file"),
                             closure.foreseen ? ", as far as its link inputs say" : "");
        for (const auto& entry : closure.entries)
          text_ += fmt::format(
              "<li><span class=\"{}\">{}</span> {} <span class=\"path faint\">{}</span> <span "
              "class=\"faint\">{}</span></li>\n",
              is_bad(entry) ? "misfit" : "good", is_bad(entry) ? "✗" : "✓", escaped(entry.name), escaped(entry.path),
              escaped(entry.why));
        text_ += "</ul></details>\n";
      }
    }
    if (!any) text_ += "<p>Nothing here asks a loader for anything, or nothing is linked yet.</p>\n";
    end();
  }

  void libraries() {
    begin("about", "Versions and licences");
    text_ +=
        "<div class=\"scroll\"><table><thead><tr><th scope=\"col\">library</th><th scope=\"col\">version</th><th "
        "scope=\"col\">licence</th><th scope=\"col\">from</th><th scope=\"col\">digest</th></tr></thead><tbody>\n";
    for (const auto& row : rows_) {
      const auto used = std::find_if(row.cells.begin(), row.cells.end(),
                                     [](const ReportCell& cell) { return cell.library != nullptr; });
      if (used == row.cells.end()) continue;
      const ChosenLibrary& library = *used->library;
      text_ += fmt::format(
          "<tr id=\"about-{0}\"><th scope=\"row\">{0}</th><td>{1}</td><td>{2}</td><td class=\"path\">{3}</td><td "
          "class=\"path\">{4}</td></tr>\n",
          escaped(row.library), escaped(library.version),
          library.licence.empty() ? "not known" : escaped(library.licence), escaped(library.origin),
          escaped(library.digest.substr(0, 23)));
    }
    text_ += "</tbody></table></div>\n";
    end();
  }

  const Report& report_;
  std::vector<ReportRow> rows_;
  std::vector<ReportMisfit> misfits_;
  std::string text_;
};

}  // namespace

std::string Report::html() const {
  return Page(*this).text();
}

}  // namespace fibula
