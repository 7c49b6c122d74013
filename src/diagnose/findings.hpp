/// The parts of a diagnosis: each finds the causes of one kind.
#pragma once

#include "commands/command_change.hpp"
#include "commands/complaint.hpp"
#include "diagnose/link_scene.hpp"

#include <fibula/closure.hpp>

namespace fibula {

/// What is wrong with the files that a link is given: absent, not found, for another machine, damaged, no library.
std::vector<Finding> input_findings(const LinkScene& scene);

/// What shared libraries of the link need, and do not find among its files.
std::vector<Finding> need_findings(const LinkScene& scene, const Rehearsal& rehearsal);

/// Names that one file of the link takes for a thread's own, and another one not.
std::vector<Finding> thread_findings(const LinkScene& scene, const Rehearsal& rehearsal);

/// Why names have no definition, one finding for each root cause.
std::vector<Finding> name_findings(const LinkScene& scene, const Rehearsal& rehearsal);

/// Names that are defined twice, code for fixed addresses where it cannot be, link-time registrations that are dropped.
std::vector<Finding> member_findings(const LinkScene& scene, const Rehearsal& rehearsal);

/// Structures that the program's code and a library that it calls lay out differently: it links, and goes wrong while
/// it runs. Told by debugging records; sources are compiled with some.
std::vector<Finding> layout_findings(const LinkScene& scene);
/// The same of a program that is there, with what it loads. Files as seen from `folder`.
std::vector<Finding> layout_findings(const fs::path& program, const std::vector<ClosureEntry>& closure,
                                     const fs::path& folder);
/// What keeps a link from working that nothing keeps from being linked.
std::vector<Finding> after_link_findings(const ToolCommand& command, Evidence& evidence);
/// What keeps a program from working that starts.
std::vector<Finding> after_start_findings(const std::vector<std::string>& words, Evidence& evidence);

/// A result that the command cannot write: its folder is absent, or a folder has its name.
std::optional<Finding> output_finding(const ToolCommand& command);
/// The same by what a tool said.
Finding unwritten_output(const Complaint& complaint);

/// A link from its first input to its last name. Edits are tried by rehearsal.
std::vector<Finding> link_findings(const ToolCommand& command, Evidence& evidence);

/// Why compilers complained, with what the command says and what lies in the folders. Edits are tried by compiling.
std::vector<Finding> compile_findings(const std::vector<Complaint>& complaints, const ToolCommand* command,
                                      Evidence& evidence);

/// What can be said of a complaint when no file is there to look at.
std::optional<Finding> finding_of_text(const Complaint& complaint);

/// The program that words start: behind an emulator and its options, where there is one.
std::optional<fs::path> program_in(const std::vector<std::string>& words, Evidence& evidence);

/// Why a program does not start, or would not.
std::vector<Finding> start_findings(const std::vector<std::string>& words, Evidence& evidence);

/// A finding with an edit of the command: said as the shortest change.
void set_command(Finding& finding, const ToolCommand& command, Words words);

/// How a command names a library file: by `-l` where its folders find it so, else by a path.
std::string word_for(const LinkScene& scene, const fs::path& file);

}  // namespace fibula
