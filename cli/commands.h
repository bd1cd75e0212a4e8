#pragma once
// The headless program's commands. Each registers itself on the parser and leaves its exit code in `exit`:
// 0 done, 1 findings that stop, 2 wrong call. Results go to standard output or files, progress to standard error.

#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include <CLI/CLI.hpp>
#include <filesystem>
#include <functional>

namespace noonward::cli {

struct Session {
  int exit = 0;
  std::filesystem::path program;
};

void addSun(CLI::App& app, Session& session);
void addWeather(CLI::App& app, Session& session);
void addWeatherMake(CLI::App& weather, Session& session); ///< weather make
void addProjectCommands(CLI::App& app, Session& session); ///< run, probe, check, judge, picture
void addImport(CLI::App& app, Session& session);          ///< import, export, mend
void addTrace(CLI::App& app, Session& session);           ///< trace
void addShape(CLI::App& app, Session& session);           ///< shape set-back, cut, join, mirror, row, …
void addShade(CLI::App& app, Session& session);           ///< shade report, shade size
void addSheet(CLI::App& app, Session& session);           ///< sheet, film
void addShadows(CLI::App& app, Session& session);
void addReceivers(CLI::App& app, Session& session);
void addFisheye(CLI::App& app, Session& session);            ///< fisheye, glare
void addUnderlay(CLI::App& app, Session& session);           ///< underlay
void addLight(CLI::App& app, Session& session);              ///< sky, rooms, finishes, why
void addOptions(CLI::App& app, Session& session);            ///< options, compare, runs, set-up
void addRecord(CLI::App& app, Session& session);             ///< record, verify
void addMetrics(CLI::App& app, Session& session);            ///< metrics
void addMeasured(CLI::App& app, Session& session);           ///< measured, stand-in
void addStandInWeather(CLI::App& standIn, Session& session); ///< stand-in weather
void addSweep(CLI::App& app, Session& session);              ///< sweep, merge, least-change
void addProve(CLI::App& app, Session& session);
void addDemo(CLI::App& app, Session& session);
void addBench(CLI::App& app, Session& session);

/// Each in a line on standard error, equal ones together.
void printFindings(const Findings& list);
/// A project file, with one of its options in hand where a name is given; its notes go to standard error.
Expected<LoadedProject> openProject(const std::string& path, const std::string& option = {});
/// Back to its file, unless another program has saved it since it was read here.
Outcome saveProject(Project& project, const std::string& path);
/// The shelf of rules that ship, those beside the project, and those of further folders.
YardstickShelf shelfFor(const Session& session, const std::string& project,
                        const std::vector<std::string>& folders = {});

/// Writes each tenth of a run on standard error, once.
std::function<void(double)> progressLine();
/// Prints "noonward-cli: …" on standard error and returns `code`.
int complain(const std::string& text, int code = 1);

} // namespace noonward::cli
