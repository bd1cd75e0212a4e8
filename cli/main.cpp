#include "cli/commands.h"
#include "core/base/error.h"
#include "core/base/json.h"
#include "core/files/project/design_json.h"
#include "core/proof/proof.h"
#include <clocale>
#include <cstdio>
#include <fmt/format.h>
#include <map>
#include <memory>

namespace noonward::cli {

int complain(const std::string& text, int code) {
  std::fputs(fmt::format("noonward-cli: {}\n", text).c_str(), stderr);
  return code;
}

namespace {
std::map<std::string, Digest>& asRead() { ///< what project files held when this program read them
  static std::map<std::string, Digest> known;
  return known;
}
} // namespace

Outcome saveProject(Project& project, const std::string& path) {
  const auto known = asRead().find(std::filesystem::absolute(path).lexically_normal().string());
  if (known != asRead().end())
    if (Outcome same = stillTheSame(path, known->second); !same) return same;
  return writeProject(project, path);
}

Expected<LoadedProject> openProject(const std::string& path, const std::string& option) {
  auto loaded = readProject(path);
  if (!loaded) return loaded;
  asRead()[std::filesystem::absolute(path).lexically_normal().string()] = loaded->content;
  for (const std::string& n : loaded->notes) std::fputs(("note: " + n + "\n").c_str(), stderr);
  if (option.empty()) return loaded;
  const auto at = optionNamed(loaded->project, option);
  if (!at) return fail(fmt::format("The project has no option \"{}\".", option));
  loaded->project = withOption(std::move(loaded->project), *at);
  return loaded;
}

YardstickShelf shelfFor(const Session& session, const std::string& project, const std::vector<std::string>& more) {
  std::vector<std::filesystem::path> folders{resourcesFolder(session.program) / "yardsticks",
                                             std::filesystem::path(project).parent_path() / "yardsticks"};
  for (const std::string& f : more) folders.emplace_back(f);
  YardstickShelf shelf = readYardsticks(folders);
  for (const Error& e : shelf.faults) complain("yardstick left out: " + e.text());
  return shelf;
}

std::function<void(double)> progressLine() {
  return [told = 0](double share) mutable {
    const int tenth = int(share * 10);
    if (tenth <= told) return;
    told = tenth;
    std::fputs(fmt::format("\r{} %", 10 * tenth).c_str(), stderr);
  };
}

void addProve(CLI::App& app, Session& session) {
  auto* c = app.add_subcommand("prove", "Run the known-answer cases and print their deviations");
  auto json = std::make_shared<bool>(false);
  c->add_flag("--json", *json, "one object a case, in a list");
  c->callback([&session, json] {
    Json list = Json::array();
    bool all = true;
    for (const ProofCase& p : proveAll()) {
      all = all && p.pass();
      if (*json)
        list.push_back(Json{{"name", p.name},
                            {"unit", p.unit},
                            {"expected", p.expected},
                            {"got", p.got},
                            {"deviation", p.deviation()},
                            {"allowed", p.allowed},
                            {"pass", p.pass()},
                            {"source", p.source}});
      else
        fmt::print("{}  {}: expected {:.5f} {}, got {:.5f}, off by {:+.5f} (allowed {:g})\n",
                   p.pass() ? "holds" : "FAILS", p.name, p.expected, p.unit, p.got, p.deviation(), p.allowed);
    }
    if (*json) fmt::print("{}\n", list.dump(2));
    session.exit = all ? 0 : 1;
  });
}

} // namespace noonward::cli

int main(int argc, char** argv) {
  using namespace noonward::cli;
  CLI::App app{"Noonward: sun, shade and daylight of buildings, without a window"};
  app.require_subcommand(1);
  app.set_version_flag("--version", NOONWARD_VERSION);
  Session session;
  session.program = argv[0];
  std::error_code ignored;
  if (const auto self = std::filesystem::read_symlink("/proc/self/exe", ignored); !self.empty()) session.program = self;
  addSun(app, session);
  addWeather(app, session);
  addProjectCommands(app, session);
  addLight(app, session);
  addImport(app, session);
  addTrace(app, session);
  addUnderlay(app, session);
  addShape(app, session);
  addShade(app, session);
  addSheet(app, session);
  addReceivers(app, session);
  addShadows(app, session);
  addFisheye(app, session);
  addMetrics(app, session);
  addMeasured(app, session);
  addSweep(app, session);
  addOptions(app, session);
  addRecord(app, session);
  addProve(app, session);
  addDemo(app, session);
  addBench(app, session);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) {
    return app.exit(e) == 0 ? 0 : 2;
  } catch (const std::exception& e) {
    return complain(e.what(), 1);
  }
  return session.exit;
}
